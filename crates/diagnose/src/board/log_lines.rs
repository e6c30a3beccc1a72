//! Memory errors in the lines of a kernel log: of all drivers of error counters, old and new, of machine checks, and of the firmware's own
//! error records. What several lines tell of one error is one event.

use super::events::{EventSource, MemoryEvent};
use revisum_engine::text::cleaned;
use revisum_engine::units::PhysAddr;

/// More than this many lines of one log are not read.
const MOST_LINES: usize = 20_000;
/// Longest line that is kept.
const LONGEST: usize = 240;

/// Events in the lines of a kernel log.
pub(super) fn in_log(lines: &[String], source: EventSource) -> Vec<MemoryEvent> {
    let mut reader = LogLines::new(source);
    lines.iter().take(MOST_LINES).for_each(|line| reader.take(line));
    reader.events
}

/// What is kept of the lines before the one that is read.
#[derive(Clone, Debug)]
pub(crate) struct LogLines {
    source: EventSource,
    /// Events so far; the last one may still get its address, its place or its driver's line.
    pub(crate) events: Vec<MemoryEvent>,
    /// The last event is told by the processor or the firmware: the line of a driver may say the same.
    is_raw: bool,
    /// What the lines that introduce an error said of it.
    corrected: Option<bool>,
    /// The next line is read as the first one of an error: nothing belongs to what was before.
    lines_since: usize,
}

/// Lines that may lie between what one error has to say.
const TOGETHER: usize = 12;

/// What a line tells.
enum Line {
    /// An error told by the processor or the firmware.
    Raw(MemoryEvent),
    /// An error told by a driver, with count and place.
    Driver(MemoryEvent),
    /// That the error that follows was corrected, or not.
    Severity(bool),
    Address(PhysAddr),
    Place(String),
}

impl LogLines {
    /// Reads a log of this source.
    pub fn new(source: EventSource) -> Self {
        Self { source, events: Vec::new(), is_raw: false, corrected: None, lines_since: 0 }
    }

    /// Takes one more line: a new event, or what belongs to the last one.
    pub fn take(&mut self, line: &str) {
        let line = cleaned(line, LONGEST);
        self.lines_since += 1;
        match self.read(&line) {
            Some(Line::Raw(event)) => self.begin(event, true),
            Some(Line::Driver(event)) => match self.same_as_last(&event) {
                true => self.complete(event),
                false => self.begin(event, false),
            },
            Some(Line::Severity(corrected)) => self.corrected = Some(corrected),
            Some(Line::Address(address)) => {
                if let Some(last) = self.open() {
                    last.address = last.address.or(Some(address));
                }
            }
            Some(Line::Place(place)) => {
                if let Some(last) = self.open().filter(|last| last.place.is_empty()) {
                    last.place = place;
                }
            }
            None => {}
        }
    }

    fn read(&self, line: &str) -> Option<Line> {
        let ours = |event: MemoryEvent| MemoryEvent { source: self.source, ..event };
        let driver = counter_line(line).or_else(|| old_counter_line(line));
        driver
            .map(|event| Line::Driver(ours(event)))
            .or_else(|| page_line(line).or_else(|| machine_check(line)).map(|event| Line::Raw(ours(event))))
            .or_else(|| record(line, self.corrected).map(|event| Line::Raw(ours(event))))
            .or_else(|| detail(line))
    }

    fn begin(&mut self, event: MemoryEvent, is_raw: bool) {
        self.events.push(event);
        (self.is_raw, self.lines_since, self.corrected) = (is_raw, 0, None);
    }

    /// The last event where lines still belong to it.
    fn open(&mut self) -> Option<&mut MemoryEvent> {
        let near = self.is_raw && self.lines_since <= TOGETHER;
        self.events.last_mut().filter(|_| near)
    }

    /// A driver's line after the processor's: the same kind, and the same page where both tell one.
    fn same_as_last(&mut self, event: &MemoryEvent) -> bool {
        const PAGE: u32 = 12;
        self.open().is_some_and(|last| {
            let pages = [last.address, event.address].map(|address| address.map(|address| address.0 >> PAGE));
            let same_page = pages[0].zip(pages[1]).is_none_or(|(one, other)| one == other);
            last.corrected == event.corrected && same_page
        })
    }

