//! Learning how channels and slots follow from addresses, from words whose slot is known: linear algebra over GF(2) for hashes, and
//! trying for ways that take turns.
//!
//! A way's number is made of parities of address bits. Whatever they are, they are the same for all words of one slot: so every mask
//! has even parity on the difference of two such words. The masks that are left form a space; when it has as many dimensions as the
//! way's number has bits, the masks are found but for how they are named, else it says exactly what is still open.

use std::collections::BTreeMap;

use serde::{Deserialize, Serialize};

use super::linear::parity;
use revisum_engine::units::ByteRange;

/// A word whose slot is known.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct KnownWord {
    /// Physical address.
    pub address: u64,
    /// Its slot, or its channel.
    pub label: String,
}

/// What is known of the masks, and what is not.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize)]
pub struct Learned {
    /// Labels seen.
    pub labels: Vec<String>,
    /// A basis of all masks that agree with every word, over packed addresses (holes taken out).
    pub masks: Vec<u64>,
    /// How many of them there would be if everything were known; nothing where the number of labels is no power of two.
    pub needed: Option<usize>,
    /// Numbers of ways that could take turns instead, with their granule.
    pub turns: Vec<(usize, u64)>,
    /// Address bits in which no two words of a label differ yet: errors that differ there would decide more.
    pub untried: Vec<u32>,
    /// Words outside of the ranges.
    pub outside: usize,
}

impl Learned {
    /// Whether the masks are found.
    pub fn is_determined(&self) -> bool {
        let by_masks = self.needed == Some(self.masks.len()) && self.turns.is_empty();
        by_masks || self.turns.len() == 1 && self.needed != Some(self.masks.len())
    }

    /// What is still open; nothing when everything is found.
    pub fn open(&self) -> Option<Open> {
        if self.is_determined() {
            return None;
        }
        if self.masks.is_empty() && self.turns.is_empty() {
            return Some(Open::NoParity);
        }
        let bits = self.untried.iter().take(8).copied().collect();
        Some(Open::Dimensions { more: self.masks.len().saturating_sub(self.needed.unwrap_or(0)), bits })
    }
}

/// What is not determined yet of how slots share addresses.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub enum Open {
    /// No failing word of these slots is known.
    NoWord {
        /// Slots or channels.
        labels: Vec<String>,
        /// What is open among the others.
        so_far: Option<Box<Open>>,
    },
    /// No parity of address bits and no turns agree with the words: one of them has another slot.
    NoParity,
    /// So many dimensions are open.
    Dimensions {
        /// How many.
        more: usize,
        /// Address bits that would decide; none where those were not seen together yet.
        bits: Vec<u32>,
    },
}

/// Smallest and largest granule that ways take turns by, as powers of two.
const GRANULES: std::ops::RangeInclusive<u32> = 6..=16;

/// Learns from these words; `ranges` are the physical ranges of all fitted memory, ascending, and `lowest` the lowest address bit that can
/// matter.
pub fn learn(words: &[KnownWord], ranges: &[ByteRange], lowest: u32) -> Learned {
    let mut by_label: BTreeMap<&str, Vec<u64>> = BTreeMap::new();
    let mut outside = 0;
    for word in words {
        match packed(ranges, word.address) {
            Some(packed) => by_label.entry(&word.label).or_default().push(packed),
            None => outside += 1,
        }
    }
    let total: u64 = ranges.iter().map(|range| range.len()).sum();
    let highest = u64::BITS - total.saturating_sub(1).leading_zeros();
    let differences: Vec<u64> =
        by_label.values().flat_map(|words| words.iter().map(|word| (word ^ words[0]) >> lowest)).collect();
    let bits = highest.saturating_sub(lowest);
    let masks: Vec<u64> = orthogonal(&differences, bits).into_iter().map(|mask| mask << lowest).collect();
    let seen = differences.iter().fold(0, |seen, difference| seen | difference);
    let labels = by_label.len();
    Learned {
        masks: if tells_apart(&masks, &by_label) { masks } else { Vec::new() },
        needed: labels.is_power_of_two().then(|| labels.trailing_zeros() as usize),
        turns: turns(&by_label),
        untried: (0..bits).filter(|bit| seen >> bit & 1 == 0).map(|bit| bit + lowest).collect(),
        labels: by_label.into_keys().map(str::to_owned).collect(),
        outside,
    }
}

