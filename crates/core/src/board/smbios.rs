//! SMBIOS tables (DMTF DSP0134): type 0 firmware, type 2 mainboard, type 17 memory devices.

use smbioslib::{
    MemoryDeviceType, MemoryFormFactor, MemorySize, MemorySizeExtended, MemorySpeed, SMBiosBaseboardInformation,
    SMBiosData, SMBiosInformation, SMBiosMemoryDevice, SMBiosVersion,
};

use super::{Board, Module, Slot};
use crate::ports::SmbiosTables;
use crate::text::cleaned;
use crate::units::{GIB, KIB, MIB};

/// Longest string taken from a table.
const LONGEST: usize = 64;
/// Longest slot name.
const LONGEST_SLOT: usize = 16;
/// More slots than any mainboard has: a damaged table could claim thousands.
const MOST_SLOTS: usize = 128;

/// What the tables say, still in their order.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct SmbiosFacts {
    board: Board,
}

impl SmbiosFacts {
    /// Reads the structures. Damaged tables give what can be read of them.
    pub fn read(tables: &SmbiosTables) -> Self {
        let version = SMBiosVersion { major: tables.version.0, minor: tables.version.1, revision: 0 };
        let data = SMBiosData::from_vec_and_version(tables.bytes.clone(), Some(version));
        let mainboard = data
            .first::<SMBiosBaseboardInformation>()
            .map(|table| joined([table.manufacturer().to_string(), table.product().to_string()]));
        let firmware = data
            .first::<SMBiosInformation>()
            .map(|table| joined([table.version().to_string(), table.release_date().to_string()]));
        let mut slots: Vec<Slot> =
            data.collect::<SMBiosMemoryDevice<'_>>().iter().filter(|table| is_main_memory(table)).map(slot).collect();
        slots.truncate(MOST_SLOTS);
        tell_apart(&mut slots);
        let board = Board { mainboard: mainboard.unwrap_or_default(), firmware: firmware.unwrap_or_default(), slots };
        Self { board }
    }

    /// The board.
    pub fn into_board(self) -> Board {
        self.board
    }
}

fn joined(parts: [String; 2]) -> String {
    cleaned(&parts.map(|part| cleaned(&part, LONGEST)).join(" "), 2 * LONGEST)
}

/// Flash and ROM devices are listed as memory devices too.
fn is_main_memory(table: &SMBiosMemoryDevice<'_>) -> bool {
    let kind = table.memory_type().map(|kind| kind.value);
    !matches!(kind, Some(MemoryDeviceType::Flash | MemoryDeviceType::Rom | MemoryDeviceType::Eprom))
}

fn slot(table: &SMBiosMemoryDevice<'_>) -> Slot {
    let text = |value: smbioslib::SMBiosString| cleaned(&value.to_string(), LONGEST);
    let id = cleaned(&table.device_locator().to_string(), LONGEST_SLOT);
    let bank = text(table.bank_locator());
    let module = size(table).map(|bytes| Module {
        serial: known(text(table.serial_number())),
        maker: known(text(table.manufacturer())),
        part: known(text(table.part_number())),
        bytes,
        speed: speed(table),
        rated_speed: table.speed().and_then(megatransfers),
        // The low half of the attributes; zero means unknown (DSP0134, type 17).
        ranks: table.attributes().map(|attributes| attributes & 0x0f).filter(|ranks| *ranks > 0),
        byte_lanes: byte_lanes(table),
        mark: None,
    });
    Slot { id, channel: channel(&bank), soldered: is_soldered(table), module }
}

/// By its form factor: chips on the mainboard instead of a module in a socket.
fn is_soldered(table: &SMBiosMemoryDevice<'_>) -> bool {
    let form = table.form_factor().map(|form| form.value);
    matches!(form, Some(MemoryFormFactor::Chip | MemoryFormFactor::RowOfChips | MemoryFormFactor::Die))
}

/// Firmware fills fields that it does not know with such words.
fn known(text: String) -> String {
    const FILLERS: [&str; 8] =
        ["", "unknown", "not specified", "none", "no dimm", "to be filled by o.e.m.", "undefined", "n/a"];
    let zeros = text.chars().all(|c| c == '0');
    if zeros || FILLERS.contains(&text.to_lowercase().as_str()) { String::new() } else { text }
}

fn size(table: &SMBiosMemoryDevice<'_>) -> Option<u64> {
    match table.size()? {
        MemorySize::Kilobytes(kib) => Some(u64::from(kib) * KIB),
        MemorySize::Megabytes(mib) => Some(u64::from(mib) * MIB),
        MemorySize::SeeExtendedSize => match table.extended_size()? {
            MemorySizeExtended::Megabytes(mib) => Some(u64::from(mib) * MIB),
            MemorySizeExtended::SeeSize => None,
        },
        MemorySize::NotInstalled | MemorySize::Unknown => None,
    }
    .filter(|bytes| (1..1024 * GIB).contains(bytes))
}

