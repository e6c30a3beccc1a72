//! One element over one span, cut into what the kernels go over in one go: blocks and their pieces, rows, stripes, and the
//! words at the edges.

use super::flush::{self, fence};
use super::small_blocks::{BLOCK_LINES, FETCHED_AHEAD_LINES};
use super::{BadLine, BadWord, ElementWork, Kernels, LINE, Mismatches, Shape, Span, kernel, scalar};
use crate::march::Op;
use crate::path::{HOP_BYTES, Path};
use crate::pattern::WordRule;

/// So many hops ahead lines are fetched, in the order of the hops. More would push each other out: all of them share a few sets of the caches.
const HOPS_AHEAD: usize = 8;

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
    fn at_once(&self) -> bool {
        self.to.at_once()
    }
}

impl Span {
    /// A part of it.
    ///
    /// # Safety
    /// `from + len` lies within the span.
    unsafe fn part(self, from: usize, len: usize) -> Self {
        Self {
            // SAFETY: the caller's promise.
            ptr: unsafe { self.ptr.add(from) },
            len,
            first_index: self.first_index.wrapping_add(from as u64 >> 3),
        }
    }
}

/// How the kernels go over a part.
#[derive(Clone, Copy)]
struct How {
    kernels: Kernels,
    /// What lies behind the part is swept next and may be fetched already.
    fetches_on: bool,
}

/// [`super::sweep`] that does not wait until what it wrote has left the processor.
///
/// # Safety
/// As for [`super::sweep`].
pub(super) unsafe fn sweep(kernels: Kernels, span: Span, work: &ElementWork, bad: &mut dyn Mismatches) {
    let pieces = work.pieces();
    let hopping = work.path == Path::RowHopping && span.len as u64 >= HOP_BYTES;
    // SAFETY: the caller's promise is the same.
    unsafe {
        match (hopping, &pieces[..]) {
            (true, _) => hop(kernels, span, work, &pieces, bad),
            (false, [piece]) => one_piece(How { kernels, fetches_on: true }, span, piece, bad),
            (false, _) => blocks(kernels, span, work.down, &pieces, bad),
        }
    }
}

/// Block by block, and each block piece by piece.
///
/// # Safety
/// As for [`super::sweep`].
unsafe fn blocks(kernels: Kernels, span: Span, down: bool, pieces: &[ElementWork], bad: &mut dyn Mismatches) {
    const BLOCK: usize = BLOCK_LINES * LINE;
    const AHEAD: usize = FETCHED_AHEAD_LINES * LINE;
    for step in 0..span.len.div_ceil(BLOCK) {
        let len = BLOCK.min(span.len - step * BLOCK);
        let from = if down { span.len - step * BLOCK - len } else { step * BLOCK };
        // SAFETY: blocks lie within the span.
        let block = unsafe { span.part(from, len) };
        for piece in pieces {
            let mut shifted = Shifted { to: &mut *bad, by: from as u64 };
            // SAFETY: a part of the caller's span.
            unsafe {
                one_piece(How { kernels, fetches_on: false }, block, piece, &mut shifted);
                if !piece.writes() {
                    flush::drop_lines(block.ptr, len);
                }
            }
            fence();
        }
        // The processor may have fetched the beginning of the next block before this one was done.
        let ahead =
            if down { from.saturating_sub(AHEAD)..from } else { from + len..(from + len + AHEAD).min(span.len) };
        // SAFETY: within the span.
        unsafe { flush::drop_lines(span.ptr.add(ahead.start), ahead.len()) };
    }
}

