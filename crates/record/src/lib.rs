//! What a run and a job leave behind: journals of records, and what their records add up to.
//!
//! Nothing here opens a file: bytes go to a [`journal::JournalStore`] and come from any reader.

pub mod carry;
pub mod confidence;
pub mod counts;
pub mod digest;
pub mod fitted;
pub mod go_on;
pub mod journal;
pub mod logged;
pub mod outcome;
pub mod run_state;
pub mod speed;
pub mod timeline;
pub mod totals;
pub mod warmth;
