//! Counting the wrong bits of whole cache lines by lane, fast enough for a flood.
//!
//! Every bit position of a line has a counter of its own, but the counters lie across registers: level `k` holds bit `k`
//! of all of them. Two lines and what a level holds make one sum and one carry for the next level, so a line costs about one
//! such step in all (carry-save adders; Harley and Seal's method as described by Warren, Hacker's Delight, 2nd edition, and
//! for positions by Clausecker, Lemire and Schintke, 2024).

use super::Lanes;
use crate::sweep::{BadLine, LINE};

const WORDS: usize = LINE / 8;
/// Lines that the counters can hold: 2 to this power.
const LEVELS: usize = 24;

type Bits = [u64; WORDS];

/// One counter for each bit position of a line.
#[derive(Clone, Debug)]
struct Positions {
    sums: [Bits; LEVELS],
    /// A second addend of the same weight, where `full` has the level's bit set.
    waiting: [Bits; LEVELS],
    full: u32,
}

impl Default for Positions {
    fn default() -> Self {
        Self { sums: [[0; WORDS]; LEVELS], waiting: [[0; WORDS]; LEVELS], full: 0 }
    }
}

impl Positions {
    #[inline]
    fn add(&mut self, bits: &Bits) {
        let mut carry = *bits;
        let levels = (self.full.trailing_ones() as usize).min(LEVELS - 1);
        for (sum, waiting) in self.sums.iter_mut().zip(&self.waiting).take(levels) {
            for word in 0..WORDS {
                let (a, b, c) = (sum[word], waiting[word], carry[word]);
                let half = a ^ b;
                sum[word] = half ^ c;
                carry[word] = (a & b) | (half & c);
            }
        }
        self.waiting[levels] = carry;
        // The levels below were used up, this one waits now: that is what adding one does to a binary number.
        self.full += 1;
    }

    /// The counts by lane, over all words of the line.
    fn take(&mut self) -> [u64; 64] {
        let mut lanes = [0; 64];
        let used = LEVELS.min(32 - self.full.leading_zeros() as usize);
        for level in 0..used {
            let waits = self.full >> level & 1 == 1;
            for word in 0..WORDS {
                for (lane, count) in lanes.iter_mut().enumerate() {
                    let bit = |bits: u64| bits >> lane & 1;
                    let waiting = if waits { bit(self.waiting[level][word]) } else { 0 };
                    *count += (bit(self.sums[level][word]) + waiting) << level;
                }
            }
        }
        *self = Self::default();
        lanes
    }
}

/// Wrong bits of lines by lane and direction, gathered until they are taken.
#[derive(Clone, Debug, Default)]
pub struct LineCounts {
    up: Positions,
    down: Positions,
    lines: u32,
    taken: Lanes,
}

impl LineCounts {
    /// Counts a line and returns how many of its words are wrong.
    #[inline]
    pub fn add(&mut self, line: &BadLine) -> u64 {
        let (mut up, mut down, mut words) = ([0; WORDS], [0; WORDS], 0);
        for word in 0..WORDS {
            let wrong = line.expected[word] ^ line.actual[word];
            up[word] = wrong & line.actual[word];
            down[word] = wrong & line.expected[word];
            words += u64::from(wrong != 0);
        }
        self.up.add(&up);
        self.down.add(&down);
        self.lines += 1;
        if self.lines == (1 << LEVELS) - 1 {
            self.settle();
        }
        words
    }

    /// Hands over what was counted.
    pub fn take(&mut self) -> Lanes {
        self.settle();
        std::mem::take(&mut self.taken)
    }

    fn settle(&mut self) {
        if self.lines == 0 {
            return;
        }
        for (lane, (up, down)) in (0u8..).zip(self.up.take().into_iter().zip(self.down.take())) {
            self.taken.add_counts(lane, up, down);
        }
        self.lines = 0;
    }
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use super::*;

    proptest! {
        #[test]
        fn lines_count_as_their_words_do(lines in prop::collection::vec((any::<[u64; 8]>(), any::<[u64; 8]>()), 0..200)) {
            let (mut fast, mut slow, mut words) = (LineCounts::default(), Lanes::default(), (0, 0));
            for (expected, actual) in lines {
                // Every third word is right, as in a line that is not wrong all over.
                let actual = std::array::from_fn(|word| if word % 3 == 0 { expected[word] } else { actual[word] });
                let line = BadLine { offset: 0, expected, actual };
                words.0 += fast.add(&line);
                for word in line.words(false) {
                    slow.add(word.expected, word.actual);
                    words.1 += 1;
                }
            }
            prop_assert_eq!(fast.take(), slow);
            prop_assert_eq!(words.0, words.1);
            prop_assert_eq!(fast.take(), Lanes::default());
        }
    }

    #[test]
    fn many_lines_do_not_overflow() {
        let mut counts = LineCounts::default();
        let line = BadLine { offset: 0, expected: [0; 8], actual: [1 << 63, 0, 0, 0, 0, 0, 0, 1] };
        let lines = (1u64 << 17) + 3;
        (0..lines).for_each(|_| assert_eq!(counts.add(&line), 2));
        assert_eq!(counts.take().wrong().collect::<Vec<_>>(), [(0, lines, 0), (63, lines, 0)]);
    }
}
