//! An entry of an event log as XML: `Event` with `System` (source, level, time) and data behind it. Most carry no sentence, only values.

use jiff::Timestamp;
use roxmltree::{Document, Node};

use super::lines::LONGEST;
use crate::board::read_record;
use revisum_engine::text::cleaned;
use revisum_engine::units::PhysAddr;
use revisum_record::logged::{LogEntry, LogKind, LogTime};

/// Longest entry that is read.
const LONGEST_EVENT: usize = 1 << 20;
/// Levels up to this one are warnings and worse; 0 says nothing, 4 is information.
const WARNING: u32 = 3;

/// What an event comes to, as far as rules need it.
struct Event {
    /// Who logged it, in small letters.
    source: String,
    level: u32,
    time: LogTime,
    /// Names, in small letters, and values.
    data: Vec<(String, String)>,
}

/// Entries about memory in one event; none when it speaks of something else or is no event.
pub fn read_event(xml: &str) -> Vec<LogEntry> {
    if xml.len() > LONGEST_EVENT {
        return Vec::new();
    }
    let Ok(document) = Document::parse(xml) else { return Vec::new() };
    let Some(event) = document.descendants().find(|node| node.has_tag_name_any("Event")).and_then(parse) else {
        return Vec::new();
    };
    let from_hardware = has(&event.source, &["whea", "hardware error", "hardware-error", "machine check"]);
    if from_hardware {
        return of_hardware(&event);
    }
    memory_check(&event).or_else(|| stop_screen(&event)).into_iter().collect()
}

trait AnyName {
    fn has_tag_name_any(&self, name: &str) -> bool;
}

/// Exports differ in their namespaces.
impl AnyName for Node<'_, '_> {
    fn has_tag_name_any(&self, name: &str) -> bool {
        self.is_element() && self.tag_name().name() == name
    }
}

fn parse(event: Node<'_, '_>) -> Option<Event> {
    let child =
        |of: Node<'_, '_>, name: &str| of.children().find(|node| node.has_tag_name_any(name)).map(|node| node.id());
    let document = event.document();
    let system = document.get_node(child(event, "System")?)?;
    let inner = |name: &str| child(system, name).and_then(|id| document.get_node(id));
    let provider = inner("Provider")?;
    let source = provider.attribute("Name").or(provider.attribute("EventSourceName"))?.to_lowercase();
    let level = inner("Level").and_then(|node| node.text()?.trim().parse().ok()).unwrap_or(0);
    let stamp = inner("TimeCreated").and_then(|node| node.attribute("SystemTime"));
    let wall_ms = stamp.and_then(milliseconds);
    let words = if wall_ms.is_none() { cleaned(stamp.unwrap_or_default(), 40) } else { String::new() };
    let behind = event.children().filter(|node| node.is_element() && node.tag_name().name() != "System");
    let leaves = behind.flat_map(|node| node.descendants()).filter(|node| node.is_element());
    let data = leaves.filter_map(|node| {
        let value = node.text()?.trim();
        let name = node.attribute("Name").unwrap_or(node.tag_name().name());
        (!value.is_empty()).then(|| (name.to_lowercase(), value.to_owned()))
    });
    Some(Event { source, level, time: LogTime { wall_ms, words }, data: data.collect() })
}

/// Exports write the zone as `Z`, binary files as ` UTC` behind a blank instead of `T`.
fn milliseconds(stamp: &str) -> Option<i64> {
    let stamp = stamp.trim().replacen(" UTC", "Z", 1);
    stamp.parse::<Timestamp>().ok().map(|stamp| stamp.as_millisecond())
}

fn has(text: &str, any: &[&str]) -> bool {
    any.iter().any(|word| text.contains(word))
}

/// A report of the hardware: an error record where there is one, else what its values say.
fn of_hardware(event: &Event) -> Vec<LogEntry> {
    if event.level > WARNING {
        return Vec::new();
    }
    let records = event.data.iter().filter_map(|(_, value)| bytes(value)).flat_map(|record| read_record(&record));
    let in_records = records.map(|error| {
        let kind = if error.corrected { LogKind::Corrected } else { LogKind::Uncorrected };
        LogEntry { address: error.address, place: error.place, ..LogEntry::new(kind, event.time.clone(), error.text) }
    });
    let found: Vec<LogEntry> = in_records.collect();
    if !found.is_empty() {
        return found;
    }
    let value = |words: &[&str]| event.data.iter().find(|(name, _)| has(name, words)).map(|(_, value)| value.as_str());
    let address = value(&["physicaladdress", "physical_address"]).and_then(number).map(PhysAddr);
    let text = summary(event);
    let kind = if event.data.iter().any(|(name, _)| name.contains("page") && name.contains("offline")) {
        LogKind::PageRetired
    } else if address.is_none() && !event.data.iter().any(|(_, value)| value.to_lowercase().contains("memory")) {
        LogKind::MachineCheck
    } else if event.level == WARNING {
        LogKind::Corrected
    } else {
        LogKind::Uncorrected
    };
    vec![LogEntry { address, ..LogEntry::new(kind, event.time.clone(), text) }]
}

/// The result of the system's own memory check.
fn memory_check(event: &Event) -> Option<LogEntry> {
    let is_result = event.source.contains("memory")
        && has(&event.source, &["diagnos", "check", "test"])
        && has(&event.source, &["result", "report"]);
    let kind = match event.level {
        1..=WARNING => LogKind::CheckFound,
        _ => LogKind::CheckClean,
    };
    is_result.then(|| LogEntry::new(kind, event.time.clone(), summary(event)))
}

/// The number of a stop screen, by the name of its value or as the first value of a report about it.
fn stop_screen(event: &Event) -> Option<LogEntry> {
    let named = event.data.iter().find(|(name, _)| has(name, &["bugcheckcode", "stopcode"]));
    let reported = || {
        let reports = has(&event.source, &["bugcheck", "bug check", "systemerror", "stop error"]);
        let first = event.data.iter().map(|(_, value)| value).find(|value| value.starts_with("0x"));
        first.filter(|_| reports).map(String::as_str)
    };
    let code = number(named.map(|(_, value)| value.as_str()).or_else(reported)?).filter(|code| *code != 0)?;
    let entry = LogEntry::new(LogKind::StopScreen, event.time.clone(), format!("stop code 0x{code:x}"));
    Some(LogEntry { teller: event.source.clone(), ..entry })
}

/// The number at the beginning, hexadecimal with `0x` or decimal.
fn number(text: &str) -> Option<u64> {
    let text = text.trim();
    match text.strip_prefix("0x").or(text.strip_prefix("0X")) {
        Some(rest) => crate::board::hex(rest),
        None => text.parse().ok(),
    }
}

/// Bytes written as hexadecimal digits; only what may be an error record.
fn bytes(text: &str) -> Option<Vec<u8>> {
    const SIGNATURE: &str = "43504552";
    let start = text.get(..SIGNATURE.len())?;
    if start != SIGNATURE || !text.len().is_multiple_of(2) {
        return None;
    }
    text.as_bytes().chunks(2).map(|pair| u8::from_str_radix(std::str::from_utf8(pair).ok()?, 16).ok()).collect()
}

fn summary(event: &Event) -> String {
    const SHORT: usize = 60;
    let values: Vec<String> = event
        .data
        .iter()
        .filter(|(_, value)| value.len() <= SHORT)
        .map(|(name, value)| if name == "data" { value.clone() } else { format!("{name} {value}") })
        .collect();
    cleaned(&format!("{}  {}", event.source, values.join(", ")), LONGEST)
}
