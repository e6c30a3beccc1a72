//! Where records go.

use std::io;

/// Where the records of one run go. Nothing counts as kept before `sync` has returned.
pub trait JournalStore: Send {
    /// Adds bytes at the end.
    ///
    /// # Errors
    /// When the medium is full, read-only or gone.
    fn append(&mut self, bytes: &[u8]) -> io::Result<()>;
    /// Returns once everything appended so far survives a power loss.
    ///
    /// # Errors
    /// When the medium cannot promise that.
    fn sync(&mut self) -> io::Result<()>;
}
