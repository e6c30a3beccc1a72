//! What is not known, and what sources do not agree on.

use super::{Known, finding};
use crate::board::Fact;
use crate::board::fact_names::{MAKER, PART, SERIAL, SIZE};
use crate::board::finding::{Finding, Found, Weight};

/// Facts that a disagreement about matters for.
const WORTH_TELLING: [&str; 4] = [MAKER, PART, SERIAL, SIZE];

pub(super) fn disputed(known: &Known<'_>) -> Option<Finding> {
    let disputed = known.inventory.facts.disputed();
    let disputed: Vec<Fact> =
        disputed.filter(|fact| !fact.slot.is_empty() && WORTH_TELLING.contains(&fact.name.as_str())).cloned().collect();
    if disputed.is_empty() || known.is_guest() {
        return None;
    }
    finding(Weight::Doubtful, Found::Disputed(disputed))
}

pub(super) fn no_serial_numbers(known: &Known<'_>) -> Option<Finding> {
    let without: Vec<String> = known
        .board()
        .modules()
        .filter(|(slot, module)| module.serial.is_empty() && !slot.soldered)
        .map(|(slot, _)| slot.id.clone())
        .collect();
    if without.is_empty() || known.is_guest() {
        return None;
    }
    let modules = known.board().modules().filter(|(slot, _)| !slot.soldered).count();
    let all = without.len() == modules && modules > 2;
    finding(Weight::Note, Found::NoSerials { slots: without, all })
}

pub(super) fn same_serial_numbers(known: &Known<'_>) -> Option<Finding> {
    let modules: Vec<_> = known.board().modules().filter(|(_, module)| !module.serial.is_empty()).collect();
    let twins: Vec<String> = modules
        .iter()
        .filter(|(_, module)| modules.iter().filter(|(_, other)| other.serial == module.serial).count() > 1)
        .map(|(slot, _)| slot.id.clone())
        .collect();
    if twins.is_empty() || known.is_guest() {
        return None;
    }
    finding(Weight::Note, Found::SameSerials(twins))
}

pub(super) fn no_spd(known: &Known<'_>) -> Option<Finding> {
    let board = known.board();
    let modules = board.modules().filter(|(slot, _)| !slot.soldered).count();
    let told = board.modules().any(|(_, module)| module.base_speed.is_some() || module.damaged_spd);
    if modules == 0 || told || known.is_guest() {
        return None;
    }
    finding(Weight::Note, Found::NoSpd)
}

pub(super) fn virtual_machine(known: &Known<'_>) -> Option<Finding> {
    if !known.is_guest() {
        return None;
    }
    finding(Weight::Note, Found::Guest)
}

pub(super) fn no_tables(known: &Known<'_>) -> Option<Finding> {
    if !known.board().slots.is_empty() {
        return None;
    }
    finding(Weight::Note, Found::NoTables)
}

pub(super) fn hidden_addresses(known: &Known<'_>) -> Option<Finding> {
    if known.inventory.usable.bytes() > 0 {
        return None;
    }
    finding(Weight::Note, Found::HiddenAddresses { saved: known.system.saved })
}
