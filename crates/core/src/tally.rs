//! Counting wrong words: exact under any flood, in bounded memory.

use std::collections::BTreeMap;

use serde::{Deserialize, Serialize};

use crate::address::Certainty;
use crate::sweep::BadWord;
use crate::sweep::second_look::Kind;
use crate::units::{PhysAddr, Word};

/// Most places that are told apart before neighbouring ones are counted together.
const MOST_BUCKETS: usize = 2048;
/// Places begin as pages of 4 KiB.
const PAGE_SHIFT: u32 = 12;

/// Counts by place. When there are too many places, pairs of neighbours are merged until they fit.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
pub struct Buckets {
    /// Each place is 2 to this power bytes long.
    shift: u32,
    #[serde(with = "pairs")]
    counts: BTreeMap<u64, u64>,
}

impl Default for Buckets {
    fn default() -> Self {
        Self { shift: PAGE_SHIFT, counts: BTreeMap::new() }
    }
}

impl Buckets {
    /// Counts `words` wrong words at this address or offset.
    pub fn add(&mut self, at: u64, words: u64) {
        *self.counts.entry(at >> self.shift).or_default() += words;
        while self.counts.len() > MOST_BUCKETS {
            self.widen(self.shift + 1);
        }
    }

    /// Adds all counts of `other`.
    pub fn merge(&mut self, other: &Buckets) {
        if other.shift > self.shift {
            self.widen(other.shift);
        }
        for (place, words) in &other.counts {
            self.add(place << other.shift, *words);
        }
    }

    /// `(first byte, bytes, wrong words)` of every place with errors, ascending.
    pub fn places(&self) -> impl Iterator<Item = (u64, u64, u64)> {
        self.counts.iter().map(|(place, words)| (place << self.shift, 1 << self.shift, *words))
    }

    /// All words counted.
    pub fn total(&self) -> u64 {
        self.counts.values().sum()
    }

    fn widen(&mut self, shift: u32) {
        let step = shift - self.shift;
        let mut wider = BTreeMap::new();
        for (place, words) in std::mem::take(&mut self.counts) {
            *wider.entry(place >> step).or_default() += words;
        }
        self.counts = wider;
        self.shift = shift;
    }
}

/// Wrong bits by data lane and direction.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(from = "Vec<(u8, u64, u64)>", into = "Vec<(u8, u64, u64)>")]
pub struct Lanes([(u64, u64); 64]);

impl Default for Lanes {
    fn default() -> Self {
        Self([(0, 0); 64])
    }
}

impl Lanes {
    /// Counts the wrong bits of one word.
    pub fn add(&mut self, expected: u64, actual: u64) {
        let mut wrong = expected ^ actual;
        while wrong != 0 {
            let lane = wrong.trailing_zeros() as usize;
            let counts = &mut self.0[lane];
            if actual >> lane & 1 == 1 {
                counts.0 += 1
            } else {
                counts.1 += 1
            }
            wrong &= wrong - 1;
        }
    }

    /// Adds all counts of `other`.
    pub fn merge(&mut self, other: &Lanes) {
        for (mine, theirs) in self.0.iter_mut().zip(&other.0) {
            mine.0 += theirs.0;
            mine.1 += theirs.1;
        }
    }

    /// `(lane, read 1 for 0, read 0 for 1)` of every lane with wrong bits.
    pub fn wrong(&self) -> impl Iterator<Item = (u8, u64, u64)> {
        (0u8..).zip(&self.0).filter(|(_, counts)| **counts != (0, 0)).map(|(lane, counts)| (lane, counts.0, counts.1))
    }
}

impl From<Vec<(u8, u64, u64)>> for Lanes {
    fn from(sparse: Vec<(u8, u64, u64)>) -> Self {
        let mut lanes = Self::default();
        for (lane, up, down) in sparse {
            if let Some(counts) = lanes.0.get_mut(usize::from(lane)) {
                *counts = (up, down);
            }
        }
        lanes
    }
}

impl From<Lanes> for Vec<(u8, u64, u64)> {
    fn from(lanes: Lanes) -> Self {
        lanes.wrong().collect()
    }
}

/// One wrong word kept in full.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
pub struct Sample {
    /// Physical address, where it is known.
    pub address: Option<PhysAddr>,
    /// Offset in the held memory.
    pub offset: u64,
    /// What should have been read.
    pub expected: Word,
    /// What was read.
    pub actual: Word,
    /// Second look.
    pub kind: Kind,
    /// Test.
    pub test: String,
    /// Pass, from 1.
    pub pass: u32,
    /// Element within the test, from 1.
    pub element: u32,
    /// Core that read it.
    pub core: u16,
    /// Slots that it can come from.
    pub slots: Vec<String>,
    /// How sure that is.
    pub certainty: Certainty,
}

