//! How long two words take that are read in turns.

use crate::host::Clock;
use crate::memory::Memory;
use crate::units::PhysAddr;

/// Reads pairs of words in turns, past the caches.
pub trait RowTimer {
    /// How many cache lines there are to choose from.
    fn lines(&self) -> u64;
    /// Physical address of a line; nothing where it is not known.
    fn address(&self, line: u64) -> Option<PhysAddr>;
    /// The line at an address; nothing where it is not held.
    fn line_at(&self, address: PhysAddr) -> Option<u64>;
    /// How long one read takes while these two lines are read in turns, in any unit that stays the same.
    fn pair(&self, one: u64, other: u64) -> f64;
    /// What is carried while these lines are read as fast as all cores can, in any unit that stays the same. Nothing where that cannot be
    /// timed.
    fn stream(&self, lines: &[u64]) -> Option<f64>;
    /// How many lines a stream needs to be worth its timing.
    fn stream_lines(&self) -> usize;
}

/// Bytes of a line.
const LINE: u64 = 64;
/// Reads of each word of a pair in one timing.
const READS: u32 = 300;
/// Lines of a stream: 16 MiB, a millisecond at 16 GB/s.
const STREAM_LINES: usize = 1 << 18;

/// Leased memory, timed by the clock.
pub struct MemoryTimer<'a> {
    memory: &'a dyn Memory,
    clock: &'a dyn Clock,
}

impl<'a> MemoryTimer<'a> {
    /// Times this memory; times are nanoseconds.
    pub fn new(memory: &'a dyn Memory, clock: &'a dyn Clock) -> Self {
        Self { memory, clock }
    }
}

impl RowTimer for MemoryTimer<'_> {
    fn lines(&self) -> u64 {
        self.memory.layout().bytes() / LINE
    }

    fn address(&self, line: u64) -> Option<PhysAddr> {
        self.memory.address_of(line * LINE)
    }

    fn line_at(&self, address: PhysAddr) -> Option<u64> {
        let offset = self.memory.layout().offset_of(PhysAddr(address.0 / LINE * LINE))?;
        Some(offset / LINE)
    }

    fn pair(&self, one: u64, other: u64) -> f64 {
        let begin_ns = self.clock.now_ns();
        self.memory.activate(&[one * LINE, other * LINE], READS);
        self.clock.now_ns().saturating_sub(begin_ns) as f64 / f64::from(2 * READS)
    }

    fn stream(&self, lines: &[u64]) -> Option<f64> {
        let offsets: Vec<u64> = lines.iter().map(|line| line * LINE).collect();
        let streamed = self.memory.stream(&offsets)?;
        // Where most of them lie in windows nothing is told of the others.
        let most = streamed.lines * 2 >= lines.len() as u64 && streamed.ns > 0;
        most.then(|| (streamed.lines * LINE) as f64 / streamed.ns as f64)
    }

    fn stream_lines(&self) -> usize {
        STREAM_LINES
    }
}
