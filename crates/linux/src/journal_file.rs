//! A journal on a disk: appended to, synced, and locked while it is being written.

use std::fs::{File, OpenOptions};
use std::io::{self, Write};
use std::path::Path;

use revisum_core::ports::JournalStore;
use rustix::fs::{FlockOperation, flock};

/// An open journal. The lock tells other programs that its run is not over.
pub struct JournalFile {
    file: File,
    len: u64,
}

impl JournalFile {
    /// Creates a new journal.
    ///
    /// # Errors
    /// When it exists already or cannot be created; the folder entry is synced too, so that the file cannot vanish.
    pub fn create(path: &Path) -> io::Result<Self> {
        let file = OpenOptions::new().append(true).create_new(true).open(path)?;
        flock(&file, FlockOperation::NonBlockingLockExclusive)?;
        if let Some(folder) = path.parent() {
            File::open(folder)?.sync_all()?;
        }
        Ok(Self { file, len: 0 })
    }

    /// Opens a journal to add to it, and creates it when there is none. A torn last line is ended first, so that the
    /// next record begins on a line of its own.
    ///
    /// # Errors
    /// When another program is writing to it, or the file cannot be opened.
    pub fn open_to_append(path: &Path) -> io::Result<Self> {
        let mut file = OpenOptions::new().append(true).create(true).open(path)?;
        flock(&file, FlockOperation::NonBlockingLockExclusive)?;
        let bytes = std::fs::read(path)?;
        if bytes.last().is_some_and(|last| *last != b'\n') {
            file.write_all(b"\n")?;
        }
        let len = file.metadata()?.len();
        Ok(Self { file, len })
    }
}

impl JournalStore for JournalFile {
    fn append(&mut self, bytes: &[u8]) -> io::Result<()> {
        if let Err(error) = self.file.write_all(bytes) {
            // Half a record must not stay in the way of the next one. Where even this fails the reader says so.
            let _ = self.file.set_len(self.len);
            return Err(error);
        }
        self.len += bytes.len() as u64;
        Ok(())
    }

    fn sync(&mut self) -> io::Result<()> {
        self.file.sync_data()
    }
}

/// Whether some program is writing to this journal at the moment.
pub fn is_being_written(path: &Path) -> bool {
    let Ok(file) = File::open(path) else { return false };
    flock(&file, FlockOperation::NonBlockingLockShared).is_err()
}
