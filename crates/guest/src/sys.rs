//! The memory of a guest, seen from outside: a file that both have mapped.
#![allow(unsafe_code)]

use std::fs::OpenOptions;
use std::io;
use std::path::Path;
use std::ptr::NonNull;
use std::sync::atomic::{AtomicU64, Ordering};

use rustix::mm::{MapFlags, ProtFlags, mmap, munmap};

/// A file mapped as words that somebody else changes at the same time.
pub struct Shared {
    start: NonNull<u8>,
    len: usize,
}

// SAFETY: every access is an atomic operation on a word.
unsafe impl Send for Shared {}
// SAFETY: as above.
unsafe impl Sync for Shared {}

impl Shared {
    /// Maps a whole file.
    ///
    /// # Errors
    /// When it cannot be opened or mapped.
    pub fn open(file: &Path) -> io::Result<Self> {
        let file = OpenOptions::new().read(true).write(true).open(file)?;
        let len = file.metadata()?.len() as usize;
        // SAFETY: a fresh mapping at an address of the kernel's choice.
        let start =
            unsafe { mmap(std::ptr::null_mut(), len, ProtFlags::READ | ProtFlags::WRITE, MapFlags::SHARED, &file, 0)? };
        let start = NonNull::new(start.cast()).ok_or(io::ErrorKind::OutOfMemory)?;
        Ok(Self { start, len })
    }

    /// The word at this offset.
    pub fn word(&self, offset: u64) -> &AtomicU64 {
        let offset = offset as usize;
        assert!(offset.is_multiple_of(8) && offset + 8 <= self.len);
        // SAFETY: an aligned word within the mapping, which lives as long as `self`; both sides use atomic operations or single stores.
        unsafe { AtomicU64::from_ptr(self.start.as_ptr().add(offset).cast()) }
    }

    /// Forces bits: those of `mask` become what `value` says.
    pub fn force(&self, offset: u64, mask: u64, value: u64) {
        let word = self.word(offset);
        word.fetch_or(mask & value, Ordering::Relaxed);
        word.fetch_and(!(mask & !value), Ordering::Relaxed);
    }
}

impl Drop for Shared {
    fn drop(&mut self) {
        // SAFETY: nobody holds a word any longer than the mapping.
        let _ = unsafe { munmap(self.start.as_ptr().cast(), self.len) };
    }
}
