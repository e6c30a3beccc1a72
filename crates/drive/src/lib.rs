//! Writing the boot drive: so that a drive that was not finished is known as such, and one that does not keep what it was given is found out.

mod content;
mod drives;
mod image;
mod network;
mod settings;
#[cfg(test)]
mod tests;

use std::collections::BTreeMap;
use std::io;
use std::ops::Range;

use thiserror::Error;

pub use content::{Content, content_of};
pub use drives::{Drive, Drives};
pub use image::ImageSource;
pub use network::network_files;
pub use revisum_seal::{SEAL_AT, Seal, settings_at};
pub use settings::{
    Begin, DriveSettings, KEYBOARDS, NUMBERS, SETTINGS_BYTES, SETTINGS_FILE, SETTINGS_MARK, SettingsError, Text, Where,
};

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
    /// The image is read, and its checksum compared with the one that it carries.
    Checking,
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
    /// It does not say how long it is.
    #[error(
        "this image carries no checksum: an older program made it, or it was damaged. Nothing was written: make the image again"
    )]
    NoSeal,
    /// It is not as it was made.
    #[error(
        "this image is not whole: it was cut short or damaged after it was made. Nothing was written: copy it again, or make it again"
    )]
    ImageDamaged,
    /// It became another one while it was written.
    #[error(
        "the image changed while it was being written, first noticed at {at:#x}. The drive is not finished, and not to blame: write it again from \
         an image that nobody changes"
    )]
    ImageChanged {
        /// Offset in bytes.
        at: u64,
    },
    /// The drive that is compared was not finished.
    #[error("the writing of this drive broke off: it is not finished. The drive is not to blame: write it again")]
    Unfinished,
    /// The drive that is compared holds something else.
    #[error(
        "this drive holds another image than this one, or none: there is nothing to compare. Write it, or name the image that it was written from"
    )]
    OtherImage,
    /// The drive that is compared is not as it was written.
    #[error(
        "the drive differs from the image, first at {at:#x}: something wrote to it since, or it does not keep what it is given. Write it again; \
         if it differs again, take another drive"
    )]
    NotAsWritten {
        /// Offset in bytes.
        at: u64,
    },
    /// The drive has no room for results to be kept.
    #[error("this drive has no results to keep: it is no boot drive, or one of another layout. Nothing was written")]
    NothingToKeep,
    /// The image has no place for settings.
    #[error("this image has no room for settings: an older program made it. Nothing was written: make the image again")]
    NoSettings,
    /// Settings lie beside the results.
    #[error(
        "settings lie beside the results, and those were to be kept. Nothing was written: change settings.toml on the drive with a text editor"
    )]
    SettingsKept,
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
    /// Somebody changed their mind before anything was written.
    #[error("given up. Nothing was written")]
    GivenUpBefore,
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
    write_with(image, drive, keep, None, watch)
}

/// The same; `settings` says how the drive is to start.
///
/// # Errors
/// As [`write`], and when the image has no room for settings, or they are kept with the results.
pub fn write_with(
    image: &mut dyn ImageSource,
    drive: &mut dyn DriveMedium,
    keep: bool,
    settings: Option<&[u8]>,
    watch: &mut dyn FnMut(Progress) -> bool,
) -> Result<u64, DriveError> {
    let over = settings.map(|settings| placed(image, settings, keep)).transpose()?;
    let length = image.bytes();
    if drive.bytes() < length {
        return Err(DriveError::TooSmall { image: bytes_text(length), drive: bytes_text(drive.bytes()) });
    }
    let Content::BootDrive { results } = content_of(&mut |bytes, at| image.read_at(bytes, at)) else {
        return Err(DriveError::NotAnImage);
    };
    let seal = sound(image, watch)?;
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
    let mut job = Job { image, drive, watch, done: 0, of, written: BTreeMap::new(), over };
    job.each(Stage::Writing, &body, Job::put)?;
    job.drive.sync().map_err(|source| DriveError::Drive { at: 0, source })?;
    job.done = 0;
    job.each(Stage::Verifying, &body, Job::prove)?;
    // Only now does it become something that boots.
    let finished = job.finish(&head).and_then(|()| match sound(job.image, &mut |_| true) {
        // All of it came from the one image that was checked, its beginning too.
        Ok(now) if now == seal => Ok(()),
        _ => Err(DriveError::ImageChanged { at: 0 }),
    });
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
    if content_of(&mut |bytes, at| drive.read_back(bytes, at)) == Content::Unfinished {
        return Err(DriveError::Unfinished);
    }
    let seal = sound(image, watch)?;
    if Seal::read(&mut |bytes, at| drive.read_back(bytes, at)) != Some(seal) {
        return Err(DriveError::OtherImage);
    }
    let all = pieces(0..length, Some(&results));
    let of = all.iter().map(|piece| piece.end - piece.start).sum();
    let compared = Job { image, drive, watch, done: 0, of, written: BTreeMap::new(), over: None }.each(
        Stage::Verifying,
        &all,
        Job::prove,
    );
    match compared {
        Err(DriveError::Differs { at }) => Err(DriveError::NotAsWritten { at }),
        compared => compared.map(|()| of),
    }
}

