//! SMBIOS tables (DMTF DSP0134): what the firmware says of the machine, its slots and where their memory lies.

mod device;
mod machine;
mod mapped;
#[cfg(test)]
mod tests;

use std::collections::BTreeMap;

use smbioslib::{SMBiosData, SMBiosMemoryDevice, SMBiosString, SMBiosStruct, SMBiosVersion};

use super::fact::Facts;
use crate::board::SmbiosTables;
use revisum_engine::text::cleaned;
use revisum_engine::units::RangeSet;
use revisum_record::fitted::{Board, MappedDevice};

/// Longest string taken from a table.
const LONGEST: usize = 64;
/// More slots than any mainboard has: a damaged table could claim thousands.
const MOST_SLOTS: usize = 128;

/// What the tables say, still in their order.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct SmbiosFacts {
    /// Slots and modules.
    pub board: Board,
    /// Everything told, with the type of structure that tells it.
    pub facts: Facts,
    /// Slot by the handle of its structure.
    pub handles: BTreeMap<u16, String>,
    /// Physical addresses that devices answer to, where the firmware tells.
    pub mapped: Vec<MappedDevice>,
    /// The addresses that all arrays are mapped to; empty where the firmware does not tell.
    pub arrays: RangeSet,
    /// Date of the firmware, as `month/day/year`.
    pub firmware_date: String,
}

impl SmbiosFacts {
    /// Reads the structures. Damaged tables give what can be read of them.
    pub fn read(tables: &SmbiosTables) -> Self {
        let version = SMBiosVersion { major: tables.version.0, minor: tables.version.1, revision: 0 };
        let data = SMBiosData::from_vec_and_version(tables.bytes.clone(), Some(version));
        let mut read = Self::default();
        machine::read(&data, &mut read);
        let mut devices: Vec<SMBiosMemoryDevice<'_>> = data.collect();
        devices.retain(|device| device::is_main_memory(device, &data));
        devices.truncate(MOST_SLOTS);
        read.board.slots = devices.iter().map(device::slot).collect();
        device::tell_apart(&mut read.board.slots);
        for (device, slot) in devices.iter().zip(&read.board.slots) {
            device::tell(device, slot, &mut read.facts);
            read.handles.insert(*device.parts().header.handle(), slot.id.clone());
        }
        mapped::read(&data, &mut read);
        read
    }
}

/// A string field, cleaned; empty where the structure does not have it.
fn text(value: SMBiosString) -> String {
    cleaned(&value.to_utf8_lossy().unwrap_or_default(), LONGEST)
}

/// A string field; empty where the firmware filled it with a word that says nothing.
fn known(value: SMBiosString) -> String {
    const FILLERS: [&str; 13] = [
        "",
        "unknown",
        "not specified",
        "not provided",
        "none",
        "no dimm",
        "no module installed",
        "to be filled by o.e.m.",
        "default string",
        "system serial number",
        "undefined",
        "empty",
        "n/a",
    ];
    let text = text(value);
    let filler = |c: char| matches!(c, '0' | ' ' | '.' | '-');
    if text.chars().all(filler) || FILLERS.contains(&text.to_lowercase().as_str()) { String::new() } else { text }
}

/// Where a structure's facts come from.
fn source<'a, T: SMBiosStruct<'a>>() -> String {
    format!("SMBIOS type {}", T::STRUCT_TYPE)
}
