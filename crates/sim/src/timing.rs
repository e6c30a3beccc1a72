//! A memory of which only time is simulated: pairs of lines that share a bank take longer, if rows stay open, and every timing is noisy.

use std::cell::Cell;

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
}