/// Wrong words of one worker since its last report, or of a whole run: tallies add up.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
pub struct Tally {
    /// Words that read wrong.
    pub words: u64,
    /// Wrong bits by lane.
    pub lanes: Lanes,
    /// By physical address, or by offset in the held memory where addresses are unknown.
    pub places: Buckets,
    /// By the set of slots that they can come from, joined by spaces; empty when nothing is known.
    pub slots: BTreeMap<String, u64>,
    /// By second look.
    pub kinds: BTreeMap<Kind, u64>,
    /// By core.
    #[serde(with = "pairs")]
    pub cores: BTreeMap<u16, u64>,
    /// A few words in full.
    pub samples: Vec<Sample>,
}

impl Tally {
    /// Counts one wrong word at a place, with what the second look found.
    pub fn add(&mut self, word: BadWord, place: u64, slots: &str, kind: Kind, core: u16) {
        self.words += 1;
        self.lanes.add(word.expected, word.actual);
        self.places.add(place, 1);
        *self.kinds.entry(kind).or_default() += 1;
        *self.cores.entry(core).or_default() += 1;
        match self.slots.get_mut(slots) {
            Some(count) => *count += 1,
            None => {
                self.slots.insert(slots.to_owned(), 1);
            }
        }
    }

    /// Adds all of `other`, keeping at most `most_samples` samples.
    pub fn merge(&mut self, other: &Tally, most_samples: usize) {
        self.words += other.words;
        self.lanes.merge(&other.lanes);
        self.places.merge(&other.places);
        add_all(&mut self.slots, &other.slots);
        add_all(&mut self.kinds, &other.kinds);
        add_all(&mut self.cores, &other.cores);
        let room = most_samples.saturating_sub(self.samples.len());
        self.samples.extend(other.samples.iter().take(room).cloned());
    }

    /// True when nothing was counted.
    pub fn is_empty(&self) -> bool {
        self.words == 0
    }
}

fn add_all<K: Ord + Clone>(into: &mut BTreeMap<K, u64>, from: &BTreeMap<K, u64>) {
    for (key, count) in from {
        *into.entry(key.clone()).or_default() += count;
    }
}

/// Maps with numbers as keys are written as lists of pairs: JSON has only text as keys, and reading a tagged record does
/// not turn text back into numbers.
mod pairs {
    use std::collections::BTreeMap;

    use serde::{Deserialize, Deserializer, Serialize, Serializer};

    pub fn serialize<K: Serialize, V: Serialize, S: Serializer>(
        map: &BTreeMap<K, V>,
        serializer: S,
    ) -> Result<S::Ok, S::Error> {
        serializer.collect_seq(map)
    }

    pub fn deserialize<'de, K, V, D>(deserializer: D) -> Result<BTreeMap<K, V>, D::Error>
    where
        K: Deserialize<'de> + Ord,
        V: Deserialize<'de>,
        D: Deserializer<'de>,
    {
        Ok(Vec::<(K, V)>::deserialize(deserializer)?.into_iter().collect())
    }
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use super::*;

    proptest! {
        #[test]
        fn counts_stay_exact_and_bounded(places in prop::collection::vec((0u64..1 << 40, 1u64..9), 0..6000)) {
            let (mut whole, mut left, mut right) = (Buckets::default(), Buckets::default(), Buckets::default());
            for (index, (at, words)) in places.iter().enumerate() {
                whole.add(*at, *words);
                if index % 3 == 0 { left.add(*at, *words) } else { right.add(*at, *words) }
            }
            left.merge(&right);
            let total: u64 = places.iter().map(|(_, words)| words).sum();
            prop_assert_eq!(whole.total(), total);
            prop_assert_eq!(left.total(), total);
            prop_assert!(whole.counts.len() <= MOST_BUCKETS && left.counts.len() <= MOST_BUCKETS);
            for (at, _) in &places {
                prop_assert!(left.places().any(|(first, bytes, _)| (first..first + bytes).contains(at)));
            }
        }

        #[test]
        fn lanes_and_directions_add_up(words in prop::collection::vec((any::<u64>(), any::<u64>()), 0..50)) {
            let mut lanes = Lanes::default();
            for (expected, actual) in &words {
                lanes.add(*expected, *actual);
            }
            let bits: u64 = words.iter().map(|(expected, actual)| u64::from((expected ^ actual).count_ones())).sum();
            prop_assert_eq!(lanes.wrong().map(|(_, up, down)| up + down).sum::<u64>(), bits);
            let through_a_file: Lanes = serde_json::from_str(&serde_json::to_string(&lanes).unwrap()).unwrap();
            prop_assert_eq!(through_a_file, lanes);
        }
    }

    #[test]
    fn directions_are_told_apart() {
        let mut lanes = Lanes::default();
        lanes.add(0, 1 << 19);
        lanes.add(u64::MAX, u64::MAX ^ 1);
        assert_eq!(lanes.wrong().collect::<Vec<_>>(), [(0, 0, 1), (19, 1, 0)]);
    }
}
