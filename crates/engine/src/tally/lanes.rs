//! Wrong bits by lane.

use serde::{Deserialize, Serialize};

/// Wrong bits by data lane and direction.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(from = "Vec<(u8, u64, u64)>", into = "Vec<(u8, u64, u64)>")]
pub struct Lanes([(u64, u64); 64]);

impl Default for Lanes {
    fn default() -> Self {
        Self::NONE
    }
}

impl Lanes {
    const NONE: Self = Self([(0, 0); 64]);

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
        // Of many reports only the number of words is read.
        if *other == Self::NONE {
            return;
        }
        for (mine, theirs) in self.0.iter_mut().zip(&other.0) {
            mine.0 = mine.0.saturating_add(theirs.0);
            mine.1 = mine.1.saturating_add(theirs.1);
        }
    }

    /// Counts so many wrong bits of one lane: reads of 1 for 0, and of 0 for 1.
    pub fn add_counts(&mut self, lane: u8, up: u64, down: u64) {
        if let Some(counts) = self.0.get_mut(usize::from(lane)) {
            counts.0 = counts.0.saturating_add(up);
            counts.1 = counts.1.saturating_add(down);
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
            lanes.add_counts(lane, up, down);
        }
        lanes
    }
}

impl From<Lanes> for Vec<(u8, u64, u64)> {
    fn from(lanes: Lanes) -> Self {
        lanes.wrong().collect()
    }
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use super::*;

    proptest! {
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
