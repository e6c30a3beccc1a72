//! Counting the wrong bits of whole cache lines by lane, fast enough for a flood.
//!
//! Every bit position of a line has a counter of its own, but the counters lie across registers: level `k` holds bit `k`
//! of all of them. Eight lines at a time go through a tree of full adders, and only what carries out of that goes on to the
//! upper bits (carry-save adders; Harley and Seal's method as described by Warren, Hacker's Delight, 2nd edition, and
//! for positions by Clausecker, Lemire and Schintke, 2024).

use super::{BadLine, Isa, LINE};
use crate::tally::Lanes;

const WORDS: usize = LINE / 8;
/// Batches that the counters can hold: 2 to this power.
const LEVELS: usize = 20;

type Bits = [u64; WORDS];

/// Lines that are added up in one go.
const BATCH: usize = 8;

/// One counter for each bit position of a line.
#[derive(Clone, Debug, Default)]
struct Positions {
    batch: [Bits; BATCH],
    /// The lowest three bits of the counters.
    low: [Bits; 3],
    eights: Eights,
}

/// Full adder for each bit position: sum and carry of three addends.
#[inline(always)]
fn add_three(a: u64, b: u64, c: u64) -> (u64, u64) {
    let half = a ^ b;
    (half ^ c, a & b | half & c)
}

/// Eight lines of which bits are counted.
trait Lines {
    /// The bits that count in a word of a line.
    fn bits(&self, line: usize, word: usize) -> u64;
}

impl Lines for [Bits; BATCH] {
    #[inline(always)]
    fn bits(&self, line: usize, word: usize) -> u64 {
        self[line][word]
    }
}

/// Bits that read 1 for 0.
struct Up<'a>(&'a [BadLine; BATCH]);

impl Lines for Up<'_> {
    #[inline(always)]
    fn bits(&self, line: usize, word: usize) -> u64 {
        !self.0[line].expected[word] & self.0[line].actual[word]
    }
}

/// Bits that read 0 for 1.
struct Down<'a>(&'a [BadLine; BATCH]);

impl Lines for Down<'_> {
    #[inline(always)]
    fn bits(&self, line: usize, word: usize) -> u64 {
        self.0[line].expected[word] & !self.0[line].actual[word]
    }
}

impl Positions {
    /// Adds the eight lines of the batch.
    #[inline(always)]
    fn fold_batch(&mut self) {
        let batch = self.batch;
        self.fold(&batch);
    }

    /// Adds eight lines: seven adders a word.
    #[inline(always)]
    #[expect(
        clippy::needless_range_loop,
        reason = "an iterator's methods are compiled without the caller's instruction set"
    )]
    fn fold(&mut self, lines: &impl Lines) {
        let mut carry = [0; WORDS];
        // A loop without closures: those are functions of their own, compiled without the caller's instruction set.
        for word in 0..WORDS {
            let (sum, twos_a) = add_three(self.low[0][word], lines.bits(0, word), lines.bits(1, word));
            let (sum, twos_b) = add_three(sum, lines.bits(2, word), lines.bits(3, word));
            let (twos, fours_a) = add_three(self.low[1][word], twos_a, twos_b);
            let (sum, twos_a) = add_three(sum, lines.bits(4, word), lines.bits(5, word));
            let (sum, twos_b) = add_three(sum, lines.bits(6, word), lines.bits(7, word));
            let (twos, fours_b) = add_three(twos, twos_a, twos_b);
            let (fours, eights) = add_three(self.low[2][word], fours_a, fours_b);
            (self.low[0][word], self.low[1][word], self.low[2][word]) = (sum, twos, fours);
            carry[word] = eights;
        }
        self.eights.add(&carry);
    }

    /// The counts by lane, over all words of the line.
    fn take(&mut self, filled: usize) -> [u64; 64] {
        let mut lanes = self.eights.take();
        let single = self.batch[..filled].iter().map(|bits| (bits, 1));
        let low = self.low.iter().zip([1, 2, 4]);
        for (bits, weight) in single.chain(low) {
            for word in bits {
                lanes.iter_mut().enumerate().for_each(|(lane, count)| *count += (word >> lane & 1) * weight);
            }
        }
        *self = Self::default();
        lanes
    }
}

/// The upper bits of the counters, as a binary counter of registers.
#[derive(Clone, Debug, Default)]
struct Eights {
    sums: [Bits; LEVELS],
    /// A second addend of the same weight, where `full` has the level's bit set.
    waiting: [Bits; LEVELS],
    full: u32,
}

impl Eights {
    #[inline(always)]
    fn add(&mut self, bits: &Bits) {
        let mut carry = *bits;
        let levels = (self.full.trailing_ones() as usize).min(LEVELS - 1);
        for level in 0..levels {
            let (sum, waiting) = (&mut self.sums[level], &self.waiting[level]);
            for word in 0..WORDS {
                (sum[word], carry[word]) = add_three(sum[word], waiting[word], carry[word]);
            }
        }
        self.waiting[levels] = carry;
        // The levels below were used up, this one waits now: that is what adding one does to a binary number.
        self.full += 1;
    }

