//! Writing records: numbered, chained, framed, appended; what matters most is written twice.

use std::collections::VecDeque;
use std::io;

use super::line::{Chain, Framed};
use super::record::{Record, Weight};
use crate::journal::JournalStore;
use crate::totals::Totals;

/// Bytes between a record and its copy: one damaged block of a drive does not take both.
const APART: usize = 4096;
/// Errors of a journal that are written twice; a flood of them is not.
const FIRST: u32 = 16;

/// Where the next record goes: its number, and the checksum of the one before.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub struct Link {
    /// Number of the next record.
    pub next_seq: u64,
    /// Checksum of the latest record; nothing when there is none.
    pub crc: Option<u32>,
}

/// Numbers records, chains them and appends them to a store.
pub struct JournalWriter {
    store: Box<dyn JournalStore>,
    journal: String,
    link: Link,
    /// Bytes appended, and the copies that are yet to be written, with the place of the first.
    written: usize,
    copies: VecDeque<(usize, String)>,
    first: u32,
}

impl JournalWriter {
    /// A new journal with this id.
    pub fn new(store: Box<dyn JournalStore>, journal: &str) -> Self {
        Self::resume(store, journal, Link::default())
    }

    /// A journal that already holds records.
    pub fn resume(store: Box<dyn JournalStore>, journal: &str, link: Link) -> Self {
        Self { store, journal: journal.to_owned(), link, written: 0, copies: VecDeque::new(), first: 0 }
    }

    /// Appends one record that has nothing to add up. It survives a power loss only after [`Self::sync`].
    ///
    /// # Errors
    /// When the store cannot take it; the number is then used again.
    pub fn append<E: Record>(&mut self, t_ms: u64, entry: &E) -> io::Result<()> {
        self.append_with(t_ms, entry, Totals::default())
    }

    /// Appends one record with the totals so far.
    ///
    /// # Errors
    /// As [`Self::append`].
    pub fn append_with<E: Record>(&mut self, t_ms: u64, entry: &E, totals: Totals) -> io::Result<()> {
        let framed = Framed { journal: self.journal.clone(), seq: self.link.next_seq, t_ms, entry };
        let (line, crc) = E::line(&framed, Chain { prev: self.link.crc, totals })?;
        self.put(&line)?;
        self.link = Link { next_seq: self.link.next_seq.saturating_add(1), crc: Some(crc) };
        let twice = match entry.weight() {
            Weight::Once => false,
            Weight::Twice => true,
            Weight::FirstTwice => {
                self.first = self.first.saturating_add(1);
                self.first <= FIRST
            }
        };
        if twice {
            self.copies.push_back((self.written, line));
        }
        self.write_copies();
        Ok(())
    }

    fn put(&mut self, line: &str) -> io::Result<()> {
        self.store.append(line.as_bytes())?;
        self.written = self.written.saturating_add(line.len());
        Ok(())
    }

    /// Writes the copies that are far enough from what they repeat. A store that refuses one gets it again later: the record itself is kept.
    fn write_copies(&mut self) {
        while let Some((at, line)) = self.copies.front() {
            if self.written < at + APART || self.store.append(line.as_bytes()).is_err() {
                break;
            }
            self.written = self.written.saturating_add(line.len());
            self.copies.pop_front();
        }
    }

    /// Notes that records were lost before they could be written, so that their numbers are missed.
    pub fn lost(&mut self, records: u64) {
        self.link.next_seq = self.link.next_seq.saturating_add(records);
    }

    /// Writes all copies that are still due: nothing more comes for now.
    ///
    /// # Errors
    /// When the store cannot take them; they stay due.
    pub fn finish(&mut self) -> io::Result<()> {
        if let Some((last, _)) = self.copies.back() {
            let between = (last + APART).saturating_sub(self.written).max(1);
            self.put(&format!("{}\n", " ".repeat(between - 1)))?;
        }
        while let Some((_, line)) = self.copies.front() {
            self.store.append(line.as_bytes())?;
            self.written = self.written.saturating_add(line.len());
            self.copies.pop_front();
        }
        self.sync()
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
        self.link.next_seq
    }

    /// True before the first record.
    pub fn is_empty(&self) -> bool {
        self.link.next_seq == 0
    }
}
