//! Several runs side by side: what was the same, and what was not.

use revisum_diagnose::address::Locator;
use revisum_diagnose::isolate::one_module_pass_minutes;
use revisum_diagnose::locate::same_cells;
use revisum_engine::units::{count_text, duration_text};
use revisum_record::outcome::Judgement;
use revisum_record::run_state::RunState;

use crate::said::Said;
use crate::{result, say};

/// A line of a comparison.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Line {
    /// What is compared.
    pub label: String,
    /// Its value in each run, in their order.
    pub values: Vec<String>,
}

impl Line {
    /// Whether the runs differ in it.
    pub fn differs(&self) -> bool {
        self.values.windows(2).any(|pair| pair[0] != pair[1])
    }
}

/// Fitting, settings, recipe, coverage and errors of runs, one line each.
pub fn compare(runs: &[&RunState]) -> Vec<Line> {
    let line = |label: &str, value: &dyn Fn(&RunState) -> String| Line {
        label: label.to_owned(),
        values: runs.iter().map(|run| value(run)).collect(),
    };
    let mut lines = vec![line(say::compare_machine(), &|run| run.begin.machine.clone())];
    for slot in slots(runs) {
        lines.push(line(&slot, &|run| fitted(run, &slot)));
    }
    let recipe =
        |run: &RunState| run.begin.recipe.as_ref().map_or_else(String::new, |recipe| recipe.depth.said().to_owned());
    lines.extend([
        line(say::compare_settings(), &|run| crate::card::settings(&run.begin.settings).to_owned()),
        line(say::compare_firmware(), &|run| crate::board::firmware(&run.begin.board.firmware)),
        line(say::compare_depth(), &recipe),
        line(say::compare_tests(), &|run| run.tests.len().to_string()),
        line(say::compare_passes(), &|run| Judgement::of(run, false).done.passes.to_string()),
        line(say::compare_ran(), &|run| duration_text(Judgement::of(run, false).times.ran)),
        line(say::compare_tested(), &|run| result::coverage(&Judgement::of(run, false).coverage)),
        line(say::compare_one_module(), &|run| {
            one_module_pass_minutes(run).map_or_else(String::new, |minutes| duration_text(minutes * 60.0))
        }),
        line(say::compare_result(), &|run| result::headline(&Judgement::of(run, false))),
        line(say::compare_errors(), &|run| count_text(run.errors.words)),
        line(say::compare_slots(), &|run| run.errors.slots.keys().cloned().collect::<Vec<_>>().join("; ")),
    ]);
    lines.retain(|line| line.values.iter().any(|value| !value.is_empty()));
    lines
}

/// Cells that failed in several of these runs, in a sentence.
pub fn in_common(runs: &[(&RunState, &Locator)]) -> String {
    let cells = same_cells(runs.iter().copied());
    let moved = cells.iter().filter(|cell| cell.slots.len() > 1).count() as u64;
    match (cells.len() as u64, moved) {
        (0, _) => say::common_none().to_owned(),
        (cells, 0) => say::common_some(cells),
        (cells, moved) => say::common_moved(cells, moved),
    }
}

fn slots(runs: &[&RunState]) -> Vec<String> {
    let mut all: Vec<String> = Vec::new();
    for slot in runs.iter().flat_map(|run| &run.begin.board.slots) {
        if !all.contains(&slot.id) {
            all.push(slot.id.clone());
        }
    }
    all
}

fn fitted(run: &RunState, id: &str) -> String {
    let Some(slot) = run.begin.board.slots.iter().find(|slot| slot.id == id) else {
        return say::compare_no_slot().to_owned();
    };
    let Some(module) = &slot.module else { return say::compare_empty().to_owned() };
    let errors: u64 = run.errors.slots.iter().filter(|(slots, _)| *slots == id).map(|(_, words)| words).sum();
    let name = module.mark.clone().unwrap_or_else(|| module.short_serial());
    if errors > 0 { say::compare_module_errors(name, errors) } else { name }
}

#[cfg(test)]
mod tests {
    use super::*;
    use revisum_record::fitted::{Board, Module, Slot};
    use revisum_record::journal::Begin;

    fn run(serial: &str, errors: u64) -> RunState {
        let module = Some(Module { serial: serial.into(), ..Module::default() });
        let board = Board { slots: vec![Slot { id: "A1".into(), module, ..Slot::default() }], ..Board::default() };
        let mut state =
            RunState { begin: Begin { machine: "m".into(), board, ..Begin::default() }, ..RunState::default() };
        state.end = Some(revisum_engine::news::EndReason::Completed);
        if errors > 0 {
            state.errors.words = errors;
            state.errors.slots.insert("A1".into(), errors);
        }
        state
    }

    #[test]
    fn what_changed_stands_out() {
        let (before, after) = (run("S1", 3), run("S2", 0));
        let lines = compare(&[&before, &after]);
        let of = |label: &str| lines.iter().find(|line| line.label == label).unwrap();
        assert!(!of("machine").differs());
        assert_eq!(of("A1").values, ["S1, 3 errors", "S2"]);
        assert!(of("errors").differs() && of("result").differs());
        assert!(!lines.iter().any(|line| line.label == "settings"), "nothing known of either is not shown");
        let none = Locator::default();
        assert!(in_common(&[(&before, &none), (&after, &none)]).starts_with("No failing cell"));
    }
}
