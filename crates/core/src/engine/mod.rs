//! Runs a recipe on leased memory and tells what happens as journal entries.
//!
//! The coordinator takes one march element after the other over the whole held range; workers sweep it in blocks of a
//! few MiB and look at the [`Control`] between blocks. Element by element, never block by block: a block that stays in
//! the cache between two elements would test the cache.

mod control;
mod coordinator;
mod plant;
mod shares;
mod sink;
mod turnaround;
mod watch;
mod worker;

#[cfg(test)]
mod tests;

pub use control::Control;
pub use coordinator::{RunSetup, run, sweeps_per_pass};
pub use worker::BLOCK_BYTES;
