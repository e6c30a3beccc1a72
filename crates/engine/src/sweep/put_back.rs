//! How words that a read-write element wrote come back into the memory while the sweep goes on.
//!
//! Regular stores stay in the cache until it is full: the memory would see them a cache's length later, after it was asked for
//! cells that lie behind. A march test relies on the order in which cells are written and read, so each line is put back a short
//! way behind the sweep.

/// Distance in cache lines at which a line is put back behind the sweep: far enough that its stores have left the core, near
/// enough that with the lines fetched ahead and those waiting in a controller's queue the order holds from 4 KiB on.
/// `cargo xtask speed` shows what it costs.
pub const BEHIND_LINES: usize = 8;

/// The way back.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum PutBack {
    /// Regular stores, and `clflushopt` on the line [`BEHIND_LINES`] behind.
    Behind,
    /// Stores past the cache, for processors that have `clflush` only: that waits after every line.
    Streamed,
}

impl PutBack {
    /// What suits this processor.
    pub fn detect() -> Self {
        if super::flush::is_optimised() { Self::Behind } else { Self::Streamed }
    }
}
