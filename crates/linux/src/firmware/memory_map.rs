//! The memory map as the firmware gave it.

use revisum_diagnose::board::{MapEntry, MemoryMap};
use revisum_engine::units::ByteRange;

use crate::text_files::{entries, value};

/// The map that no kernel parameter changes, else the kernel's own view.
pub(crate) fn read() -> MemoryMap {
    let true_map = memmap();
    if !true_map.entries.is_empty() {
        return true_map;
    }
    kernels_own()
}

/// What the running kernel itself uses of it.
pub(crate) fn kernels_own() -> MemoryMap {
    std::fs::read_to_string("/proc/iomem").map(|text| iomem(&text)).unwrap_or_default()
}

fn memmap() -> MemoryMap {
    const FOLDER: &str = "/sys/firmware/memmap";
    let entry = |entry: std::path::PathBuf| {
        let hex = |name: &str| u64::from_str_radix(value(entry.join(name))?.trim_start_matches("0x"), 16).ok();
        let range = ByteRange::new(hex("start")?, hex("end")?.saturating_add(1));
        Some(MapEntry { range, kind: value(entry.join("type"))? })
    };
    let mut found: Vec<MapEntry> = entries(FOLDER).into_iter().filter_map(entry).collect();
    found.sort_by_key(|entry| entry.range.start);
    MemoryMap { source: if found.is_empty() { String::new() } else { FOLDER.to_owned() }, entries: found }
}

fn iomem(text: &str) -> MemoryMap {
    // Indented lines are parts of the line above. Without the right to see addresses the kernel prints zeros: that is no map.
    let outer: Vec<&str> =
        text.lines().filter(|line| !line.starts_with(' ') && !line.starts_with("00000000-00000000")).collect();
    MemoryMap::parse(&outer.join("\n"), "/proc/iomem")
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn system_ram_is_taken_and_hidden_addresses_are_not() {
        let text = "00001000-0009fbff : System RAM\n000f0000-000fffff : System ROM\n  01000000-01ffffff : Kernel code\n\
                    00000000-00000000 : System RAM\n";
        let map = iomem(text);
        assert_eq!(map.usable().ranges(), [ByteRange::new(0x1000, 0x9fc00)]);
        assert_eq!(map.entries.len(), 2);
        assert_eq!(iomem("00000000-00000000 : System RAM\n"), MemoryMap::default());
    }
}
