//! Memory errors that somebody logged: the kernel, a crash, the firmware at boot. Each is placed on a slot where it names one.

use std::collections::BTreeMap;

use serde::Serialize;

use super::boot_errors;
use super::raw::RawFirmware;
use revisum_engine::text::cleaned;
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

/// More than this many lines of one log are not read.
const MOST_LINES: usize = 20_000;
/// Longest line that is kept.
const LONGEST: usize = 240;

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

/// Events in the lines of a kernel log.
fn in_log(lines: &[String], source: EventSource) -> Vec<MemoryEvent> {
    let mut events: Vec<MemoryEvent> = Vec::new();
    lines.iter().take(MOST_LINES).for_each(|line| take_line(&mut events, line, source));
    events
}

/// Takes one more line of a kernel log: a new event, or what belongs to the last one.
pub(crate) fn take_line(events: &mut Vec<MemoryEvent>, line: &str, source: EventSource) {
    let line = cleaned(line, LONGEST);
    let read = [counter_line, page_line, machine_check].iter().find_map(|read| read(&line, source));
    if let Some(event) = read {
        events.push(event);
    } else if let Some(last) = events.last_mut().filter(|last| last.address.is_none()) {
        // The address of a machine check stands on a line of its own, right after it.
        if let Some(address) = after(&line, "ADDR ").or_else(|| after(&line, "physical_address: 0x")) {
            last.address = hex(address).map(PhysAddr);
        }
    }
}

/// `EDAC MC0: 1 CE memory read error on DIMM_B1 (channel:1 slot:0 page:0x3ea4fb offset:0x600 …)`
fn counter_line(line: &str, source: EventSource) -> Option<MemoryEvent> {
    let rest = after(line, "EDAC MC")?;
    let (_, rest) = rest.split_once(": ")?;
    let mut words = rest.split_whitespace();
    let count = words.next()?.parse().ok()?;
    let corrected = match words.next()? {
        "CE" => true,
        "UE" => false,
        _ => return None,
    };
    let place = after(rest, " on ").and_then(|place| place.split(" (").next()).unwrap_or("").trim();
    let page = after(rest, "page:0x").and_then(hex);
    let offset = after(rest, "offset:0x").and_then(hex).unwrap_or(0);
    let address = page.and_then(|page| page.checked_mul(4096)?.checked_add(offset)).filter(|address| *address > 0);
    Some(MemoryEvent {
        source,
        corrected,
        count,
        address: address.map(PhysAddr),
        place: place.to_owned(),
        slots: Vec::new(),
        text: line.to_owned(),
    })
}

/// `Memory failure: 0x3ea4fb: recovery action for …`: the number of a page that was taken out of use.
fn page_line(line: &str, source: EventSource) -> Option<MemoryEvent> {
    let page = after(line, "Memory failure: 0x").and_then(hex)?;
    // Several lines follow for one page; the first kind and the last say the same.
    line.contains("recovery action").then_some(())?;
    Some(MemoryEvent {
        source,
        corrected: false,
        count: 1,
        address: page.checked_mul(4096).map(PhysAddr),
        place: String::new(),
        slots: Vec::new(),
        text: line.to_owned(),
    })
}

/// `mce: [Hardware Error]: CPU 0: Machine Check: 0 Bank 7: 8c00004000010091`: only errors of the memory controller, whose
/// code in the low 16 bits of the status is 000F 0000 1MMM CCCC (Intel SDM volume 3B, compound error codes); bit 61 says uncorrected.
fn machine_check(line: &str, source: EventSource) -> Option<MemoryEvent> {
    let rest = after(line, "Machine Check")?;
    let (_, status) = after(rest, "Bank ")?.split_once(": ")?;
    let status = hex(status)?;
    (status & 0xef80 == 0x0080).then(|| MemoryEvent {
        source,
        corrected: status >> 61 & 1 == 0,
        count: 1,
        address: None,
        place: String::new(),
        slots: Vec::new(),
        text: line.to_owned(),
    })
}

fn after<'a>(line: &'a str, mark: &str) -> Option<&'a str> {
    line.split_once(mark).map(|(_, rest)| rest)
}

/// The hexadecimal number at the beginning.
pub(crate) fn hex(text: &str) -> Option<u64> {
    let end = text.find(|c: char| !c.is_ascii_hexdigit()).unwrap_or(text.len());
    u64::from_str_radix(&text[..end], 16).ok()
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
    #[case::counted("EDAC MC0: 3 CE memory read error on CPU_DIMM_B1 (channel:1 slot:0 page:0x3ea4fb offset:0x600 grain:32)",
        Some((true, 3, Some(0x3_ea4f_b600), "CPU_DIMM_B1")))]
    #[case::uncorrected("[ 12.1] EDAC MC1: 1 UE memory scrubbing error on unknown (page:0x0 offset:0x0)",
        Some((false, 1, None, "unknown")))]
    #[case::page("Memory failure: 0x3ea4fb: recovery action for dirty LRU page: Recovered",
        Some((false, 1, Some(0x3_ea4f_b000), "")))]
    #[case::machine_check("mce: [Hardware Error]: CPU 0: Machine Check: 0 Bank 7: 8c00004000010091", Some((true, 1, None, "")))]
    #[case::machine_check_uncorrected("mce: [Hardware Error]: CPU 2: Machine Check: 4 Bank 7: be00000000800091", Some((false, 1, None, "")))]
    #[case::cache_check("mce: [Hardware Error]: CPU 0: Machine Check: 0 Bank 1: 8c0000000000010a", None)]
    #[case::start("EDAC MC: Ver: 3.0.0", None)]
    #[case::controller("EDAC MC0: Giving out device to module skx_edac", None)]
    #[case::other("usb 1-1: new high-speed USB device", None)]
    fn lines(#[case] line: &str, #[case] expected: Option<(bool, u64, Option<u64>, &str)>) {
        let events = in_log(&[line.to_owned()], EventSource::KernelLog);
        let read = events.first().map(|one| (one.corrected, one.count, one.address.map(|at| at.0), one.place.as_str()));
        assert_eq!(read, expected);
    }

    #[test]
    fn the_address_of_a_machine_check_stands_below_it() {
        let lines = [
            "mce: [Hardware Error]: CPU 0: Machine Check: 0 Bank 7: 8c00004000010091",
            "mce: [Hardware Error]: TSC 0 ADDR 3ea4fb600 MISC 200000c000002286",
        ];
        let events = in_log(&lines.map(str::to_owned), EventSource::Crash);
        assert_eq!(events.iter().map(|event| event.address).collect::<Vec<_>>(), [Some(PhysAddr(0x3_ea4f_b600))]);
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
