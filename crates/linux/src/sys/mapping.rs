//! Memory under test: mapped, locked, and only ever handed out as a pointer and a length.

use std::fs::File;
use std::io;
use std::ptr::NonNull;

use revisum_engine::speed::{Work, loops};
use revisum_engine::sweep::second_look::FlushedWord;
use revisum_engine::sweep::{ElementWork, Kernels, Mismatches, Span, flush, sweep};
use rustix::io::Errno;
use rustix::mm::{
    Advice, MapFlags, MremapFlags, ProtFlags, madvise, mlock, mmap, mmap_anonymous, mremap_fixed, munmap,
};

use super::pagemap::PAGE;

/// Pages of 2 MiB where the system gives them.
pub(crate) const HUGE: usize = 2 << 20;

/// An anonymous mapping, aligned to [`HUGE`], private to this process.
pub(crate) struct Mapping {
    whole: NonNull<u8>,
    whole_len: usize,
    start: NonNull<u8>,
    len: usize,
}

// SAFETY: the mapping is plain memory; whoever uses its pointer promises in the sweeps to keep to disjoint bytes.
unsafe impl Send for Mapping {}
// SAFETY: as above; the struct itself is never changed after it was built.
unsafe impl Sync for Mapping {}

impl Mapping {
    /// Reserves address space; no memory is taken yet.
    pub fn reserve(len: usize) -> Result<Self, Errno> {
        let whole_len = len + HUGE;
        // SAFETY: a fresh mapping at an address of the kernel's choice touches nothing that exists.
        let whole = unsafe {
            mmap_anonymous(
                std::ptr::null_mut(),
                whole_len,
                ProtFlags::READ | ProtFlags::WRITE,
                MapFlags::PRIVATE | MapFlags::NORESERVE,
            )?
        };
        let whole = NonNull::new(whole.cast::<u8>()).ok_or(Errno::NOMEM)?;
        let skip = whole.as_ptr().align_offset(HUGE);
        // SAFETY: the mapping is longer than asked for by one huge page, so the aligned start lies within it.
        let start = unsafe { whole.add(skip) };
        let mapping = Self { whole, whole_len, start, len };
        // SAFETY: advice about our own mapping. Both are wishes: where the system does not know them, smaller pages
        // serve as well and a crash file gets larger.
        unsafe {
            let _ = madvise(mapping.start.as_ptr().cast(), len, Advice::LinuxHugepage);
            let _ = madvise(mapping.start.as_ptr().cast(), len, Advice::LinuxDontDump);
        }
        Ok(mapping)
    }

    /// Memory by its physical address, or a part of a file by its offset; both in whole pages. What is written there is shared.
    pub fn of_device(device: &File, offset: u64, len: usize) -> io::Result<Self> {
        // SAFETY: a fresh mapping at an address of the kernel's choice; the kernel gives only memory that it does not use itself.
        let whole = unsafe {
            mmap(std::ptr::null_mut(), len, ProtFlags::READ | ProtFlags::WRITE, MapFlags::SHARED, device, offset)?
        };
        let whole = NonNull::new(whole.cast::<u8>()).ok_or(Errno::NOMEM)?;
        Ok(Self { whole, whole_len: len, start: whole, len })
    }

    /// Takes memory for a part of the mapping and locks it. Several threads may do so for different parts: most of the
    /// time goes into clearing pages.
    pub fn populate(&self, offset: usize, len: usize) -> Result<(), Errno> {
        assert!(offset + len <= self.len);
        // SAFETY: within the mapping; brings the pages in and changes no data. Kernels before 5.14 do not know this
        // advice: locking then does all of it.
        let _ = unsafe { madvise(self.start.as_ptr().add(offset).cast(), len, Advice::LinuxPopulateWrite) };
        // SAFETY: within the mapping; locking brings the pages in and changes no data.
        unsafe { mlock(self.start.as_ptr().add(offset).cast(), len) }
    }

    /// Gives everything from `len` on back to the system for good.
    pub fn shorten(&mut self, len: usize) {
        assert!(len <= self.len && len.is_multiple_of(HUGE));
        let kept = self.start.as_ptr() as usize + len - self.whole.as_ptr() as usize;
        // SAFETY: the end of our own mapping, which nothing points into any more: from here on it ends at `len`, so that
        // whatever the system puts in its place later is not taken for ours.
        if unsafe { munmap(self.start.as_ptr().add(len).cast(), self.whole_len - kept) }.is_ok() {
            (self.len, self.whole_len) = (len, kept);
        }
    }

    /// Moves a page, with the memory that it lies in, to a place of another mapping; an empty one stays in its place. Nobody may use either.
    ///
    /// # Errors
    /// When the kernel does not do so: `mremap(2)` does from 5.7 on.
    pub fn move_page(&self, from: usize, other: &Self, to: usize) -> Result<(), Errno> {
        let page = PAGE as usize;
        let whole = |at: usize, len: usize| at.is_multiple_of(page) && at + page <= len;
        assert!(whole(from, self.len) && whole(to, other.len));
        let flags = MremapFlags::MAYMOVE | MremapFlags::DONTUNMAP;
        // SAFETY: one page of our own mapping goes into the place of one page of our own mapping; neither holds Rust objects, and both
        // stay mapped.
        let moved = unsafe {
            let target = other.start.as_ptr().add(to).cast();
            mremap_fixed(self.start.as_ptr().add(from).cast(), page, page, flags, target)
        };
        moved.map(drop)
    }