    fn complete(&mut self, driver: MemoryEvent) {
        if let Some(last) = self.open() {
            let address = last.address.or(driver.address);
            *last = MemoryEvent { address, ..driver };
        }
        self.is_raw = false;
    }
}

fn event(corrected: bool, count: u64, address: Option<u64>, place: &str, text: &str) -> MemoryEvent {
    MemoryEvent {
        source: EventSource::KernelLog,
        corrected,
        count,
        address: address.filter(|address| *address > 0).map(PhysAddr),
        place: place.trim().to_owned(),
        slots: Vec::new(),
        text: text.to_owned(),
    }
}

/// `EDAC MC0: 1 CE memory read error on DIMM_B1 (channel:1 slot:0 page:0x3ea4fb offset:0x600 …)`
fn counter_line(line: &str) -> Option<MemoryEvent> {
    let (_, rest) = after(line, "EDAC MC")?.split_once(": ")?;
    let mut words = rest.split_whitespace();
    let count = words.next()?.parse().ok()?;
    let corrected = is_corrected(words.next()?)?;
    let place = after(rest, " on ").and_then(|place| place.split(" (").next()).unwrap_or("");
    Some(event(corrected, count, page_address(rest, "page:0x", "offset:0x"), place, line))
}

/// Drivers of older kernels: `EDAC MC0: CE page 0x283, offset 0xce0, grain 8, syndrome 0x6ec3, row 0, channel 1 "DIMM_B1": amd76x_edac`,
/// `EDAC MC0: UE row 0, channel-a= 0 channel-b= 0 labels "-": NON_FATAL (addr = 0x0075b980, … count=1 …)`.
fn old_counter_line(line: &str) -> Option<MemoryEvent> {
    let (_, rest) = after(line, "EDAC MC")?.split_once(": ")?;
    let (kind, rest) = rest.split_once(' ')?;
    let corrected = is_corrected(kind.trim_end_matches(':'))?;
    let address = page_address(rest, "page 0x", "offset 0x")
        .or_else(|| after(rest, "addr = 0x").and_then(hex))
        .or_else(|| after(rest, "ERROR_ADDRESS= 0x").and_then(hex));
    let label = rest.split('"').nth(1).filter(|label| label.chars().any(char::is_alphanumeric));
    let row = || rest.split('"').next().map(|before| before.trim().trim_end_matches("labels").trim_end());
    let place = label.or_else(|| row().filter(|row| row.starts_with("row "))).unwrap_or("");
    let count = after(rest, "count=").and_then(|count| leading(count).parse().ok()).unwrap_or(1);
    Some(event(corrected, count, address, place, line))
}

fn is_corrected(word: &str) -> Option<bool> {
    match word {
        "CE" => Some(true),
        "UE" => Some(false),
        _ => None,
    }
}

fn page_address(line: &str, page: &str, offset: &str) -> Option<u64> {
    let page = after(line, page).and_then(hex)?;
    let offset = after(line, offset).and_then(hex).unwrap_or(0);
    page.checked_mul(4096)?.checked_add(offset)
}

/// `Memory failure: 0x3ea4fb: recovery action for …`: the number of a page that was taken out of use.
fn page_line(line: &str) -> Option<MemoryEvent> {
    let page = after(line, "Memory failure: 0x").and_then(hex)?;
    // Several lines follow for one page; the first kind and the last say the same.
    line.contains("recovery action").then_some(())?;
    Some(event(false, 1, page.checked_mul(4096), "", line))
}

/// `mce: [Hardware Error]: CPU 0: Machine Check: 0 Bank 7: 8c00004000010091`: only errors of the memory controller, whose
/// code in the low 16 bits of the status is 000F 0000 1MMM CCCC (Intel SDM volume 3B, compound error codes), CCCC being the channel, all ones
/// where it is not known; bit 61 says uncorrected.
fn machine_check(line: &str) -> Option<MemoryEvent> {
    let rest = after(line, "Machine Check")?;
    let (_, status) = after(rest, "Bank ")?.split_once(": ")?;
    let status = hex(status)?;
    (status & 0xef80 == 0x0080).then_some(())?;
    let channel = Some(status & 0x0f).filter(|channel| *channel < 0x0f);
    let place = channel.map(|channel| format!("channel {channel}")).unwrap_or_default();
    Some(event(status >> 61 & 1 == 0, 1, None, &place, line))
}

