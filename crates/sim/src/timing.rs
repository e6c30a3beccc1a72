//! A memory of which only time is simulated: pairs of lines that share a bank take longer, if rows stay open, and every timing is noisy.

use std::cell::Cell;
use std::collections::BTreeMap;

use revisum_engine::pattern::pass_seed;
use revisum_engine::rows::{RowTimer, View};
use revisum_engine::units::PhysAddr;

/// What decides how long a pair takes.
#[derive(Clone, Debug)]
pub struct TimingSpec {
    /// How addresses are counted.
    pub view: View,
    /// Two lines in the same bank have the same parity on each of these masks.
    pub functions: Vec<u64>,
    /// Bits from this one on choose the row.
    pub row_from: u32,
    /// Bytes of memory.
    pub bytes: u64,
    /// Rows stay open until another one is needed; else every read opens its row.
    pub open_page: bool,
    /// Cycles of a read, how many more a conflict takes, and the standard deviation of both.
    pub cycles: f64,
    /// More of a conflict.
    pub conflict: f64,
    /// Standard deviation.
    pub sigma: f64,
    /// Part of the timings that are late for another reason.
    pub outliers: f64,
    /// Those of `functions`, or sums of them, that choose the channel; ways that take turns are channels too.
    pub channels: Vec<u64>,
    /// What cores can take of what all channels carry together: below 1 a channel alone is not short of much.
    pub taken: f64,
    /// Standard deviation of what a stream carries, as a part of it.
    pub unsteady: f64,
}

/// The memory.
pub struct TimingMemory {
    spec: TimingSpec,
    seed: u64,
    drawn: Cell<u32>,
}

const LINE: u64 = 64;

impl TimingMemory {
    /// A memory of this kind.
    pub fn new(spec: TimingSpec, seed: u64) -> Self {
        Self { spec, seed, drawn: Cell::new(0) }
    }

    /// A number from 0 to 1.
    fn random(&self) -> f64 {
        self.drawn.set(self.drawn.get().wrapping_add(1));
        pass_seed(self.seed, self.drawn.get()) as f64 / u64::MAX as f64
    }

    /// Sum of twelve: near enough to a normal distribution (Irwin and Hall, 1927).
    fn normal(&self) -> f64 {
        (0..12).map(|_| self.random()).sum::<f64>() - 6.0
    }

    fn physical(&self, line: u64) -> u64 {
        let (address, View { offset, from, .. }) = (line * LINE, self.spec.view);
        if address >= from.saturating_sub(offset) && offset > 0 { address + offset } else { address }
    }

    /// The channel of an address.
    fn channel(&self, line: u64) -> (u64, Vec<bool>) {
        let (way, inside) = self.spec.view.of(self.physical(line));
        (way, self.spec.channels.iter().map(|mask| (mask & inside).count_ones() % 2 == 1).collect())
    }

    fn conflicts(&self, one: u64, other: u64) -> bool {
        let ((way, a), (other_way, b)) =
            (self.spec.view.of(self.physical(one)), self.spec.view.of(self.physical(other)));
        let same_bank = self.spec.functions.iter().all(|mask| (mask & (a ^ b)).count_ones().is_multiple_of(2));
        way == other_way && same_bank && a >> self.spec.row_from != b >> self.spec.row_from
    }
}

impl RowTimer for TimingMemory {
    fn lines(&self) -> u64 {
        self.spec.bytes / LINE
    }

    fn address(&self, line: u64) -> Option<PhysAddr> {
        Some(PhysAddr(self.physical(line)))
    }

    fn line_at(&self, address: PhysAddr) -> Option<u64> {
        let View { offset, from, .. } = self.spec.view;
        let packed = if offset > 0 && address.0 >= from { address.0 - offset } else { address.0 };
        let line = packed / LINE;
        (line < self.lines() && self.physical(line) == address.0 / LINE * LINE).then_some(line)
    }

    fn pair(&self, one: u64, other: u64) -> f64 {
        let conflict = if self.spec.open_page && self.conflicts(one, other) { self.spec.conflict } else { 0.0 };
        let late = if self.random() < self.spec.outliers { 80.0 + 300.0 * self.random() } else { 0.0 };
        self.spec.cycles + conflict + self.spec.sigma * self.normal() + late
    }

    /// As fast as the busiest channel; where lines share few banks these are a little short too.
    fn stream(&self, lines: &[u64]) -> Option<f64> {
        let mut by_channel: BTreeMap<(u64, Vec<bool>), u64> = BTreeMap::new();
        lines.iter().for_each(|line| *by_channel.entry(self.channel(*line)).or_default() += 1);
        let count = self.spec.view.turns.map_or(1, |turns| turns.ways) << self.spec.channels.len();
        let busiest = *by_channel.values().max()? as f64 / lines.len() as f64;
        let carried = (1.0 / (busiest * count as f64)).min(self.spec.taken);
        Some(carried * (1.0 + self.spec.unsteady * self.normal()))
    }

    fn stream_lines(&self) -> usize {
        4096
    }
}
