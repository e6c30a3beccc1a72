//! The loops that touch memory under test: the only unsafe code of this crate.
//!
//! One element over one contiguous span of memory, in pseudocode:
//!
//! ```text
//! for each cache line of the span, ascending or descending:
//!     prefetch a line some way ahead
//!     expected = the background's words for this line
//!     if the element reads:  read the line once; if any word differs from expected, report those words (cold)
//!     if the element writes: store the new words (streaming stores when nothing was read, regular ones otherwise)
//!     if it read and wrote:  put the line a short way behind back into the memory, see [`PutBack`]
//! ```
//!
//! Invariants:
//! * Memory under test is a raw pointer and a length, never a Rust reference. Every load is volatile: with plain loads
//!   the compiler may decide that it knows what it just stored and delete the comparison.
//! * Words are compared in the registers that they were loaded into, so that what is reported is what was read.
//! * [`scalar`] is the oracle: every fast kernel must report the same words and leave the same memory behind.
#![allow(unsafe_code)]

pub mod flush;
pub mod scalar;
pub mod second_look;
pub mod small_blocks;

mod gathered;
mod kernel;
mod line_counts;
mod parts;
mod put_back;
mod vector;

pub use line_counts::LineCounts;
pub use put_back::{BEHIND_LINES, PutBack};

use std::arch::is_x86_feature_detected;

use crate::march::notation::pieces;
use crate::march::{Element, Op, Order};
use crate::path::{HOP_BYTES, Path};
use crate::pattern::WordRule;

/// A contiguous piece of memory under test.
#[derive(Clone, Copy, Debug)]
pub struct Span {
    /// First byte; aligned to eight bytes.
    pub ptr: *mut u8,
    /// Length in bytes; a multiple of eight.
    pub len: usize,
    /// Address of the first word divided by eight, as [`WordRule::word`] takes it.
    pub first_index: u64,
}

/// A 64-bit word that read wrong.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct BadWord {
    /// Distance in bytes from the start of what was swept.
    pub offset: u64,
    /// What should have been there.
    pub expected: u64,
    /// What was read.
    pub actual: u64,
}

/// A cache line with at least one word that read wrong.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct BadLine {
    /// What should have been there.
    pub expected: [u64; LINE / 8],
    /// What was read.
    pub actual: [u64; LINE / 8],
}

impl BadLine {
    /// Its wrong words in the direction of the sweep, where its first word lies at this offset.
    pub fn words(&self, offset: u64, down: bool) -> impl Iterator<Item = BadWord> {
        let line = *self;
        let at = move |step: usize| if down { LINE / 8 - 1 - step } else { step };
        (0..LINE / 8).map(at).filter(move |word| line.expected[*word] != line.actual[*word]).map(move |word| BadWord {
            offset: offset + word as u64 * 8,
            expected: line.expected[word],
            actual: line.actual[word],
        })
    }
}

/// Takes what a sweep found wrong, before the same element overwrites it.
pub trait Mismatches {
    /// One word.
    fn word(&mut self, word: BadWord);
    /// A line whose first word lies so many bytes from the start of what was swept, so that a flood need not be taken word
    /// by word.
    fn line(&mut self, offset: u64, line: &BadLine, down: bool) {
        line.words(offset, down).for_each(|word| self.word(word));
    }
    /// Several such lines in the order of the sweep.
    fn lines(&mut self, offsets: &[u64], lines: &[BadLine], down: bool) {
        offsets.iter().zip(lines).for_each(|(offset, line)| self.line(*offset, line, down));
    }
    /// Whether each line has to be handed over before the element goes on to the next.
    fn at_once(&self) -> bool {
        true
    }
}

impl<F: FnMut(BadWord)> Mismatches for F {
    fn word(&mut self, word: BadWord) {
        self(word);
    }
}

/// One march element together with the background it works on.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct ElementWork {
    /// Which word belongs where.
    pub rule: WordRule,
    /// Descending addresses.
    pub down: bool,
    /// Operations on each word in turn.
    pub ops: Vec<Op>,
    /// In which order the words of a block are visited.
    pub path: Path,
    /// The words here are copies: each was computed from the index of the word so many bytes before it.
    pub moved: u64,
}

impl ElementWork {
    /// The work of a sweeping element; nothing for a wait.
    pub fn of(element: &Element, rule: WordRule) -> Option<Self> {
        match element {
            Element::Idle(_) => None,
            Element::Sweep { order, ops } => {
                Some(Self { rule, down: *order == Order::Down, ops: ops.clone(), path: Path::Linear, moved: 0 })
            }
        }
    }

