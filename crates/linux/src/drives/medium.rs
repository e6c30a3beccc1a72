//! A drive that is written to, or a file in its place; and an image that is read.

use std::fs::{File, OpenOptions};
use std::io;
use std::os::unix::fs::{FileExt, OpenOptionsExt};
use std::path::Path;

use revisum_drive::{DriveMedium, ImageSource};

use crate::journal::{FileMedium, Medium};

/// A drive as a whole.
pub(super) struct RealDrive {
    medium: FileMedium,
    bytes: u64,
}

impl RealDrive {
    /// Opens it for us alone: the kernel refuses that while anything of it is mounted.
    pub fn open(path: &Path, bytes: u64) -> io::Result<Self> {
        let file = OpenOptions::new().read(true).write(true).custom_flags(libc::O_EXCL).open(path)?;
        Ok(Self { medium: FileMedium::new(file, path), bytes })
    }
}

/// A file in place of a drive: as long as it is, it can be written.
///
/// # Errors
/// When it is no file or cannot be opened.
pub fn open_image_as_drive(path: &Path) -> io::Result<Box<dyn DriveMedium + Send>> {
    let file = OpenOptions::new().read(true).write(true).open(path)?;
    let meta = file.metadata()?;
    if !meta.is_file() {
        return Err(io::Error::other("it is not a file: drives are chosen from the list"));
    }
    Ok(Box::new(RealDrive { medium: FileMedium::new(file, path), bytes: meta.len() }))
}

impl DriveMedium for RealDrive {
    fn bytes(&self) -> u64 {
        self.bytes
    }

    fn write_at(&mut self, bytes: &[u8], at: u64) -> io::Result<()> {
        self.medium.write_at(bytes, at)
    }

    fn sync(&mut self) -> io::Result<()> {
        self.medium.sync()
    }

    fn read_back(&mut self, bytes: &mut [u8], at: u64) -> io::Result<()> {
        let read = self.medium.read_back(at, bytes.len())?;
        if read.len() != bytes.len() {
            return Err(io::ErrorKind::UnexpectedEof.into());
        }
        bytes.copy_from_slice(&read);
        Ok(())
    }
}

/// An image that is read.
pub struct ImageFile {
    file: File,
    bytes: u64,
}

impl ImageFile {
    /// Opens it.
    ///
    /// # Errors
    /// When it is no file or cannot be opened.
    pub fn open(path: &Path) -> io::Result<Self> {
        let file = File::open(path)?;
        let meta = file.metadata()?;
        if !meta.is_file() {
            return Err(io::Error::other("it is not a file"));
        }
        Ok(Self { file, bytes: meta.len() })
    }
}

impl ImageSource for ImageFile {
    fn bytes(&self) -> u64 {
        self.bytes
    }

    fn read_at(&mut self, bytes: &mut [u8], at: u64) -> io::Result<()> {
        self.file.read_exact_at(bytes, at)
    }
}
