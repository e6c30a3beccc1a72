//! Counting wrong words: exact under any flood, in bounded memory.

mod buckets;
mod lanes;

use std::collections::BTreeMap;

use serde::{Deserialize, Serialize};

pub use buckets::Buckets;
pub use lanes::Lanes;

use crate::places::Certainty;
use crate::sweep::BadWord;
use crate::sweep::second_look::Kind;
use crate::units::{PhysAddr, Word};

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
        self.lanes.add(word.expected, word.actual);
        self.places.add(place, 1);
        self.add_words(1, slots, kind, core);
    }

    /// Counts wrong words whose lanes and places are counted apart.
    pub fn add_words(&mut self, words: u64, slots: &str, kind: Kind, core: u16) {
        self.words += words;
        *self.kinds.entry(kind).or_default() += words;
        *self.cores.entry(core).or_default() += words;
        match self.slots.get_mut(slots) {
            Some(count) => *count += words,
            None => {
                self.slots.insert(slots.to_owned(), words);
            }
        }
    }

    /// Adds all of `other`, keeping at most `most_samples` samples.
    pub fn merge(&mut self, other: &Tally, most_samples: usize) {
        self.words = self.words.saturating_add(other.words);
        self.lanes.merge(&other.lanes);
        self.places.merge(&other.places);
        add_all(&mut self.slots, &other.slots);
        add_all(&mut self.kinds, &other.kinds);
        add_all(&mut self.cores, &other.cores);
        let room = most_samples.saturating_sub(self.samples.len());
        self.samples.extend(other.samples.iter().take(room).cloned());
    }

    /// True when nothing was counted, in any of its ways.
    pub fn is_empty(&self) -> bool {
        self.most_words() == 0
    }

    /// Words by that way of counting that comes to the most: a bit that turned over in one of them makes none of the others less.
    pub fn most_words(&self) -> u64 {
        self.ways().into_iter().flatten().chain([self.samples.len() as u64]).fold(self.words, u64::max)
    }

    /// Whether all ways of counting come to the same. What is counted lies in memory that may be bad itself.
    pub fn agrees(&self) -> bool {
        self.ways().into_iter().flatten().all(|words| words == self.words) && self.most_words() == self.words
    }

    /// The words again, by place, slot, second look and core; nothing of a way that counted nothing.
    fn ways(&self) -> [Option<u64>; 4] {
        let [kinds, slots, cores] = [sum(&self.kinds), sum(&self.slots), sum(&self.cores)];
        [kinds, slots, cores, Some(self.places.total()).filter(|words| *words > 0)]
    }
}

fn sum<K>(counts: &BTreeMap<K, u64>) -> Option<u64> {
    (!counts.is_empty()).then(|| counts.values().fold(0, |all: u64, words| all.saturating_add(*words)))
}

fn add_all<K: Ord + Clone>(into: &mut BTreeMap<K, u64>, from: &BTreeMap<K, u64>) {
    for (key, count) in from {
        match into.get_mut(key) {
            Some(sum) => *sum = sum.saturating_add(*count),
            None => drop(into.insert(key.clone(), *count)),
        }
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

    const SLOTS: [&str; 3] = ["", "A1", "A1 B1"];
    const KINDS: [Kind; 5] = [Kind::Recurring, Kind::Stored, Kind::Transient, Kind::Unsteady, Kind::NotLooked];

    /// `(place, expected, actual, slots, kind, core)` of a wrong word.
    type Wrong = (u64, u64, u64, usize, usize, u16);

    fn wrong_words() -> impl Strategy<Value = Vec<Wrong>> {
        let word = (0u64..1 << 36, any::<u64>(), any::<u64>(), 0usize..3, 0usize..KINDS.len(), 0u16..4);
        prop::collection::vec(word, 0..200)
    }

    fn tally(words: &[Wrong]) -> Tally {
        let mut tally = Tally::default();
        for (place, expected, actual, slots, kind, core) in words {
            let word = BadWord { offset: *place, expected: *expected, actual: *actual };
            tally.add(word, *place, SLOTS[*slots], KINDS[*kind], *core);
        }
        tally
    }

    proptest! {
        /// However the words are spread over workers and reports, together they are what one would have counted.
        #[test]
        fn tallies_add_up(words in wrong_words(), cuts in prop::collection::vec(0usize..200, 0..6)) {
            let mut merged = Tally::default();
            let (mut from, mut cuts) = (0, cuts);
            cuts.sort_unstable();
            for cut in cuts.into_iter().map(|cut| cut.min(words.len())).chain([words.len()]) {
                merged.merge(&tally(&words[from..cut.max(from)]), usize::MAX);
                from = cut.max(from);
            }
            let whole = tally(&words);
            prop_assert_eq!(merged.words, words.len() as u64);
            prop_assert_eq!(merged.places.total(), whole.places.total());
            prop_assert_eq!((&merged.lanes, &merged.slots), (&whole.lanes, &whole.slots));
            prop_assert_eq!((&merged.kinds, &merged.cores), (&whole.kinds, &whole.cores));
            for counts in [merged.slots.values().sum::<u64>(), merged.kinds.values().sum(), merged.cores.values().sum()] {
                prop_assert_eq!(counts, merged.words);
            }
            prop_assert_eq!(merged.is_empty(), words.is_empty());
            prop_assert!(merged.agrees() && merged.most_words() == merged.words);
        }

        /// Any bit that turns over in a count is noticed, and no words are lost by it, however much is added afterwards.
        #[test]
        fn no_flipped_count_hides_a_word(words in wrong_words(), later in wrong_words(), way in 0usize..4, bit in 0u32..63) {
            prop_assume!(!words.is_empty());
            let mut flipped = tally(&words);
            let count = match way {
                0 => &mut flipped.words,
                1 => flipped.kinds.values_mut().next().unwrap(),
                2 => flipped.slots.values_mut().next().unwrap(),
                _ => flipped.cores.values_mut().next().unwrap(),
            };
            *count ^= 1 << bit;
            flipped.merge(&tally(&later), 0);
            prop_assert!(!flipped.agrees() && !flipped.is_empty());
            prop_assert!(flipped.most_words() >= (words.len() + later.len()) as u64);
        }

        /// A tally comes back from a record as it went in.
        #[test]
        fn a_tally_is_written_and_read(words in wrong_words()) {
            let tally = tally(&words);
            let text = serde_json::to_string(&tally).unwrap();
            prop_assert_eq!(serde_json::from_str::<Tally>(&text).unwrap(), tally);
        }
    }

    #[test]
    fn samples_are_kept_up_to_a_number_and_counts_never_run_over() {
        let sample = Sample {
            address: None,
            offset: 0,
            expected: Word(0),
            actual: Word(1),
            kind: KINDS[0],
            test: "random".into(),
            pass: 1,
            element: 1,
            core: 0,
            slots: Vec::new(),
            certainty: Certainty::Unknown,
        };
        let one = Tally { words: u64::MAX, samples: vec![sample; 5], ..Tally::default() };
        let mut all = Tally::default();
        all.merge(&one, 3);
        all.merge(&one, 3);
        assert_eq!((all.words, all.samples.len()), (u64::MAX, 3));
        all.merge(&one, 4);
        assert_eq!(all.samples.len(), 4);
    }
}
