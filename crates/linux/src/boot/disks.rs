//! The disks of the suspect computer, mounted read-only so that its logs can be read. Nothing is written to them, not even what a file system
//! would repair when it is mounted.

use std::path::{Path, PathBuf};

use rustix::mount::{MountFlags, mount};

use crate::text_files::entries;

/// Where they are mounted, each in a folder of its name.
const DISKS: &str = "/disks";
/// File systems that are tried, with what keeps each from writing its journal back.
const KINDS: [(&str, &std::ffi::CStr); 4] = [("ext4", c"noload"), ("ntfs3", c""), ("vfat", c""), ("iso9660", c"")];

/// Mounts every partition that is not in use and holds a file system that is known. What cannot be mounted is left alone.
pub(crate) fn mount_disks() {
    let used = std::fs::read_to_string("/proc/self/mounts").unwrap_or_default();
    for device in partitions(Path::new("/sys/class/block"), &used) {
        let name = device.file_name().unwrap_or_default();
        let target = Path::new(DISKS).join(name);
        if std::fs::create_dir_all(&target).is_err() {
            return;
        }
        let flags = MountFlags::RDONLY | MountFlags::NOSUID | MountFlags::NODEV | MountFlags::NOEXEC;
        let mounted = KINDS.iter().any(|(kind, options)| mount(&device, &target, *kind, flags, Some(*options)).is_ok());
        if !mounted {
            // An empty folder would look like a disk.
            let _ = std::fs::remove_dir(&target);
        }
    }
}

/// Devices of partitions that are not mounted; our own drive is.
fn partitions(blocks: &Path, used: &str) -> Vec<PathBuf> {
    let device = |block: PathBuf| Some(Path::new("/dev").join(block.file_name()?));
    let is_used = |device: &PathBuf| {
        used.lines().any(|line| line.split(' ').next().is_some_and(|mounted| Path::new(mounted) == device))
    };
    let partitions = entries(blocks).into_iter().filter(|block| block.join("partition").is_file());
    partitions.filter_map(device).filter(|device| !is_used(device)).collect()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_is_mounted_is_left_alone() {
        let folder = tempfile::tempdir().unwrap();
        for (name, partition) in [("sda", false), ("sda1", true), ("sdb3", true)] {
            let block = folder.path().join(name);
            std::fs::create_dir(&block).unwrap();
            if partition {
                std::fs::write(block.join("partition"), "1\n").unwrap();
            }
        }
        let found = partitions(folder.path(), "/dev/sdb3 /results vfat rw 0 0\n");
        assert_eq!(found, [Path::new("/dev/sda1")]);
    }
}
