//! Writing the boot drive: so that a drive that was not finished is known as such, and one that does not keep what it was given is found out.

mod content;
mod drives;
mod image;
#[cfg(test)]
mod tests;

use std::io;
use std::ops::Range;

use thiserror::Error;

pub use content::{Content, content_of};
pub use drives::{Drive, Drives};
pub use image::ImageSource;

use revisum_engine::units::bytes_text;

/// A drive, or a file in its place.
pub trait DriveMedium {
    /// Its length in bytes.
    fn bytes(&self) -> u64;
    /// Writes bytes at an offset.
    ///
    /// # Errors
    /// When the drive refuses.
    fn write_at(&mut self, bytes: &[u8], at: u64) -> io::Result<()>;
    /// Returns once everything written so far is on the drive.
    ///
    /// # Errors
    /// When the drive cannot promise that.
    fn sync(&mut self) -> io::Result<()>;
    /// Reads from the drive itself, not from what the system remembers of it.
    ///
    /// # Errors
    /// When the drive cannot be read.
    fn read_back(&mut self, bytes: &mut [u8], at: u64) -> io::Result<()>;
}

/// What is being done.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Stage {
    /// The image is written.
    Writing,
    /// What was written is read back and compared.
    Verifying,
}

/// How far it has come.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Progress {
    /// What is being done.
    pub stage: Stage,
    /// Bytes done.
    pub done: u64,
    /// Bytes to do.
    pub of: u64,
}

/// Why a drive is not a boot drive now.
#[derive(Debug, Error)]
pub enum DriveError {
    /// The image does not fit.
    #[error("the image needs {image}, the drive has {drive}. Nothing was written: take a larger drive")]
    TooSmall {
        /// For people.
        image: String,
        /// For people.
        drive: String,
    },
    /// It is no image of a boot drive.
    #[error(
        "this file is not the image of a boot drive: it has no partition table with the names of one. Nothing was written"
    )]
    NotAnImage,
    /// The drive has no room for results to be kept.
    #[error("this drive has no results to keep: it is no boot drive, or one of another layout. Nothing was written")]
    NothingToKeep,
    /// The image cannot be read.
    #[error("the image cannot be read at {at:#x}: {source}. The drive is not finished; write it again")]
    Image {
        /// Offset in bytes.
        at: u64,
        /// Why.
        source: io::Error,
    },
    /// The drive refused.
    #[error("the drive failed at {at:#x}: {source}. It is not finished: write it again, or take another drive")]
    Drive {
        /// Offset in bytes.
        at: u64,
        /// Why.
        source: io::Error,
    },
    /// It gives back something else than it was given.
    #[error(
        "the drive gives back something else than was written, first at {at:#x}. It cannot be trusted: take another one"
    )]
    Differs {
        /// Offset in bytes.
        at: u64,
    },
    /// Somebody changed their mind.
    #[error(
        "writing was given up. The drive is not finished, and what was on it is gone: write it again before using it"
    )]
    GivenUp,
}

/// What stands at the beginning of a drive while it is being written.
pub const UNFINISHED: &[u8] = b"REVISUM BOOT DRIVE, NOT FINISHED: write it again\n";
/// The beginning, written last: without it nothing boots.
const HEAD: u64 = 1 << 20;
/// Bytes written at a time.
const PIECE: u64 = 4 << 20;

/// Writes the image and reads all of it back. With `keep` the room for results stays as it is on the drive. `watch` is told how far it has
/// come and says whether to go on.
///
/// # Errors
/// With what happened, what it means for the drive, and what to do.
pub fn write(
    image: &mut dyn ImageSource,
    drive: &mut dyn DriveMedium,
    keep: bool,
    watch: &mut dyn FnMut(Progress) -> bool,
) -> Result<u64, DriveError> {
    let length = image.bytes();
    if drive.bytes() < length {
        return Err(DriveError::TooSmall { image: bytes_text(length), drive: bytes_text(drive.bytes()) });
    }
    let Content::BootDrive { results } = content_of(&mut |bytes, at| image.read_at(bytes, at)) else {
        return Err(DriveError::NotAnImage);
    };
    let there = content_of(&mut |bytes, at| drive.read_back(bytes, at));
    let kept = match there {
        Content::BootDrive { results: theirs } if keep && theirs == results => Some(results),
        _ if keep => return Err(DriveError::NothingToKeep),
        _ => None,
    };
    let body = pieces(HEAD.min(length)..length, kept.as_ref());
    let head = pieces(0..HEAD.min(length), None);
    let of = body.iter().chain(&head).map(|piece| piece.end - piece.start).sum();
    let mut mark = UNFINISHED.to_vec();
    mark.resize(HEAD.min(length) as usize, 0);
    drive.write_at(&mark, 0).and_then(|()| drive.sync()).map_err(|source| DriveError::Drive { at: 0, source })?;
    let mut job = Job { image, drive, watch, done: 0, of };
    job.each(Stage::Writing, &body, Job::put)?;
    job.drive.sync().map_err(|source| DriveError::Drive { at: 0, source })?;
    job.done = 0;
    job.each(Stage::Verifying, &body, Job::prove)?;
    // Only now does it become something that boots.
    let finished = job.finish(&head);
    if finished.is_err() {
        // What is not proven must not boot. A drive that refuses this too does not have a whole beginning.
        let _ = job.drive.write_at(&mark, 0).and_then(|()| job.drive.sync());
    }
    finished.map(|()| of)
}

