//! Physical addresses of this process's pages (`Documentation/admin-guide/mm/pagemap.rst` of the kernel).

use std::fs::File;
use std::io;
use std::os::unix::fs::FileExt;

/// Bytes in the pages that the page map counts.
pub(crate) const PAGE: u64 = 4096;
/// Entries read at a time: few system calls, and no memory in proportion to what is mapped.
const ENTRIES: usize = 64 << 10;
const PRESENT: u64 = 1 << 63;
const FRAME: u64 = (1 << 55) - 1;

/// This process's page map.
pub(crate) struct PageMap {
    file: File,
}

impl PageMap {
    /// Opens the page map of this process.
    pub fn open() -> io::Result<Self> {
        File::open("/proc/self/pagemap").map(|file| Self { file })
    }

    /// Calls `each` with the page's number from the start of the range and its physical address; nothing where the page
    /// is absent or the address is hidden from us.
    pub fn walk(&self, ptr: *mut u8, len: usize, mut each: impl FnMut(u64, Option<u64>)) -> io::Result<()> {
        let pages = len as u64 / PAGE;
        let first = ptr as u64 / PAGE;
        let mut buffer = vec![0u8; ENTRIES * 8];
        let mut page = 0;
        while page < pages {
            let count = ENTRIES.min((pages - page) as usize);
            let piece = &mut buffer[..count * 8];
            self.file.read_exact_at(piece, (first + page) * 8)?;
            for entry in piece.as_chunks::<8>().0 {
                let entry = u64::from_ne_bytes(*entry);
                let frame = entry & FRAME;
                each(page, (entry & PRESENT != 0 && frame != 0).then_some(frame * PAGE));
                page += 1;
            }
        }
        Ok(())
    }
}
