//! Everything that this machine says of itself: tables, SPD, memory map, logs and what the system knows.

mod card_number;
mod controller;
mod folder;
mod logs;
pub(crate) mod memory_map;
mod pci;
mod processor;
pub(crate) mod spd;

use std::path::Path;
use std::sync::OnceLock;

use revisum_diagnose::address::AddressMap;
use revisum_diagnose::board::RawFirmware;
use revisum_diagnose::board::{Firmware, SmbiosTables, SystemFacts};
use revisum_engine::text::cleaned;

pub use folder::{FolderError, read_folder, save_folder};
pub(crate) use processor::caches;

use crate::boot::CommandLine;
use crate::reserve::meminfo_bytes;
use crate::sys::affinity::usable_cores;
use crate::text_files::value;

/// Where the kernel shows the firmware's tables.
const TABLES: &str = "/sys/firmware/dmi/tables";

/// Reads this machine's tables, once: they do not change while it runs.
#[derive(Default)]
pub struct LinuxFirmware {
    raw: OnceLock<RawFirmware>,
}

impl Firmware for LinuxFirmware {
    fn raw(&self) -> RawFirmware {
        self.raw.get_or_init(read).clone()
    }

    fn facts(&self) -> SystemFacts {
        let cpuid = raw_cpuid::CpuId::new();
        let brand = cpuid.get_processor_brand_string().map(|brand| cleaned(brand.as_str(), 64));
        SystemFacts {
            machine: identity(),
            title: String::new(),
            processor: brand.unwrap_or_default(),
            cores: usable_cores().len(),
            nodes: processor::nodes(Path::new("/sys/devices/system/node/online")),
            cache_bytes: processor::cache_bytes(),
            guest: processor::is_guest(),
            ranges_trusted: CommandLine::booted().is_some_and(|line| line.trust_ranges),
            saved: false,
            seen_bytes: meminfo_bytes("MemTotal").unwrap_or(0),
            settings: String::new(),
        }
    }

    fn address_map(&self) -> Option<AddressMap> {
        None
    }
}

fn read() -> RawFirmware {
    let mut trouble = Vec::new();
    let spd = spd::read(&mut trouble);
    let mut system = processor::facts();
    system.extend(pci::facts());
    let registers = controller::registers(&mut trouble);
    RawFirmware {
        smbios: tables(Path::new(TABLES)),
        spd,
        map: memory_map::read(),
        kernel_log: logs::kernel(&mut trouble),
        crash_log: logs::crash(),
        boot_errors: logs::boot_errors(),
        registers,
        system,
        encrypted: processor::memory_is_encrypted(),
        guest: processor::is_guest(),
        trouble,
    }
}

/// The tables in a folder that is laid out as the kernel does it.
fn tables(folder: &Path) -> Option<SmbiosTables> {
    let bytes = std::fs::read(folder.join("DMI")).ok()?;
    SmbiosTables::new(std::fs::read(folder.join("smbios_entry_point")).ok()?, bytes)
}

/// A system that is at home here has a name; booted from a drive a machine is known by what its firmware says of it.
fn identity() -> String {
    let named = value("/proc/sys/kernel/hostname").filter(|name| !name.is_empty() && name != "(none)");
    let card = || card_number::card_number(Path::new("/sys/bus/pci/devices"));
    let of_firmware = || of_firmware(|name| value(format!("/sys/class/dmi/id/{name}")), card);
    named.or_else(of_firmware).unwrap_or("this machine".into())
}

/// Product and the end of a number of its own, so that two of the same kind are told apart; where the maker gave none, that of its network card.
fn of_firmware(read: impl Fn(&str) -> Option<String>, card: impl FnOnce() -> Option<String>) -> Option<String> {
    const LAST: usize = 4;
    let told = |name: &str| read(name).filter(|value| is_filled_in(value));
    let product = told("product_name").or_else(|| told("board_name"))?;
    let number = ["product_serial", "board_serial", "product_uuid", "chassis_serial"]
        .iter()
        .find_map(|name| told(name).filter(|number| is_own(number)));
    let Some(number) = number.or_else(card) else { return Some(product) };
    let skipped = number.chars().count().saturating_sub(LAST);
    Some(format!("{product} {}", number.chars().skip(skipped).collect::<String>()))
}

