//! The second start without the firmware: the kernel hands the machine to itself, laid elsewhere, so that the memory that it lies in now is tested. A
//! machine that was started by a key at its firmware's menu would not come back to the drive by itself.

use std::ffi::CString;
use std::fs::File;
use std::io;
use std::path::Path;

use revisum_engine::units::{KIB, MIB, RangeSet};
use rustix::mount::{MountFlags, UnmountFlags, mount, unmount};
use rustix::system::{RebootCommand, reboot};

use super::command_line::{CommandLine, Entry};
use super::results::partition_named;
use crate::firmware::memory_map;
use crate::sys::kexec;

/// The partition that was booted from, and where it is mounted for that moment.
const BOOT: &str = "REVISUM-BOOT";
const FOLDER: &str = "/run/boot-drive";
/// What every entry says (the boot loader's menu has the same).
const COMMON: &str = "quiet loglevel=1 panic=30 consoleblank=0 vt.global_cursor_default=0";
/// Below this the kernel lives in the usual start.
const USUAL_TOP: u64 = 256 * MIB;
/// The kernel and everything that a test needs beside it.
const KERNEL_ROOM: u64 = 128 * MIB;
/// What lies lower is the firmware's own, and where processors begin to run. With 1 MiB the kernel's device gives nothing of what is withheld.
const LOWEST: u64 = 1280 * KIB;
/// Where the kernel can begin (Documentation/arch/x86/boot.rst, kernel_alignment).
const ALIGNED: u64 = 2 * MIB;

/// Hands the machine to the kernel of the start that reaches what this one cannot. Does not return when that works.
///
/// # Errors
/// When this was not the usual start, there is no room elsewhere, the drive is gone, or the kernel refuses. Nothing is changed then.
pub fn start_other() -> io::Result<()> {
    let line = CommandLine::read();
    let other = other_line(&line, &memory_map::read().usable()).ok_or(io::ErrorKind::Unsupported)?;
    load(&other)?;
    rustix::fs::sync();
    super::release_results();
    Ok(reboot(RebootCommand::Kexec)?)
}

/// The command line of the start that tests what the usual one cannot; nothing where there is none.
fn other_line(line: &CommandLine, usable: &RangeSet) -> Option<String> {
    if line.entry != Entry::Low {
        return None;
    }
    let (from, to) = room_elsewhere(usable)?;
    let mut words = format!(
        "{COMMON} revisum.entry=b revisum.chained mem={}M memmap={}K${}K",
        to / MIB,
        (from - LOWEST) / KIB,
        LOWEST / KIB
    );
    if let Some(console) = &line.console {
        words.push_str(&format!(" revisum.console={console}"));
    }
    if let Some(language) = &line.language {
        words.push_str(&format!(" revisum.language={language}"));
    }
    if let Some(counter) = &line.counter {
        words.push_str(&format!(" revisum.counter={counter}"));
    }
    if line.trust_ranges {
        words.push_str(" revisum.trust-ranges");
    }
    Some(words)
}

/// Where the kernel can lie instead: above where it lies now, or on a small machine in the upper half.
fn room_elsewhere(usable: &RangeSet) -> Option<(u64, u64)> {
    let low = usable.ranges().iter().find(|range| (range.start..range.end).contains(&(LOWEST + MIB)))?;
    let from = if low.end >= USUAL_TOP + KERNEL_ROOM { USUAL_TOP } else { low.end / 2 / ALIGNED * ALIGNED };
    let to = low.end.min(from + USUAL_TOP) / MIB * MIB;
    (to >= from + KERNEL_ROOM - 8 * MIB).then_some((from, to))
}

fn load(line: &str) -> io::Result<()> {
    let device = partition_named(BOOT).ok_or(io::ErrorKind::NotFound)?;
    std::fs::create_dir_all(FOLDER)?;
    mount(&device, FOLDER, "vfat", MountFlags::RDONLY | MountFlags::NOSUID | MountFlags::NODEV, None)?;
    let open = |file: &str| File::open(Path::new(FOLDER).join("boot").join(file));
    let loaded = CString::new(line).map_err(io::Error::other).and_then(|line| {
        let (kernel, first_files) = (open("vmlinuz")?, open("initramfs")?);
        kexec::load(&kernel, &first_files, &line)
    });
    // It stays mounted at worst, and only for reading.
    let _ = unmount(FOLDER, UnmountFlags::empty());
    loaded
}

#[cfg(test)]
mod tests {
    use revisum_engine::units::ByteRange;
    use rstest::rstest;

    use super::*;

    fn usable(mib: u64) -> RangeSet {
        vec![ByteRange::new(0x1000, 0x9_f000), ByteRange::new(MIB, mib * MIB - 0x2_0000)].into()
    }

    #[rstest]
    #[case::large(3072, Some((256, 512)))]
    #[case::half_a_gibibyte(512, Some((256, 511)))]
    #[case::small(256, Some((126, 255)))]
    #[case::too_small(200, None)]
    fn there_is_room_elsewhere(#[case] mib: u64, #[case] expected: Option<(u64, u64)>) {
        assert_eq!(room_elsewhere(&usable(mib)).map(|(from, to)| (from / MIB, to / MIB)), expected);
    }

    #[test]
    fn the_other_start_keeps_what_was_chosen() {
        let line = CommandLine::parse(
            "revisum.entry=a revisum.console=ttyS0 revisum.language=de revisum.counter=[2001:db8::7]:7247 mem=256M",
        );
        let other = other_line(&line, &usable(4096)).unwrap();
        let again = CommandLine::parse(&other);
        let expected = CommandLine { entry: Entry::High, chained: true, ..line };
        assert_eq!(again, expected);
        assert!(other.contains(" mem=512M memmap=260864K$1280K "), "{other}");
        assert_eq!(other_line(&CommandLine::parse("revisum.entry=pool"), &usable(4096)), None);
    }
}
