//! Starting machines over the network: what is on the boot partition of an image, laid out as a server hands it out.

use std::collections::BTreeMap;
use std::io::{self, Cursor, Read, Seek, SeekFrom, Write};
use std::ops::Range;

use cpio::NewcBuilder;
use fatfs::{FileSystem, FsOptions};

use crate::content::boot_partition;
use crate::image::ImageSource;
use crate::{DriveSettings, SETTINGS_FILE};

/// An example for a server that hands out addresses and files.
const EXAMPLE: &str = include_str!("network.txt");
/// Largest file that is taken out of an image.
const LARGEST: u64 = 256 << 20;
/// From where on the partition each file is, and where it goes.
const FILES: [(&str, &str); 6] = [
    ("network/revisum.pxe", "revisum.pxe"),
    ("EFI/BOOT/BOOTX64.EFI", "shimx64.efi"),
    ("network/grubx64.efi", "grubx64.efi"),
    ("network/grub.cfg", "grub/grub.cfg"),
    ("boot/vmlinuz", "boot/vmlinuz"),
    ("boot/initramfs", "boot/initramfs"),
];
/// A plain file in an archive for the kernel.
const PLAIN: u32 = 0o100_644;

/// All files that a server hands out, by their paths; `settings` say how each machine starts.
///
/// # Errors
/// When the image is none of ours, or is older than starting over the network.
pub fn network_files(image: &mut dyn ImageSource, settings: &DriveSettings) -> io::Result<BTreeMap<String, Vec<u8>>> {
    let range = boot_partition(&mut |bytes, at| image.read_at(bytes, at))
        .ok_or_else(|| io::Error::other("this is no image of a boot drive"))?;
    let system = FileSystem::new(Partition { image, range, at: 0 }, FsOptions::new())?;
    let mut files = BTreeMap::new();
    for (from, to) in FILES {
        let mut bytes = Vec::new();
        let file = system.root_dir().open_file(from);
        let file =
            file.map_err(|error| io::Error::new(error.kind(), format!("{from} is not in the image: {error}")))?;
        file.take(LARGEST).read_to_end(&mut bytes)?;
        files.insert(to.to_owned(), bytes);
    }
    files.insert("boot/settings.img".to_owned(), archive(settings)?);
    files.insert("dnsmasq.conf".to_owned(), EXAMPLE.as_bytes().to_vec());
    Ok(files)
}

/// The settings as an archive that the kernel unpacks over its first files.
fn archive(settings: &DriveSettings) -> io::Result<Vec<u8>> {
    let bytes = settings.file().map_err(io::Error::other)?;
    let mut out = Vec::new();
    let entry = NewcBuilder::new(SETTINGS_FILE).mode(PLAIN).ino(1).nlink(1).mtime(0);
    cpio::write_cpio([(entry, Cursor::new(bytes))].into_iter(), &mut out)?;
    Ok(out)
}

/// A partition of an image, to be read.
struct Partition<'a> {
    image: &'a mut dyn ImageSource,
    range: Range<u64>,
    at: u64,
}

impl Read for Partition<'_> {
    fn read(&mut self, bytes: &mut [u8]) -> io::Result<usize> {
        let left = (self.range.end - self.range.start).saturating_sub(self.at);
        let length = bytes.len().min(usize::try_from(left).unwrap_or(usize::MAX));
        self.image.read_at(&mut bytes[..length], self.range.start + self.at)?;
        self.at += length as u64;
        Ok(length)
    }
}

impl Write for Partition<'_> {
    fn write(&mut self, _bytes: &[u8]) -> io::Result<usize> {
        Err(io::ErrorKind::PermissionDenied.into())
    }

    fn flush(&mut self) -> io::Result<()> {
        Ok(())
    }
}

impl Seek for Partition<'_> {
    fn seek(&mut self, to: SeekFrom) -> io::Result<u64> {
        let (base, by) = match to {
            SeekFrom::Start(at) => (at, 0),
            SeekFrom::End(by) => (self.range.end - self.range.start, by),
            SeekFrom::Current(by) => (self.at, by),
        };
        self.at = base.checked_add_signed(by).ok_or(io::ErrorKind::InvalidInput)?;
        Ok(self.at)
    }
}
