//! What is mounted.

use std::path::{Path, PathBuf};

/// File systems of disks; others are the kernel's own, or on a network.
const OF_DISKS: [&str; 12] =
    ["ext2", "ext3", "ext4", "xfs", "btrfs", "f2fs", "ntfs", "ntfs3", "vfat", "exfat", "fuseblk", "iso9660"];

/// Where disks are mounted, all but the one that the system itself runs from.
pub fn of_disks() -> Vec<PathBuf> {
    read(&std::fs::read_to_string("/proc/self/mounts").unwrap_or_default())
}

/// The same from lines as of `proc_pid_mounts(5)`, in which a space stands as its octal number.
fn read(mounts: &str) -> Vec<PathBuf> {
    let disk = |line: &str| {
        let mut words = line.split(' ');
        let (path, kind) = (words.nth(1)?, words.next()?);
        let path = PathBuf::from(path.replace("\\040", " "));
        (OF_DISKS.contains(&kind) && path != Path::new("/")).then_some(path)
    };
    mounts.lines().filter_map(disk).collect()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn disks_are_told_from_everything_else() {
        let mounts = "/dev/sda2 / ext4 rw 0 0\nproc /proc proc rw 0 0\n/dev/sdb3 /media/my\\040drive vfat rw 0 0\n\nshop:/x /mnt nfs rw 0 0\n";
        assert_eq!(read(mounts), [PathBuf::from("/media/my drive")]);
    }
}
