//! SMBIOS tables, their entry point and their masking.
#![no_main]

mod clean;

use libfuzzer_sys::fuzz_target;
use revisum_diagnose::board::SmbiosTables;
use revisum_diagnose::board::{Inventory, RawFirmware, mask};

fuzz_target!(|bytes: &[u8]| {
    let entry = bytes[..bytes.len().min(31)].to_vec();
    let tables = SmbiosTables::new(entry, bytes.to_vec());
    let version = (bytes.first().copied().unwrap_or(3), bytes.get(1).copied().unwrap_or(2));
    for tables in [
        tables,
        Some(SmbiosTables::of_version((3, 2), bytes.to_vec())),
        Some(SmbiosTables::of_version(version, bytes.to_vec())),
    ] {
        let mut raw = RawFirmware { smbios: tables, ..RawFirmware::default() };
        clean::check(&Inventory::read(&raw));
        let length = raw.smbios.as_ref().map(|tables| tables.bytes.len());
        mask(&mut raw);
        assert_eq!(raw.smbios.as_ref().map(|tables| tables.bytes.len()), length);
        clean::check(&Inventory::read(&raw));
    }
});
