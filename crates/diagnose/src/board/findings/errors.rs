//! Memory that fails, is missing, or is not what it was.

use super::{Known, finding};
use crate::board::events::slot_named;
use crate::board::finding::{ErrorCounts, Finding, Found, SlotChange, Weight};
use crate::board::{EventSource, MemoryEvent};
use revisum_engine::host::EccCount;
use revisum_record::fitted::{Board, Module, Slot};

/// The map of the same machine may differ by so much from one start to the next without anything being wrong.
const MAP_CHANGES: u64 = 64 << 20;

pub(super) fn counted(known: &Known<'_>) -> Option<Finding> {
    let bad: Vec<&EccCount> = known.counters.iter().filter(|count| count.corrected + count.uncorrected > 0).collect();
    let corrected: u64 = bad.iter().map(|count| count.corrected).sum();
    let uncorrected: u64 = bad.iter().map(|count| count.uncorrected).sum();
    let place = |count: &&EccCount| slot_named(&count.label, known.board()).unwrap_or(&count.label).to_owned();
    let places: Vec<String> = bad.iter().map(place).collect();
    let errors = ErrorCounts { corrected, uncorrected };
    errors.any().then_some(())?;
    finding(Weight::Wrong, Found::Counted { errors, places })
}

impl ErrorCounts {
    fn any(self) -> bool {
        self.corrected > 0 || self.uncorrected > 0
    }
}

pub(super) fn logged(known: &Known<'_>) -> Option<Finding> {
    let events = &known.inventory.events;
    let sum = |corrected: bool| -> u64 {
        let wanted = events.iter().filter(|event| event.corrected == corrected);
        wanted.map(|event| event.count).fold(0, u64::saturating_add)
    };
    let errors = ErrorCounts { corrected: sum(true), uncorrected: sum(false) };
    errors.any().then_some(())?;
    let mut sources: Vec<EventSource> = events.iter().map(|event| event.source).collect();
    sources.dedup();
    let mut places: Vec<Vec<String>> = events.iter().filter_map(place).collect();
    places.sort();
    places.dedup();
    finding(Weight::Wrong, Found::Logged { sources, errors, places })
}

fn place(event: &MemoryEvent) -> Option<Vec<String>> {
    match &event.slots[..] {
        [] if event.place.is_empty() => None,
        [] => Some(vec![event.place.clone()]),
        slots => Some(slots.to_vec()),
    }
}

pub(super) fn less_than_before(known: &Known<'_>) -> Option<Finding> {
    let before = known.before?;
    let same_parts = parts(&before.board) == parts(known.board()) && !known.board().slots.is_empty();
    let (was, is) = (before.usable_bytes, known.inventory.usable.bytes());
    if !same_parts || is == 0 || was <= is + MAP_CHANGES {
        return None;
    }
    finding(Weight::Wrong, Found::LessThanBefore { was, is })
}

fn parts(board: &Board) -> Vec<(String, String, u64)> {
    board.modules().map(|(slot, module)| (slot.id.clone(), module.identity(&slot.id), module.bytes)).collect()
}

pub(super) fn changed_since(known: &Known<'_>) -> Option<Finding> {
    let before = &known.before?.board;
    let now = known.board();
    // Boards of other firmware, or without tables, cannot be compared slot by slot.
    if now.slots.is_empty() || before.slots.iter().any(|slot| now.slot(&slot.id).is_none()) {
        return None;
    }
    let change = |was: &Slot| {
        let is = now.slot(&was.id)?;
        let same = match (&was.module, &is.module) {
            (None, None) => true,
            (Some(was_in), Some(is_in)) => was_in.identity(&was.id) == is_in.identity(&was.id),
            _ => false,
        };
        let name = |slot: &Slot| slot.module.as_ref().map(Module::name);
        (!same).then(|| SlotChange { slot: was.id.clone(), was: name(was), is: name(is) })
    };
    let changes: Vec<SlotChange> = before.slots.iter().filter_map(change).collect();
    if changes.is_empty() {
        return None;
    }
    let lost = before.board_total() > now.board_total();
    finding(if lost { Weight::Doubtful } else { Weight::Note }, Found::Changed(changes))
}

pub(super) fn damaged_spd(known: &Known<'_>) -> Option<Finding> {
    let damaged = known.board().modules().filter(|(_, module)| module.damaged_spd);
    let damaged: Vec<String> = damaged.map(|(slot, _)| slot.id.clone()).collect();
    if damaged.is_empty() {
        return None;
    }
    finding(Weight::Doubtful, Found::DamagedSpd(damaged))
}
