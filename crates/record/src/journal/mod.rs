//! The append-only record of a run or a job: newline-delimited JSON, one record a line.
//!
//! Each line carries the journal's id, a sequence number, a checksum, the checksum of the record before and the totals so far, so that a torn tail is
//! recognised, a damaged or missing record is left out and said, a record of another journal is never taken for this one's, and what a lost
//! record told of errors is still told by any later one.

mod brief;
mod damage;
mod entry;
mod job;
mod line;
mod read;
mod record;
mod sector;
mod stage;
mod store;
#[cfg(test)]
mod tests;
mod write;

pub use brief::read_brief;
pub use damage::Damage;
pub use entry::{Begin, Entry, Held};
pub use job::{BrokeOff, Fitting, Intake, JobEntry, JobState, OwnerTold, Plan, Start, Step};
pub use line::{Chain, Framed};
pub use read::{Following, Reading};
pub use record::{Record, Weight, read_journal};
pub use sector::{SECTOR, filler};
pub use stage::{Stage, Tick};
pub use store::JournalStore;
pub use write::{JournalWriter, Link};

/// Version of the format that this program writes.
pub const FORMAT_VERSION: u32 = 2;
