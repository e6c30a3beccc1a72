//! Firmware tables, the true memory map and what the system knows of itself.

use revisum_core::address::AddressMap;
use revisum_core::ports::{Firmware, SmbiosTables, SystemFacts};
use revisum_core::text::cleaned;
use revisum_core::units::{ByteRange, KIB, MIB, RangeSet};

use crate::reserve::meminfo_bytes;
use crate::sys::affinity::usable_cores;
use crate::text_files::{entries, value};

/// Reads this machine's tables.
pub struct LinuxFirmware;

impl Firmware for LinuxFirmware {
    fn smbios(&self) -> Option<SmbiosTables> {
        let bytes = std::fs::read("/sys/firmware/dmi/tables/DMI").ok()?;
        let entry = std::fs::read("/sys/firmware/dmi/tables/smbios_entry_point").ok()?;
        Some(SmbiosTables { version: entry_version(&entry)?, bytes })
    }

    fn usable(&self) -> RangeSet {
        let from_memmap = memmap();
        if from_memmap.bytes() > 0 {
            return from_memmap;
        }
        std::fs::read_to_string("/proc/iomem").map(|text| iomem(&text)).unwrap_or_default()
    }

    fn facts(&self) -> SystemFacts {
        let cpuid = raw_cpuid::CpuId::new();
        let brand = cpuid.get_processor_brand_string().map(|brand| cleaned(brand.as_str(), 64));
        SystemFacts {
            machine: value("/proc/sys/kernel/hostname")
                .filter(|name| !name.is_empty())
                .unwrap_or("this machine".into()),
            title: String::new(),
            processor: brand.unwrap_or_default(),
            cores: usable_cores().len(),
            cache_bytes: cache_bytes(),
            guest: cpuid.get_feature_info().is_some_and(|features| features.has_hypervisor()),
            seen_bytes: meminfo_bytes("MemTotal").unwrap_or(0),
            settings: String::new(),
        }
    }

    fn address_map(&self) -> Option<AddressMap> {
        None
    }
}

/// Version from the entry point structure (SMBIOS standard DSP0134, sections 5.2.1 and 5.2.2).
fn entry_version(entry: &[u8]) -> Option<(u8, u8)> {
    let at = if entry.starts_with(b"_SM3_") {
        7
    } else if entry.starts_with(b"_SM_") {
        6
    } else {
        return None;
    };
    Some((*entry.get(at)?, *entry.get(at + 1)?))
}

/// The map as the firmware gave it, which no kernel parameter changes.
fn memmap() -> RangeSet {
    let ranges = entries("/sys/firmware/memmap").into_iter().filter_map(|entry| {
        (value(entry.join("type"))? == "System RAM").then_some(())?;
        let hex = |name: &str| u64::from_str_radix(value(entry.join(name))?.trim_start_matches("0x"), 16).ok();
        Some(ByteRange::new(hex("start")?, hex("end")?.saturating_add(1)))
    });
    ranges.collect()
}

fn iomem(text: &str) -> RangeSet {
    let ranges = text.lines().filter(|line| line.ends_with(": System RAM")).filter_map(|line| {
        let (start, end) = line.split(" : ").next()?.trim().split_once('-')?;
        let hex = |digits| u64::from_str_radix(digits, 16).ok();
        Some(ByteRange::new(hex(start)?, hex(end)?.saturating_add(1)))
    });
    // Without the right to see addresses the kernel prints zeros: that is not a map.
    ranges.filter(|range| range.len() > 1).collect()
}

fn cache_bytes() -> u64 {
    let sizes = entries("/sys/devices/system/cpu/cpu0/cache").into_iter().filter_map(|index| {
        let text = value(index.join("size"))?;
        let (digits, unit) = text.split_at(text.find(|c: char| !c.is_ascii_digit()).unwrap_or(text.len()));
        let factor = match unit {
            "K" => KIB,
            "M" => MIB,
            _ => 1,
        };
        Some(digits.parse::<u64>().ok()? * factor)
    });
    sizes.max().unwrap_or(0)
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;

    #[rstest]
    #[case(b"_SM3_\xaa\x18\x03\x02\x00", Some((3, 2)))]
    #[case(b"_SM_\xaa\x1f\x02\x08", Some((2, 8)))]
    #[case(b"_SM3_\xaa", None)]
    #[case(b"junk", None)]
    fn entry_points(#[case] bytes: &[u8], #[case] version: Option<(u8, u8)>) {
        assert_eq!(entry_version(bytes), version);
    }

    #[test]
    fn system_ram_is_taken_and_hidden_addresses_are_not() {
        let text = "00001000-0009fbff : System RAM\n000f0000-000fffff : System ROM\n  01000000-01ffffff : Kernel code\n\
                    00000000-00000000 : System RAM\n";
        assert_eq!(iomem(text).ranges(), [ByteRange::new(0x1000, 0x9fc00)]);
    }

    #[test]
    fn this_machine_says_what_it_sees() {
        let facts = LinuxFirmware.facts();
        assert!(facts.seen_bytes > 64 * MIB && facts.cores >= 1);
    }
}
