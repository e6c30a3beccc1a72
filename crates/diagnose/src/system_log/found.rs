//! All that was found in the logs of systems.

use super::place::{merge, place};
use crate::board::Inventory;
use revisum_record::logged::LogEntry;

/// What was found, and where.
#[derive(Clone, Debug, Default)]
pub struct SystemLogs {
    /// Entries about memory, the newest first.
    pub entries: Vec<LogEntry>,
    /// Logs that were read, by their names.
    pub read: Vec<String>,
    /// What could not be read and why, in sentences.
    pub trouble: Vec<String>,
}

/// Troubles told; a folder full of damaged files would else fill the screen.
const MOST_TROUBLE: usize = 50;

impl SystemLogs {
    /// Takes the entries of one log.
    pub fn take(&mut self, log: &str, entries: impl IntoIterator<Item = LogEntry>) {
        self.read.push(log.to_owned());
        let named = entries.into_iter().map(|entry| LogEntry { log: log.to_owned(), ..entry });
        self.entries = merge(std::mem::take(&mut self.entries).into_iter().chain(named).collect());
    }

    /// Takes all of another.
    pub fn add(&mut self, other: Self) {
        self.entries = merge(std::mem::take(&mut self.entries).into_iter().chain(other.entries).collect());
        self.read.extend(other.read);
        other.trouble.into_iter().for_each(|trouble| self.refuse(trouble));
    }

    /// Notes what could not be read.
    pub fn refuse(&mut self, trouble: String) {
        if self.trouble.len() < MOST_TROUBLE {
            self.trouble.push(trouble);
        }
    }

    /// Several that say the same as one, each placed on the slots of this machine.
    #[must_use]
    pub fn placed(mut self, inventory: &Inventory) -> Self {
        self.entries = merge(std::mem::take(&mut self.entries));
        place(&mut self.entries, inventory);
        self
    }
}

/// What the operating systems of a machine logged about memory.
pub trait SystemLog: Send + Sync {
    /// Everything that can be found without asking: the running kernel, what crashes left, files, mounted disks. It may take a while.
    fn found(&self) -> SystemLogs;
}
