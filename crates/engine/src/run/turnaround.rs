//! What has to be flushed between two elements, so that the second one reads the memory and not the cache.
//!
//! A sweep that only reads leaves the last few MiB in the cache. Where the next element begins at that end, or where the
//! whole range is not far larger than the cache, those bytes are flushed first. Sweeps that write leave nothing behind: their
//! stores go past the cache, or their lines are put back close behind them.

use std::ops::Range;

use super::control::Control;
use super::worker::blocks;
use crate::march::{Element, Order};
use crate::memory::Memory;
use crate::recipe::Caches;

/// Smallest tail that is flushed: cache sizes reported inside virtual machines are not to be trusted.
const LEAST_TAIL: u64 = 64 << 20;

/// What may still be in a cache of this size.
pub(super) fn cached_tail(cache_bytes: u64) -> u64 {
    (2 * cache_bytes).max(LEAST_TAIL)
}

/// Which part of a share to flush after `last` so that `next` reads memory; empty when nothing needs it.
pub(super) fn flush_after(
    last: &Element,
    next: Option<&Element>,
    share: Range<u64>,
    cache_bytes: u64,
    caches: Caches,
) -> Range<u64> {
    let nothing = share.start..share.start;
    let Element::Sweep { order, .. } = last else { return nothing };
    let bytes = share.end - share.start;
    if caches == Caches::Flush {
        return share;
    }
    let next_reads = next.is_some_and(|next| next.reads());
    if last.writes() || !next_reads {
        return nothing;
    }
    let tail = cached_tail(cache_bytes);
    if bytes <= 2 * tail {
        return share;
    }
    let ends_low = *order == Order::Down;
    let begins_low = !matches!(next, Some(Element::Sweep { order: Order::Down, .. }));
    match (ends_low, begins_low) {
        (true, true) => share.start..share.start + tail,
        (false, false) => share.end - tail..share.end,
        _ => nothing,
    }
}

/// Flushes a range in the direction of the sweep before it, until the run is to end.
pub(super) fn flush_blocks(memory: &dyn Memory, control: &Control, held: Range<u64>, down: bool) {
    for block in blocks(held, down) {
        if control.order() != super::control::Order::Go {
            return;
        }
        memory.flush(block, down);
    }
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;
    use crate::march::March;

    const MIB: u64 = 1 << 20;

    #[rstest]
    #[case::turns_at_the_top("up(r0); down(r0)", 0..1024 * MIB, Caches::PerTest, 944 * MIB..1024 * MIB)]
    #[case::turns_at_the_bottom("down(r0); up(r0)", 0..1024 * MIB, Caches::PerTest, 0..80 * MIB)]
    #[case::starts_over_far_away("up(r0); up(r0)", 0..1024 * MIB, Caches::PerTest, 0..0)]
    #[case::small_range("up(r0); up(r0)", 0..32 * MIB, Caches::PerTest, 0..32 * MIB)]
    #[case::only_wrote("up(w0); down(r0)", 0..32 * MIB, Caches::PerTest, 0..0)]
    #[case::put_back_behind_the_sweep("up(r0,w1); down(r1)", 0..32 * MIB, Caches::PerTest, 0..0)]
    #[case::next_only_writes("up(r0); up(w1)", 0..32 * MIB, Caches::PerTest, 0..0)]
    #[case::flushes_all("up(r0,w1); up(r1)", 0..1024 * MIB, Caches::Flush, 0..1024 * MIB)]
    fn tails(#[case] two: &str, #[case] share: Range<u64>, #[case] caches: Caches, #[case] expected: Range<u64>) {
        let march: March = two.parse().unwrap();
        let flush = flush_after(&march.0[0], march.0.get(1), share, 40 * MIB, caches);
        assert_eq!(flush.end - flush.start, expected.end - expected.start);
        if !expected.is_empty() {
            assert_eq!(flush, expected);
        }
    }
}
