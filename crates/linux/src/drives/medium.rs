//! A drive that is written to, or a file in its place; and an image that is read.

use std::fs::{File, Metadata, OpenOptions};
use std::io;
use std::os::unix::fs::{FileExt, MetadataExt, OpenOptionsExt};
use std::path::Path;

use revisum_drive::{DriveMedium, ImageSource};

use super::used::Used;
use super::{BLOCKS, MOUNTS, SWAPS};
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

    /// Opens it only to be read: it may be in use.
    pub fn open_to_read(path: &Path, bytes: u64) -> io::Result<Self> {
        let file = OpenOptions::new().read(true).open(path)?;
        Ok(Self { medium: FileMedium::new(file, path), bytes })
    }
}

/// A file in place of a drive: as long as it is, it can be written. Not the image itself, by whatever name, and nothing that is in use.
///
/// # Errors
/// When it is no file, is in use, or cannot be opened.
pub fn open_image_as_drive(path: &Path, image: &ImageFile) -> io::Result<Box<dyn DriveMedium + Send>> {
    let (file, meta) = regular(path, OpenOptions::new().read(true).write(true))?;
    if (meta.dev(), meta.ino()) == image.identity {
        return Err(io::Error::other("it is the image itself"));
    }
    if let Some(what) = Used::read(Path::new(BLOCKS), Path::new(MOUNTS), Path::new(SWAPS)).of_file(&meta) {
        return Err(io::Error::other(format!("it is in use {what}: unmount it first")));
    }
    Ok(Box::new(RealDrive { medium: FileMedium::new(file, path), bytes: meta.len() }))
}

/// The same only to be read.
///
/// # Errors
/// When it is no file or cannot be opened.
pub fn open_image_to_read(path: &Path) -> io::Result<Box<dyn DriveMedium + Send>> {
    let (file, meta) = regular(path, OpenOptions::new().read(true))?;
    Ok(Box::new(RealDrive { medium: FileMedium::new(file, path), bytes: meta.len() }))
}

/// A regular file: a pipe would wait for ever.
fn regular(path: &Path, how: &mut OpenOptions) -> io::Result<(File, Metadata)> {
    let file = how.custom_flags(libc::O_NONBLOCK).open(path)?;
    let meta = file.metadata()?;
    match meta.is_file() {
        true => Ok((file, meta)),
        false => Err(io::Error::other("it is not a file: drives are chosen from the list")),
    }
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
    /// Device and inode.
    identity: (u64, u64),
}

impl ImageFile {
    /// Opens it.
    ///
    /// # Errors
    /// When it is no file or cannot be opened.
    pub fn open(path: &Path) -> io::Result<Self> {
        let (file, meta) = regular(path, OpenOptions::new().read(true))?;
        Ok(Self { file, bytes: meta.len(), identity: (meta.dev(), meta.ino()) })
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
