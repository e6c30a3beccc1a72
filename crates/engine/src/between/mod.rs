//! What lies between the sweeps of a processor and the cells: a write-back cache and the queue in which a memory controller
//! keeps writes.
//!
//! A march test relies on the order in which cells are read and written. A sweep asks for that order; the cells see another one:
//! lines are fetched ahead, what was written comes back when it is put back or pushed out, and writes wait in a queue while reads
//! go first. [`Traffic`] plays this for the few words that matter, in time that is counted in cache lines which pass; that is exact
//! for sweeps over contiguous memory, in which a set of the cache is overwritten once as many lines have passed as the cache
//! holds. A test of this module plays whole caches line by line and compares.

mod schedule;
mod traffic;

#[cfg(test)]
mod tests;

use crate::sweep::{BEHIND_LINES, LINE, PutBack};

pub use schedule::{Schedule, schedule};
pub use traffic::{Cells, Traffic, Visit};

/// Which line of a set makes room for a new one.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, serde::Deserialize, serde::Serialize)]
#[serde(rename_all = "kebab-case")]
pub enum Replacement {
    /// The one that was not used for longest.
    #[default]
    LeastRecent,
    /// Any.
    Random,
}

/// A cache and a queue. Lengths are in cache lines.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Between {
    /// Size of the cache.
    pub cache: u64,
    /// Lines of one set.
    pub ways: u64,
    /// Which of them makes room.
    pub replacement: Replacement,
    /// Writes that the controller keeps back.
    pub queue: u64,
    /// How far ahead lines are fetched.
    pub ahead: u64,
    /// How a sweep puts back what it read and wrote; nothing where it leaves that to the cache.
    pub put_back: Option<PutBack>,
}

/// Writes that controllers keep back, in lines: published ones hold 32 to 64 a channel and write half of them in one go.
pub const QUEUE_LINES: u64 = 32;
/// Ways of a large cache where nothing tells.
pub const WAYS: u64 = 16;
/// A read-write sweep fetches this far ahead; in lines.
const AHEAD_LINES: u64 = 16;

impl Between {
    /// A cache of this many bytes, with a usual queue.
    pub fn cache_of(bytes: u64, ways: u64, put_back: PutBack) -> Self {
        Self {
            cache: (bytes / LINE as u64).max(1),
            ways: ways.max(1),
            replacement: Replacement::LeastRecent,
            queue: QUEUE_LINES,
            ahead: AHEAD_LINES,
            put_back: Some(put_back),
        }
    }

    /// From this distance on, in bytes, cells are written and read in the order of the sweep.
    pub fn ordered_from(&self) -> u64 {
        let behind = match self.put_back {
            Some(PutBack::Behind) => BEHIND_LINES as u64,
            Some(PutBack::Streamed) => 0,
            None => self.cache,
        };
        (self.ahead + behind + self.queue) * LINE as u64
    }
}
