//! SPD images, one or two of them, with and without tables beside.
#![no_main]

mod clean;

use libfuzzer_sys::fuzz_target;
use revisum_diagnose::board::{Inventory, RawFirmware, Spd, SpdImage, mask};

fuzz_target!(|bytes: &[u8]| {
    if let Ok(spd) = Spd::read(bytes) {
        assert!(!spd.part.chars().any(char::is_control) && !spd.maker.chars().any(char::is_control));
        assert!(spd.speed.is_none_or(|speed| speed >= 66));
    }
    let half = bytes.len() / 2;
    let image = |place: &str, bytes: &[u8]| SpdImage { place: place.into(), bytes: bytes.to_vec() };
    for spd in [vec![image("0-0050", bytes)], vec![image("0-0050", &bytes[..half]), image("0-0051", &bytes[half..])]] {
        let mut raw = RawFirmware { spd, ..RawFirmware::default() };
        clean::check(&Inventory::read(&raw));
        mask(&mut raw);
        clean::check(&Inventory::read(&raw));
    }
});
