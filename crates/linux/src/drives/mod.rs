//! Drives that can be taken out, and image files in their place.

mod list;
mod medium;
mod records;

use std::io;
use std::path::{Path, PathBuf};

use revisum_drive::DriveMedium;
use revisum_drive::{Drive, Drives};

pub use medium::{ImageFile, open_image_as_drive};

use medium::RealDrive;

use crate::mounts;

/// The drives of this machine.
pub struct LinuxDrives;

impl Drives for LinuxDrives {
    fn list(&self) -> io::Result<Vec<Drive>> {
        list::list(Path::new("/sys/block"), Path::new("/proc/self/mounts"), Path::new("/proc/swaps"))
    }

    fn records(&self) -> Vec<PathBuf> {
        records::below(&mounts::of_disks())
    }

    fn open(&self, drive: &Drive) -> io::Result<Box<dyn DriveMedium + Send>> {
        let now = self.list()?.into_iter().find(|one| one.path == drive.path);
        let now = now.ok_or_else(|| io::Error::other(format!("{} is not there any more", drive.path)))?;
        if let Some(why) = now.refused {
            return Err(io::Error::other(why));
        }
        if (&now.name, &now.serial, now.bytes, &now.medium) != (&drive.name, &drive.serial, drive.bytes, &drive.medium)
        {
            return Err(io::Error::other(format!(
                "{} is another drive than the one that was listed: list the drives again",
                drive.path
            )));
        }
        Ok(Box::new(RealDrive::open(Path::new(&drive.path), drive.bytes)?))
    }
}
