//! Where everything lies on the drive: a partition table of GPT form with three partitions.

use std::io::{Read, Seek, SeekFrom, Write};
use std::path::Path;
use std::process::{Command, Stdio};

use anyhow::{Context, Result, bail};

pub(crate) const SECTOR: u64 = 512;
const MIB: u64 = 1 << 20;

/// A partition.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Place {
    /// Name in the partition table.
    pub name: &'static str,
    /// First byte.
    pub start: u64,
    /// Length in bytes.
    pub bytes: u64,
    pub(crate) kind: &'static str,
    pub(crate) id: &'static str,
}

/// The boot loader for old firmware: it has no file system.
pub const LOADER: Place = Place {
    name: "REVISUM-LOADER",
    start: MIB,
    bytes: MIB,
    kind: "21686148-6449-6E6F-744E-656564454649",
    id: "5245564A-0001-4000-8000-000000000001",
};
/// What is booted, as new firmware wants it.
pub const BOOT: Place = Place {
    name: "REVISUM-BOOT",
    start: 2 * MIB,
    bytes: 96 * MIB,
    kind: "C12A7328-F81F-11D2-BA4B-00A0C93EC93B",
    id: "5245564A-0002-4000-8000-000000000002",
};
/// Room for results; any computer opens it.
pub const RESULTS: Place = Place {
    name: "REVISUM-RESULTS",
    start: 98 * MIB,
    bytes: 128 * MIB,
    kind: "EBD0A0A2-B9E5-4433-87C0-68B6B72699C7",
    id: "5245564A-0003-4000-8000-000000000003",
};
const DISK_ID: &str = "5245564A-0000-4000-8000-000000000000";

impl Place {
    #[cfg(test)]
    pub(crate) fn end(&self) -> u64 {
        self.start + self.bytes
    }
}

/// Bytes of the whole image: the table stands at its end once more.
pub(crate) const WHOLE: u64 = RESULTS.start + RESULTS.bytes + MIB;

/// Writes the table into a file of the right length.
pub(crate) fn write_table(image: &Path) -> Result<()> {
    let line = |place: &Place| {
        let (start, size) = (place.start / SECTOR, place.bytes / SECTOR);
        format!("start={start}, size={size}, type={}, uuid={}, name={}\n", place.kind, place.id, place.name)
    };
    let script =
        format!("label: gpt\nlabel-id: {DISK_ID}\nfirst-lba: 34\n{}{}{}", line(&LOADER), line(&BOOT), line(&RESULTS));
    let mut child = Command::new("sfdisk")
        .args(["--quiet", "--no-reread", "--no-tell-kernel"])
        .arg(image)
        .stdin(Stdio::piped())
        .spawn()
        .context("sfdisk cannot be started: the package fdisk has it")?;
    child.stdin.take().context("sfdisk does not listen")?.write_all(script.as_bytes())?;
    if !child.wait()?.success() {
        bail!("sfdisk refused the partition table");
    }
    Ok(())
}

/// A part of a file as if it were a file of its own.
pub(crate) struct Window<T> {
    inner: T,
    place: Place,
    at: u64,
}

impl<T: Seek> Window<T> {
    pub fn new(mut inner: T, place: Place) -> std::io::Result<Self> {
        inner.seek(SeekFrom::Start(place.start))?;
        Ok(Self { inner, place, at: 0 })
    }

    fn room(&self, wanted: usize) -> usize {
        usize::try_from(self.place.bytes - self.at).map_or(wanted, |left| wanted.min(left))
    }
}

impl<T: Read + Seek> Read for Window<T> {
    fn read(&mut self, buffer: &mut [u8]) -> std::io::Result<usize> {
        let room = self.room(buffer.len());
        let count = self.inner.read(&mut buffer[..room])?;
        self.at += count as u64;
        Ok(count)
    }
}

impl<T: Write + Seek> Write for Window<T> {
    fn write(&mut self, bytes: &[u8]) -> std::io::Result<usize> {
        let room = self.room(bytes.len());
        let count = self.inner.write(&bytes[..room])?;
        self.at += count as u64;
        Ok(count)
    }

    fn flush(&mut self) -> std::io::Result<()> {
        self.inner.flush()
    }
}

impl<T: Seek> Seek for Window<T> {
    fn seek(&mut self, to: SeekFrom) -> std::io::Result<u64> {
        let at = match to {
            SeekFrom::Start(at) => Some(at),
            SeekFrom::End(by) => self.place.bytes.checked_add_signed(by),
            SeekFrom::Current(by) => self.at.checked_add_signed(by),
        };
        let at =
            at.filter(|at| *at <= self.place.bytes).ok_or_else(|| std::io::Error::other("outside of the partition"))?;
        self.inner.seek(SeekFrom::Start(self.place.start + at))?;
        self.at = at;
        Ok(at)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn partitions_follow_each_other() {
        assert_eq!((LOADER.end(), BOOT.end()), (BOOT.start, RESULTS.start));
        assert!(RESULTS.end() < WHOLE && BOOT.end() <= 128 * MIB, "small besides its room for results");
    }

    #[test]
    fn a_window_ends_where_its_partition_does() {
        let place = Place { start: 4, bytes: 3, ..LOADER };
        let mut window = Window::new(std::io::Cursor::new(vec![0u8; 10]), place).unwrap();
        assert_eq!(window.write(b"abcdef").unwrap(), 3);
        window.seek(SeekFrom::Start(1)).unwrap();
        let mut read = String::new();
        window.read_to_string(&mut read).unwrap();
        assert_eq!(read, "bc");
        assert!(window.seek(SeekFrom::End(1)).is_err());
    }
}
