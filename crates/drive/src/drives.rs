//! Drives that can be taken out.

use std::io;
use std::path::PathBuf;

use serde::Serialize;

use crate::DriveMedium;

/// A removable drive.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize)]
pub struct Drive {
    /// Path of the device.
    pub path: String,
    /// Maker and model, as people call it.
    pub name: String,
    /// Its own number, where it has one.
    pub serial: String,
    /// Size in bytes.
    pub bytes: u64,
    /// What is on it, in words.
    pub contents: Vec<String>,
    /// Why nothing is written to it; nothing when it can be.
    pub refused: Option<String>,
    /// It changes when another medium is put in.
    pub medium: String,
}

/// Drives that a boot drive could be written to.
pub trait Drives: Send + Sync {
    /// Removable drives; never a fixed disk.
    ///
    /// # Errors
    /// When the system does not tell.
    fn list(&self) -> io::Result<Vec<Drive>>;
    /// Folders of mounted drives in which records lie, as the boot drive keeps them.
    fn records(&self) -> Vec<PathBuf>;
    /// Opens one for writing, if it is still just as it was listed.
    ///
    /// # Errors
    /// With what is different, or why it cannot be opened.
    fn open(&self, drive: &Drive) -> io::Result<Box<dyn DriveMedium + Send>>;
    /// Opens one only to be read.
    ///
    /// # Errors
    /// When it is not there any more or cannot be opened.
    fn open_to_read(&self, drive: &Drive) -> io::Result<Box<dyn DriveMedium + Send>>;
}
