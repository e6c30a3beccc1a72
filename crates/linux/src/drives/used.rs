//! What drives and files are in use for, by device numbers and inodes: a name can be another one, or a link.

use std::collections::BTreeMap;
use std::fs::Metadata;
use std::os::unix::fs::{FileTypeExt, MetadataExt};
use std::path::Path;

use revisum_engine::text::cleaned;

use crate::text_files::{entries, value};

/// Longest text of a place.
const LONGEST: usize = 60;

/// A device by its numbers, as the kernel writes them: `8:16`.
type Number = String;

/// What is in use, and for what.
#[derive(Debug, Default)]
pub(super) struct Used {
    devices: BTreeMap<Number, String>,
    /// Files that a loop device stands for, by device and inode.
    files: BTreeMap<(u64, u64), String>,
}

impl Used {
    /// From the kernel's lists: `proc_pid_mountinfo(5)`, `/proc/swaps` and the loop devices below `blocks`.
    pub fn read(blocks: &Path, mounts: &Path, swaps: &Path) -> Self {
        let mut used = Self::default();
        for line in std::fs::read_to_string(mounts).unwrap_or_default().lines() {
            let mut words = line.split(' ').skip(2);
            if let (Some(number), Some(_), Some(place)) = (words.next(), words.next(), words.next()) {
                used.devices.entry(number.to_owned()).or_insert(format!("mounted on {}", cleaned(place, LONGEST)));
            }
        }
        for line in std::fs::read_to_string(swaps).unwrap_or_default().lines() {
            let place = line.split_whitespace().next().unwrap_or_default();
            if place.starts_with('/') {
                used.take(Path::new(place), "as swap");
            }
        }
        for block in entries(blocks) {
            let name = block.file_name().and_then(|name| name.to_str()).unwrap_or_default().to_owned();
            if let Some(file) = value(block.join("loop/backing_file")) {
                used.take(Path::new(&file), &format!("by {name}"));
            }
        }
        used
    }

    fn take(&mut self, path: &Path, what: &str) {
        let Ok(meta) = std::fs::metadata(path) else { return };
        match meta.file_type().is_block_device() {
            true => self.devices.insert(number_of(&meta), what.to_owned()),
            false => self.files.insert((meta.dev(), meta.ino()), what.to_owned()),
        };
    }

    /// What a device of the kernel's list, or one of its parts, is in use for: by its own numbers, or because another device is made of it.
    pub fn of_block(&self, block: &Path) -> Option<String> {
        let own = value(block.join("dev")).and_then(|number| self.devices.get(number.trim()).cloned());
        own.or_else(|| {
            let holder = entries(block.join("holders")).into_iter().next()?;
            Some(format!("by {}", cleaned(&holder.file_name()?.to_string_lossy(), LONGEST)))
        })
    }

    /// What a file is in use for.
    pub fn of_file(&self, meta: &Metadata) -> Option<&str> {
        self.files.get(&(meta.dev(), meta.ino())).map(String::as_str)
    }
}

fn number_of(meta: &Metadata) -> Number {
    format!("{}:{}", rustix::fs::major(meta.rdev()), rustix::fs::minor(meta.rdev()))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn devices_are_known_by_their_numbers_and_files_by_their_inodes() {
        let folder = tempfile::tempdir().unwrap();
        let at = |name: &str| folder.path().join(name);
        let put = |name: &str, text: &str| {
            std::fs::create_dir_all(at(name).parent().unwrap()).unwrap();
            std::fs::write(at(name), text).unwrap();
        };
        put("image", "x");
        put("other", "x");
        std::fs::hard_link(at("image"), at("again")).unwrap();
        put("block/loop0/loop/backing_file", &format!("{}\n", at("image").display()));
        put("block/sdb/dev", "8:16\n");
        put("block/sdc/dev", "8:32\n");
        std::fs::create_dir_all(at("block/sdc/holders/dm-0")).unwrap();
        put("block/sdd/dev", "8:48\n");
        put("mountinfo", "36 35 8:16 / /mnt/a\\040b rw - ext4 /dev/disk/by-label/X rw\n");
        put("swaps", &format!("Filename Type\n{} file\n", at("other").display()));
        let used = Used::read(&at("block"), &at("mountinfo"), &at("swaps"));
        let of = |name: &str| used.of_block(&at("block").join(name));
        assert_eq!(of("sdb").as_deref(), Some("mounted on /mnt/a\\040b"));
        assert_eq!((of("sdc").as_deref(), of("sdd")), (Some("by dm-0"), None));
        let file = |name: &str| used.of_file(&std::fs::metadata(at(name)).unwrap()).map(str::to_owned);
        assert_eq!((file("image"), file("again")), (Some("by loop0".into()), Some("by loop0".into())));
        assert_eq!((file("other"), file("mountinfo")), (Some("as swap".into()), None));
    }
}
