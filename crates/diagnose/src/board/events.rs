//! Memory errors that somebody logged: the kernel, a crash, the firmware at boot. Each is placed on a slot where it names one.

use std::collections::BTreeMap;

use serde::Serialize;

use super::boot_errors;
use super::log_lines::in_log;
use super::raw::RawFirmware;
use revisum_engine::units::PhysAddr;
use revisum_record::fitted::{Board, MappedDevice};

/// Who logged it.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize)]
#[serde(rename_all = "kebab-case")]
pub enum EventSource {
    /// The running kernel's log.
    KernelLog,
    /// What a crash left behind.
    Crash,
    /// The firmware's boot error record.
    BootRecord,
}

/// One logged memory error, or several of the same kind at the same place.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
pub struct MemoryEvent {
    /// Who logged it.
    pub source: EventSource,
    /// Whether the hardware corrected it.
    pub corrected: bool,
    /// How many.
    pub count: u64,
    /// Physical address, where it is told.
    pub address: Option<PhysAddr>,
    /// Place in the log's own words; empty when it names none.
    pub place: String,
    /// Slots that it may be in: one for certain, several possible ones, none when it cannot be placed.
    pub slots: Vec<String>,
    /// The line or lines that it was read from.
    pub text: String,
}

/// All of them, each placed as far as it can be.
pub(super) fn read_events(
    raw: &RawFirmware,
    board: &Board,
    mapped: &[MappedDevice],
    handles: &BTreeMap<u16, String>,
) -> Vec<MemoryEvent> {
    let mut all = in_log(&raw.kernel_log, EventSource::KernelLog);
    all.extend(in_log(&raw.crash_log, EventSource::Crash));
    for record in boot_errors::read(&raw.boot_errors) {
        let by_handle = record.module_handle.and_then(|handle| handles.get(&handle)).cloned();
        all.push(MemoryEvent {
            source: EventSource::BootRecord,
            corrected: record.corrected,
            count: 1,
            address: record.address,
            place: record.place,
            slots: by_handle.into_iter().collect(),
            text: record.text,
        });
    }
    for event in all.iter_mut().filter(|event| event.slots.is_empty()) {
        event.slots = placed(&event.place, event.address, board, mapped);
    }
    all
}

/// By the name of a slot in the log's own words, else by the address: the addresses that the firmware gives for each
/// device, or the only module there is.
pub(crate) fn placed(place: &str, address: Option<PhysAddr>, board: &Board, mapped: &[MappedDevice]) -> Vec<String> {
    if let Some(slot) = slot_named(place, board) {
        return vec![slot.to_owned()];
    }
    let mut slots = Vec::new();
    if let Some(address) = address {
        let here = mapped.iter().filter(|device| device.range.contains(address.0));
        slots = here.map(|device| device.slot.clone()).collect();
    }
    let fitted: Vec<String> = board.modules().map(|(slot, _)| slot.id.clone()).collect();
    match (slots.is_empty(), fitted.len()) {
        (true, 1) => fitted,
        _ => slots,
    }
}

/// The only slot that words of a driver or a log name.
pub fn slot_named<'a>(words: &str, board: &'a Board) -> Option<&'a str> {
    let mut named = board.slots.iter().filter(|slot| names_slot(words, &slot.id));
    let first = named.next()?;
    named.next().is_none().then_some(&first.id)
}

/// Whether the words hold this name as a whole: `DIMM_A1` does not name `A10`, nor `A`.
fn names_slot(words: &str, id: &str) -> bool {
    let whole = |c: Option<char>| c.is_none_or(|c| !c.is_alphanumeric());
    words.match_indices(id).any(|(at, _)| {
        whole(words[..at].chars().next_back()) && whole(words[at + id.len()..].chars().next()) && !id.is_empty()
    })
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;
    use revisum_record::fitted::{Module, Slot};

    fn board() -> Board {
        let slot =
            |id: &str, fitted: bool| Slot { id: id.into(), module: fitted.then(Module::default), ..Slot::default() };
        let slots = vec![slot("DIMM_A1", true), slot("DIMM_A2", false), slot("DIMM_B1", true)];
        Board { slots, ..Board::default() }
    }

    #[rstest]
    #[case("CPU_DIMM_B1", &["DIMM_B1"])]
    #[case("DIMM_B10", &[])]
    #[case("mc#0channel#1", &[])]
    #[case("", &[])]
    fn places(#[case] place: &str, #[case] expected: &[&str]) {
        assert_eq!(placed(place, None, &board(), &[]), expected);
    }

    #[test]
    fn with_one_module_there_is_no_doubt() {
        let mut alone = board();
        alone.slots[0].module = None;
        let event = &in_log(&["Memory failure: 0x10: recovery action for x".to_owned()], EventSource::KernelLog)[0];
        assert_eq!(placed(&event.place, event.address, &alone, &[]), ["DIMM_B1"]);
    }
}
