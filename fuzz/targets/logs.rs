//! Lines of logs, boot error records and memory maps.
#![no_main]

mod clean;

use libfuzzer_sys::fuzz_target;
use revisum_core::board::{Inventory, MemoryMap, RawFirmware};

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
    clean::check(&Inventory::read(&raw));
});