fn speed(table: &SMBiosMemoryDevice<'_>) -> Option<u32> {
    table.configured_memory_speed().or_else(|| table.speed()).and_then(megatransfers)
}

fn megatransfers(speed: MemorySpeed) -> Option<u32> {
    match speed {
        MemorySpeed::MTs(speed) => Some(u32::from(speed)).filter(|speed| *speed > 0),
        MemorySpeed::Unknown | MemorySpeed::SeeExtendedSpeed => None,
    }
}

fn byte_lanes(table: &SMBiosMemoryDevice<'_>) -> u8 {
    match table.total_width() {
        Some(bits @ 72..=80) if bits % 8 == 0 => 9,
        _ => 8,
    }
}

/// Channel from bank locators such as `P0 CHANNEL B`, `BANK 2 ChannelA-DIMM0`; nothing where it does not say so.
fn channel(bank: &str) -> Option<String> {
    let upper = bank.to_uppercase();
    let after = upper.split("CHANNEL").nth(1)?.trim_start_matches([' ', '_', '-']).chars().next()?;
    after.is_ascii_alphanumeric().then(|| after.to_string())
}

/// Some firmware gives every slot the same name: a number then tells them apart.
fn tell_apart(slots: &mut [Slot]) {
    let ids: Vec<String> = slots.iter().map(|slot| slot.id.clone()).collect();
    for (at, slot) in slots.iter_mut().enumerate() {
        let twins = ids.iter().filter(|id| **id == slot.id).count();
        if slot.id.is_empty() || twins > 1 {
            let name = if slot.id.is_empty() { "slot" } else { &slot.id };
            slot.id = format!("{name}#{}", at + 1);
        }
    }
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;

    /// A type 17 structure by the table of DSP0134 section 7.18, version 2.8 (length 0x28), written out by hand.
    fn memory_device(handle: u8, size_mib: u16, strings: &[&str]) -> Vec<u8> {
        let mut bytes = vec![17, 0x28, handle, 0x00, 0x00, 0x10, 0xfe, 0xff, 72, 0, 64, 0];
        bytes.extend(size_mib.to_le_bytes());
        bytes.extend([0x09, 0x00, 1, 2, 0x1a, 0x80, 0x00, 0x80, 0x0c, 3, 4, 0, 5, 0x01, 0, 0, 0, 0, 0x80, 0x0c]);
        bytes.extend([0, 0, 0, 0, 0, 0]);
        assert_eq!(bytes.len(), 0x28);
        for string in strings {
            bytes.extend(string.bytes());
            bytes.push(0);
        }
        bytes.push(0);
        bytes
    }

    fn tables() -> SmbiosTables {
        let mut bytes = memory_device(1, 8192, &["A1", "P0 CHANNEL A", "Haldry\x1b[31m", "HA0093", "HD8G32J  "]);
        bytes.extend(memory_device(2, 0, &["B1", "P0 CHANNEL B", "Unknown", "00000000", "NO DIMM"]));
        bytes.extend([127, 4, 0xff, 0xff, 0, 0]);
        SmbiosTables { version: (3, 2), bytes }
    }

    #[test]
    fn fitted_and_empty_slots() {
        let board = SmbiosFacts::read(&tables()).into_board();
        let module = Module {
            serial: "HA0093".into(),
            maker: "Haldry [31m".into(),
            part: "HD8G32J".into(),
            bytes: 8 * GIB,
            speed: Some(3200),
            rated_speed: Some(3200),
            ranks: Some(1),
            byte_lanes: 9,
            mark: None,
        };
        let slot = |id: &str, channel: &str, module| Slot {
            id: id.into(),
            channel: Some(channel.into()),
            soldered: false,
            module,
        };
        assert_eq!(board.slots, [slot("A1", "A", Some(module)), slot("B1", "B", None)]);
        assert_eq!(board.fitted_bytes(), Some(8 * GIB));
    }

    #[test]
    fn tables_cut_anywhere_are_read_as_far_as_they_go() {
        let whole = tables();
        for length in 0..whole.bytes.len() {
            let cut = SmbiosTables { version: whole.version, bytes: whole.bytes[..length].to_vec() };
            assert!(SmbiosFacts::read(&cut).into_board().slots.len() <= 2);
        }
    }

    #[rstest]
    #[case("P0 CHANNEL B", Some("B"))]
    #[case("ChannelA-DIMM0", Some("A"))]
    #[case("BANK 0", None)]
    #[case("channel", None)]
    fn channels(#[case] bank: &str, #[case] expected: Option<&str>) {
        assert_eq!(channel(bank).as_deref(), expected);
    }

    #[test]
    fn slots_with_one_name_are_numbered() {
        let mut slots = vec![Slot { id: "DIMM".into(), ..Slot::default() }; 2];
        tell_apart(&mut slots);
        assert_eq!(slots.iter().map(|slot| slot.id.as_str()).collect::<Vec<_>>(), ["DIMM#1", "DIMM#2"]);
    }
}
