//! The firmware's next boot, once: a variable of UEFI (UEFI specification, boot manager: `BootNext`, `Boot####`).

use std::io;
use std::path::{Path, PathBuf};

use rustix::fs::{IFlags, ioctl_getflags, ioctl_setflags};

const VARIABLES: &str = "/sys/firmware/efi/efivars";
/// The namespace of the boot manager's variables.
const GLOBAL: &str = "8be4df61-93ca-11d2-aa0d-00e098032b8c";
/// Kept, and there while booting and running.
const ATTRIBUTES: u32 = 7;
/// Attributes, then two fields, before the description of a load option.
const DESCRIPTION: usize = 4 + 4 + 2;
/// Identity of the boot partition of our drives, as it stands in a device path: the first three fields little-endian.
const OUR_PARTITION: [u8; 16] = [0x4a, 0x56, 0x45, 0x52, 0x02, 0, 0, 0x40, 0x80, 0, 0, 0, 0, 0, 0, 2];

/// An entry of the firmware's boot manager.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct LoadOption {
    /// Its number.
    pub number: u16,
    /// What the firmware calls it.
    pub description: String,
    /// It leads to the boot partition of one of our drives.
    ours: bool,
}

/// Why the next boot cannot be set.
#[derive(Debug, thiserror::Error)]
pub enum BootNextError {
    /// Old firmware, or it hides its variables.
    #[error(
        "this system was not started by UEFI, so the next boot cannot be set from here. Restart, and choose the drive in the firmware's boot menu"
    )]
    NoUefi,
    /// Nothing leads to the drive.
    #[error(
        "the firmware has no entry for the boot drive; many make one only once they have seen it. Restart, and choose the drive in the firmware's \
         boot menu. Its entries: {0}"
    )]
    NoEntry(String),
    /// It refused.
    #[error(
        "the firmware's variables cannot be read or written: {0}. Run as root, or choose the drive in the firmware's boot menu"
    )]
    Refused(#[from] io::Error),
}

/// Lets the firmware boot our drive next, once; returns what the firmware calls it.
///
/// # Errors
/// With what to do instead.
pub fn boot_drive_next() -> Result<String, BootNextError> {
    set(Path::new(VARIABLES))
}

fn set(folder: &Path) -> Result<String, BootNextError> {
    if !folder.is_dir() || std::fs::read_dir(folder)?.next().is_none() {
        return Err(BootNextError::NoUefi);
    }
    let options = options(folder)?;
    let Some(option) = chosen(&options) else {
        let names: Vec<&str> = options.iter().map(|option| option.description.as_str()).collect();
        return Err(BootNextError::NoEntry(if names.is_empty() { "none".to_owned() } else { names.join(", ") }));
    };
    let file = folder.join(format!("BootNext-{GLOBAL}"));
    unlock(&file);
    let mut bytes = ATTRIBUTES.to_le_bytes().to_vec();
    bytes.extend(option.number.to_le_bytes());
    std::fs::write(&file, bytes)?;
    Ok(option.description.clone())
}

/// Ours by its partition; else the only one that is called a USB drive.
fn chosen(options: &[LoadOption]) -> Option<&LoadOption> {
    let usb = || {
        let mut found = options.iter().filter(|option| option.description.to_lowercase().contains("usb"));
        let first = found.next();
        first.filter(|_| found.next().is_none())
    };
    options.iter().find(|option| option.ours).or_else(usb)
}

fn options(folder: &Path) -> io::Result<Vec<LoadOption>> {
    let one = |path: PathBuf| {
        let name = path.file_name()?.to_str()?;
        let digits = name.strip_prefix("Boot")?.strip_suffix(GLOBAL)?.strip_suffix('-')?;
        let number = (digits.len() == 4).then(|| u16::from_str_radix(digits, 16).ok())??;
        let bytes = std::fs::read(&path).ok()?;
        let letters = bytes.get(DESCRIPTION..)?.chunks_exact(2).map(|pair| u16::from_le_bytes([pair[0], pair[1]]));
        let text: Vec<u16> = letters.take_while(|letter| *letter != 0).collect();
        let description = revisum_engine::text::cleaned(&String::from_utf16_lossy(&text), 60);
        let ours = bytes.windows(OUR_PARTITION.len()).any(|window| window == OUR_PARTITION);
        Some(LoadOption { number, description, ours })
    };
    let mut options: Vec<LoadOption> =
        std::fs::read_dir(folder)?.flatten().filter_map(|entry| one(entry.path())).collect();
    options.sort_by_key(|option| option.number);
    Ok(options)
}

/// The kernel protects variables that are there from being changed by mistake.
fn unlock(file: &Path) {
    let Ok(open) = std::fs::File::open(file) else { return };
    if let Ok(flags) = ioctl_getflags(&open) {
        // Where this fails the write says why.
        let _ = ioctl_setflags(&open, flags - IFlags::IMMUTABLE);
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn option(description: &str, path: &[u8]) -> Vec<u8> {
        let mut bytes = vec![7, 0, 0, 0, 1, 0, 0, 0, path.len() as u8, 0];
        bytes.extend(description.encode_utf16().chain([0]).flat_map(u16::to_le_bytes));
        bytes.extend(path);
        bytes
    }

    fn firmware(options: &[(u16, &str, &[u8])]) -> tempfile::TempDir {
        let folder = tempfile::tempdir().unwrap();
        std::fs::write(folder.path().join(format!("BootOrder-{GLOBAL}")), [7, 0, 0, 0, 1, 0]).unwrap();
        for (number, description, path) in options {
            let name = format!("Boot{number:04X}-{GLOBAL}");
            std::fs::write(folder.path().join(name), option(description, path)).unwrap();
        }
        folder
    }

    #[test]
    fn our_drive_is_found_by_its_partition_else_as_the_only_usb_drive() {
        let path = [&[4, 1, 42, 0][..], &OUR_PARTITION].concat();
        let with =
            firmware(&[(0, "Some system", b""), (1, "USB one", b""), (10, "Pocket", &path), (11, "USB two", b"")]);
        assert_eq!(set(with.path()).unwrap(), "Pocket");
        let written = std::fs::read(with.path().join(format!("BootNext-{GLOBAL}"))).unwrap();
        assert_eq!(written, [7, 0, 0, 0, 10, 0]);
        let only = firmware(&[(0, "Some system", b""), (1, "UEFI USB Pocket", b"")]);
        assert_eq!(set(only.path()).unwrap(), "UEFI USB Pocket");
    }

    #[test]
    fn what_cannot_be_is_said() {
        let two = firmware(&[(1, "USB one", b""), (2, "USB two", b"")]);
        assert!(matches!(set(two.path()), Err(BootNextError::NoEntry(names)) if names.contains("USB two")));
        assert!(matches!(set(Path::new("/nowhere")), Err(BootNextError::NoUefi)));
    }
}
