//! Which rows are opened often to disturb those beside them.

use crate::memory::Memory;
use crate::pattern::pass_seed;
use crate::places::Places;

/// Pairs of rows in one round.
const PAIRS: u32 = 16;
/// How often each row of a pair is opened: more than the thresholds that were published (Kim et al., ISCA 2014).
pub(super) const TIMES: u32 = 400_000;
/// Activations between two looks at the control.
pub(super) const AT_A_TIME: u32 = 400_000;
/// Distances tried where no map tells which rows are neighbours: rows of one bank lie some power of two apart.
const DISTANCES: [u64; 6] = [256 << 10, 512 << 10, 1 << 20, 2 << 20, 4 << 20, 8 << 20];

/// The words to read in turns: with a map the rows on both sides of a row, else a guess.
pub(super) fn rows(memory: &dyn Memory, places: &dyn Places, seed: u64) -> Vec<Vec<u64>> {
    let bytes = memory.layout().bytes();
    let pair = |at: u32| {
        let offset = pass_seed(seed, at) % (bytes / 64) * 64;
        by_map(memory, places, offset).unwrap_or_else(|| {
            let distance = DISTANCES[at as usize % DISTANCES.len()];
            vec![offset, (offset + distance) % bytes]
        })
    };
    (1..=PAIRS).map(pair).collect()
}

fn by_map(memory: &dyn Memory, places: &dyn Places, offset: u64) -> Option<Vec<u64>> {
    let beside = places.rows_beside(memory.address_of(offset)?)?;
    beside.into_iter().map(|address| memory.layout().offset_of(address)).collect()
}
