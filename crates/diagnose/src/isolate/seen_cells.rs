//! What the runs of a job tell of cells: what failed in each, so that it can be known again, and which runs reached it.

use std::collections::{BTreeMap, BTreeSet};

use super::fact::{Mark, MarkClass, RunFact};
use super::signs::Look;
use crate::address::Locator;
use crate::locate::{Inside, inside, locate_run};
use revisum_engine::news::EndReason;
use revisum_engine::units::PhysAddr;
use revisum_record::run_state::RunState;

/// Failures kept of a run.
const MOST_MARKS: usize = 256;
/// Part of the failing cells that is enough to show the fault.
const ENOUGH: f64 = 0.05;
/// Byte lanes of a word.
const LANES: u64 = 8;
/// More byte lanes than this say nothing of a line.
const FEW_LANES: u32 = 2;

/// What the errors of a run looked like, where that is clear. A run that ended at its first errors saw too little of them: a column looks like
/// a few cells then.
pub fn look_of(run: &RunState, locator: &Locator) -> Option<Look> {
    if run.end == Some(EndReason::ErrorLimit) {
        return None;
    }
    locate_run(run, locator, &run.begin.board).signature?.shape().map(Look::of)
}

/// What failed in a run, by cell and by byte lane; nothing where errors have no place, and no cells where they look like lines.
pub fn marks(run: &RunState, locator: &Locator, look: Option<Look>) -> Vec<Mark> {
    match look {
        Some(Look::Scattered | Look::Everywhere) => Vec::new(),
        Some(Look::Lanes | Look::Addresses) => lines(run, locator),
        Some(Look::Cells) | None => [cells(run, locator), lines(run, locator)].concat(),
    }
}

fn cells(run: &RunState, locator: &Locator) -> Vec<Mark> {
    let mark = |place: u64| {
        let (slot, _, inside) = inside(run, locator, place)?;
        Some(Mark { slot, class: MarkClass::Cells, id: name(&inside) })
    };
    let marks: BTreeSet<Mark> = run.digest.cells().filter_map(|(place, _)| mark(place)).take(MOST_MARKS).collect();
    marks.into_iter().collect()
}

fn lines(run: &RunState, locator: &Locator) -> Vec<Mark> {
    let mut wrong: BTreeMap<String, u64> = BTreeMap::new();
    for (place, bad) in run.digest.cells() {
        if let Some((slot, ..)) = inside(run, locator, place) {
            *wrong.entry(slot).or_default() |= bad.wrong;
        }
    }
    let lanes = |wrong: u64| (0..LANES).filter(move |lane| wrong >> (lane * 8) & 0xff != 0);
    let few = wrong.into_iter().filter(|(_, wrong)| lanes(*wrong).count() as u32 <= FEW_LANES);
    few.flat_map(|(slot, wrong)| {
        lanes(wrong).map(move |lane| Mark { slot: slot.clone(), class: MarkClass::Lines, id: lane.to_string() })
    })
    .collect()
}

/// A name of a place inside a module that is the same in every run.
fn name(inside: &Inside) -> String {
    match inside {
        Inside::Cell(cell) => format!("{cell:?}"),
        Inside::AloneAt(address) => format!("{:#x}", address.0),
    }
}

/// For each run, by module: the part of the cells that failed in any run that this one reached, where that can be told.
pub fn reached<'a>(
    runs: impl Iterator<Item = (&'a RunState, &'a Locator)> + Clone,
) -> BTreeMap<String, Vec<(String, f64)>> {
    let failing = failing(runs.clone());
    let of = |run: &RunState, locator: &Locator| {
        let modules = run.begin.board.modules().map(|(slot, module)| (slot.id.clone(), module.identity(&slot.id)));
        let part = |(slot, module): (String, String)| {
            let known = failing.get(&module)?;
            let told: Vec<bool> = known.iter().filter_map(|inside| reaches(run, locator, &slot, inside)).collect();
            let reached = told.iter().filter(|reached| **reached).count();
            let part = reached as f64 / told.len().max(1) as f64;
            // Of many cells some are enough to show the fault.
            (!told.is_empty()).then_some((module, if part >= ENOUGH { 1.0 } else { part }))
        };
        modules.filter_map(part).collect::<Vec<_>>()
    };
    runs.map(|(run, locator)| (run.id.clone(), of(run, locator))).filter(|(_, parts)| !parts.is_empty()).collect()
}

/// By module: the part of its failing cells that runs of it alone reached, and runs with others, as far as there were any; as
/// [`Case::reach`](super::Case::reach) wants it.
pub fn reach_of(runs: &[RunFact]) -> Vec<(String, [f64; 2])> {
    let mut all: BTreeMap<String, [f64; 2]> = BTreeMap::new();
    for run in runs {
        for (module, part) in &run.reach {
            all.entry(module.clone()).or_insert([1.0; 2])[usize::from(run.placement.len() > 1)] = *part;
        }
    }
    all.into_iter().collect()
}