/// From row to row, line by line; what is left behind the last whole row follows in order.
///
/// # Safety
/// As for [`super::sweep`].
unsafe fn hop(kernels: Kernels, span: Span, work: &ElementWork, pieces: &[ElementWork], bad: &mut dyn Mismatches) {
    let rows = span.len / HOP_BYTES as usize;
    let (lines, whole) = (HOP_BYTES as usize / LINE, rows * HOP_BYTES as usize);
    let linear = ElementWork { path: Path::Linear, ..work.clone() };
    let rest = |bad: &mut dyn Mismatches| {
        // SAFETY: what is left of the caller's span.
        unsafe {
            sweep(kernels, span.part(whole, span.len - whole), &linear, &mut Shifted { to: bad, by: whole as u64 })
        };
    };
    let place = |step: usize| step % rows * HOP_BYTES as usize + step / rows * LINE;
    let steps = lines * rows;
    if work.down {
        rest(bad);
    }
    let visited = |step: usize| place(if work.down { steps - 1 - step } else { step });
    let reads = work.ops.iter().any(|op| matches!(op, Op::Read { .. }));
    let fetches = reads && pieces.len() == 1;
    let at_once = if pieces.len() > 1 { BLOCK_LINES } else { steps };
    for first in (0..steps).step_by(at_once) {
        let block = first..(first + at_once).min(steps);
        for piece in pieces {
            for step in block.clone() {
                let from = visited(step);
                if fetches && step + HOPS_AHEAD < steps {
                    // SAFETY: a line of the caller's span.
                    unsafe { flush::fetch(span.ptr.add(visited(step + HOPS_AHEAD))) };
                }
                // SAFETY: a line of the caller's span.
                unsafe {
                    let line = span.part(from, LINE);
                    // What follows in memory is visited much later: fetched now, it would be read from the cache then.
                    one_piece(
                        How { kernels, fetches_on: false },
                        line,
                        piece,
                        &mut Shifted { to: &mut *bad, by: from as u64 },
                    );
                    if pieces.len() > 1 && !piece.writes() {
                        flush::drop_lines(line.ptr, LINE);
                    }
                }
            }
            if pieces.len() > 1 {
                fence();
            }
        }
    }
    if !work.down {
        rest(bad);
    }
}

/// One piece over a contiguous span.
///
/// # Safety
/// As for [`super::sweep`].
unsafe fn one_piece(how: How, span: Span, work: &ElementWork, bad: &mut dyn Mismatches) {
    let Some(shape) = Shape::of(&work.ops) else {
        // SAFETY: the caller's promise is the same.
        return unsafe { scalar::sweep(span, work, bad) };
    };
    match work.rule {
        // A stripe of whole lines is one word all along.
        WordRule::Striped { word, bit } if bit >= WORDS_IN_LINE.trailing_zeros() as u8 => {
            let stripe = 1u64 << bit;
            let mut one = |from: u64, to: u64| {
                let word = WordRule::Striped { word, bit }.word(span.first_index + from);
                let work = ElementWork { rule: WordRule::Constant(word), ..work.clone() };
                let (at, len) = ((from as usize) << 3, ((to - from) as usize) << 3);
                // SAFETY: `from` and `to` are words of the caller's span.
                unsafe { whole(how, span.part(at, len), &work, shape, &mut Shifted { to: bad, by: at as u64 }) };
            };
            let pieces = stripes(span.first_index, (span.len >> 3) as u64, stripe);
            if work.down {
                pieces.rev().for_each(|(from, to)| one(from, to))
            } else {
                pieces.for_each(|(from, to)| one(from, to))
            }
        }
        // SAFETY: the caller's promise is the same.
        _ => unsafe { whole(how, span, work, shape, bad) },
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

/// One piece for a rule that runs through the whole span.
///
/// # Safety
/// As for [`super::sweep`].
unsafe fn whole(how: How, span: Span, work: &ElementWork, shape: Shape, bad: &mut dyn Mismatches) {
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
            fetches_on: how.fetches_on,
        };
        let mut shifted = Shifted { to: &mut *bad, by: head as u64 };
        // Pages begin with a line: usually there is nothing to shift.
        let bad: &mut dyn Mismatches = if head == 0 { &mut *shifted.to } else { &mut shifted };
        // SAFETY: the lines are a part of the caller's span; the kernels come from detection or are the base's.
        unsafe { kernel::dispatch(how.kernels, &run, work.rule, work.down, shape.reads, shape.writes, bad) };
    }
    // SAFETY: as above.
    unsafe { edge(span, last, work, bad) };
}

/// The words before the first and after the last whole cache line.
///
/// # Safety
/// As for [`super::sweep`]; `from..to` must lie within the span.
unsafe fn edge(span: Span, (from, to): (usize, usize), work: &ElementWork, bad: &mut dyn Mismatches) {
    if from == to {
        return;
    }
    // SAFETY: `from` and `to` lie within the span.
    let part = unsafe { span.part(from, to - from) };
    let mut shifted = Shifted { to: bad, by: from as u64 };
    // SAFETY: a part of the caller's span.
    unsafe { scalar::sweep(part, work, &mut shifted) };
}
