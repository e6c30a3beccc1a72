//! Journals on disk: finding, reading and writing them.

mod job;
mod jobs;
mod runs;

pub use job::Job;
pub use jobs::{JobSummary, Which, list_jobs};
pub use runs::{Recorded, RunSummary, Standing, create_run, find_run, list_runs, read_run, runs_of_machine};