/// The address with holes taken out; nothing outside of the ranges.
pub(super) fn packed(ranges: &[ByteRange], address: u64) -> Option<u64> {
    let mut before = 0;
    for range in ranges {
        if range.contains(address) {
            return Some(before + address - range.start);
        }
        before += range.len();
    }
    None
}

/// Whether words of different labels differ in some parity.
fn tells_apart(masks: &[u64], by_label: &BTreeMap<&str, Vec<u64>>) -> bool {
    let number = |word: u64| masks.iter().map(|mask| parity(mask & word)).collect::<Vec<_>>();
    let mut numbers: Vec<Vec<bool>> =
        by_label.values().filter_map(|words| words.first()).map(|word| number(*word)).collect();
    let count = numbers.len();
    numbers.sort_unstable();
    numbers.dedup();
    numbers.len() == count
}

/// A basis of the masks with even parity on every one of these differences, of so many bits.
fn orthogonal(differences: &[u64], bits: u32) -> Vec<u64> {
    // Reduced row echelon form: each row's pivot appears in no other row.
    let mut rows: Vec<(u32, u64)> = Vec::new();
    for difference in differences {
        let mut rest = *difference;
        for (pivot, row) in &rows {
            if rest >> pivot & 1 == 1 {
                rest ^= row;
            }
        }
        if rest != 0 {
            let pivot = rest.trailing_zeros();
            for (_, row) in rows.iter_mut().filter(|(_, row)| row >> pivot & 1 == 1) {
                *row ^= rest;
            }
            rows.push((pivot, rest));
        }
    }
    let free = (0..bits).filter(|bit| !rows.iter().any(|(pivot, _)| pivot == bit));
    free.map(|bit| {
        let pivots = rows.iter().filter(|(_, row)| row >> bit & 1 == 1);
        pivots.fold(1u64 << bit, |mask, (pivot, _)| mask | 1 << pivot)
    })
    .collect()
}

