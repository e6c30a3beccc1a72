//! SMBIOS tables (DMTF DSP0134): what the firmware says of the machine, its slots and where their memory lies.

mod device;
mod machine;
mod mapped;
mod placeholder;
#[cfg(test)]
mod tests;
mod topology;
mod virtual_machine;

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
    /// The tables are those of a virtual machine.
    pub guest: bool,
}

impl SmbiosFacts {
    /// Reads the structures. Damaged tables give what can be read of them.
    pub fn read(tables: &SmbiosTables) -> Self {
        let version = SMBiosVersion { major: tables.version.0, minor: tables.version.1, revision: 0 };
        let data = SMBiosData::from_vec_and_version(tables.bytes.clone(), Some(version));
        let mut read = Self::default();
        machine::read(&data, &mut read);
        read.guest = virtual_machine::is_one(&data);
        let mut devices: Vec<SMBiosMemoryDevice<'_>> = data.collect();
        devices.retain(|device| device::is_main_memory(device, &data));
        devices.truncate(MOST_SLOTS);
        read.board.slots = devices.iter().map(device::slot).collect();
        let sites: Vec<topology::Site> = devices.iter().map(device::site).collect();
        topology::settle(&mut read.board.slots, &sites, machine::processors(&data));
        let banks: Vec<String> = devices.iter().map(|device| known(device.bank_locator())).collect();
        device::tell_apart(&mut read.board.slots, &banks);
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

/// A string field; empty where the firmware filled it with words that say nothing.
fn known(value: SMBiosString) -> String {
    placeholder::told(&text(value)).unwrap_or_default().to_owned()
}

/// Where a structure's facts come from.
fn source<'a, T: SMBiosStruct<'a>>() -> String {
    format!("SMBIOS type {}", T::STRUCT_TYPE)
}
