//! Bits that turn over anywhere in a part of the memory, now here, now there.

use std::ops::Range;

use revisum_diagnose::address::{Cell, Placed};
use revisum_engine::memory::Load;
use revisum_engine::pattern::pass_seed;

use super::schedule::Schedule;
use super::{FaultKind, FaultSpec, Supply, UnderLoad};
use crate::mapping;
use crate::spec::ModuleSpec;

/// Upsets at random words of some modules.
#[derive(Clone, Debug)]
pub(crate) struct Scatter {
    upsets: Schedule,
    /// Slot and highest coordinates of each module concerned.
    homes: Vec<(String, Cell)>,
    lanes: Range<u8>,
    load: Option<UnderLoad>,
    supply: Option<Supply>,
}

/// What the processor does since some moment.
#[derive(Clone, Copy, Debug, Default)]
pub(crate) struct Loaded {
    pub load: Load,
    pub since_ns: u64,
}

impl Scatter {
    /// The scatter in these slots; nothing for other faults.
    pub fn new(spec: &FaultSpec, homes: &[(&str, &ModuleSpec)], now_ns: u64, seed: u64) -> Option<Self> {
        let (_, first) = homes.first().filter(|_| spec.kind == FaultKind::Upset && spec.is_anywhere())?;
        Some(Self {
            upsets: Schedule::new(spec.per_hour * most_times(spec.supply), spec.growth, now_ns, seed),
            homes: homes.iter().map(|(slot, module)| ((*slot).to_owned(), mapping::size(module))).collect(),
            lanes: spec.lanes(first.width),
            load: spec.load,
            supply: spec.supply,
        })
    }

    /// The words and bits that turned over since the last call, under this load since then.
    pub fn due(&mut self, now_ns: u64, loaded: Loaded) -> Vec<(Placed, u64)> {
        let mut due = Vec::new();
        loop {
            let at_ns = self.upsets.next_ns();
            if !self.upsets.is_due(now_ns) {
                return due;
            }
            let random = self.upsets.random();
            if self.shows(at_ns, loaded, random) {
                due.push(self.draw(random));
            }
        }
    }

    /// Upsets come at the rate of the deepest sag; of those under a smaller one as many are kept as its own rate says.
    fn shows(&self, at_ns: u64, loaded: Loaded, random: u64) -> bool {
        match (self.load, self.supply) {
            (Some(UnderLoad::Supply), Some(supply)) => {
                let sag = supply.sag(loaded.load, at_ns.saturating_sub(loaded.since_ns));
                let chance = (pass_seed(random, 7) >> 11) as f64 / (1u64 << 53) as f64;
                chance < supply.times(sag) / most_times(Some(supply))
            }
            (Some(_), _) => loaded.load != Load::Sweeping,
            (None, _) => true,
        }
    }

    fn draw(&self, seed: u64) -> (Placed, u64) {
        let below = |draw: u32, limit: u32| ((u128::from(pass_seed(seed, draw)) * u128::from(limit)) >> 64) as u32;
        let (slot, size) = &self.homes[below(1, self.homes.len() as u32) as usize];
        let cell = Cell {
            rank: below(2, size.rank),
            bank: below(3, size.bank),
            row: below(4, size.row),
            column: below(5, size.column),
        };
        let lane = self.lanes.start + below(6, u32::from(self.lanes.end - self.lanes.start)) as u8;
        (Placed { slot: slot.clone(), cell }, 1 << lane)
    }
}

fn most_times(supply: Option<Supply>) -> f64 {
    supply.map_or(1.0, |supply| supply.times(supply.deepest()))
}
