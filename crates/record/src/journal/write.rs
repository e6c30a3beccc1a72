//! Writing records: numbered, framed, appended.

use std::io;

use serde::Serialize;

use super::line::{Framed, encode};
use crate::journal::JournalStore;

/// Numbers records and appends them to a store.
pub struct JournalWriter {
    store: Box<dyn JournalStore>,
    journal: String,
    seq: u64,
}

impl JournalWriter {
    /// A new journal with this id.
    pub fn new(store: Box<dyn JournalStore>, journal: &str) -> Self {
        Self::resume(store, journal, 0)
    }

    /// A journal that already holds `next_seq` records.
    pub fn resume(store: Box<dyn JournalStore>, journal: &str, next_seq: u64) -> Self {
        Self { store, journal: journal.to_owned(), seq: next_seq }
    }

    /// Appends one record. It survives a power loss only after [`Self::sync`]. Gives back the record as framed.
    ///
    /// # Errors
    /// When the store cannot take it; the number is then used again.
    pub fn append<E: Serialize>(&mut self, t_ms: u64, entry: E) -> io::Result<Framed<E>> {
        let framed = Framed { journal: self.journal.clone(), seq: self.seq, t_ms, entry };
        self.store.append(encode(&framed)?.as_bytes())?;
        self.seq += 1;
        Ok(framed)
    }

    /// Returns once everything appended survives a power loss.
    ///
    /// # Errors
    /// When the store cannot promise that.
    pub fn sync(&mut self) -> io::Result<()> {
        self.store.sync()
    }

    /// Id of the journal.
    pub fn id(&self) -> &str {
        &self.journal
    }

    /// Records written.
    pub fn len(&self) -> u64 {
        self.seq
    }

    /// True before the first record.
    pub fn is_empty(&self) -> bool {
        self.seq == 0
    }
}
