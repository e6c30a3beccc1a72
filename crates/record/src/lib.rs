//! What a run and a job leave behind: journals of records, and what their records add up to.
//!
//! Nothing here opens a file: bytes go to a [`journal::JournalStore`] and come from any reader.

pub mod confidence;
pub mod digest;
pub mod fitted;
pub mod journal;
pub mod logged;
pub mod run_state;
pub mod speed;
pub mod timeline;
