//! Lanes that nobody drives: each read of each of them returns the other value with a fixed chance.
//!
//! A whole package that fails is a billion wrong words on a large module. They are not played one by one: how many words
//! of a stretch read wrong, and on which lanes, is drawn from the law that the single reads follow (binomial), from a
//! generator that the seed determines. The first words of a stretch are played one by one, so that they can be looked at.

use std::ops::Range;

use rand_chacha::ChaCha8Rng;
use rand_chacha::rand_core::{Rng, SeedableRng};
use rand_distr::{Binomial, Distribution};
use revisum_engine::tally::Lanes;

use super::{FaultKind, FaultSpec};

/// Noise on lanes of everything in one slot.
#[derive(Clone, Debug)]
pub(crate) struct Noise {
    /// Slot of the module that fails.
    pub slot: String,
    lanes: Range<u8>,
    chance: f64,
    random: ChaCha8Rng,
}

/// What the reads of many words come to.
pub(crate) struct Drawn {
    /// Words with at least one wrong bit.
    pub words: u64,
    /// The wrong bits.
    pub lanes: Lanes,
}

impl Noise {
    /// The noise in this slot; nothing for other faults.
    pub fn new(spec: &FaultSpec, slot: &str, width: u8, seed: u64) -> Option<Self> {
        (spec.kind == FaultKind::Noise).then(|| Self {
            slot: slot.to_owned(),
            lanes: spec.lanes(width),
            chance: spec.chance,
            random: ChaCha8Rng::seed_from_u64(seed),
        })
    }

    /// Which bits one read gets wrong.
    pub fn one(&mut self) -> u64 {
        let chance = (self.chance * f64::from(u32::MAX)) as u32;
        self.lanes.clone().filter(|_| self.random.next_u32() <= chance).fold(0, |mask, lane| mask | 1 << lane)
    }

    /// A number below this one.
    pub fn below(&mut self, end: u64) -> u64 {
        self.random.next_u64() % end.max(1)
    }

    /// Reads of `words` words of which the bits should be 1 with the chance `ones`.
    pub fn many(&mut self, words: u64, ones: f64) -> Drawn {
        let mut lanes = Lanes::default();
        let (mut most, mut sum) = (0, 0);
        for lane in self.lanes.clone() {
            let wrong = self.draw(words, self.chance);
            let down = self.draw(wrong, ones);
            lanes.add_counts(lane, wrong - down, down);
            most = most.max(wrong);
            sum += wrong;
        }
        let right = (1.0 - self.chance).powi(i32::from(self.lanes.end - self.lanes.start));
        // Lanes and words are drawn apart; a word has at least one wrong bit and each bit belongs to one word.
        let bad = self.draw(words, 1.0 - right).clamp(most, sum.min(words));
        Drawn { words: bad, lanes }
    }

    fn draw(&mut self, of: u64, chance: f64) -> u64 {
        Binomial::new(of, chance.clamp(0.0, 1.0)).map_or(0, |law| law.sample(&mut self.random))
    }
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;

    fn noise(lanes: u8, chance: f64) -> Noise {
        Noise { slot: "A1".into(), lanes: 8..8 + lanes, chance, random: ChaCha8Rng::seed_from_u64(3) }
    }

    /// What is drawn in one go follows the law of the words drawn one by one, within five standard deviations.
    #[rstest]
    #[case(1, 0.5)]
    #[case(8, 0.5)]
    #[case(4, 0.01)]
    fn many_are_like_one_by_one(#[case] lanes: u8, #[case] chance: f64) {
        let words = 200_000u64;
        let mut source = noise(lanes, chance);
        let one_by_one = (0..words).filter(|_| source.one() != 0).count() as f64;
        let drawn = noise(lanes, chance).many(words, 0.5);
        let room = 5.0 * (words as f64 * 0.25).sqrt() * 1.5;
        assert!((drawn.words as f64 - one_by_one).abs() < room, "{} against {one_by_one}", drawn.words);
        for (lane, up, down) in drawn.lanes.wrong() {
            assert!((8..8 + lanes).contains(&lane));
            assert!(((up + down) as f64 - words as f64 * chance).abs() < room);
            assert!((up as f64 - down as f64).abs() < room);
        }
    }

    #[test]
    fn bits_that_should_be_zero_only_read_as_one() {
        let drawn = noise(8, 0.5).many(1000, 0.0);
        assert!(drawn.lanes.wrong().all(|(_, up, down)| up > 0 && down == 0));
        assert_eq!(noise(8, 1.0).many(1000, 1.0).words, 1000);
    }
}
