//! What sweeps reach on this machine, measured on a small lease before a run.

use crate::estimate::Rates;
use crate::host::Clock;
use crate::march::Op;
use crate::memory::{BadStretch, Memory, MismatchSink};
use crate::path::{HOP_BYTES, Path};
use crate::pattern::WordRule;
use crate::sweep::second_look::WordAccess;
use crate::sweep::{BadLine, BadWord, ElementWork};

use super::shares::{Turns, rounds};

/// Enough for the caches not to matter much, and for a moment of measuring.
pub const CALIBRATION_BYTES: u64 = 256 << 20;

/// Where so much takes longer than that, little is enough to measure with: no cache is faster than such memory is slow.
const LITTLE_BYTES: u64 = 16 << 20;
const SLOW_NS: u64 = 60_000_000;

/// Bytes that are enough to measure with, where a lease of a few bytes is at hand: less where memory is so slow that measuring would be waited for.
pub fn enough_bytes(memory: &dyn Memory, clock: &dyn Clock, workers: &[usize]) -> u64 {
    let bytes = memory.layout().bytes().min(LITTLE_BYTES) / HOP_BYTES * HOP_BYTES;
    let write = Op::Write { inverse: false };
    let work = ElementWork { rule: WordRule::Constant(0), down: false, ops: vec![write], path: Path::Linear, moved: 0 };
    let ns = timed(memory, clock, workers, bytes, &work);
    let slow = u128::from(ns) * u128::from(LITTLE_BYTES) > u128::from(SLOW_NS) * u128::from(bytes.max(1));
    if slow { LITTLE_BYTES } else { CALIBRATION_BYTES }
}

/// Nothing is tested here: what reads wrong shows in the run.
struct Ignore;

impl MismatchSink for Ignore {
    fn mismatch(&mut self, _word: BadWord, _again: &mut dyn WordAccess) {}
    fn looks_again(&self) -> bool {
        false
    }
    fn line(&mut self, _offset: u64, _line: &BadLine) {}
    fn stretch(&mut self, _stretch: &BadStretch) {}
}

/// Measures the rates with these cores; the contents of the memory are lost.
pub fn calibrate(memory: &dyn Memory, clock: &dyn Clock, workers: &[usize]) -> Rates {
    let bytes = memory.layout().bytes() / HOP_BYTES * HOP_BYTES;
    let (write, read) = (Op::Write { inverse: false }, Op::Read { inverse: false });
    let rate = |ops: &[Op], path: Path, pieces: f64| {
        let work = ElementWork { rule: WordRule::Constant(0), down: false, ops: ops.to_vec(), path, moved: 0 };
        let best = (0..2).map(|_| timed(memory, clock, workers, bytes, &work)).min().unwrap_or(0);
        pieces * bytes as f64 / (best.max(1) as f64 / 1e9)
    };
    let copy = {
        let begin_ns = clock.now_ns();
        memory.copy(0..bytes / 2, bytes / 2, WordRule::Constant(0));
        // One core copies here; a test copies with all of them.
        workers.len().max(1) as f64 * bytes as f64 / 2.0 / ((clock.now_ns() - begin_ns).max(1) as f64 / 1e9)
    };
    Rates {
        write: rate(&[write], Path::Linear, 1.0),
        read: rate(&[read], Path::Linear, 1.0),
        read_write: rate(&[read, write], Path::Linear, 1.0),
        flushed: rate(&[read, read, write, read], Path::Linear, 3.0),
        hopping: rate(&[read, write], Path::RowHopping, 1.0),
        copy,
        taking: 0.0,
    }
}

/// Nanoseconds of one element over the first bytes, with blocks as in a run.
fn timed(memory: &dyn Memory, clock: &dyn Clock, workers: &[usize], bytes: u64, work: &ElementWork) -> u64 {
    let begin_ns = clock.now_ns();
    for round in rounds(Turns::Shares, workers.len(), &[], bytes, false) {
        let sweep = |share: super::shares::Share| {
            memory.enter_worker(workers.get(share.core).copied().unwrap_or(0));
            super::worker::blocks_of(share.held, false, super::worker::block_bytes(memory, work.path))
                .for_each(|block| memory.sweep(block, work, &mut Ignore));
        };
        if memory.is_concurrent() {
            std::thread::scope(|scope| {
                round.into_iter().for_each(|share| super::threads::beside(scope, move || sweep(share)))
            });
        } else {
            round.into_iter().for_each(sweep);
        }
    }
    clock.now_ns() - begin_ns
}
