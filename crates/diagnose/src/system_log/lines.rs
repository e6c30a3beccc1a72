//! Lines of a kernel log, as files keep it and as it is now: with a time in one of the usual forms before them.

use jiff::Timestamp;

use super::place::Collected;
use crate::board::{EventSource, LogLines, MemoryEvent, hex};
use revisum_engine::text::cleaned;
use revisum_engine::units::PhysAddr;
use revisum_record::logged::{LogEntry, LogKind, LogTime};

/// Longest text kept of an entry.
pub(super) const LONGEST: usize = 240;
/// Longest name of a machine or program before the message, and of a time.
const LONGEST_TIME: usize = 40;

/// Takes line after line: some errors are told on several.
#[derive(Debug)]
pub struct LineReader {
    lines: LogLines,
    /// When the event of the memory that is still open was logged.
    time: LogTime,
    /// That there was a machine check: another line may say which.
    unnamed: Option<LogEntry>,
    entries: Collected,
}

impl Default for LineReader {
    fn default() -> Self {
        let lines = LogLines::new(EventSource::KernelLog);
        Self { lines, time: LogTime::default(), unnamed: None, entries: Collected::default() }
    }
}

impl LineReader {
    /// Takes a line with its time in front of it.
    pub fn take(&mut self, line: &str) {
        let (time, message) = split_time(line);
        self.take_message(time, message);
    }

    /// Takes a message of which the time is known.
    pub fn take_message(&mut self, time: LogTime, message: &str) {
        let before = self.lines.events.len();
        self.lines.take(message);
        if self.lines.events.len() > before {
            let event = self.lines.events.pop();
            self.close();
            self.lines.events.extend(event);
            self.unnamed.take_if(|entry| together(&entry.first, &time));
            self.time = time;
        } else if let Some(entry) = other(time, message) {
            self.take_other(entry, message);
        }
    }

    /// Nothing of it where the event beside it says more.
    fn take_other(&mut self, entry: LogEntry, message: &str) {
        let is_unnamed = message.contains(UNNAMED);
        if is_unnamed && !self.lines.events.is_empty() && together(&self.time, &entry.first) {
            return;
        }
        self.entries.extend(self.unnamed.take());
        if is_unnamed {
            self.unnamed = Some(entry);
        } else {
            self.close();
            self.entries.take(entry);
        }
    }

    /// What was found so far and since the last call.
    pub fn entries(&mut self) -> Vec<LogEntry> {
        self.close();
        self.entries.extend(self.unnamed.take());
        self.entries.entries()
    }

    fn close(&mut self) {
        let time = std::mem::take(&mut self.time);
        self.entries.extend(self.lines.events.drain(..).map(|event| of_event(event, time.clone())));
    }
}

/// What the kernel says of machine checks before anybody has looked at them.
const UNNAMED: &str = "Machine check events logged";

/// Within a second or so of each other; without times, lines beside each other.
fn together(one: &LogTime, other: &LogTime) -> bool {
    const MS: u64 = 2_000;
    let second = |time: &LogTime| time.words.split('.').next().unwrap_or_default().to_owned();
    match (one.wall_ms, other.wall_ms) {
        (Some(one), Some(other)) => one.abs_diff(other) <= MS,
        (None, None) => second(one) == second(other),
        _ => false,
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
    if has("Machine Check: ") || has(UNNAMED) {
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