    fn take(&mut self) -> [u64; 64] {
        let mut lanes = [0; 64];
        let used = LEVELS.min(32 - self.full.leading_zeros() as usize);
        for level in 0..used {
            let waits = self.full >> level & 1 == 1;
            for word in 0..WORDS {
                for (lane, count) in lanes.iter_mut().enumerate() {
                    let bit = |bits: u64| bits >> lane & 1;
                    let waiting = if waits { bit(self.waiting[level][word]) } else { 0 };
                    *count += (bit(self.sums[level][word]) + waiting) << (level + 3);
                }
            }
        }
        *self = Self::default();
        lanes
    }
}

/// Wrong bits of lines by lane and direction, gathered until they are taken.
#[derive(Clone, Debug)]
pub struct LineCounts {
    up: Positions,
    down: Positions,
    /// Lines in the batches at hand, and since the counters were emptied.
    filled: usize,
    lines: u32,
    taken: Lanes,
    isa: Isa,
}

impl Default for LineCounts {
    fn default() -> Self {
        Self {
            up: Positions::default(),
            down: Positions::default(),
            filled: 0,
            lines: 0,
            taken: Lanes::default(),
            isa: Isa::detect(),
        }
    }
}

impl LineCounts {
    /// Counts lines and returns how many of their words are wrong.
    #[inline]
    pub fn add(&mut self, lines: &[BadLine]) -> u64 {
        match self.isa {
            // SAFETY: the instruction set was detected.
            Isa::Avx2 | Isa::Avx512 => unsafe { self.add_avx2(lines) },
            Isa::Sse2 => self.add_all(lines),
        }
    }

    #[target_feature(enable = "avx2")]
    fn add_avx2(&mut self, lines: &[BadLine]) -> u64 {
        self.add_all(lines)
    }

    #[inline(always)]
    fn add_all(&mut self, lines: &[BadLine]) -> u64 {
        let (mut words, mut lines) = (0, lines);
        // Where nothing waits eight lines are added from where they lie.
        while let (0, Some((eight, rest))) = (self.filled, lines.split_first_chunk::<BATCH>()) {
            if self.lines + BATCH as u32 > 1 << LEVELS {
                self.settle();
            }
            self.lines += BATCH as u32;
            words += self.add_eight(eight);
            lines = rest;
        }
        for line in lines {
            if self.lines == 1 << LEVELS {
                self.settle();
            }
            self.lines += 1;
            words += self.add_one(line);
        }
        words
    }

    #[inline(always)]
    fn add_eight(&mut self, lines: &[BadLine; BATCH]) -> u64 {
        self.up.fold(&Up(lines));
        self.down.fold(&Down(lines));
        let mut words = 0;
        for line in lines {
            for word in 0..WORDS {
                words += u64::from(line.expected[word] != line.actual[word]);
            }
        }
        words
    }

    #[inline(always)]
    fn add_one(&mut self, line: &BadLine) -> u64 {
        // Loops apart, so that each becomes a few vector operations; without iterators that are made by functions of their own.
        let (up, down) = (&mut self.up.batch[self.filled], &mut self.down.batch[self.filled]);
        let (expected, actual) = (&line.expected, &line.actual);
        for word in 0..WORDS {
            up[word] = !expected[word] & actual[word];
        }
        for word in 0..WORDS {
            down[word] = expected[word] & !actual[word];
        }
        let mut words = 0;
        for word in 0..WORDS {
            words += u64::from(expected[word] != actual[word]);
        }
        self.filled = (self.filled + 1) % BATCH;
        if self.filled == 0 {
            self.up.fold_batch();
            self.down.fold_batch();
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
        for (lane, (up, down)) in (0u8..).zip(self.up.take(self.filled).into_iter().zip(self.down.take(self.filled))) {
            self.taken.add_counts(lane, up, down);
        }
        (self.lines, self.filled) = (0, 0);
    }
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use super::*;

    proptest! {
        #[test]
        fn lines_count_as_their_words_do(lines in prop::collection::vec((any::<[u64; 8]>(), any::<[u64; 8]>()), 0..200), at_once in 1usize..20) {
            let (mut fast, mut slow, mut words) = (LineCounts::default(), Lanes::default(), (0, 0));
            let lines: Vec<BadLine> = lines
                .into_iter()
                .map(|(expected, actual)| {
                    // Every third word is right, as in a line that is not wrong all over.
                    let actual = std::array::from_fn(|word| if word % 3 == 0 { expected[word] } else { actual[word] });
                    BadLine { expected, actual }
                })
                .collect();
            for together in lines.chunks(at_once) {
                words.0 += fast.add(together);
            }
            for line in lines {
                for word in line.words(0, false) {
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
        let line = BadLine { expected: [0; 8], actual: [1 << 63, 0, 0, 0, 0, 0, 0, 1] };
        let lines = (1u64 << 17) + 3;
        (0..lines).for_each(|_| assert_eq!(counts.add(&[line]), 2));
        assert_eq!(counts.take().wrong().collect::<Vec<_>>(), [(0, lines, 0), (63, lines, 0)]);
    }
}