/// A section of a record that firmware hands to the kernel, or the sentence of a driver that reads a memory controller's bank.
fn record(line: &str, corrected: Option<bool>) -> Option<MemoryEvent> {
    let is_one = line.contains("section_type: memory error")
        || line.contains("Hardware Error]: ") && line.contains("DRAM ECC error")
        || line.contains("Hardware Error]: ") && line.contains("Error: DRAM");
    is_one.then(|| event(corrected.unwrap_or(false), 1, None, "", line))
}

/// What stands on lines before and behind an error.
fn detail(line: &str) -> Option<Line> {
    let hardware = line.contains("[Hardware Error]") || line.contains("EDAC ");
    hardware.then_some(())?;
    let address = after(line, "ADDR ").or_else(|| after(line, "physical_address: 0x")).and_then(hex);
    if let Some(address) = address.filter(|address| *address > 0) {
        return Some(Line::Address(PhysAddr(address)));
    }
    if let Some(place) = after(line, "node:").filter(|_| line.contains("module:")) {
        return Some(Line::Place(format!("node:{place}")));
    }
    let lower = line.to_lowercase();
    let severity = ["event severity: ", ", type: "].iter().find_map(|mark| after(&lower, mark));
    match severity {
        Some(word) => Some(Line::Severity(word.starts_with("corrected"))),
        None if lower.contains("]: corrected error") => Some(Line::Severity(true)),
        None if lower.contains("]: uncorrected") || lower.contains("]: deferred error") => Some(Line::Severity(false)),
        None => None,
    }
}

fn after<'a>(line: &'a str, mark: &str) -> Option<&'a str> {
    line.split_once(mark).map(|(_, rest)| rest)
}

fn leading(text: &str) -> &str {
    &text[..text.find(|c: char| !c.is_ascii_digit()).unwrap_or(text.len())]
}

