//! The partition with room for results: that of the drive we were booted from, or where there is none any writable FAT drive that is plugged in.

use std::io;
use std::path::{Path, PathBuf};
use std::time::{Duration, Instant};

use rustix::mount::{MountFlags, UnmountFlags, mount, mount_remount, unmount};

use revisum_engine::text::cleaned;

use super::fat_check::{Fat, state_of};
use crate::system_log::kernel_lines;
use crate::text_files::entries;

/// Where it is mounted.
pub const RESULTS: &str = "/results";
/// Name of the partition in the partition table.
const NAME: &str = "REVISUM-RESULTS";
/// All drives and partitions.
const BLOCKS: &str = "/sys/class/block";
/// Pause between two looks for it: drives take a while to appear.
const PAUSE: Duration = Duration::from_millis(100);

/// A partition, or a drive without any.
#[derive(Clone, Debug, PartialEq, Eq)]
struct Block {
    device: PathBuf,
    /// Its name in the partition table; empty when it has none.
    name: String,
    removable: bool,
}

/// Waits for our own partition, so long at most, then takes another removable one; nothing when there is none at all.
pub fn find_results(patience: Duration) -> Option<PathBuf> {
    find_own_results(patience).or_else(|| all_for_results().into_iter().next())
}

/// All partitions and drives that could have room for results now, our own first.
pub fn all_for_results() -> Vec<PathBuf> {
    let (own, others): (Vec<Block>, Vec<Block>) =
        blocks(Path::new(BLOCKS)).into_iter().partition(|block| block.name == NAME);
    let others = others.into_iter().filter(|block| block.removable && has_fat(&block.device));
    own.into_iter().chain(others).map(|block| block.device).collect()
}

/// Waits for our own partition, so long at most.
pub fn find_own_results(patience: Duration) -> Option<PathBuf> {
    let begin = Instant::now();
    loop {
        let own = partition_named(NAME);
        if own.is_some() || begin.elapsed() >= patience {
            return own;
        }
        std::thread::sleep(PAUSE);
    }
}

/// The device of the partition of this name, where there is one.
pub(super) fn partition_named(name: &str) -> Option<PathBuf> {
    blocks(Path::new(BLOCKS)).into_iter().find(|block| block.name == name).map(|block| block.device)
}

fn blocks(folder: &Path) -> Vec<Block> {
    let block = |path: PathBuf| {
        let event = std::fs::read_to_string(path.join("uevent")).ok()?;
        let value = |name: &str| event.lines().find_map(|line| line.strip_prefix(name)?.strip_prefix('='));
        let device = Path::new("/dev").join(value("DEVNAME")?);
        // Of a partition, its drive knows whether it can be removed.
        let removable =
            ["removable", "../removable"].iter().find_map(|flag| std::fs::read_to_string(path.join(flag)).ok());
        let removable = removable.is_some_and(|flag| flag.trim() == "1");
        Some(Block { device, name: value("PARTNAME").unwrap_or_default().to_owned(), removable })
    };
    entries(folder).into_iter().filter_map(block).collect()
}

/// Whether a device begins with a FAT boot sector: jump, signature, and the name of the file system where FAT16 or FAT32 has it.
fn has_fat(device: &Path) -> bool {
    let mut sector = [0; 512];
    let read = std::fs::File::open(device).and_then(|mut file| io::Read::read_exact(&mut file, &mut sector));
    read.is_ok() && sector[510..] == [0x55, 0xaa] && (&sector[54..57] == b"FAT" || &sector[82..85] == b"FAT")
}

/// Mounts it for writing; a write reaches the drive at once. What is not right with it is told.
///
/// # Errors
/// When it cannot be mounted.
pub fn mount_results(device: &Path) -> io::Result<Option<String>> {
    let doubt = match state_of(device)? {
        Fat::Sound => None,
        Fat::Doubtful(doubt) => Some(doubt),
        Fat::Damaged(why) => return Err(io::Error::other(why)),
    };
    std::fs::create_dir_all(RESULTS)?;
    let flags = MountFlags::NOSUID | MountFlags::NOATIME | MountFlags::NODEV;
    mount(device, RESULTS, "vfat", flags, Some(c"flush,utf8,errors=continue"))?;
    // What the kernel finds wrong with it is in its log only.
    Ok(doubt.or_else(|| trouble_in(&kernel_lines())))
}

/// What the kernel's log says is wrong with a FAT file system; nothing when it says nothing.
fn trouble_in(lines: &[String]) -> Option<String> {
    let bad = |line: &&String| line.contains("FAT-fs") && (line.contains(": error") || line.contains("corrupted"));
    let line = lines.iter().find(bad)?;
    let words = line.split_once("): ").map_or(line.as_str(), |(_, words)| words);
    Some(cleaned(words, 80))
}

/// Whether a partition or drive that was there is there no more.
pub fn is_gone(device: &Path) -> bool {
    device.file_name().is_none_or(|name| !Path::new(BLOCKS).join(name).exists())
}

/// Lets go of a drive that was pulled. Until one is there again the place takes nothing: what was written there would be taken for kept.
///
/// # Errors
/// When the kernel refuses; then nothing can be written there either, because the drive is gone.
pub fn let_go_of_results() -> io::Result<()> {
    unmount(RESULTS, UnmountFlags::DETACH)?;
    Ok(mount("none", RESULTS, "tmpfs", MountFlags::RDONLY, Some(c"size=4k"))?)
}

/// Everything to the drive, and the mark off that it was not taken out cleanly.
pub fn release_results() {
    rustix::fs::sync();
    if unmount(RESULTS, UnmountFlags::empty()).is_err() {
        // Somebody still has a file open there: read-only is as good.
        let _ = mount_remount(RESULTS, MountFlags::RDONLY, "");
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn partitions_are_known_by_their_name() {
        let folder = tempfile::tempdir().unwrap();
        let block = |name: &str, event: &str, removable: &str| {
            let path = folder.path().join(name);
            std::fs::create_dir(&path).unwrap();
            std::fs::write(path.join("uevent"), event).unwrap();
            std::fs::write(path.join("removable"), removable).unwrap();
        };
        block("sda", "DEVNAME=sda\nDEVTYPE=disk\n", "0\n");
        block("sdb3", "DEVNAME=sdb3\nPARTN=3\nPARTNAME=REVISUM-RESULTS\n", "1\n");
        std::fs::create_dir(folder.path().join("broken")).unwrap();
        let found = blocks(folder.path());
        assert_eq!(found.len(), 2);
        assert_eq!((found[1].name.as_str(), found[1].removable), (NAME, true));
        assert_eq!(found[1].device, Path::new("/dev/sdb3"));
    }

    #[test]
    fn fat_is_known_by_its_boot_sector() {
        let folder = tempfile::tempdir().unwrap();
        let path = folder.path().join("drive");
        let mut sector = [0u8; 512];
        sector[82..87].copy_from_slice(b"FAT32");
        std::fs::write(&path, sector).unwrap();
        assert!(!has_fat(&path));
        sector[510..].copy_from_slice(&[0x55, 0xaa]);
        std::fs::write(&path, sector).unwrap();
        assert!(has_fat(&path) && !has_fat(Path::new("/nowhere")));
    }
}
