//! When a sweep comes to which word.

use std::ops::Range;

use super::Visit;
use crate::march::Op;
use crate::march::notation::{count_pieces, pieces};
use crate::sweep::small_blocks::BLOCK_LINES;
use crate::sweep::{ElementWork, LINE};

/// The visits of one element, and how many lines it passes.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Schedule<'a> {
    /// In no particular order.
    pub visits: Vec<Visit<'a>>,
    /// Lines passed in all.
    pub lines: u64,
}

/// When an element over a range comes to words at these places, ascending, the way its kernels go over it; `plain` gives the background's
/// word of each.
pub fn schedule<'a>(
    held: Range<u64>,
    work: &'a ElementWork,
    places: &[u64],
    plain: impl Fn(u64) -> u64,
) -> Schedule<'a> {
    let pieces = pieces(&work.ops);
    let bytes = held.end - held.start;
    let lines = bytes.div_ceil(LINE as u64);
    let block = if pieces.len() > 1 { BLOCK_LINES as u64 } else { lines.max(1) };
    let first = places.partition_point(|at| *at < held.start);
    let here = places[first..].iter().take_while(|at| **at < held.end);
    let visits = here.flat_map(|at| {
        let step = work.visited(at - held.start, bytes) / LINE as u64;
        let begin = step / block * block;
        let passes = block.min(lines - begin);
        let plain = plain(*at);
        (0u64..).zip(&pieces).map(move |(number, ops)| {
            let piece_begins = begin * pieces_count(work) + number * passes;
            let flushed = pieces_count(work) > 1 && !ops.iter().any(|op| matches!(op, Op::Write { .. }));
            Visit {
                at: *at,
                after: piece_begins + step - begin,
                fetched_from: piece_begins,
                plain,
                ops,
                flushed: flushed.then_some(piece_begins + passes - 1),
            }
        })
    });
    Schedule { visits: visits.collect(), lines: lines * pieces.len() as u64 }
}

fn pieces_count(work: &ElementWork) -> u64 {
    count_pieces(&work.ops) as u64
}
