//! Raw facts without serial numbers, for handing them to somebody else.

use std::collections::BTreeMap;

use super::raw::RawFirmware;
use super::spd::CRC;

/// Offsets of string numbers that identify one piece, by type of structure (DSP0134).
const STRINGS: [(u8, &[usize]); 7] = [
    (1, &[0x07]),
    (2, &[0x07, 0x08]),
    (3, &[0x07, 0x08]),
    (4, &[0x20, 0x21]),
    (17, &[0x18, 0x19]),
    (22, &[0x07]),
    (39, &[0x08, 0x09]),
];
/// Structures of free strings: makers keep service tags there.
const FREE_STRINGS: [u8; 2] = [11, 12];
/// The unique number of the computer in type 1.
const UUID: std::ops::Range<usize> = 0x08..0x18;

/// Replaces every serial number and asset tag by a number in the order of their first appearance, of the same length, so that
/// modules still can be told apart and every offset stays.
pub fn mask(raw: &mut RawFirmware) {
    let mut numbers = Numbers::default();
    if let Some(tables) = &mut raw.smbios {
        let mut at = 0;
        while let Some(next) = mask_structure(&mut tables.bytes, at, &mut numbers) {
            at = next;
        }
    }
    for image in &mut raw.spd {
        let at = match image.bytes.get(2) {
            Some(0x0b) => 122,
            Some(0x0c) => 325,
            Some(0x12) => 517,
            _ => continue,
        };
        let was_right = general_sum(&image.bytes).is_some_and(|(sum, stands)| sum == stands);
        if let Some(serial) = image.bytes.get_mut(at..at + 4) {
            let digits: String = serial.iter().map(|byte| format!("{byte:02X}")).collect();
            let turned: String = serial.iter().rev().map(|byte| format!("{byte:02X}")).collect();
            let number = numbers.of(if numbers.0.contains_key(&turned) { &turned } else { &digits });
            serial.copy_from_slice(&[0xaa, 0xaa, 0xaa, decimal(number)]);
        }
        // What was damaged has to stay so.
        if let Some((sum, _)) = general_sum(&image.bytes).filter(|_| was_right) {
            image.bytes[126..128].copy_from_slice(&sum);
        }
    }
}

/// Two decimal digits in one byte, as they read in a hexadecimal serial number.
fn decimal(number: usize) -> u8 {
    (number / 10 % 10 * 16 + number % 10) as u8
}

#[derive(Default)]
struct Numbers(BTreeMap<String, usize>);

impl Numbers {
    fn of(&mut self, serial: &str) -> usize {
        let next = self.0.len() + 1;
        *self.0.entry(serial.trim_start_matches("0x").to_uppercase()).or_insert(next)
    }
}

/// Masks the structure at this offset and returns where the next one begins.
fn mask_structure(bytes: &mut [u8], at: usize, numbers: &mut Numbers) -> Option<usize> {
    let (kind, length) = (*bytes.get(at)?, usize::from(*bytes.get(at + 1)?));
    let strings = at.checked_add(length.max(4))?;
    // The strings end with two zero bytes.
    let end = strings + bytes.get(strings..)?.windows(2).position(|pair| pair == [0, 0])? + 2;
    if kind == 1 && length >= UUID.end {
        bytes[at + UUID.start..at + UUID.end].fill(0);
    }
    let wanted = STRINGS.iter().find(|(known, _)| *known == kind).map_or(&[][..], |(_, offsets)| offsets);
    let named: Vec<usize> =
        wanted.iter().filter(|offset| **offset < length).map(|offset| usize::from(bytes[at + offset])).collect();
    let mut start = strings;
    let mut number = 1;
    while start < end - 1 {
        let length = bytes[start..end].iter().position(|byte| *byte == 0).unwrap_or(0);
        if length == 0 {
            break;
        }
        if named.contains(&number) || FREE_STRINGS.contains(&kind) {
            mask_string(&mut bytes[start..start + length], numbers);
        }
        start += length + 1;
        number += 1;
    }
    (kind != 127).then_some(end)
}

/// Words that say nothing stay: they identify nobody.
fn mask_string(string: &mut [u8], numbers: &mut Numbers) {
    let text = String::from_utf8_lossy(string).into_owned();
    if !text.chars().any(|c| c.is_ascii_digit() && c != '0') {
        return;
    }
    let digits = format!("{:02}", numbers.of(text.trim()) % 100);
    string.fill(b'A');
    for (byte, digit) in string.iter_mut().rev().zip(digits.bytes().rev()) {
        *byte = digit;
    }
}

