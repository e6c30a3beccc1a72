//! Lines of logs, boot error records, memory maps, journal exports and events.
#![no_main]

mod clean;

use libfuzzer_sys::fuzz_target;
use revisum_diagnose::board::{Inventory, MemoryMap, RawFirmware};
use revisum_diagnose::system_log::{LineReader, SystemLogs, read_event, read_export_line};

fuzz_target!(|bytes: &[u8]| {
    let text = String::from_utf8_lossy(bytes);
    let lines: Vec<String> = text.lines().map(str::to_owned).collect();
    let map = MemoryMap::parse(&text, "here");
    assert_eq!(MemoryMap::parse(&map.text(), "here"), map);
    let raw = RawFirmware {
        map,
        kernel_log: lines.clone(),
        crash_log: lines,
        boot_errors: bytes.to_vec(),
        ..RawFirmware::default()
    };
    let inventory = Inventory::read(&raw);
    clean::check(&inventory);
    let mut reader = LineReader::default();
    text.lines().for_each(|line| reader.take(line));
    let exported = text.lines().filter_map(read_export_line);
    exported.for_each(|(time, message)| reader.take_message(time, &message));
    let mut logs = SystemLogs::default();
    logs.take("here", reader.entries());
    logs.take("there", read_event(&text));
    for entry in logs.placed(&inventory).entries {
        assert!(!entry.text.chars().any(char::is_control) && !entry.last.words.chars().any(char::is_control));
    }
});
