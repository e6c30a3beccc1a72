//! One worker: sweeps its share block by block and tallies what reads wrong.

use std::ops::Range;

use super::control::Order;
use super::ground::{Ground, Report};
use super::shares::Share;
use super::sink::Sink;
use crate::memory::{BLOCK_BYTES, Memory};
use crate::path::{HOP_BLOCK, Path};

/// Clean progress is reported this often.
const REPORT_NS: u64 = 100_000_000;
/// Errors are reported this often: in a flood every report costs the one that adds them up something.
const NEWS_NS: u64 = 25_000_000;

/// Sweeps the share to its end, or until told otherwise.
pub(super) fn sweep_share(ground: &Ground<'_>, share: &Share, send: &mut dyn FnMut(Report)) {
    let core = ground.workers.get(share.core).copied().unwrap_or(share.core);
    ground.memory.enter_worker(core);
    let mut sink = Sink::new(ground, core);
    let mut report = Report { core: share.core, ..Report::default() };
    let mut last_ns = ground.clock.now_ns();
    for block in blocks_of(share.held.clone(), ground.work.down, block_bytes(ground.memory, ground.work.path)) {
        if ground.control.is_paused() {
            report.pausing = true;
            sink.hand_over(&mut report, send);
            ground.control.wait_while_paused();
        }
        if ground.control.order() != Order::Go {
            break;
        }
        let begin_ns = ground.clock.now_ns();
        ground.memory.sweep(block.clone(), ground.work, &mut sink);
        let now_ns = ground.clock.now_ns();
        report.busy_ns += now_ns - begin_ns;
        report.bytes += block.end - block.start;
        let due_ns = if sink.has_news() { NEWS_NS } else { REPORT_NS };
        if now_ns - last_ns >= due_ns || sink.has_first_news() {
            sink.hand_over(&mut report, send);
            last_ns = now_ns;
        }
    }
    sink.hand_over(&mut report, send);
}

/// Bytes swept between two looks at the control, in this order of words.
pub(super) fn block_bytes(memory: &dyn Memory, path: Path) -> u64 {
    if path == Path::RowHopping { HOP_BLOCK } else { memory.block_bytes() }
}

/// The blocks of a range, in the direction of the sweep.
pub(super) fn blocks(held: Range<u64>, down: bool) -> impl Iterator<Item = Range<u64>> {
    blocks_of(held, down, BLOCK_BYTES)
}

/// The same with blocks of another size.
pub(super) fn blocks_of(held: Range<u64>, down: bool, bytes: u64) -> impl Iterator<Item = Range<u64>> {
    let count = (held.end - held.start).div_ceil(bytes);
    (0..count).map(move |step| {
        let index = if down { count - 1 - step } else { step };
        let start = held.start + index * bytes;
        start..(start + bytes).min(held.end)
    })
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn blocks_cover_the_range_in_either_direction() {
        let up: Vec<_> = blocks(100..100 + 2 * BLOCK_BYTES + 5, false).collect();
        let mut down: Vec<_> = blocks(100..100 + 2 * BLOCK_BYTES + 5, true).collect();
        down.reverse();
        assert_eq!(up, down);
        assert_eq!((up.len(), up[0].start, up[2].end), (3, 100, 100 + 2 * BLOCK_BYTES + 5));
    }
}
