//! Lines of a kernel log, as files keep it and as it is now: with a time in one of the usual forms before them.

use jiff::Timestamp;

use super::place::Collected;
use crate::board::{EventSource, MemoryEvent, hex, take_line};
use revisum_engine::text::cleaned;
use revisum_engine::units::PhysAddr;
use revisum_record::logged::{LogEntry, LogKind, LogTime};

/// Longest text kept of an entry.
pub(super) const LONGEST: usize = 240;
/// Longest name of a machine or program before the message, and of a time.
const LONGEST_TIME: usize = 40;

/// Takes line after line: some errors are told on several.
#[derive(Debug, Default)]
pub struct LineReader {
    /// Events of the memory that are still open, with their time.
    open: Vec<MemoryEvent>,
    time: LogTime,
    entries: Collected,
}

impl LineReader {
    /// Takes a line with its time in front of it.
    pub fn take(&mut self, line: &str) {
        let (time, message) = split_time(line);
        self.take_message(time, message);
    }

    /// Takes a message of which the time is known.
    pub fn take_message(&mut self, time: LogTime, message: &str) {
        let before = self.open.len();
        take_line(&mut self.open, message, EventSource::KernelLog);
        if self.open.len() > before {
            let event = self.open.pop();
            self.close();
            self.open.extend(event);
            self.time = time;
        } else if let Some(entry) = other(time, message) {
            self.close();
            self.entries.take(entry);
        }
    }

    /// What was found so far and since the last call.
    pub fn entries(&mut self) -> Vec<LogEntry> {
        self.close();
        self.entries.entries()
    }

    fn close(&mut self) {
        let time = std::mem::take(&mut self.time);
        self.entries.extend(self.open.drain(..).map(|event| of_event(event, time.clone())));
    }
}

fn of_event(event: MemoryEvent, time: LogTime) -> LogEntry {
    let kind = match event.corrected {
        true => LogKind::Corrected,
        false if event.text.contains("Memory failure") => LogKind::PageRetired,
        false => LogKind::Uncorrected,
    };
    let entry = LogEntry::new(kind, time, event.text);
    LogEntry { count: event.count.max(1), address: event.address, place: event.place, slots: event.slots, ..entry }
}

/// What is not an error of the memory controller.
fn other(time: LogTime, message: &str) -> Option<LogEntry> {
    let has = |words: &str| message.contains(words);
    let text = || cleaned(message, LONGEST);
    let after = |mark: &str| message.split_once(mark).and_then(|(_, rest)| hex(rest)).map(PhysAddr);
    if has("bad mem addr ") {
        // The kernel's own memory check at its start.
        let entry = LogEntry::new(LogKind::CheckFound, time, text());
        return Some(LogEntry { address: after("bad mem addr 0x"), ..entry });
    }
    if has("soft offline") || has("soft_offline") || has("Soft offlin") {
        return Some(LogEntry::new(LogKind::PageRetired, time, text()));
    }
    if has("Machine Check: ") || has("Machine check events logged") {
        return Some(LogEntry::new(LogKind::MachineCheck, time, text()));
    }
    (has("Kernel panic - not syncing") || has("BUG: unable to handle"))
        .then(|| LogEntry::new(LogKind::StopScreen, time, text()))
}

/// Cuts the time off a line: RFC 3339 (RFC 5424 as files keep it), the older form without a year (RFC 3164), or the kernel's own seconds.
fn split_time(line: &str) -> (LogTime, &str) {
    let line = line.trim_end();
    let (first, rest) = line.split_once(' ').unwrap_or((line, ""));
    if let Ok(stamp) = first.parse::<Timestamp>() {
        return (LogTime { wall_ms: Some(stamp.as_millisecond()), words: String::new() }, behind_kernel(rest));
    }
    if let Some(end) = classic(line) {
        return (in_words(&line[..end]), behind_kernel(&line[end..]));
    }
    behind_seconds(line)
}

/// `Nov  2 10:11:12`: the length of such a beginning. There is no year and no zone in it.
fn classic(line: &str) -> Option<usize> {
    const MONTHS: [&str; 12] = ["Jan", "Feb", "Mar", "Apr", "May", "Jun", "Jul", "Aug", "Sep", "Oct", "Nov", "Dec"];
    let beginning = line.get(..15)?;
    let clock = beginning.get(7..)?.as_bytes();
    let fits = MONTHS.contains(&beginning.get(..3)?) && clock.get(2) == Some(&b':') && clock.get(5) == Some(&b':');
    fits.then_some(15)
}

fn behind_kernel(rest: &str) -> &str {
    let message = rest.split_once(" kernel: ").map_or(rest, |(_, message)| message);
    behind_seconds(message).1
}

/// `[   12.345678] message`
fn behind_seconds(line: &str) -> (LogTime, &str) {
    let inner = line.trim_start().strip_prefix('[').and_then(|rest| rest.split_once(']'));
    match inner {
        Some((seconds, message)) if seconds.trim().parse::<f64>().is_ok() => {
            (in_words(&format!("+{} s", seconds.trim())), message.trim_start())
        }
        _ => (LogTime::default(), line),
    }
}

fn in_words(words: &str) -> LogTime {
    LogTime { wall_ms: None, words: cleaned(words, LONGEST_TIME) }
}
