//! Where entries belong, and several that say the same as one.

use crate::board::{Inventory, placed};
use revisum_record::logged::{LogEntry, LogTime};

/// Most entries that are kept apart; more of the same kind at other places are counted with the last one.
const MOST_ENTRIES: usize = 2_000;

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

/// Entries that say the same become one with a count; the newest stand first, those without a time last.
pub fn merge(entries: Vec<LogEntry>) -> Vec<LogEntry> {
    let mut merged: Vec<LogEntry> = Vec::new();
    let mut at_key = std::collections::BTreeMap::new();
    for entry in entries {
        let key = (entry.kind, entry.address, entry.place.clone(), entry.log.clone(), text_key(&entry));
        let full = merged.len() >= MOST_ENTRIES;
        let at = at_key.get(&key).copied().or_else(|| full.then(|| merged.len() - 1));
        match at {
            Some(at) => add(&mut merged[at], &entry),
            None => {
                at_key.insert(key, merged.len());
                merged.push(entry);
            }
        }
    }
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