/// The hexadecimal number at the beginning.
pub(crate) fn hex(text: &str) -> Option<u64> {
    let end = text.find(|c: char| !c.is_ascii_hexdigit()).unwrap_or(text.len());
    u64::from_str_radix(&text[..end], 16).ok()
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;

    #[rstest]
    #[case::counted("EDAC MC0: 3 CE memory read error on CPU_DIMM_B1 (channel:1 slot:0 page:0x3ea4fb offset:0x600 grain:32)",
        Some((true, 3, Some(0x3_ea4f_b600), "CPU_DIMM_B1")))]
    #[case::uncorrected("[ 12.1] EDAC MC1: 1 UE memory scrubbing error on unknown (page:0x0 offset:0x0)",
        Some((false, 1, None, "unknown")))]
    #[case::page("Memory failure: 0x3ea4fb: recovery action for dirty LRU page: Recovered",
        Some((false, 1, Some(0x3_ea4f_b000), "")))]
    #[case::old_driver("EDAC MC0: CE page 0x283, offset 0xce0, grain 8, syndrome 0x6ec3, row 0, channel 1 \"DIMM_B1\": amd76x_edac",
        Some((true, 1, Some(0x28_3ce0), "DIMM_B1")))]
    #[case::old_driver_without_label("EDAC MC0: UE row 0, channel-a= 0 channel-b= 0 labels \"-\": NON_FATAL (addr = 0x0075b980, socket=0, count=2, Err=8c)",
        Some((false, 2, Some(0x75_b980), "row 0, channel-a= 0 channel-b= 0")))]
    #[case::old_driver_that_knows_nothing("EDAC MC0: CE - no information available: i82860 CE", Some((true, 1, None, "")))]
    #[case::machine_check("mce: [Hardware Error]: CPU 0: Machine Check: 0 Bank 7: 8c00004000010091", Some((true, 1, None, "channel 1")))]
    #[case::machine_check_uncorrected("mce: [Hardware Error]: CPU 2: Machine Check: 4 Bank 7: be00000000800091", Some((false, 1, None, "channel 1")))]
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

    /// Lines of one error, by all that tell it; how many errors they are, with count, address and place.
    #[rstest]
    #[case::processor_then_driver(&[
        "[22715.8] EDAC sbridge MC3: HANDLING MCE MEMORY ERROR",
        "[22715.8] EDAC sbridge MC3: CPU 0: Machine Check Event: 0 Bank 7: 8c00004000010090",
        "[22715.8] EDAC sbridge MC3: TSC 0 ",
        "[22715.8] EDAC sbridge MC3: ADDR 12345000 EDAC sbridge MC3: MISC 144780c86",
        "[22716.6] EDAC MC3: 1 CE memory read error on DIMM_B1 (channel:0 slot:0 page:0x12345 offset:0x0 grain:32)",
    ], &[(true, 1, Some(0x1234_5000), "DIMM_B1")])]
    #[case::another_page(&[
        "mce: [Hardware Error]: CPU 0: Machine Check: 0 Bank 7: 8c00004000010090",
        "mce: [Hardware Error]: TSC 0 ADDR 12345000 MISC 0",
        "EDAC MC3: 1 CE memory read error on DIMM_B1 (page:0x99999 offset:0x0)",
    ], &[(true, 1, Some(0x1234_5000), "channel 0"), (true, 1, Some(0x9999_9000), "DIMM_B1")])]
    #[case::another_kind(&[
        "mce: [Hardware Error]: CPU 0: Machine Check: 0 Bank 7: 8c0000400001009f",
        "EDAC MC3: 1 UE memory read error on DIMM_B1 (page:0x12345 offset:0x0)",
    ], &[(true, 1, None, ""), (false, 1, Some(0x1234_5000), "DIMM_B1")])]
    #[case::two_of_one_driver(&[
        "EDAC MC0: 1 CE memory read error on DIMM_B1 (page:0x12345 offset:0x0)",
        "EDAC MC0: 1 CE memory read error on DIMM_B1 (page:0x12345 offset:0x0)",
    ], &[(true, 1, Some(0x1234_5000), "DIMM_B1"), (true, 1, Some(0x1234_5000), "DIMM_B1")])]
    #[case::record_of_the_firmware(&[
        "{1}[Hardware Error]: Hardware error from APEI Generic Hardware Error Source: 1",
        "{1}[Hardware Error]: event severity: corrected",
        "{1}[Hardware Error]:  Error 0, type: corrected",
        "{1}[Hardware Error]:   section_type: memory error",
        "{1}[Hardware Error]:   physical_address: 0x0000000012345600",
        "{1}[Hardware Error]:   node: 0 card: 1 module: 2 rank: 0 bank: 1 ",
        "EDAC MC0: 1 CE Single-bit ECC on unknown label (node:0 card:1 module:2 page:0x12345 offset:0x600)",
    ], &[(true, 1, Some(0x1234_5600), "unknown label")])]
    #[case::record_of_an_uncorrected_error(&[
        "{1}[Hardware Error]: event severity: recoverable",
        "{1}[Hardware Error]:   section_type: memory error",
        "{1}[Hardware Error]:   physical_address: 0x0000000012345600",
        "{1}[Hardware Error]:   node: 0 card: 1 module: 2 ",
    ], &[(false, 1, Some(0x1234_5600), "node: 0 card: 1 module: 2")])]
    #[case::controller_of_the_other_maker(&[
        "[Hardware Error]: Corrected error, no action required.",
        "[Hardware Error]: CPU:2 (17:1:1) MC15_STATUS[-|CE|MiscV|AddrV|-|-|SyndV|-|CECC]: 0x9c2040000000011b",
        "[Hardware Error]: Unified Memory Controller Extended Error Code: 0, DRAM ECC error.",
        "EDAC MC0: 1 CE on mc#0csrow#1channel#0 (csrow:1 channel:0 page:0x12345 offset:0x600 grain:64)",
    ], &[(true, 1, Some(0x1234_5600), "mc#0csrow#1channel#0")])]
    #[case::address_of_something_else(&[
        "mce: [Hardware Error]: CPU 0: Machine Check: 0 Bank 1: 8c0000000000010a",
        "mce: [Hardware Error]: TSC 0 ADDR 12345000 MISC 0",
    ], &[])]
    fn lines_of_one_error(#[case] lines: &[&str], #[case] expected: &[(bool, u64, Option<u64>, &str)]) {
        let lines: Vec<String> = lines.iter().map(|line| (*line).to_owned()).collect();
        let events = in_log(&lines, EventSource::KernelLog);
        let read: Vec<_> = events
            .iter()
            .map(|one| (one.corrected, one.count, one.address.map(|at| at.0), one.place.as_str()))
            .collect();
        assert_eq!(read, expected);
    }
}
