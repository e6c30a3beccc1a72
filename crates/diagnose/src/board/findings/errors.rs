//! Memory that fails, is missing, or is not what it was.

use super::{Known, finding};
use crate::board::MemoryEvent;
use crate::board::events::slot_named;
use crate::board::finding::{Finding, Weight};
use revisum_engine::host::EccCount;
use revisum_engine::units::{bytes_text, counted as count_of};
use revisum_record::fitted::{Board, Module, Slot};

/// More than this share of the fitted memory is not kept back by devices: a module is missing from the map.
const MISSING_SHARE: f64 = 1.0 / 8.0;
/// The map of the same machine may differ by so much from one start to the next without anything being wrong.
const MAP_CHANGES: u64 = 64 << 20;

pub(super) fn counted(known: &Known<'_>) -> Option<Finding> {
    let bad: Vec<&EccCount> = known.counters.iter().filter(|count| count.corrected + count.uncorrected > 0).collect();
    let corrected: u64 = bad.iter().map(|count| count.corrected).sum();
    let uncorrected: u64 = bad.iter().map(|count| count.uncorrected).sum();
    let place = |count: &&EccCount| slot_named(&count.label, known.board()).unwrap_or(&count.label).to_owned();
    let places: Vec<String> = bad.iter().map(place).collect();
    finding(
        Weight::Wrong,
        format!("The hardware counted {} since the start, at {}", numbers(corrected, uncorrected)?, places.join(", ")),
        "Corrected errors that go on belong to a module that is failing. Test it, and replace it before they become uncorrected.",
    )
}

fn numbers(corrected: u64, uncorrected: u64) -> Option<String> {
    match (corrected, uncorrected) {
        (0, 0) => None,
        (corrected, 0) => Some(count_of(corrected, "corrected memory error")),
        (0, uncorrected) => Some(count_of(uncorrected, "uncorrected memory error")),
        (corrected, uncorrected) => Some(format!("{corrected} corrected and {uncorrected} uncorrected memory errors")),
    }
}

pub(super) fn logged(known: &Known<'_>) -> Option<Finding> {
    let events = &known.inventory.events;
    let sum = |corrected: bool| -> u64 {
        let wanted = events.iter().filter(|event| event.corrected == corrected);
        wanted.map(|event| event.count).fold(0, u64::saturating_add)
    };
    let numbers = numbers(sum(true), sum(false))?;
    let mut sources: Vec<&str> = events.iter().map(|event| event.source.words()).collect();
    sources.dedup();
    let mut places: Vec<String> = events.iter().filter_map(place).collect();
    places.sort();
    places.dedup();
    let hold = if sources.len() == 1 { "holds" } else { "hold" };
    let at = if places.is_empty() { ", at no known slot".to_owned() } else { format!(", at {}", places.join(", ")) };
    finding(
        Weight::Wrong,
        format!("{} {hold} {numbers}{at}", capital(&sources.join(" and "))),
        "They happened in use, not in a test: believe them. Begin with the module that they name.",
    )
}

fn place(event: &MemoryEvent) -> Option<String> {
    match &event.slots[..] {
        [] if event.place.is_empty() => None,
        [] => Some(event.place.clone()),
        slots => Some(slots.join(" or ")),
    }
}

fn capital(text: &str) -> String {
    let mut letters = text.chars();
    letters.next().map(|first| first.to_uppercase().chain(letters).collect()).unwrap_or_default()
}

pub(super) fn missing_memory(known: &Known<'_>) -> Option<Finding> {
    let usable = known.inventory.usable.bytes();
    let fitted = known.board().fitted_bytes().filter(|_| usable > 0 && !known.system.guest)?;
    let missing = fitted.saturating_sub(usable);
    if missing as f64 <= fitted as f64 * MISSING_SHARE {
        return None;
    }
    finding(
        Weight::Wrong,
        format!("{} are installed, but the firmware hands over only {}", bytes_text(fitted), bytes_text(usable)),
        "The missing module is poorly seated, faulty, or more than the mainboard supports. Reseat it, then test it alone.",
    )
}

pub(super) fn totals_differ(known: &Known<'_>) -> Option<Finding> {
    let fitted = known.board().fitted_bytes()?;
    let mapped = known.inventory.mapped_bytes.filter(|mapped| *mapped != fitted && !known.system.guest)?;
    finding(
        Weight::Wrong,
        format!(
            "The modules add up to {}, but the firmware maps {} to addresses",
            bytes_text(fitted),
            bytes_text(mapped)
        ),
        "The firmware left a module out, or counts one that is not there. Reseat the modules and start again.",
    )
}

pub(super) fn less_than_before(known: &Known<'_>) -> Option<Finding> {
    let before = known.before?;
    let same_parts = parts(&before.board) == parts(known.board()) && !known.board().slots.is_empty();
    let (was, is) = (before.usable_bytes, known.inventory.usable.bytes());
    if !same_parts || is == 0 || was <= is + MAP_CHANGES {
        return None;
    }
    finding(
        Weight::Wrong,
        format!("With the same modules the firmware handed over {} last time, {} now", bytes_text(was), bytes_text(is)),
        "Part of the memory has dropped out since. Reseat the modules, then test them one at a time.",
    )
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
        let name = |module: &Module| module.name();
        match (&was.module, &is.module) {
            (Some(was_in), None) => Some(format!("{} had {} and is empty", was.id, name(was_in))),
            (None, Some(is_in)) => Some(format!("{} was empty and has {}", was.id, name(is_in))),
            (Some(was_in), Some(is_in)) if was_in.identity(&was.id) != is_in.identity(&was.id) => {
                Some(format!("{} had {} and has {}", was.id, name(was_in), name(is_in)))
            }
            _ => None,
        }
    };
    let changes: Vec<String> = before.slots.iter().filter_map(change).collect();
    if changes.is_empty() {
        return None;
    }
    let lost = before.board_total() > now.board_total();
    finding(
        if lost { Weight::Doubtful } else { Weight::Note },
        format!("Not as last time: {}", changes.join("; ")),
        "If you moved them, all is well. If not, a module is missing: reseat it.",
    )
}

pub(super) fn damaged_spd(known: &Known<'_>) -> Option<Finding> {
    let damaged = known.board().modules().filter(|(_, module)| module.damaged_spd);
    let damaged: Vec<&str> = damaged.map(|(slot, _)| slot.id.as_str()).collect();
    if damaged.is_empty() {
        return None;
    }
    finding(
        Weight::Doubtful,
        format!("The module's own description does not match its checksum: {}", damaged.join(", ")),
        "The firmware may set it up wrongly. Clean its contacts and read again; if it stays so, do not trust the module.",
    )
}