/// The seal of an image that is as it was made.
fn sound(image: &mut dyn ImageSource, watch: &mut dyn FnMut(Progress) -> bool) -> Result<Seal, DriveError> {
    let of = image.bytes();
    let said = Seal::read(&mut |bytes, at| image.read_at(bytes, at)).ok_or(DriveError::NoSeal)?;
    if said.bytes != of {
        return Err(DriveError::ImageDamaged);
    }
    let mut at = 0;
    let found = Seal::of(of, &mut |bytes, at| image.read_at(bytes, at), &mut |done| {
        at = done;
        watch(Progress { stage: Stage::Checking, done, of })
    });
    match found.map_err(|source| DriveError::Image { at, source })? {
        None => Err(DriveError::GivenUpBefore),
        Some(found) if found != said => Err(DriveError::ImageDamaged),
        Some(found) => Ok(found),
    }
}

/// Where in the image settings lie, with what is written there.
fn placed(image: &mut dyn ImageSource, settings: &[u8], keep: bool) -> Result<(u64, Vec<u8>), DriveError> {
    if keep {
        return Err(DriveError::SettingsKept);
    }
    let at = settings_at(&mut |bytes, at| image.read_at(bytes, at)).ok_or(DriveError::NoSettings)?;
    let mut mark = vec![0; SETTINGS_MARK.len()];
    image.read_at(&mut mark, at).map_err(|source| DriveError::Image { at, source })?;
    if mark != SETTINGS_MARK.as_bytes() || settings.len() != SETTINGS_BYTES {
        return Err(DriveError::NoSettings);
    }
    Ok((at, settings.to_vec()))
}

/// Lays bytes over a piece, as far as they touch it.
fn lay_over(piece: &mut [u8], start: u64, over: &[u8], at: u64) {
    for (offset, byte) in (at..).zip(over) {
        if let Some(place) = offset.checked_sub(start).and_then(|place| piece.get_mut(usize::try_from(place).ok()?)) {
            *place = *byte;
        }
    }
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
    /// Checksums of what was written, by where.
    written: BTreeMap<u64, u32>,
    /// What is written instead of what the image has there.
    over: Option<(u64, Vec<u8>)>,
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
            if let Some((at, over)) = &self.over {
                lay_over(&mut bytes, piece.start, over, *at);
            }
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
        self.written.insert(at, crc32c::crc32c(bytes));
        self.drive.write_at(bytes, at).map_err(|source| DriveError::Drive { at, source })
    }

    fn prove(&mut self, bytes: &[u8], at: u64) -> Result<(), DriveError> {
        // An image that is another one by now says nothing of the drive.
        if self.written.get(&at).is_some_and(|sum| *sum != crc32c::crc32c(bytes)) {
            return Err(DriveError::ImageChanged { at });
        }
        let mut back = vec![0; bytes.len()];
        self.drive.read_back(&mut back, at).map_err(|source| DriveError::Drive { at, source })?;
        if bytes == back {
            return Ok(());
        }
        match bytes.iter().zip(&back).position(|(written, read)| written != read) {
            Some(first) => Err(DriveError::Differs { at: at + first as u64 }),
            None => Ok(()),
        }
    }
}
