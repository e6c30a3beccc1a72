//! Journals on disk: finding, reading and writing them.

mod find;
mod import;
mod job;
mod jobs;
mod ledger;
mod moment;
mod runs;

pub use find::{Found, find_runs, scan_runs};
pub use import::{Imported, import};
pub use job::Job;
pub use jobs::{JobSummary, Which, list_jobs};
pub use ledger::Ledger;
pub use moment::{Moment, next_moment};
pub use runs::{Recorded, RunSummary, Standing, create_run, find_run, list_runs, read_run, runs_of_machine};
