//! What a machine says of itself before anybody has interpreted it: the bytes and lines that everything else is read from.

use serde::{Deserialize, Serialize};

use super::fact::Told;
use crate::board::SmbiosTables;
use crate::controller::Registers;
use revisum_engine::text::cleaned;
use revisum_engine::units::{ByteRange, RangeSet};

/// Everything raw.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct RawFirmware {
    /// The SMBIOS tables, where they can be read.
    pub smbios: Option<SmbiosTables>,
    /// SPD images that could be read.
    pub spd: Vec<SpdImage>,
    /// A virtual machine.
    pub guest: bool,
    /// What could not be read and why, in sentences.
    pub trouble: Vec<String>,
    /// The memory map.
    pub map: MemoryMap,
    /// Lines of the kernel's log that speak of memory errors, with what stands right before and after them.
    pub kernel_log: Vec<String>,
    /// What a crash left behind, as lines.
    pub crash_log: Vec<String>,
    /// The firmware's boot error record (ACPI specification, BERT): the error region itself.
    pub boot_errors: Vec<u8>,
    /// Registers of the memory controller; none where it is not known or they cannot be read.
    pub registers: Registers,
    /// Facts that the system tells in words: processor, microcode, caches, controller.
    pub system: Vec<SystemFact>,
    /// Whether memory is encrypted; nothing where that cannot be told.
    pub encrypted: Option<bool>,
}

/// The bytes of one module's serial presence detect memory.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct SpdImage {
    /// Where it was read, such as `0-0050`: bus and address.
    pub place: String,
    /// The bytes, from the first one on.
    pub bytes: Vec<u8>,
}

/// A fact that needs no interpretation.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
pub struct SystemFact {
    /// What it is.
    pub name: String,
    /// Its value and who says so.
    pub told: Told,
}

/// The memory map as somebody told it.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct MemoryMap {
    /// Who told it; empty when nobody did.
    pub source: String,
    /// Entries by ascending address.
    pub entries: Vec<MapEntry>,
}

/// One entry.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct MapEntry {
    /// Physical addresses.
    pub range: ByteRange,
    /// What it is used for, in the map's own words.
    pub kind: String,
}

/// The word for memory that the operating system may use.
pub const SYSTEM_RAM: &str = "System RAM";

impl MemoryMap {
    /// Memory that the firmware gives to the operating system.
    pub fn usable(&self) -> RangeSet {
        self.entries.iter().filter(|entry| entry.kind == SYSTEM_RAM).map(|entry| entry.range).collect()
    }

    /// What it tells of besides, each range once.
    pub fn reserved(&self) -> RangeSet {
        let others: RangeSet =
            self.entries.iter().filter(|entry| entry.kind != SYSTEM_RAM).map(|entry| entry.range).collect();
        others.minus(&self.usable())
    }

    /// Reads lines such as `000000000000-00000009fbff System RAM`, as [`MemoryMap::text`] writes them. Lines that are something
    /// else are left out.
    pub fn parse(text: &str, source: &str) -> Self {
        let entry = |line: &str| {
            let (range, kind) = line.trim().split_once(' ')?;
            let (start, last) = range.split_once('-')?;
            let hex = |digits| u64::from_str_radix(digits, 16).ok();
            let (start, end) = (hex(start)?, hex(last)?.checked_add(1)?);
            let kind = cleaned(kind, LONGEST_KIND).trim_start_matches([':', ' ']).to_owned();
            (start < end && !kind.is_empty()).then(|| MapEntry { range: ByteRange::new(start, end), kind })
        };
        let mut entries: Vec<MapEntry> = text.lines().take(MOST_ENTRIES).filter_map(entry).collect();
        entries.sort_by_key(|entry| entry.range.start);
        Self { source: if entries.is_empty() { String::new() } else { source.to_owned() }, entries }
    }

    /// The map as lines, last addresses included.
    pub fn text(&self) -> String {
        let line = |entry: &MapEntry| {
            format!("{:012x}-{:012x} {}\n", entry.range.start, entry.range.end.saturating_sub(1), entry.kind)
        };
        self.entries.iter().map(line).collect()
    }
}

/// Longest word for a use.
const LONGEST_KIND: usize = 40;
/// More than any firmware gives.
const MOST_ENTRIES: usize = 4096;

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;

    #[rstest]
    #[case("000000001000-00000009fbff System RAM", Some((0x1000, 0x9fc00, "System RAM")))]
    #[case("00100000-001fffff : ACPI Tables", Some((0x10_0000, 0x20_0000, "ACPI Tables")))]
    #[case("0-ffffffffffffffff System RAM", None)]
    #[case("20-10 System RAM", None)]
    #[case("000000001000-00000009fbff  \u{7f}", None)]
    #[case("# a remark", None)]
    fn lines(#[case] text: &str, #[case] expected: Option<(u64, u64, &str)>) {
        let map = MemoryMap::parse(text, "here");
        let read = map.entries.first().map(|entry| (entry.range.start, entry.range.end, entry.kind.as_str()));
        assert_eq!(read, expected);
    }

    #[test]
    fn what_is_written_reads_the_same() {
        let map = MemoryMap::parse("0-9fbff System RAM\n9fc00-9ffff Reserved\n100000-7fffffff System RAM\n", "here");
        assert_eq!(MemoryMap::parse(&map.text(), "here"), map);
        assert_eq!(map.usable().ranges().len(), 2);
    }
}
