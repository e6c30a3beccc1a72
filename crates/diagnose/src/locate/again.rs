//! The same weak cell again: matched across the fittings of a job by module, place and lane.
//!
//! Where a map tells, a cell has rank, bank, row and column. With one module fitted there is no interleave, so its address alone
//! names the cell too, in whatever slot it sits: such runs are matched with one another even without a map.

use std::collections::{BTreeMap, BTreeSet};

use serde::Serialize;

use crate::address::{Cell, Locator};
use revisum_engine::units::PhysAddr;
use revisum_record::run_state::RunState;

/// Cells kept.
const MOST_CELLS: usize = 32;

/// Where inside its module a cell is.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Serialize)]
#[serde(rename_all = "kebab-case")]
pub enum Inside {
    /// By a map.
    Cell(Cell),
    /// By its address while the module was alone.
    AloneAt(PhysAddr),
}

/// A word that failed on the same lanes in several runs.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
pub struct SameCell {
    /// Serial number of its module.
    pub module: String,
    /// Where in it.
    pub inside: Inside,
    /// Lanes that read wrong in all of these runs.
    pub wrong: u64,
    /// Slots that the module sat in then.
    pub slots: BTreeSet<String>,
    /// Ids of the runs, in their order.
    pub runs: Vec<String>,
}

/// Words that failed again in another run of these, with the locator of each run, the most often seen first.
pub fn same_cells<'a>(runs: impl IntoIterator<Item = (&'a RunState, &'a Locator)>) -> Vec<SameCell> {
    let mut found: BTreeMap<(String, Inside), SameCell> = BTreeMap::new();
    for (run, locator) in runs {
        for (place, bad) in run.digest.cells() {
            let Some((slot, module, inside)) = named(run, locator, place) else { continue };
            let cell = found.entry((module.clone(), inside)).or_insert_with(|| SameCell {
                module,
                inside,
                wrong: u64::MAX,
                slots: BTreeSet::new(),
                runs: Vec::new(),
            });
            if cell.wrong & bad.wrong == 0 {
                continue;
            }
            cell.wrong &= bad.wrong;
            cell.slots.insert(slot);
            cell.runs.push(run.id.clone());
        }
    }
    let mut again: Vec<SameCell> = found.into_values().filter(|cell| cell.runs.len() > 1).collect();
    again.sort_by_key(|cell| (std::cmp::Reverse(cell.slots.len()), std::cmp::Reverse(cell.runs.len())));
    again.truncate(MOST_CELLS);
    again
}

/// Slot, serial number and place of a failing word, where they are known.
fn named(run: &RunState, locator: &Locator, place: u64) -> Option<(String, String, Inside)> {
    let (slot, module, inside) = inside(run, locator, place)?;
    let has_serial = run.begin.board.modules().any(|(_, fitted)| fitted.serial == module && !module.is_empty());
    has_serial.then_some((slot, module, inside))
}

/// Slot, identity of the module, and place in it of a failing word, where they are known.
pub(crate) fn inside(run: &RunState, locator: &Locator, place: u64) -> Option<(String, String, Inside)> {
    if !run.held.addresses_known {
        return None;
    }
    let mut modules = run.begin.board.modules();
    let (slot, module, inside) = match locator.placed(PhysAddr(place)) {
        Some(placed) => {
            let (slot, module) = modules.find(|(slot, _)| slot.id == placed.slot)?;
            (slot, module, Inside::Cell(placed.cell))
        }
        None => {
            let (slot, module) = modules.next().filter(|_| modules.next().is_none())?;
            (slot, module, Inside::AloneAt(PhysAddr(place)))
        }
    };
    Some((slot.id.clone(), module.identity(&slot.id), inside))
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;
    use revisum_engine::sweep::second_look::Kind;
    use revisum_record::fitted::{Board, Module, Slot};
    use revisum_record::journal::Begin;

    fn run(id: &str, fitted: &[(&str, &str)], errors: &[(u64, u64)]) -> RunState {
        let slot = |(id, serial): &(&str, &str)| Slot {
            id: (*id).into(),
            module: Some(Module { serial: (*serial).into(), ..Module::default() }),
            ..Slot::default()
        };
        let board = Board { slots: fitted.iter().map(slot).collect(), ..Board::default() };
        let mut state = RunState { id: id.into(), begin: Begin { board, ..Begin::default() }, ..RunState::default() };
        state.held.addresses_known = true;
        errors.iter().for_each(|(address, wrong)| state.digest.add(*address, 0, *wrong, Kind::Recurring));
        state
    }

    #[rstest]
    #[case::moved(&[("A1", "one")], &[("B1", "one")], 1, Some(&["A1", "B1"][..]))]
    #[case::stayed(&[("A1", "one")], &[("A1", "one")], 1, Some(&["A1"][..]))]
    #[case::other_lane(&[("A1", "one")], &[("B1", "one")], 2, None)]
    #[case::other_module(&[("A1", "one")], &[("A1", "two")], 1, None)]
    #[case::not_told(&[("A1", "one"), ("B1", "two")], &[("A1", "one"), ("B1", "two")], 1, None)]
    fn cells_are_matched_by_module_place_and_lane(
        #[case] before: &[(&str, &str)],
        #[case] after: &[(&str, &str)],
        #[case] wrong: u64,
        #[case] expected: Option<&[&str]>,
    ) {
        let runs = [run("r1", before, &[(0x40, 1), (0x80, 4)]), run("r2", after, &[(0x40, wrong)])];
        let locators: Vec<Locator> = runs.iter().map(|run| Locator::new(&run.begin.board, None)).collect();
        let cells = same_cells(runs.iter().zip(&locators));
        let slots = cells.first().map(|cell| cell.slots.iter().map(String::as_str).collect::<Vec<_>>());
        assert_eq!(slots.as_deref(), expected);
        assert_eq!(cells.len(), usize::from(expected.is_some()));
    }
}
