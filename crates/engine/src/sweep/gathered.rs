//! Lines that read wrong, on their way from a sweep to whoever takes them: several at a time where nobody looks at each of them again. Handed over
//! one by one, the way would cost a flood more than the counting.

use std::mem::MaybeUninit;

use super::{BadLine, LINE, Mismatches};

/// Lines that are handed over together.
const MOST: usize = 8;

/// Lines in the order in which they were swept, and how far the first word of each lies from the start of what was swept.
pub(super) struct Gathered {
    lines: [MaybeUninit<BadLine>; MOST],
    offsets: [MaybeUninit<u64>; MOST],
    filled: usize,
    /// So many are waited for.
    wanted: usize,
}

impl Gathered {
    /// None yet, for whoever takes them.
    #[inline(always)]
    pub fn new(bad: &dyn Mismatches) -> Self {
        let (lines, offsets) = ([const { MaybeUninit::uninit() }; MOST], [const { MaybeUninit::uninit() }; MOST]);
        Self { lines, offsets, filled: 0, wanted: wanted(bad) }
    }

    /// Where the words of the next line go: those that should have been there and those that were read, a line of each.
    #[inline(always)]
    pub fn next(&mut self) -> (*mut u64, *mut u64) {
        let line = self.lines[self.filled % MOST].as_mut_ptr();
        // SAFETY: places within the line, which need not be filled for that.
        unsafe { ((&raw mut (*line).expected).cast(), (&raw mut (*line).actual).cast()) }
    }

    /// The next line was filled, and lies there.
    ///
    /// # Safety
    /// Both places of [`Self::next`] were filled since the last call.
    #[inline(always)]
    pub unsafe fn push(&mut self, offset: u64, down: bool, bad: &mut dyn Mismatches) {
        self.offsets[self.filled % MOST].write(offset);
        self.filled += 1;
        if self.filled >= self.wanted {
            self.hand_over(down, bad);
        }
    }

    /// Hands over what is left.
    #[inline(always)]
    pub fn finish(&mut self, down: bool, bad: &mut dyn Mismatches) {
        if self.filled > 0 {
            self.hand_over(down, bad);
        }
    }

    #[cold]
    #[inline(never)]
    fn hand_over(&mut self, down: bool, bad: &mut dyn Mismatches) {
        let filled = self.filled.min(MOST);
        // SAFETY: so many were filled, in order.
        let (lines, offsets) =
            unsafe { (self.lines[..filled].assume_init_ref(), self.offsets[..filled].assume_init_ref()) };
        bad.lines(offsets, lines, down);
        (self.filled, self.wanted) = (0, wanted(bad));
    }
}

fn wanted(bad: &dyn Mismatches) -> usize {
    if bad.at_once() { 1 } else { MOST }
}

// Lines lie side by side: each half is as long as a cache line.
const _: () = assert!(size_of::<BadLine>() == 2 * LINE);
