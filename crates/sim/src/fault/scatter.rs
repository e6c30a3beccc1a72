//! Bits that turn over anywhere in a part of the memory, now here, now there.

use std::ops::Range;

use revisum_diagnose::address::{Cell, Placed};
use revisum_engine::pattern::pass_seed;

use super::schedule::Schedule;
use super::{FaultKind, FaultSpec};
use crate::mapping;
use crate::spec::ModuleSpec;

/// Upsets at random words of some modules.
#[derive(Clone, Debug)]
pub(crate) struct Scatter {
    upsets: Schedule,
    /// Slot and highest coordinates of each module concerned.
    homes: Vec<(String, Cell)>,
    lanes: Range<u8>,
    only_computing: bool,
}

impl Scatter {
    /// The scatter in these slots; nothing for other faults.
    pub fn new(spec: &FaultSpec, homes: &[(&str, &ModuleSpec)], now_ns: u64, seed: u64) -> Option<Self> {
        let (_, first) = homes.first().filter(|_| spec.kind == FaultKind::Upset && spec.is_anywhere())?;
        Some(Self {
            upsets: Schedule::new(spec.per_hour, spec.growth, now_ns, seed),
            homes: homes.iter().map(|(slot, module)| ((*slot).to_owned(), mapping::size(module))).collect(),
            lanes: spec.lanes(first.width),
            only_computing: spec.only_computing(),
        })
    }

    /// The words and bits that turned over since the last call.
    pub fn due(&mut self, now_ns: u64, computing: bool) -> Vec<(Placed, u64)> {
        let mut due = Vec::new();
        while self.upsets.is_due(now_ns) {
            if computing || !self.only_computing {
                due.push(self.draw(self.upsets.random()));
            }
        }
        due
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