/// Numbers of ways and granules under which every turn belongs to one label, where there are as many labels as ways.
fn turns(by_label: &BTreeMap<&str, Vec<u64>>) -> Vec<(usize, u64)> {
    let ways = by_label.len();
    if ways < 2 || ways.is_power_of_two() {
        return Vec::new();
    }
    let agrees = |granule_bits: u32| {
        let mut owner: BTreeMap<u64, &str> = BTreeMap::new();
        by_label.iter().all(|(label, words)| {
            words.iter().all(|word| *owner.entry((word >> granule_bits) % ways as u64).or_insert(label) == *label)
        })
    };
    GRANULES.filter(|bits| agrees(*bits)).map(|bits| (ways, 1u64 << bits)).collect()
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;
    use rstest::rstest;

    use super::*;

    fn known(address: u64, label: impl Into<String>) -> KnownWord {
        KnownWord { address, label: label.into() }
    }

    fn random(seed: u64) -> u64 {
        let mut mixed = seed.wrapping_mul(0x9e37_79b9_7f4a_7c15) ^ seed >> 7;
        mixed = (mixed ^ mixed >> 30).wrapping_mul(0xbf58_476d_1ce4_e5b9);
        mixed ^ mixed >> 31
    }

    proptest! {
        /// On ten bits every mask can be tried: as many agree with the words as the space says.
        #[test]
        fn the_space_is_what_trying_every_mask_finds(
            words in prop::collection::vec((0u64..1 << 10, 0usize..4), 1..12),
        ) {
            let range = ByteRange::new(0, 1 << 10);
            let known: Vec<KnownWord> = words.iter().map(|(word, label)| known(*word, label.to_string())).collect();
            let tried = (0u64..1 << 10)
                .filter(|mask| {
                    (0..4).all(|label| {
                        let mut parities = words.iter().filter(|(_, of)| *of == label).map(|(word, _)| parity(word & mask));
                        let first = parities.next();
                        parities.all(|parity| Some(parity) == first)
                    })
                })
                .count();
            let differences: Vec<u64> = (0..4)
                .flat_map(|label| {
                    let of: Vec<u64> = words.iter().filter(|(_, of)| *of == label).map(|(word, _)| *word).collect();
                    of.iter().map(|word| word ^ of[0]).collect::<Vec<_>>()
                })
                .collect();
            prop_assert_eq!(1usize << orthogonal(&differences, 10).len(), tried);
            prop_assert!(learn(&known, &[range], 0).masks.len() <= 10);
        }
    }

    /// Masks of one, two and three bits over 34 address bits, with a hole: found exactly, from a few words of each slot.
    #[rstest]
    #[case::two(&[1 << 8 | 1 << 14 | 1 << 19])]
    #[case::four(&[1 << 8 | 1 << 16, 1 << 9 | 1 << 17 | 1 << 30])]
    #[case::eight(&[1 << 6 | 1 << 12, 1 << 7 | 1 << 13 | 1 << 21, 1 << 8 | 1 << 33])]
    fn hashes_are_found(#[case] masks: &[u64]) {
        let ranges = [ByteRange::new(0, 3 << 30), ByteRange::new(4 << 30, 17 << 30)];
        let label =
            |packed: u64| masks.iter().map(|mask| if parity(mask & packed) { '1' } else { '0' }).collect::<String>();
        let words: Vec<KnownWord> = (0..400)
            .map(|seed| (random(seed) % (16 << 30)) & !63)
            .map(|packed| known(if packed < 3 << 30 { packed } else { packed + (1 << 30) }, label(packed)))
            .collect();
        let learned = learn(&words, &ranges, 6);
        assert!(learned.is_determined(), "{learned:?}");
        assert_eq!((learned.masks.len(), learned.open()), (masks.len(), None));
        // The same space: every true mask is a sum of learned ones.
        for mask in masks {
            let sums = (0u64..1 << learned.masks.len()).map(|choice| {
                let chosen = learned.masks.iter().enumerate().filter(|(at, _)| choice >> at & 1 == 1);
                chosen.fold(0, |sum, (_, mask)| sum ^ mask)
            });
            assert!(sums.collect::<Vec<_>>().contains(mask), "{mask:#x} is not in {:x?}", learned.masks);
        }
    }

    #[test]
    fn what_is_open_is_named() {
        let ranges = [ByteRange::new(0, 1 << 20)];
        let words: Vec<KnownWord> = (0..200)
            .map(|seed| (random(seed) % (1 << 14)) & !63)
            .map(|address| known(address, if parity(address & (1 << 8 | 1 << 12)) { "B1" } else { "A1" }))
            .collect();
        let learned = learn(&words, &ranges, 6);
        assert!(!learned.is_determined());
        assert_eq!((learned.masks.len(), learned.untried.clone()), (1 + 6, (14..20).collect()));
        assert_eq!(learned.open(), Some(Open::Dimensions { more: 6, bits: (14..20).collect() }));
    }

    #[rstest]
    #[case(3, 256)]
    #[case(6, 1024)]
    fn turns_are_found(#[case] ways: u64, #[case] granule: u64) {
        let ranges = [ByteRange::new(0, 6 << 30)];
        let words: Vec<KnownWord> = (0..600)
            .map(|seed| (random(seed) % (6 << 30)) & !63)
            .map(|address| known(address, format!("C{}", address / granule % ways)))
            .collect();
        let learned = learn(&words, &ranges, 6);
        assert_eq!(learned.turns, [(ways as usize, granule)]);
        assert!(learned.is_determined());
    }

    #[test]
    fn words_that_contradict_each_other_are_noticed() {
        let ranges = [ByteRange::new(0, 1 << 12)];
        let words: Vec<KnownWord> = (0..200)
            .map(|seed| known(random(seed) % (1 << 12), if random(seed + 7).is_multiple_of(2) { "A1" } else { "B1" }))
            .collect();
        let learned = learn(&words, &ranges, 6);
        assert!(!learned.is_determined() && learned.masks.is_empty());
        assert_eq!(learned.open(), Some(Open::NoParity));
        assert_eq!(learn(&[known(1 << 40, "A1")], &ranges, 6).outside, 1);
    }
}
