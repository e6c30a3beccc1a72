//! Failing words of a run in bounded memory: a fair sample of the distinct ones, however many there are.
//!
//! Words are kept by a hash of their place (adaptive sampling after Wegman; Flajolet, "On adaptive sampling", 1990): every distinct word has the same
//! chance, whether it fails once or a million times, early or late. When there are too many the chance is halved.

use std::collections::BTreeMap;

use revisum_engine::sweep::second_look::Kind;

/// Most words kept.
const MOST_WORDS: usize = 4096;

/// A failing word.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub struct BadCell {
    /// Bits that ever read wrong.
    pub wrong: u64,
    /// Those of them that read one for zero.
    pub ones: u64,
    /// How often it was seen to fail.
    pub seen: u32,
    /// How often the next read was wrong again.
    pub recurring: u32,
    /// How often the next read was right again.
    pub transient: u32,
}

/// A fair sample of distinct failing words.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Digest {
    /// Each distinct word is kept with a chance of 2 to minus this.
    level: u32,
    kept: BTreeMap<u64, BadCell>,
}

impl Digest {
    /// Takes a failing word at a place: its address, or its offset where addresses are unknown.
    pub fn add(&mut self, place: u64, expected: u64, actual: u64, kind: Kind) {
        if !is_kept(place, self.level) {
            return;
        }
        let cell = self.kept.entry(place).or_default();
        cell.wrong |= expected ^ actual;
        cell.ones |= !expected & actual;
        cell.seen = cell.seen.saturating_add(1);
        cell.recurring = cell.recurring.saturating_add(u32::from(kind == Kind::Recurring));
        cell.transient = cell.transient.saturating_add(u32::from(kind == Kind::Transient));
        while self.kept.len() > MOST_WORDS {
            self.level += 1;
            let level = self.level;
            self.kept.retain(|place, _| is_kept(*place, level));
        }
    }

    /// Kept words by place.
    pub fn cells(&self) -> impl Iterator<Item = (u64, BadCell)> {
        self.kept.iter().map(|(place, cell)| (*place, *cell))
    }

    /// Whether every distinct word is kept.
    pub fn is_whole(&self) -> bool {
        self.level == 0
    }

    /// How many distinct words failed: exact while all are kept, else an estimate.
    pub fn distinct(&self) -> u64 {
        (self.kept.len() as u64) << self.level.min(50)
    }

    /// Whether nothing failed.
    pub fn is_empty(&self) -> bool {
        self.kept.is_empty()
    }
}

fn is_kept(place: u64, level: u32) -> bool {
    hash(place).leading_zeros() >= level
}

/// Steele, Lea, Flood, "Fast splittable pseudorandom number generators", 2014: the finishing step.
fn hash(place: u64) -> u64 {
    let mut mixed = place.wrapping_add(0x9e37_79b9_7f4a_7c15);
    mixed = (mixed ^ mixed >> 30).wrapping_mul(0xbf58_476d_1ce4_e5b9);
    mixed = (mixed ^ mixed >> 27).wrapping_mul(0x94d0_49bb_1331_11eb);
    mixed ^ mixed >> 31
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_same_word_is_one_word() {
        let mut digest = Digest::default();
        digest.add(64, 0, 1, Kind::Recurring);
        digest.add(64, 3, 1, Kind::Transient);
        let cell = BadCell { wrong: 3, ones: 1, seen: 2, recurring: 1, transient: 1 };
        assert_eq!(digest.cells().collect::<Vec<_>>(), [(64, cell)]);
        assert!(digest.is_whole() && digest.distinct() == 1);
    }

    /// Ten million distinct words: bounded memory, a count within 5 %, and no region favoured.
    #[test]
    fn a_flood_of_distinct_words_is_sampled_fairly() {
        let mut digest = Digest::default();
        let words = 10_000_000u64;
        for word in 0..words {
            digest.add(word * 8, 0, 1, Kind::NotLooked);
        }
        assert!(digest.kept.len() <= MOST_WORDS && digest.kept.len() > MOST_WORDS / 4);
        let error = digest.distinct() as f64 / words as f64 - 1.0;
        assert!(error.abs() < 0.05, "{error}");
        let early = digest.cells().filter(|(place, _)| *place < words * 4).count() as f64;
        let share = early / digest.kept.len() as f64;
        // Five standard deviations of a fair coin thrown as often as words are kept.
        assert!((share - 0.5).abs() < 2.5 / (digest.kept.len() as f64).sqrt(), "{share}");
    }
}