    /// The same work in the pieces that have to reach the memory one by one.
    pub fn pieces(&self) -> Vec<Self> {
        pieces(&self.ops).into_iter().map(|ops| Self { ops: ops.to_vec(), ..self.clone() }).collect()
    }

    /// True when some operation writes.
    pub fn writes(&self) -> bool {
        self.ops.iter().any(|op| matches!(op, Op::Write { .. }))
    }

    /// When the word at this offset of a block of this length is visited; a smaller number comes first.
    pub fn visited(&self, offset: u64, bytes: u64) -> u64 {
        let hopping = bytes / HOP_BYTES * HOP_BYTES;
        let step = if self.path == Path::RowHopping && offset < hopping {
            let (row, line) = (offset / HOP_BYTES, offset % HOP_BYTES / LINE as u64);
            (line * (hopping / HOP_BYTES) + row) * LINE as u64 + offset % LINE as u64
        } else {
            offset
        };
        if self.down { bytes - 8 - step } else { step }
    }

    /// The other way round: the offset of the line that is visited after so many others.
    pub fn line_at(&self, number: u64, bytes: u64) -> u64 {
        let step = if self.down { (bytes - 1) / LINE as u64 - number } else { number } * LINE as u64;
        let hopping = bytes / HOP_BYTES * HOP_BYTES;
        if self.path == Path::RowHopping && step < hopping {
            let rows = hopping / HOP_BYTES;
            let (line, row) = (step / LINE as u64 / rows, step / LINE as u64 % rows);
            row * HOP_BYTES + line * LINE as u64
        } else {
            step
        }
    }
}

/// Instruction sets that have kernels.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub enum Isa {
    /// 128-bit vectors: every 64-bit PC has them.
    Sse2,
    /// 256-bit vectors.
    Avx2,
    /// 512-bit vectors: a line in one register. Half of the instructions, which counts where two threads
    /// share a core.
    Avx512,
}

impl Isa {
    /// The best of this processor.
    pub fn detect() -> Self {
        match () {
            () if is_x86_feature_detected!("avx512f") => Self::Avx512,
            () if is_x86_feature_detected!("avx2") => Self::Avx2,
            () => Self::Sse2,
        }
    }
}

/// The kernels that suit a processor.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Kernels {
    /// Their instructions.
    pub isa: Isa,
    /// How what they wrote gets back into the memory.
    pub put_back: PutBack,
}

impl Kernels {
    /// The best for this processor.
    pub fn detect() -> Self {
        Self { isa: Isa::detect(), put_back: PutBack::detect() }
    }
}

/// Runs one element over one span with the best kernel and reports every word that read wrong.
///
/// `bad` is told before a word is overwritten by the same element; it may read and rewrite that word.
/// Offsets in reports count from the start of the span.
///
/// # Safety
/// `span` must be valid for reads and writes of `span.len` bytes, aligned to eight bytes, and no Rust reference to it
/// may exist. Other threads may only touch other bytes.
pub unsafe fn sweep(kernels: Kernels, span: Span, work: &ElementWork, bad: &mut dyn Mismatches) {
    // SAFETY: the caller's promise is the same.
    unsafe { parts::sweep(kernels, span, work, bad) };
    if work.writes() {
        flush::fence();
    }
}

/// Bytes in a cache line of every x86 processor this runs on.
pub const LINE: usize = 64;

/// The operation lists that have a fast kernel: `w`, `r`, and `r` then `w`.
#[derive(Clone, Copy)]
struct Shape {
    reads: bool,
    read_inverse: bool,
    writes: bool,
    write_inverse: bool,
}

impl Shape {
    fn of(ops: &[Op]) -> Option<Self> {
        let shape = |read: Option<bool>, write: Option<bool>| Self {
            reads: read.is_some(),
            read_inverse: read.unwrap_or(false),
            writes: write.is_some(),
            write_inverse: write.unwrap_or(false),
        };
        match *ops {
            [Op::Write { inverse }] => Some(shape(None, Some(inverse))),
            [Op::Read { inverse }] => Some(shape(Some(inverse), None)),
            [Op::Read { inverse: read }, Op::Write { inverse: write }] => Some(shape(Some(read), Some(write))),
            _ => None,
        }
    }

    fn read_flip(self) -> u64 {
        flip(self.read_inverse)
    }

    fn write_flip(self) -> u64 {
        flip(self.write_inverse)
    }
}

/// The mask that turns a background word into what an operation means.
pub fn flip(inverse: bool) -> u64 {
    if inverse { u64::MAX } else { 0 }
}

#[cfg(test)]
mod tests;
