//! What is not known, and what sources do not agree on.

use super::{Known, finding};
use crate::board::fact_names::{MAKER, PART, SERIAL, SIZE};
use crate::board::finding::{Finding, Weight};

/// Facts that a disagreement about matters for.
const WORTH_TELLING: [&str; 4] = [MAKER, PART, SERIAL, SIZE];

pub(super) fn disputed(known: &Known<'_>) -> Option<Finding> {
    let disputed = known.inventory.facts.disputed();
    let told: Vec<String> = disputed
        .filter(|fact| !fact.slot.is_empty() && WORTH_TELLING.contains(&fact.name.as_str()))
        .map(|fact| format!("{} of {}: {}", fact.name, fact.slot, fact.in_words()))
        .collect();
    if told.is_empty() {
        return None;
    }
    finding(
        Weight::Doubtful,
        format!("Sources disagree on the {}", told.join("; ")),
        "Compare with the label. A module that states other data than its label is relabelled or damaged.",
    )
}

pub(super) fn no_serial_numbers(known: &Known<'_>) -> Option<Finding> {
    let without: Vec<&str> = known
        .board()
        .modules()
        .filter(|(_, module)| module.serial.is_empty())
        .map(|(slot, _)| slot.id.as_str())
        .collect();
    if without.is_empty() {
        return None;
    }
    finding(
        Weight::Note,
        format!("The firmware gives no serial number for {}", without.join(", ")),
        "Mark these modules with a dot of paint. Nothing else distinguishes them after a swap.",
    )
}

pub(super) fn same_serial_numbers(known: &Known<'_>) -> Option<Finding> {
    let modules: Vec<_> = known.board().modules().filter(|(_, module)| !module.serial.is_empty()).collect();
    let twins: Vec<&str> = modules
        .iter()
        .filter(|(_, module)| modules.iter().filter(|(_, other)| other.serial == module.serial).count() > 1)
        .map(|(slot, _)| slot.id.as_str())
        .collect();
    if twins.is_empty() {
        return None;
    }
    finding(
        Weight::Note,
        format!("{} state the same serial number", twins.join(" and ")),
        "The maker or the firmware did not tell them apart, so this program cannot either. Mark them by hand and test one at a time.",
    )
}

pub(super) fn no_spd(known: &Known<'_>) -> Option<Finding> {
    let board = known.board();
    let modules = board.modules().filter(|(slot, _)| !slot.soldered).count();
    let told = board.modules().any(|(_, module)| module.base_speed.is_some() || module.damaged_spd);
    if modules == 0 || told || known.system.guest {
        return None;
    }
    finding(
        Weight::Note,
        "The modules' own descriptions (SPD) could not be read".to_owned(),
        "This is what the firmware reports. Whether a profile is on is unknown: look in the firmware's settings.",
    )
}

pub(super) fn virtual_machine(known: &Known<'_>) -> Option<Finding> {
    if !known.system.guest {
        return None;
    }
    finding(
        Weight::Note,
        "This is a virtual machine".to_owned(),
        "Only its own share of the memory is tested, and addresses are its own. To test the computer, start it without.",
    )
}

pub(super) fn no_tables(known: &Known<'_>) -> Option<Finding> {
    if !known.board().slots.is_empty() {
        return None;
    }
    finding(
        Weight::Note,
        "The firmware's tables do not report what is installed".to_owned(),
        "Errors cannot be placed on slots here. Test one module at a time and write down which.",
    )
}

pub(super) fn hidden_addresses(known: &Known<'_>) -> Option<Finding> {
    if known.inventory.usable.bytes() > 0 {
        return None;
    }
    finding(
        Weight::Note,
        "The memory map is hidden from this user".to_owned(),
        "What part of memory can be tested is not known in addresses. Run as root to see them.",
    )
}
