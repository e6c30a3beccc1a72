//! The fail bit map of a module: its failing words by rank, bank, row and column, where an address map tells.

use std::collections::BTreeMap;

use revisum_engine::units::PhysAddr;
use revisum_record::digest::Digest;

use crate::address::{Cell, Extent, Locator};

/// Failing words of one module.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct FailMap {
    /// Its slot.
    pub slot: String,
    /// How many ranks, banks, rows and columns it has.
    pub extent: Extent,
    /// Failing words with the data lines that ever read wrong, in the order of their addresses; of very many a fair sample.
    pub words: Vec<(Cell, u64)>,
}

/// A map for each slot with failing words, in the order of slots' names; none where no address map tells cells.
pub fn fail_maps(digest: &Digest, locator: &Locator) -> Vec<FailMap> {
    let mut all: BTreeMap<String, FailMap> = BTreeMap::new();
    for (place, bad) in digest.cells() {
        let Some(placed) = locator.placed(PhysAddr(place)) else { continue };
        let Some(extent) = locator.extent(&placed.slot) else { continue };
        let map = all.entry(placed.slot.clone());
        let map = map.or_insert_with(|| FailMap { slot: placed.slot, extent, words: Vec::new() });
        map.words.push((placed.cell, bad.wrong));
    }
    all.into_values().collect()
}