/// Whether a maker filled a field in.
fn is_filled_in(value: &str) -> bool {
    const NOTHING: [&str; 9] = [
        "default string",
        "to be filled",
        "system product",
        "system serial",
        "not specified",
        "not applicable",
        "unknown",
        "invalid",
        "o.e.m.",
    ];
    const ALONE: [&str; 3] = ["none", "n/a", "empty"];
    let small = value.trim().to_lowercase();
    !small.is_empty() && !NOTHING.iter().any(|nothing| small.contains(nothing)) && !ALONE.contains(&small.as_str())
}

/// Whether a number is a machine's own: not one digit over and over, not counted up, and not the example that boards without a number share
/// (bytes 03 00 02 00 04 00 and so on as a UUID).
fn is_own(number: &str) -> bool {
    let plain: Vec<u8> =
        number.bytes().filter(u8::is_ascii_alphanumeric).map(|byte| byte.to_ascii_lowercase()).collect();
    let counted = plain.windows(2).all(|pair| pair[1] == pair[0] + 1 || (pair[0], pair[1]) == (b'9', b'0'));
    let same = plain.windows(2).all(|pair| pair[0] == pair[1]);
    !same && !counted && plain != b"03000200040005000006000700080009"
}

#[cfg(test)]
mod tests {
    use revisum_engine::units::MIB;
    use rstest::rstest;

    use super::*;

    /// Two machines of one kind are told apart by their own numbers; numbers that all of a kind share are none.
    #[rstest]
    #[case::its_own(&[("product_name", "Holm 5"), ("product_serial", "TW-77A1204")], Some("Holm 5 1204"))]
    #[case::of_the_board(&[("product_name", "Holm 5"), ("product_serial", "None"), ("board_serial", "M80-4412")], Some("Holm 5 4412"))]
    #[case::all_zeros(&[("product_name", "Holm 5"), ("product_serial", "0000000000")], Some("Holm 5"))]
    #[case::counted_up(&[("product_name", "Holm 5"), ("product_serial", "1234567890")], Some("Holm 5"))]
    #[case::counted_from_zero(&[("product_name", "Holm 5"), ("board_serial", "0123456789")], Some("Holm 5"))]
    #[case::the_shared_example(&[("product_name", "Holm 5"), ("product_uuid", "03000200-0400-0500-0006-000700080009")], Some("Holm 5"))]
    #[case::board_alone(&[("product_name", "To be filled by O.E.M."), ("board_name", "M2"), ("product_uuid", "4c4c4544-0042")], Some("M2 0042"))]
    #[case::nothing(&[("product_name", "Default string"), ("product_serial", "TW-77A1204")], None)]
    fn machines_of_a_kind_are_told_apart(#[case] told: &[(&str, &str)], #[case] expected: Option<&str>) {
        let read = |name: &str| told.iter().find(|(known, _)| *known == name).map(|(_, value)| (*value).to_owned());
        assert_eq!(of_firmware(read, || None).as_deref(), expected);
    }

    #[rstest]
    #[case::numbered(&[("product_name", "Holm 5"), ("product_serial", "TW-77A1204")], Some("Holm 5 1204"))]
    #[case::not_numbered(&[("product_name", "Holm 5")], Some("Holm 5 beef"))]
    #[case::nothing(&[], None)]
    fn a_card_stands_in_for_a_number(#[case] told: &[(&str, &str)], #[case] expected: Option<&str>) {
        let read = |name: &str| told.iter().find(|(known, _)| *known == name).map(|(_, value)| (*value).to_owned());
        assert_eq!(of_firmware(read, || Some("00000000deadbeef".into())).as_deref(), expected);
    }

    #[test]
    fn this_machine_says_what_it_sees() {
        let firmware = LinuxFirmware::default();
        let facts = firmware.facts();
        assert!(facts.seen_bytes > 64 * MIB && facts.cores >= 1);
        let raw = firmware.raw();
        assert!(raw.system.iter().any(|fact| fact.name == "processor"), "{:?}", raw.system);
        // Nothing here may be missing without a word.
        assert!(!raw.spd.is_empty() || !raw.trouble.is_empty());
    }
}
