//! Counts by place, in bounded memory.

use std::collections::BTreeMap;

use serde::{Deserialize, Serialize};

use super::pairs;

/// Most places that are told apart before neighbouring ones are counted together.
const MOST_BUCKETS: usize = 2048;
/// Places begin as pages of 4 KiB.
const PAGE_SHIFT: u32 = 12;

/// Counts by place. When there are too many places, pairs of neighbours are merged until they fit.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(try_from = "Written")]
pub struct Buckets {
    /// Each place is 2 to this power bytes long.
    shift: u32,
    #[serde(with = "pairs")]
    counts: BTreeMap<u64, u64>,
}

/// As it stands in a journal, where it may be anything.
#[derive(Deserialize)]
struct Written {
    shift: u32,
    #[serde(with = "pairs")]
    counts: BTreeMap<u64, u64>,
}

impl TryFrom<Written> for Buckets {
    type Error = &'static str;

    fn try_from(Written { shift, counts }: Written) -> Result<Self, Self::Error> {
        let there = |place: &u64| *place <= u64::MAX.checked_shr(shift).unwrap_or(0);
        if !(PAGE_SHIFT..u64::BITS).contains(&shift) || counts.len() > MOST_BUCKETS || !counts.keys().all(there) {
            return Err("places that no memory has");
        }
        Ok(Self { shift, counts })
    }
}

fn add_to(counts: &mut BTreeMap<u64, u64>, place: u64, words: u64) {
    let count = counts.entry(place).or_default();
    *count = count.saturating_add(words);
}

impl Default for Buckets {
    fn default() -> Self {
        Self { shift: PAGE_SHIFT, counts: BTreeMap::new() }
    }
}

impl Buckets {
    /// Nothing counted, with places as long as these.
    pub fn emptied(&self) -> Self {
        Self { shift: self.shift, counts: BTreeMap::new() }
    }

    /// Counts `words` wrong words at this address or offset.
    pub fn add(&mut self, at: u64, words: u64) {
        add_to(&mut self.counts, at >> self.shift, words);
        while self.counts.len() > MOST_BUCKETS {
            self.widen(self.shift + 1);
        }
    }

    /// Counts wrong words somewhere in a stretch. Places become as long as the stretch, so that nothing is claimed more
    /// precisely than it is known.
    pub fn add_stretch(&mut self, at: u64, bytes: u64, words: u64) {
        let shift = bytes.next_power_of_two().trailing_zeros();
        if shift > self.shift {
            self.widen(shift);
        }
        self.add(at, words);
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
        self.counts.values().fold(0, |all, words| all.saturating_add(*words))
    }

    fn widen(&mut self, shift: u32) {
        let step = shift - self.shift;
        let mut wider = BTreeMap::new();
        for (place, words) in std::mem::take(&mut self.counts) {
            add_to(&mut wider, place >> step, words);
        }
        self.counts = wider;
        self.shift = shift;
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
    }

    #[test]
    fn a_stretch_makes_places_as_long_as_itself() {
        let mut buckets = Buckets::default();
        buckets.add(0x1000, 3);
        buckets.add_stretch(4 << 20, 4 << 20, 7);
        assert_eq!(buckets.places().collect::<Vec<_>>(), [(0, 4 << 20, 3), (4 << 20, 4 << 20, 7)]);
    }
}
