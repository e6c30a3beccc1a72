//! How much of what is installed now was tested in a job, module by module.

use std::collections::BTreeMap;

use revisum_engine::units::RangeSet;

use super::judgement::Judgement;
use crate::fitted::Board;
use crate::run_state::RunState;

/// Bytes of the modules on this board that finished runs covered, and bytes of these modules; nothing before a run finished. Runs with the same
/// modules in the same slots are taken together; a module counts with the best share that any arrangement with it reached, wherever it sat.
pub fn tested_of_job<'a>(runs: impl Iterator<Item = &'a RunState>, board: &Board) -> Option<(u64, u64)> {
    let mut arrangements: BTreeMap<Vec<(String, String)>, (RangeSet, u64, u64)> = BTreeMap::new();
    for run in runs {
        let coverage = Judgement::of(run, false).coverage;
        let Some(installed) = coverage.installed.filter(|_| coverage.tested > 0) else { continue };
        let mut placement = run.begin.board.known_placement();
        placement.sort_unstable();
        let (ranges, most, of) = arrangements.entry(placement).or_default();
        if run.held.addresses_known {
            let held = run.held.ranges.minus(&run.moved);
            *ranges = ranges.ranges().iter().chain(held.ranges()).copied().collect();
        }
        (*most, *of) = ((*most).max(coverage.tested), installed);
    }
    if arrangements.is_empty() {
        return None;
    }
    let share = |(ranges, most, of): &(RangeSet, u64, u64)| ranges.bytes().max(*most) as f64 / (*of).max(1) as f64;
    let best = |id: &str| {
        let with_it = arrangements.iter().filter(|(placement, _)| placement.iter().any(|(_, module)| module == id));
        with_it.map(|(_, tested)| share(tested).min(1.0)).fold(0.0, f64::max)
    };
    let (mut tested, mut whole) = (0u64, 0u64);
    for (slot, module) in board.modules() {
        whole = whole.saturating_add(module.bytes);
        tested = tested.saturating_add((module.bytes as f64 * best(&module.identity(&slot.id))) as u64);
    }
    (whole > 0).then(|| (tested.min(whole), whole))
}

#[cfg(test)]
mod tests {
    use revisum_engine::news::{EndReason, TestEnd};
    use revisum_engine::recipe::{Depth, Recipe};
    use revisum_engine::units::ByteRange;
    use rstest::rstest;

    use super::*;
    use crate::fitted::{Module, Slot};
    use crate::journal::{Begin, Entry, Framed, Held};

    const GIB: u64 = 1 << 30;

    fn board(fitted: &[(&str, &str)]) -> Board {
        let slot = |id: &str| Slot {
            id: id.to_owned(),
            module: fitted.iter().find(|(at, _)| *at == id).map(|(_, serial)| Module {
                serial: (*serial).to_owned(),
                bytes: 8 * GIB,
                ..Module::default()
            }),
            ..Slot::default()
        };
        Board { slots: ["A1", "B1"].map(slot).into(), ..Board::default() }
    }

    /// A run over this much of what is fitted, from this address on; finished, or stopped in its test.
    fn run(fitted: &[(&str, &str)], (start, end): (u64, u64), finished: bool) -> RunState {
        let board = board(fitted);
        let recipe = Recipe::with_tests(Depth::Triage, vec!["random".into()]);
        let ranges = vec![ByteRange::new(start, end)].into();
        let begin = Begin { recipe: Some(recipe), fitted_bytes: board.fitted_bytes(), board, ..Begin::default() };
        let entries = [
            Entry::Begin(Box::new(begin)),
            Entry::Held(Held { bytes: end - start, ranges, addresses_known: true, ..Held::default() }),
            Entry::TestEnded(TestEnd { pass: 1, test: "random".into(), finished, ..TestEnd::default() }),
            Entry::Ended { reason: EndReason::Completed },
        ];
        let mut state = RunState::default();
        for (seq, entry) in (0u64..).zip(entries) {
            state.apply(&Framed { journal: "j".into(), seq, t_ms: seq, entry });
        }
        state
    }

    const BOTH: [(&str, &str); 2] = [("A1", "S1"), ("B1", "S2")];

    #[rstest]
    #[case::nothing_finished(vec![run(&BOTH, (0, 16 * GIB), false)], &BOTH, None)]
    #[case::all(vec![run(&BOTH, (0, 16 * GIB), true)], &BOTH, Some((16, 16)))]
    #[case::half(vec![run(&BOTH, (0, 8 * GIB), true)], &BOTH, Some((8, 16)))]
    #[case::two_halves_of_one_arrangement(
        vec![run(&BOTH, (0, 8 * GIB), true), run(&BOTH, (8 * GIB, 16 * GIB), true)], &BOTH, Some((16, 16))
    )]
    #[case::the_same_half_twice(vec![run(&BOTH, (0, 8 * GIB), true), run(&BOTH, (0, 8 * GIB), true)], &BOTH, Some((8, 16)))]
    #[case::one_was_taken_out(vec![run(&BOTH, (0, 16 * GIB), true)], &BOTH[..1], Some((8, 8)))]
    #[case::one_alone_then_both(vec![run(&BOTH[..1], (0, 8 * GIB), true)], &BOTH, Some((8, 16)))]
    #[case::moved(vec![run(&BOTH, (0, 16 * GIB), true)], &[("A1", "S2"), ("B1", "S1")], Some((16, 16)))]
    #[case::another_one_came(vec![run(&BOTH, (0, 16 * GIB), true)], &[("A1", "S1"), ("B1", "S3")], Some((8, 16)))]
    #[case::nothing_installed(vec![run(&BOTH, (0, 16 * GIB), true)], &[], None)]
    fn each_module_counts_once_wherever_it_sat(
        #[case] runs: Vec<RunState>,
        #[case] now: &[(&str, &str)],
        #[case] gib: Option<(u64, u64)>,
    ) {
        let tested = tested_of_job(runs.iter(), &board(now));
        assert_eq!(tested.map(|(tested, whole)| (tested / GIB, whole / GIB)), gib);
        assert!(tested.is_none_or(|(tested, whole)| tested <= whole));
    }
}
