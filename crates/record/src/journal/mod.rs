//! The append-only record of a run or a job: newline-delimited JSON, one record a line.
//!
//! Each line carries the journal's id, a sequence number and a checksum, so that a torn tail is recognised, a damaged
//! record is left out and said, and a record of another journal is never taken for this one's.

mod brief;
mod damage;
mod entry;
mod job;
mod line;
mod read;
mod sector;
mod store;
#[cfg(test)]
mod tests;
mod write;

pub use brief::read_brief;
pub use damage::Damage;
pub use entry::{Begin, Entry, Held};
pub use job::{BrokeOff, Fitting, Intake, JobEntry, JobState, OwnerTold, Plan, Step};
pub use line::Framed;
pub use read::read_journal;
pub use sector::{SECTOR, filler};
pub use store::JournalStore;
pub use write::JournalWriter;

/// Version of the format that this program writes.
pub const FORMAT_VERSION: u32 = 1;
