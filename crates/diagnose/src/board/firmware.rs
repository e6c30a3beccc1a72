//! What the machine says of itself.

use crate::address::AddressMap;
use crate::board::RawFirmware;
use revisum_engine::units::RangeSet;

/// Raw firmware tables.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct SmbiosTables {
    /// Major and minor version of the standard.
    pub version: (u8, u8),
    /// The entry point structure.
    pub entry: Vec<u8>,
    /// The structures, as they lie in memory.
    pub bytes: Vec<u8>,
}

impl SmbiosTables {
    /// Tables with their entry point structure (SMBIOS standard DSP0134, entry point structure); nothing when it is none.
    pub fn new(entry: Vec<u8>, bytes: Vec<u8>) -> Option<Self> {
        let at = if entry.starts_with(b"_SM3_") {
            7
        } else if entry.starts_with(b"_SM_") {
            6
        } else {
            return None;
        };
        let version = (*entry.get(at)?, *entry.get(at + 1)?);
        Some(Self { version, entry, bytes })
    }

    /// Tables of this version, with an entry point structure of 64-bit form made for them.
    pub fn of_version(version: (u8, u8), bytes: Vec<u8>) -> Self {
        let mut entry = b"_SM3_".to_vec();
        entry.extend([0, 24, version.0, version.1, 0, 1, 0]);
        entry.extend((bytes.len() as u32).to_le_bytes());
        entry.extend([0; 8]);
        entry[5] = entry.iter().fold(0u8, |sum, byte| sum.wrapping_add(*byte)).wrapping_neg();
        Self { version, entry, bytes }
    }
}

/// What the operating system itself knows about the machine.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct SystemFacts {
    /// A name for this machine.
    pub machine: String,
    /// What it is for, where somebody said so.
    pub title: String,
    /// Processor in its own words.
    pub processor: String,
    /// Logical cores that may be used.
    pub cores: usize,
    /// Parts of memory that different cores are nearest to (NUMA nodes); zero when unknown.
    pub nodes: usize,
    /// Largest cache in bytes; zero when unknown.
    pub cache_bytes: u64,
    /// True inside a virtual machine.
    pub guest: bool,
    /// What the firmware says of the addresses of each device counts in a virtual machine too: for tests.
    pub ranges_trusted: bool,
    /// Total memory that the system sees, in bytes.
    pub seen_bytes: u64,
    /// Facts that were saved on some machine, not this one's.
    pub saved: bool,
    /// Settings in force, by name; empty when unknown.
    pub settings: String,
}

/// Firmware and system facts.
pub trait Firmware: Send + Sync {
    /// Everything that the machine says of itself, uninterpreted.
    fn raw(&self) -> RawFirmware;
    /// Memory that the firmware gives to the operating system, by the true memory map.
    fn usable(&self) -> RangeSet {
        self.raw().map.usable()
    }
    /// Facts from the operating system.
    fn facts(&self) -> SystemFacts;
    /// The address map of this fitting, where one is known.
    fn address_map(&self) -> Option<AddressMap>;
}
