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

mod kernel;
mod line_counts;
mod vector;

pub use line_counts::LineCounts;

use crate::catalog::{HOP_BYTES, Path};
use crate::march::notation::pieces;
use crate::march::{Element, Op, Order};
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
}

impl<F: FnMut(BadWord)> Mismatches for F {
    fn word(&mut self, word: BadWord) {
        self(word);
    }
}

/// Passes on what a part of a span found.
struct Shifted<'a> {
    to: &'a mut dyn Mismatches,
    by: u64,
}

impl Mismatches for Shifted<'_> {
    fn word(&mut self, word: BadWord) {
        self.to.word(BadWord { offset: word.offset + self.by, ..word });
    }
    fn line(&mut self, offset: u64, line: &BadLine, down: bool) {
        self.to.line(offset + self.by, line, down);
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

    /// True when the element stores without reading first: such stores bypass the cache.
    pub fn only_writes(&self) -> bool {
        self.ops.iter().all(|op| matches!(op, Op::Write { .. }))
    }
}

/// Instruction sets that have kernels.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Isa {
    /// 128-bit vectors: every 64-bit PC has them.
    Sse2,
    /// 256-bit vectors.
    Avx2,
}

impl Isa {
    /// The best of this processor.
    pub fn detect() -> Self {
        if std::arch::is_x86_feature_detected!("avx2") { Self::Avx2 } else { Self::Sse2 }
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
pub unsafe fn sweep(isa: Isa, span: Span, work: &ElementWork, bad: &mut dyn Mismatches) {
    let Some(shape) = Shape::of(&work.ops) else {
        // SAFETY: the caller's promise is the same.
        return unsafe { scalar::sweep(span, work, bad) };
    };
    if work.path == Path::RowHopping && span.len as u64 >= HOP_BYTES {
        // SAFETY: the caller's promise is the same.
        return unsafe { hop(isa, span, work, bad) };
    }
    match work.rule {
        // A stripe of whole lines is one word all along.
        WordRule::Striped { word, bit } if bit >= WORDS_IN_LINE.trailing_zeros() as u8 => {
            let stripe = 1u64 << bit;
            let mut one = |from: u64, to: u64| {
                let first = span.first_index + from;
                let word = WordRule::Striped { word, bit }.word(first);
                let at = (from as usize) << 3;
                let part = Span {
                    // SAFETY: `from` and `to` are words of the span.
                    ptr: unsafe { span.ptr.add(at) },
                    len: ((to - from) as usize) << 3,
                    first_index: first,
                };
                let work = ElementWork { rule: WordRule::Constant(word), ..work.clone() };
                // SAFETY: a part of the caller's span.
                unsafe { whole(isa, part, &work, shape, &mut Shifted { to: bad, by: at as u64 }) };
            };
            let pieces = stripes(span.first_index, (span.len >> 3) as u64, stripe);
            if work.down {
                pieces.rev().for_each(|(from, to)| one(from, to))
            } else {
                pieces.for_each(|(from, to)| one(from, to))
            }
        }
        // SAFETY: the caller's promise is the same.
        _ => unsafe { whole(isa, span, work, shape, bad) },
    }
}

/// [`sweep`] from row to row, line by line; what is left behind the last whole row follows in order.
///
/// # Safety
/// As for [`sweep`].
unsafe fn hop(isa: Isa, span: Span, work: &ElementWork, bad: &mut dyn Mismatches) {
    let rows = span.len / HOP_BYTES as usize;
    let (lines, whole) = (HOP_BYTES as usize / LINE, rows * HOP_BYTES as usize);
    let linear = ElementWork { path: Path::Linear, ..work.clone() };
    let mut part = |from: usize, len: usize| {
        let part = Span {
            // SAFETY: `from` and `len` lie within the span.
            ptr: unsafe { span.ptr.add(from) },
            len,
            first_index: span.first_index + (from as u64 >> 3),
        };
        // SAFETY: a part of the caller's span.
        unsafe { sweep(isa, part, &linear, &mut Shifted { to: bad, by: from as u64 }) };
    };
    let places = (0..lines * rows).map(|step| step % rows * HOP_BYTES as usize + step / rows * LINE);
    if work.down {
        part(whole, span.len - whole);
        places.rev().for_each(|from| part(from, LINE));
    } else {
        places.for_each(|from| part(from, LINE));
        part(whole, span.len - whole);
    }
}

const WORDS_IN_LINE: usize = LINE / 8;

/// The pieces `(from, to)` of `words` words from `first` on that lie in one stripe each, counted from the first word.
fn stripes(first: u64, words: u64, stripe: u64) -> impl DoubleEndedIterator<Item = (u64, u64)> {
    let (low, high) = (first / stripe, (first + words).div_ceil(stripe));
    (low..if words == 0 { low } else { high }).map(move |at| {
        let (from, to) = ((at * stripe).max(first), ((at + 1) * stripe).min(first + words));
        (from - first, to - first)
    })
}

/// [`sweep`] for a rule that runs through the whole span.
///
/// # Safety
/// As for [`sweep`].
unsafe fn whole(isa: Isa, span: Span, work: &ElementWork, shape: Shape, bad: &mut dyn Mismatches) {
    let head = (span.ptr.align_offset(LINE)).min(span.len);
    let lines = (span.len - head) / LINE;
    let tail_at = head + lines * LINE;
    let (first, last) = if work.down { ((tail_at, span.len), (0, head)) } else { ((0, head), (tail_at, span.len)) };
    // SAFETY: both edges lie within the caller's span.
    unsafe { edge(span, first, work, bad) };
    if lines > 0 {
        let run = kernel::Run {
            // SAFETY: `head` lies within the span.
            ptr: unsafe { span.ptr.add(head) },
            lines,
            first_index: span.first_index + (head as u64 >> 3),
            read_flip: shape.read_flip(),
            write_flip: shape.write_flip(),
        };
        let mut shifted = Shifted { to: &mut *bad, by: head as u64 };
        // Pages begin with a line: usually there is nothing to shift.
        let bad: &mut dyn Mismatches = if head == 0 { &mut *shifted.to } else { &mut shifted };
        // SAFETY: the lines are a part of the caller's span; `isa` comes from detection or is the base.
        unsafe { kernel::dispatch(isa, &run, work.rule, work.down, shape.reads, shape.writes, bad) };
    }
    // SAFETY: as above.
    unsafe { edge(span, last, work, bad) };
}

/// The words before the first and after the last whole cache line.
///
/// # Safety
/// As for [`sweep`]; `from..to` must lie within the span.
unsafe fn edge(span: Span, (from, to): (usize, usize), work: &ElementWork, bad: &mut dyn Mismatches) {
    let part = Span {
        // SAFETY: `from` lies within the span.
        ptr: unsafe { span.ptr.add(from) },
        len: to - from,
        first_index: span.first_index + (from as u64 >> 3),
    };
    let mut shifted = Shifted { to: bad, by: from as u64 };
    // SAFETY: a part of the caller's span.
    unsafe { scalar::sweep(part, work, &mut shifted) };
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