/// The sum over the general section and what stands for it, where it covers the serial number: of some DDR3 modules only.
fn general_sum(bytes: &[u8]) -> Option<([u8; 2], [u8; 2])> {
    let covers = bytes.len() >= 128 && bytes[2] == 0x0b && bytes[0] & 0x80 == 0;
    covers.then(|| (CRC.checksum(&bytes[..126]).to_le_bytes(), [bytes[126], bytes[127]]))
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::board::SmbiosTables;
    use crate::board::{Inventory, SpdImage};

    fn structure(kind: u8, fields: &[u8], strings: &[&str]) -> Vec<u8> {
        let mut bytes = vec![kind, fields.len() as u8 + 4, 0, 0];
        bytes.extend(fields);
        strings.iter().for_each(|string| bytes.extend(string.bytes().chain([0])));
        bytes.extend(if strings.is_empty() { vec![0, 0] } else { vec![0] });
        bytes
    }

    fn device(slot: &str, serial: &str) -> Vec<u8> {
        let mut fields = [0u8; 0x24];
        fields[0x08 - 4..0x0e - 4].copy_from_slice(&[64, 0, 64, 0, 0, 32]);
        fields[0x10 - 4] = 1;
        fields[0x18 - 4] = 2;
        structure(17, &fields, &[slot, serial])
    }

    #[test]
    fn serial_numbers_go_and_modules_stay_apart() {
        let mut system = [7u8; 0x17];
        system[..4].copy_from_slice(&[1, 0, 0, 2]);
        let mut bytes = structure(1, &system, &["Haldry", "SN-4711"]);
        bytes.extend(device("A1", "5A220093"));
        bytes.extend(device("B1", "5A220094"));
        bytes.extend(structure(11, &[1], &["TAG 99-12"]));
        bytes.extend(structure(127, &[], &[]));
        let length = bytes.len();
        let mut spd = vec![0; 512];
        spd[2] = 0x0c;
        spd[325..329].copy_from_slice(&[0x5a, 0x22, 0x00, 0x94]);
        let mut raw = RawFirmware {
            smbios: Some(SmbiosTables::of_version((3, 2), bytes)),
            spd: vec![SpdImage { place: "0-0050".into(), bytes: spd }],
            ..RawFirmware::default()
        };
        mask(&mut raw);
        let masked = raw.smbios.clone().unwrap().bytes;
        assert_eq!(masked.len(), length);
        for secret in ["4711", "5A22", "99-12"] {
            assert!(!masked.windows(secret.len()).any(|window| window == secret.as_bytes()), "{secret} is still there");
        }
        let inventory = Inventory::read(&raw);
        let serials: Vec<&str> = inventory.board.modules().map(|(_, module)| module.serial.as_str()).collect();
        assert_eq!(serials, ["AAAAAA02", "AAAAAA03"]);
        assert_eq!(raw.spd[0].bytes[325..329], [0xaa, 0xaa, 0xaa, 0x03]);
        let again = raw.clone();
        mask(&mut raw);
        assert_eq!(raw.smbios.map(|tables| tables.bytes.len()), again.smbios.map(|tables| tables.bytes.len()));
    }

    #[test]
    fn a_damaged_description_stays_damaged() {
        for damage in [0, 1] {
            let mut bytes = vec![0u8; 256];
            (bytes[2], bytes[122]) = (0x0b, 0x4a);
            let sum = CRC.checksum(&bytes[..126]).to_le_bytes();
            bytes[126..128].copy_from_slice(&sum);
            bytes[126] ^= damage;
            let image = SpdImage { place: "0-0050".into(), bytes };
            let mut raw = RawFirmware { spd: vec![image], ..RawFirmware::default() };
            mask(&mut raw);
            let (sum, stands) = general_sum(&raw.spd[0].bytes).unwrap();
            assert_eq!(sum == stands, damage == 0);
        }
    }

    #[test]
    fn damaged_tables_are_masked_as_far_as_they_go() {
        let whole = device("A1", "5A220093");
        for length in 0..whole.len() {
            let tables = SmbiosTables::of_version((3, 2), whole[..length].to_vec());
            mask(&mut RawFirmware { smbios: Some(tables), ..RawFirmware::default() });
        }
        let mut noise =
            RawFirmware { smbios: Some(SmbiosTables::of_version((3, 2), vec![0; 4096])), ..RawFirmware::default() };
        mask(&mut noise);
    }
}
