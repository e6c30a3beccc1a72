//! A file on a drive, written at places and read back from the drive itself.

use std::fs::{File, OpenOptions};
use std::io;
use std::os::unix::fs::{FileExt, MetadataExt, OpenOptionsExt};
use std::path::Path;

use rustix::fs::{Advice, FallocateFlags, fadvise, fallocate};

/// Where the bytes of one file go.
pub(crate) trait Medium: Send {
    /// Writes all bytes at a place.
    fn write_at(&mut self, bytes: &[u8], at: u64) -> io::Result<()>;
    /// Cuts off what stands behind.
    fn set_len(&mut self, len: u64) -> io::Result<()>;
    /// Returns once everything survives a power loss.
    fn sync(&mut self) -> io::Result<()>;
    /// Reads what the drive holds, not what the page cache holds of it, as far as the file system lets it.
    fn read_back(&mut self, at: u64, length: usize) -> io::Result<Vec<u8>>;
    /// Refuses a file that was taken away: what is written to it goes nowhere.
    fn is_there(&self) -> io::Result<()> {
        Ok(())
    }
    /// Sets space aside up to a length, without making the file longer; as far as the file system can.
    fn set_aside(&mut self, _up_to: u64) {}
}

/// What direct reads must be aligned to on any drive.
const ALIGNED: u64 = 4096;

/// A real file.
pub(crate) struct FileMedium {
    file: File,
    /// Past the page cache; nothing on file systems without that.
    direct: Option<File>,
}

impl FileMedium {
    pub(crate) fn new(file: File, path: &Path) -> Self {
        let direct = OpenOptions::new().read(true).custom_flags(libc::O_DIRECT).open(path).ok();
        Self { file, direct }
    }

    /// The pages that hold these bytes, read by the drive into memory that it can write to; nothing where the file system reads only through its
    /// cache.
    fn read_direct(&self, at: u64, length: usize) -> Option<io::Result<Vec<u8>>> {
        let direct = self.direct.as_ref()?;
        let begin = at / ALIGNED * ALIGNED;
        let size = ((at - begin) as usize + length).next_multiple_of(ALIGNED as usize);
        let mut memory = vec![0u8; size + ALIGNED as usize];
        let shift = memory.as_ptr().align_offset(ALIGNED as usize);
        let pages = memory.get_mut(shift..shift + size)?;
        let mut read = 0;
        while read < size {
            match direct.read_at(&mut pages[read..], begin + read as u64) {
                Ok(0) => break,
                // The last piece of a file ends where the file ends.
                Ok(count) if count % ALIGNED as usize != 0 => {
                    read += count;
                    break;
                }
                Ok(count) => read += count,
                Err(error) if error.kind() == io::ErrorKind::InvalidInput => return None,
                // What a cache still holds of a drive that was pulled proves nothing.
                Err(error) => return Some(Err(error)),
            }
        }
        let skip = (at - begin) as usize;
        Some(Ok(pages.get(skip..read.min(skip + length)).unwrap_or_default().to_vec()))
    }
}

impl Medium for FileMedium {
    fn write_at(&mut self, bytes: &[u8], at: u64) -> io::Result<()> {
        self.file.write_all_at(bytes, at)
    }

    fn set_len(&mut self, len: u64) -> io::Result<()> {
        self.file.set_len(len)
    }

    fn sync(&mut self) -> io::Result<()> {
        self.file.sync_data()
    }

    fn read_back(&mut self, at: u64, length: usize) -> io::Result<Vec<u8>> {
        if let Some(read) = self.read_direct(at, length) {
            return read;
        }
        let _ = fadvise(&self.file, at, std::num::NonZero::new(length as u64), Advice::DontNeed);
        let mut bytes = vec![0; length];
        self.file.read_exact_at(&mut bytes, at)?;
        Ok(bytes)
    }

    fn is_there(&self) -> io::Result<()> {
        match self.file.metadata()?.nlink() {
            0 => Err(io::Error::new(io::ErrorKind::NotFound, "the file of the record was taken away")),
            _ => Ok(()),
        }
    }

    fn set_aside(&mut self, up_to: u64) {
        // Where there is no room the next write says so; some file systems cannot do it at all.
        let _ = fallocate(&self.file, FallocateFlags::KEEP_SIZE, 0, up_to);
    }
}
