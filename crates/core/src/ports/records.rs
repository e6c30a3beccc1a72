//! Where records go, and what earlier ones say.

use std::io;

use crate::run_state::Outcome;

/// Where the records of one run go. Nothing counts as kept before `sync` has returned.
pub trait JournalStore: Send {
    /// Adds bytes at the end.
    ///
    /// # Errors
    /// When the medium is full, read-only or gone.
    fn append(&mut self, bytes: &[u8]) -> io::Result<()>;
    /// Returns once everything appended so far survives a power loss.
    ///
    /// # Errors
    /// When the medium cannot promise that.
    fn sync(&mut self) -> io::Result<()>;
}

/// One earlier run of a module.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct PastRun {
    /// The run.
    pub run: String,
    /// On which machine.
    pub machine: String,
    /// In which slot.
    pub slot: String,
    /// Its outcome.
    pub outcome: Outcome,
    /// Errors that were placed in the slot where the module sat, or could have been.
    pub errors: u64,
}

/// What is known of modules from earlier runs.
pub trait History {
    /// Earlier runs of the module with this serial number, oldest first.
    fn of_module(&self, serial: &str) -> Vec<PastRun>;
}
