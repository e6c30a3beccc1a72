//! A page in which a device shows its registers: read word by word, never written.

use std::fs::{File, OpenOptions};
use std::io;
use std::os::unix::fs::OpenOptionsExt;
use std::ptr::NonNull;

use rustix::mm::{MapFlags, ProtFlags, mmap, munmap};

use super::pagemap::PAGE;

/// The device that gives physical memory.
const DEVICE: &str = "/dev/mem";

/// One mapped page.
pub(crate) struct RegisterPage {
    start: NonNull<u32>,
}

impl RegisterPage {
    /// Maps the page that holds a physical address, for reading, past the caches.
    pub fn open(address: u64) -> io::Result<Self> {
        let device = OpenOptions::new().read(true).custom_flags(libc::O_SYNC).open(DEVICE)?;
        Self::of(&device, address / PAGE * PAGE)
    }

    fn of(device: &File, start: u64) -> io::Result<Self> {
        // SAFETY: a fresh mapping at an address of the kernel's choice; it can only be read.
        let start =
            unsafe { mmap(std::ptr::null_mut(), PAGE as usize, ProtFlags::READ, MapFlags::SHARED, device, start)? };
        NonNull::new(start.cast::<u32>()).map(|start| Self { start }).ok_or_else(|| io::ErrorKind::OutOfMemory.into())
    }

    /// The word at this offset in the page; nothing outside of it or between two words.
    pub fn word(&self, offset: u64) -> Option<u32> {
        let inside = offset < PAGE && offset.is_multiple_of(4);
        // SAFETY: within the page that is mapped as long as `self` lives, and aligned; a register can change at any time, which a volatile read allows.
        inside.then(|| unsafe { self.start.as_ptr().add(offset as usize / 4).read_volatile() })
    }
}

impl Drop for RegisterPage {
    fn drop(&mut self) {
        // SAFETY: our own mapping, which nothing points into any more.
        let _ = unsafe { munmap(self.start.as_ptr().cast(), PAGE as usize) };
    }
}

#[cfg(test)]
mod tests {
    use std::io::Write as _;

    use super::*;

    #[test]
    fn words_of_a_page_are_read() {
        let mut file = tempfile::tempfile().unwrap();
        let words = (0..PAGE as u32 / 2).flat_map(u32::to_le_bytes).collect::<Vec<u8>>();
        file.write_all(&words).unwrap();
        let page = RegisterPage::of(&file, PAGE).unwrap();
        let first = PAGE as u32 / 4;
        assert_eq!([0, 4, PAGE - 4].map(|at| page.word(at)), [Some(first), Some(first + 1), Some(2 * first - 1)]);
        assert_eq!([2, PAGE].map(|at| page.word(at)), [None, None]);
    }
}