/// Compares a drive with an image, all but the room for results; returns the bytes compared.
///
/// # Errors
/// As [`write`]; nothing is written.
pub fn verify(
    image: &mut dyn ImageSource,
    drive: &mut dyn DriveMedium,
    watch: &mut dyn FnMut(Progress) -> bool,
) -> Result<u64, DriveError> {
    let length = image.bytes();
    let Content::BootDrive { results } = content_of(&mut |bytes, at| image.read_at(bytes, at)) else {
        return Err(DriveError::NotAnImage);
    };
    if drive.bytes() < length {
        return Err(DriveError::TooSmall { image: bytes_text(length), drive: bytes_text(drive.bytes()) });
    }
    let all = pieces(0..length, Some(&results));
    let of = all.iter().map(|piece| piece.end - piece.start).sum();
    Job { image, drive, watch, done: 0, of }.each(Stage::Verifying, &all, Job::prove)?;
    Ok(of)
}

/// Cuts a range into pieces, without what is kept.
fn pieces(range: Range<u64>, kept: Option<&Range<u64>>) -> Vec<Range<u64>> {
    let parts = match kept {
        Some(kept) => vec![range.start..kept.start.max(range.start), kept.end.min(range.end)..range.end],
        None => vec![range],
    };
    let cut = |part: Range<u64>| {
        let end = part.end;
        part.step_by(PIECE as usize).map(move |start| start..(start + PIECE).min(end))
    };
    parts.into_iter().flat_map(cut).collect()
}

struct Job<'a> {
    image: &'a mut dyn ImageSource,
    drive: &'a mut dyn DriveMedium,
    watch: &'a mut dyn FnMut(Progress) -> bool,
    done: u64,
    of: u64,
}

impl Job<'_> {
    fn each(
        &mut self,
        stage: Stage,
        pieces: &[Range<u64>],
        one: fn(&mut Self, &[u8], u64) -> Result<(), DriveError>,
    ) -> Result<(), DriveError> {
        for piece in pieces {
            if !(self.watch)(Progress { stage, done: self.done, of: self.of }) {
                return Err(DriveError::GivenUp);
            }
            let mut bytes = vec![0; (piece.end - piece.start) as usize];
            self.image
                .read_at(&mut bytes, piece.start)
                .map_err(|source| DriveError::Image { at: piece.start, source })?;
            one(self, &bytes, piece.start)?;
            self.done += bytes.len() as u64;
        }
        (self.watch)(Progress { stage, done: self.done, of: self.of });
        Ok(())
    }

    /// Writes the beginning and proves it.
    fn finish(&mut self, head: &[Range<u64>]) -> Result<(), DriveError> {
        self.each(Stage::Verifying, head, Job::put)?;
        self.drive.sync().map_err(|source| DriveError::Drive { at: 0, source })?;
        self.done -= head.iter().map(|piece| piece.end - piece.start).sum::<u64>();
        self.each(Stage::Verifying, head, Job::prove)
    }

    fn put(&mut self, bytes: &[u8], at: u64) -> Result<(), DriveError> {
        self.drive.write_at(bytes, at).map_err(|source| DriveError::Drive { at, source })
    }

    fn prove(&mut self, bytes: &[u8], at: u64) -> Result<(), DriveError> {
        let mut back = vec![0; bytes.len()];
        self.drive.read_back(&mut back, at).map_err(|source| DriveError::Drive { at, source })?;
        match bytes.iter().zip(&back).position(|(written, read)| written != read) {
            Some(first) => Err(DriveError::Differs { at: at + first as u64 }),
            None => Ok(()),
        }
    }
}
