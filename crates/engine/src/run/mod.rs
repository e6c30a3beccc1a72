//! Runs a recipe on leased memory and tells what happens as news.
//!
//! The coordinator takes one march element after the other over the whole held range; workers sweep it in blocks of a
//! few MiB and look at the [`Control`] between blocks. Element by element, never block by block: a block that stays in
//! the cache between two elements would test the cache.

mod address_lines;
mod beside;
mod calibrate;
mod compute;
mod control;
mod coordinator;
mod disturbance;
mod ground;
mod idle;
mod kinds;
mod plant;
mod setup;
mod shares;
mod sink;
mod soak;
mod start_at;
mod threads;
mod turnaround;
mod watch;
mod worker;

pub use calibrate::{CALIBRATION_BYTES, calibrate, enough_bytes};
pub use control::Control;
pub use coordinator::{expected, run};
pub use setup::RunSetup;
pub use start_at::StartAt;