    /// Runs one element over a part and tells `bad` what reads wrong, offsets counted from the part. Workers must be given
    /// disjoint parts.
    pub fn sweep(
        &self,
        kernels: Kernels,
        (offset, len, first_index): (usize, usize, u64),
        work: &ElementWork,
        bad: &mut dyn Mismatches,
    ) {
        assert!(offset + len <= self.len);
        let ptr = self.start.as_ptr().wrapping_add(offset);
        // SAFETY: within the mapping, which lives as long as `self`; no Rust reference to it ever exists.
        unsafe { sweep(kernels, Span { ptr, len, first_index }, work, bad) };
    }

    /// Copies a part to a part of this mapping or another one; the two must not overlap, and no worker may use either meanwhile.
    pub fn copy_to(&self, from: usize, other: &Self, to: usize, len: usize) {
        let same = self.start == other.start;
        assert!(from + len <= self.len && to + len <= other.len && (!same || from.abs_diff(to) >= len));
        // SAFETY: each part lies within its mapping, and they do not overlap: two mappings never show the same memory.
        unsafe { self.start.as_ptr().add(from).copy_to_nonoverlapping(other.start.as_ptr().add(to), len) };
    }

    /// Goes over a part with a loop that is timed, and returns the bytes moved. Workers must be given disjoint parts.
    pub fn go_over(&self, work: &Work, offset: usize, len: usize, passes: u64) -> u64 {
        assert!(offset + len <= self.len);
        // SAFETY: within the mapping, which lives as long as `self`; no Rust reference to it ever exists. The loop looks at widths and sizes.
        unsafe { loops::go_over(work, self.start.as_ptr().add(offset), len, passes) }
    }

    /// Lays a chain of so many links through a part. Workers must be given disjoint parts.
    pub fn lay_chain(&self, offset: usize, len: usize, links: usize, seed: u64) -> Chain<'_> {
        assert!(offset + len <= self.len);
        // SAFETY: as above.
        let at = unsafe { loops::lay_chain(self.start.as_ptr().add(offset), len, links, seed) };
        Chain { at, _mapping: self }
    }

    /// Puts the cache lines of a part back into memory, in the direction of the sweep before it.
    pub fn flush(&self, offset: usize, len: usize, down: bool) {
        assert!(offset + len <= self.len);
        // SAFETY: within the mapping; flushing changes no data.
        unsafe { flush::flush(self.start.as_ptr().add(offset), len, down) };
    }

    /// Reads the first word of a cache line. Nobody waits for it: the next line can be asked for before it is there.
    #[inline]
    pub fn read_line(&self, offset: usize) {
        assert!(offset + 8 <= self.len && offset.is_multiple_of(8));
        // SAFETY: an aligned word within the mapping, which lives as long as `self`; the value is of no interest, reading it is.
        let _ = unsafe { self.start.as_ptr().add(offset).cast::<u64>().read_volatile() };
    }

    /// One aligned word, reached past the caches; only for the worker that sweeps it, or while none does.
    pub fn word(&self, offset: usize) -> FlushedWord {
        assert!(offset + 8 <= self.len && offset.is_multiple_of(8));
        // SAFETY: an aligned word within the mapping.
        unsafe { FlushedWord::new(self.start.as_ptr().add(offset).cast()) }
    }

    /// Gives one page back and takes another in its place, as the kernel does when it moves one; `between` uses up the one
    /// given back. For tests.
    #[cfg(test)]
    pub fn exchange(&self, offset: usize, len: usize, between: impl FnOnce()) -> Result<(), Errno> {
        assert!(offset + len <= self.len);
        // SAFETY: within the mapping; the contents are lost, which memory under test can bear.
        unsafe {
            let at = self.start.as_ptr().add(offset).cast();
            rustix::mm::munlock(at, len)?;
            madvise(at, len, Advice::LinuxDontNeed)?;
            between();
            mlock(at, len)
        }
    }

    /// Length in bytes.
    pub fn len(&self) -> usize {
        self.len
    }

    /// First byte.
    pub fn ptr(&self) -> *mut u8 {
        self.start.as_ptr()
    }
}

/// A chain of pointers that lies in a mapping. Whoever writes there meanwhile breaks it.
pub(crate) struct Chain<'a> {
    at: *mut u8,
    _mapping: &'a Mapping,
}

impl Chain<'_> {
    /// Follows it for so many loads, a multiple of eight.
    pub fn follow(&mut self, loads: u64) {
        // SAFETY: the chain was laid in a mapping that lives as long as `self`, and every pointer in it leads to the next.
        self.at = unsafe { loops::follow(self.at, loads) };
    }
}

impl Drop for Mapping {
    fn drop(&mut self) {
        // SAFETY: nobody holds the pointer any longer than the mapping.
        let _ = unsafe { munmap(self.whole.as_ptr().cast(), self.whole_len) };
    }
}
