//! What drives there are, from the kernel's lists.

use std::io;
use std::path::Path;

use revisum_drive::Drive;
use revisum_engine::text::cleaned;
use revisum_engine::units::bytes_text;

use super::used::Used;
use crate::text_files::{entries, number, value};

/// Longest text of a drive about itself.
const LONGEST: usize = 60;
/// Devices that are no drives of their own.
const NO_DRIVES: [&str; 8] = ["loop", "ram", "zram", "dm-", "md", "sr", "fd", "nbd"];

/// Removable drives and those on a USB port. Fixed disks are not among them, whatever is on them.
pub(super) fn list(blocks: &Path, mounts: &Path, swaps: &Path) -> io::Result<Vec<Drive>> {
    if !blocks.is_dir() {
        return Err(io::Error::other(format!("{} lists no drives", blocks.display())));
    }
    let used = Used::read(blocks, mounts, swaps);
    Ok(entries(blocks).iter().filter_map(|block| drive(block, &used)).collect())
}

fn drive(block: &Path, used: &Used) -> Option<Drive> {
    let name = block.file_name()?.to_str()?;
    if NO_DRIVES.iter().any(|other| name.starts_with(other)) {
        return None;
    }
    let place = std::fs::canonicalize(block).map(|place| place.display().to_string()).unwrap_or_default();
    let removable = number(block.join("removable")) == Some(1);
    if !removable && !place.contains("/usb") {
        return None;
    }
    // Sizes stand in units of 512 bytes, whatever the drive's own are.
    let bytes = number(block.join("size")).unwrap_or(0) * 512;
    if bytes == 0 {
        return None;
    }
    let of_device = |file: &str| value(block.join("device").join(file)).unwrap_or_default();
    let called = cleaned(format!("{} {}", of_device("vendor"), of_device("model")).trim(), LONGEST);
    let parts: Vec<_> = entries(block).into_iter().filter(|part| part.join("partition").is_file()).collect();
    let path = format!("/dev/{name}");
    let in_use =
        std::iter::once(block).chain(parts.iter().map(|part| part.as_path())).find_map(|one| used.of_block(one));
    let read_only = number(block.join("ro")) == Some(1);
    let refused = match (in_use, read_only) {
        (Some(place), _) => Some(format!("it is in use: {place}. Unmount it first")),
        (None, true) => Some("it is write-protected".to_owned()),
        (None, false) => None,
    };
    Some(Drive {
        path,
        name: if called.is_empty() { "drive without a name".to_owned() } else { called },
        serial: cleaned(&of_device("serial"), LONGEST),
        bytes,
        contents: parts.iter().map(|part| content(part)).collect(),
        refused,
        medium: value(block.join("diskseq")).unwrap_or_default(),
    })
}

fn content(part: &Path) -> String {
    let event = std::fs::read_to_string(part.join("uevent")).unwrap_or_default();
    let name = event.lines().find_map(|line| line.strip_prefix("PARTNAME=")).unwrap_or("no name");
    let bytes = number(part.join("size")).unwrap_or(0) * 512;
    format!("{} ({})", cleaned(name, LONGEST), bytes_text(bytes))
}

#[cfg(test)]
mod tests {
    use super::*;

    fn put(block: &Path, files: &[(&str, &str)]) {
        for (name, text) in files {
            let file = block.join(name);
            std::fs::create_dir_all(file.parent().unwrap()).unwrap();
            std::fs::write(file, text).unwrap();
        }
    }

    #[test]
    fn only_removable_drives_are_listed_and_used_ones_are_refused() {
        let folder = tempfile::tempdir().unwrap();
        let blocks = folder.path().join("block");
        let size = ("size", "15728640\n");
        let stick = [
            ("removable", "1\n"),
            size,
            ("device/vendor", "Kestrel \n"),
            ("device/model", "Pocket\u{1b}[2J 8\n"),
            ("diskseq", "7\n"),
        ];
        put(&blocks.join("sda"), &[("removable", "0\n"), size, ("device/model", "Fixed\n")]);
        put(&blocks.join("sdb"), &stick);
        put(
            &blocks.join("sdb/sdb1"),
            &[
                ("partition", "1\n"),
                ("size", "2048\n"),
                ("dev", "8:17\n"),
                ("uevent", "DEVNAME=sdb1\nPARTNAME=PHOTOS\n"),
            ],
        );
        put(&blocks.join("sdc"), &stick);
        put(
            &blocks.join("sdc/sdc1"),
            &[("partition", "1\n"), ("size", "2048\n"), ("dev", "8:33\n"), ("uevent", "DEVNAME=sdc1\n")],
        );
        put(&blocks.join("sdd"), &[("removable", "1\n"), ("size", "0\n")]);
        put(&blocks.join("loop0"), &[("removable", "1\n"), size]);
        let mounts = folder.path().join("mounts");
        std::fs::write(
            &mounts,
            "21 1 8:1 / / rw - ext4 /dev/sda1 rw\n36 21 8:33 / /media/x rw - vfat /dev/disk/by-label/X rw\n",
        )
        .unwrap();
        let found = list(&blocks, &mounts, Path::new("/nowhere")).unwrap();
        let told: Vec<_> = found.iter().map(|one| (one.path.as_str(), one.refused.is_some())).collect();
        assert_eq!(told, [("/dev/sdb", false), ("/dev/sdc", true)]);
        assert_eq!((found[0].name.as_str(), found[0].bytes), ("Kestrel Pocket [2J 8", 15_728_640 * 512));
        assert_eq!(found[0].contents, ["PHOTOS (1 MiB)"]);
        assert!(found[1].refused.as_ref().unwrap().contains("/media/x"));
        assert!(list(Path::new("/nowhere"), &mounts, &mounts).is_err());
    }
}
