//! The append-only record of a run or a job: newline-delimited JSON, one record a line.
//!
//! Each line carries the journal's id, a sequence number and a checksum, so that a torn tail is recognised, a damaged
//! record is left out and said, and a record of another journal is never taken for this one's.

mod codec;
mod entry;
mod job;

pub use codec::{Damage, Framed, JournalWriter, read_journal};
pub use entry::{Begin, EndReason, Entry, ErrorReport, Held, Progress, TestEnd};
pub use job::{BrokeOff, Fitting, Intake, JobEntry, JobState, OwnerTold, Plan, Step};

/// Version of the format that this program writes.
pub const FORMAT_VERSION: u32 = 1;