fn failing<'a>(runs: impl Iterator<Item = (&'a RunState, &'a Locator)>) -> BTreeMap<String, BTreeSet<Inside>> {
    let mut failing: BTreeMap<String, BTreeSet<Inside>> = BTreeMap::new();
    for (run, locator) in runs {
        // Evenly from all of them: those that come first lie where the running system often is.
        let every = run.digest.cells().count().div_ceil(MOST_MARKS).max(1);
        for (place, _) in run.digest.cells().step_by(every) {
            if let Some((_, module, inside)) = inside(run, locator, place) {
                failing.entry(module).or_default().insert(inside);
            }
        }
    }
    failing
}

/// Whether a run tested a place inside the module in this slot; nothing where its address in this arrangement is not known.
fn reaches(run: &RunState, locator: &Locator, slot: &str, inside: &Inside) -> Option<bool> {
    if !run.held.addresses_known {
        return None;
    }
    let address = match inside {
        Inside::Cell(cell) => locator.address(&crate::address::Placed { slot: slot.to_owned(), cell: *cell })?,
        Inside::AloneAt(address) => *address,
    };
    let alone = run.begin.board.modules().count() == 1;
    if matches!(inside, Inside::AloneAt(_)) && (!alone || locator.tells_cells()) {
        return None;
    }
    let PhysAddr(at) = address;
    let held = run.held.ranges.ranges().iter().any(|range| range.contains(at));
    let moved = run.moved.ranges().iter().any(|range| range.contains(at));
    Some(held && !moved)
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;
    use revisum_engine::sweep::second_look::Kind;
    use revisum_engine::units::{ByteRange, RangeSet};
    use revisum_record::fitted::{Board, Module, Slot};
    use revisum_record::journal::Begin;

    /// One module alone, which holds the first page and was found wrong at these addresses in these bits.
    fn run(id: &str, slot: &str, errors: &[(u64, u64)]) -> RunState {
        let module = Some(Module { serial: "one".into(), ..Module::default() });
        let board = Board { slots: vec![Slot { id: slot.into(), module, ..Slot::default() }], ..Board::default() };
        let mut state = RunState { id: id.into(), begin: Begin { board, ..Begin::default() }, ..RunState::default() };
        state.held.addresses_known = true;
        state.held.ranges = RangeSet::from_iter([ByteRange::new(0x1000, 0x2000)]);
        errors.iter().for_each(|(address, wrong)| state.digest.add(*address, 0, *wrong, Kind::Recurring));
        state
    }

    fn told(look: Option<Look>) -> Vec<(MarkClass, String)> {
        let state = run("r", "A1", &[(0x1040, 1 << 19), (0x1080, 1 << 20)]);
        let marks = marks(&state, &Locator::new(&state.begin.board, None), look);
        marks.into_iter().map(|mark| (mark.class, mark.id)).collect()
    }

    #[rstest]
    #[case::cells_and_their_lane(None, &[(MarkClass::Cells, "0x1040"), (MarkClass::Cells, "0x1080"), (MarkClass::Lines, "2")])]
    #[case::lines_only(Some(Look::Lanes), &[(MarkClass::Lines, "2")])]
    #[case::no_place(Some(Look::Scattered), &[])]
    fn what_failed_has_a_name(#[case] look: Option<Look>, #[case] expected: &[(MarkClass, &str)]) {
        let expected: Vec<_> = expected.iter().map(|(class, id)| (*class, (*id).to_owned())).collect();
        assert_eq!(told(look), expected);
    }

    /// A cell that failed once is looked for in every run with its module: held and swept, held by others, or moved away since.
    #[rstest]
    #[case::held(0x1000..0x2000, None, 1.0)]
    #[case::kept_by_the_system(0x1800..0x2000, None, 0.0)]
    #[case::moved(0x1000..0x2000, Some(0x1000..0x1800), 0.0)]
    fn a_run_reaches_what_it_holds(
        #[case] held: std::ops::Range<u64>,
        #[case] moved: Option<std::ops::Range<u64>>,
        #[case] expected: f64,
    ) {
        let range = |range: std::ops::Range<u64>| ByteRange::new(range.start, range.end);
        let failed = run("failed", "A1", &[(0x1040, 1)]);
        let mut later = run("later", "B1", &[]);
        later.held.ranges = RangeSet::from_iter([range(held)]);
        later.moved = RangeSet::from_iter(moved.map(range));
        let runs = [failed, later];
        let locators: Vec<Locator> = runs.iter().map(|run| Locator::new(&run.begin.board, None)).collect();
        assert_eq!(reached(runs.iter().zip(&locators))["later"], [("one".to_owned(), expected)]);
    }

    #[rstest]
    #[case::whole(EndReason::Completed, Some(Look::Scattered))]
    #[case::cut_short(EndReason::ErrorLimit, None)]
    fn a_run_that_ended_at_its_first_errors_has_no_look(#[case] end: EndReason, #[case] expected: Option<Look>) {
        let errors: Vec<(u64, u64)> = (0..40u64).map(|at| (0x1000 + at * 0x58, 1 << (at * 29 % 64))).collect();
        let mut state = run("r", "A1", &errors);
        (state.end, state.errors.words) = (Some(end), 40);
        let locator = Locator::new(&state.begin.board, None);
        assert_eq!(look_of(&state, &locator), expected);
    }
}
