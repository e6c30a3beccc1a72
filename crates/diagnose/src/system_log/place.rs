//! Where entries belong, and several that say the same as one.

use std::collections::BTreeMap;

use crate::board::{Inventory, placed};
use revisum_engine::units::PhysAddr;
use revisum_record::logged::{LogEntry, LogKind, LogTime};

/// Most entries that are kept apart; more at other places are counted by their kind.
const MOST_ENTRIES: usize = 2_000;
/// Stands in the key of those for their place; no log says this.
const ELSEWHERE: &str = "\0";

/// Places entries on slots by the words of the log, else by the address, and notes which module sits there now.
pub fn place(entries: &mut [LogEntry], inventory: &Inventory) {
    for entry in entries.iter_mut() {
        if entry.slots.is_empty() && entry.kind.is_memory_error() {
            entry.slots = placed(&entry.place, entry.address, &inventory.board, &inventory.mapped);
        }
        let [slot] = &entry.slots[..] else { continue };
        let module =
            inventory.board.slots.iter().find(|known| known.id == *slot).and_then(|known| known.module.as_ref());
        entry.module = module.map(|module| module.identity(slot)).filter(|id| !id.is_empty());
    }
}

/// What makes two entries the same.
type Key = (LogKind, Option<PhysAddr>, String, String, String);

/// A stop is told when the machine lost its power and again by the report that is written at the next start: within this time.
const ONE_STOP_MS: u64 = 15 * 60 * 1000;

/// Entries as they are found: those that say the same become one with a count, so that a log of any length takes no more than so many of them.
#[derive(Clone, Debug, Default)]
pub struct Collected {
    entries: Vec<LogEntry>,
    at: BTreeMap<Key, usize>,
    /// For each entry the stops that only one teller told of so far: when, and who.
    once: BTreeMap<usize, Vec<(i64, String)>>,
}

impl Collected {
    /// Takes one more.
    pub fn take(&mut self, entry: LogEntry) {
        let mut key = (entry.kind, entry.address, entry.place.clone(), entry.log.clone(), text_key(&entry));
        // Where there are too many places all others of a kind are counted together: none of them is lost to another kind.
        if self.entries.len() >= MOST_ENTRIES && !self.at.contains_key(&key) {
            key = (entry.kind, None, ELSEWHERE.to_owned(), String::new(), String::new());
        }
        let at = self.at.get(&key).copied();
        let is_told = self.is_told(at.unwrap_or(self.entries.len()), &entry);
        match at {
            Some(at) if is_told => add(&mut self.entries[at], &LogEntry { count: 0, ..entry }),
            Some(at) => add(&mut self.entries[at], &entry),
            None => {
                self.at.insert(key, self.entries.len());
                self.entries.push(entry);
            }
        }
    }

    /// Whether another teller told of the same stop shortly before or after; each is matched once.
    fn is_told(&mut self, at: usize, entry: &LogEntry) -> bool {
        let Some(when) = entry.wall_ms().filter(|_| !entry.teller.is_empty()) else { return false };
        let once = self.once.entry(at).or_default();
        let same =
            once.iter().position(|(other, teller)| *teller != entry.teller && other.abs_diff(when) <= ONE_STOP_MS);
        match same {
            Some(same) => drop(once.swap_remove(same)),
            None => once.push((when, entry.teller.clone())),
        }
        same.is_some()
    }

    /// All of them in the order in which they were found first; nothing is left.
    pub fn entries(&mut self) -> Vec<LogEntry> {
        self.at.clear();
        self.once.clear();
        std::mem::take(&mut self.entries)
    }
}

impl Extend<LogEntry> for Collected {
    fn extend<I: IntoIterator<Item = LogEntry>>(&mut self, entries: I) {
        entries.into_iter().for_each(|entry| self.take(entry));
    }
}

/// Entries that say the same become one with a count; the newest stand first, those without a time last.
pub fn merge(entries: Vec<LogEntry>) -> Vec<LogEntry> {
    let mut collected = Collected::default();
    collected.extend(entries);
    let mut merged = collected.entries();
    merged.sort_by(|a, b| b.wall_ms().cmp(&a.wall_ms()).then_with(|| a.kind.cmp(&b.kind)));
    merged
}

fn add(into: &mut LogEntry, entry: &LogEntry) {
    into.count = into.count.saturating_add(entry.count);
    let earlier = |a: &LogTime, b: &LogTime| a.wall_ms.zip(b.wall_ms).is_some_and(|(a, b)| a < b);
    if earlier(&entry.first, &into.first) {
        into.first = entry.first.clone();
    }
    // Where no time is told the order in the log is that of time.
    if entry.last.wall_ms.is_none() || earlier(&into.last, &entry.last) {
        into.last = entry.last.clone();
        into.text.clone_from(&entry.text);
    }
}

/// Errors at the same place are the same whatever their count; stop screens and checks by their words.
fn text_key(entry: &LogEntry) -> String {
    if entry.kind.is_memory_error() && (entry.address.is_some() || !entry.place.is_empty()) {
        String::new()
    } else {
        entry.text.clone()
    }
}
