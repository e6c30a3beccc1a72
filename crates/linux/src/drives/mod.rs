//! Drives that can be taken out, and image files in their place.

mod list;
mod medium;
mod records;
mod used;

use std::io;
use std::path::{Path, PathBuf};

use revisum_drive::DriveMedium;
use revisum_drive::{Drive, Drives};

pub use medium::{ImageFile, open_image_as_drive, open_image_to_read};

use medium::RealDrive;

use crate::mounts;

const BLOCKS: &str = "/sys/block";
const MOUNTS: &str = "/proc/self/mountinfo";
const SWAPS: &str = "/proc/swaps";

/// The drives of this machine.
pub struct LinuxDrives;

impl Drives for LinuxDrives {
    fn list(&self) -> io::Result<Vec<Drive>> {
        list::list(Path::new(BLOCKS), Path::new(MOUNTS), Path::new(SWAPS))
    }

    fn records(&self) -> Vec<PathBuf> {
        records::below(&mounts::of_disks())
    }

    fn open(&self, drive: &Drive) -> io::Result<Box<dyn DriveMedium + Send>> {
        if let Some(why) = self.still_there(drive)?.refused {
            return Err(io::Error::other(why));
        }
        let open = RealDrive::open(Path::new(&drive.path), drive.bytes)?;
        // Once more, now that it is held: another one may have come in between.
        self.still_there(drive)?;
        Ok(Box::new(open))
    }

    fn open_to_read(&self, drive: &Drive) -> io::Result<Box<dyn DriveMedium + Send>> {
        let open = RealDrive::open_to_read(Path::new(&drive.path), drive.bytes)?;
        self.still_there(drive)?;
        Ok(Box::new(open))
    }
}

impl LinuxDrives {
    /// The drive as it is now, if it is the one that was listed.
    fn still_there(&self, drive: &Drive) -> io::Result<Drive> {
        let now = self.list()?.into_iter().find(|one| one.path == drive.path);
        let now = now.ok_or_else(|| io::Error::other(format!("{} is not there any more", drive.path)))?;
        let same = |one: &Drive| (one.name.clone(), one.serial.clone(), one.bytes, one.medium.clone());
        match same(&now) == same(drive) {
            true => Ok(now),
            false => Err(io::Error::other(format!(
                "{} is another drive than the one that was listed: list the drives again",
                drive.path
            ))),
        }
    }
}
