//! Which word belongs at which address: the data backgrounds.

use serde::{Deserialize, Serialize};

/// What a test writes, before its march elements choose between the background and its inverse.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub enum Background {
    /// The same 64-bit word everywhere.
    Solid(u64),
    /// Each word holds its own address.
    AddressAsData,
    /// Each word is computed from the seed and its index, so that it need not be stored to be checked.
    Random(u64),
    /// A word and its inverse in turns: the word where this bit of the index is 0.
    Striped {
        /// The word.
        word: u64,
        /// Bit of the index.
        bit: u8,
    },
    /// A single one that walks through the lanes from word to word, from this lane on.
    Walking(u8),
    /// All lanes but one switch from word to word, and that one against them; from this lane on, another one each line.
    Crosstalk(u8),
}

/// The rule that gives the word at each place: what the sweeps compare with and write.
///
/// `index` is the address divided by eight. Where physical addresses are unknown the offset in the held memory takes
/// the address's place; the words are then still different from each other.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum WordRule {
    /// The same word everywhere.
    Constant(u64),
    /// Eight times the index.
    Address,
    /// [`mix`] of the seed and the index.
    Random {
        /// Seed of this pass.
        seed: u64,
    },
    /// The word where this bit of the index is 0, its inverse where it is 1.
    Striped {
        /// The word.
        word: u64,
        /// Bit of the index.
        bit: u8,
    },
    /// One bit set: the lane is the index plus this, modulo 64.
    Walking {
        /// Lane at index zero.
        lane: u8,
    },
    /// One lane against all others, both turning over from word to word; the lane is the line's number plus this, modulo 64.
    Crosstalk {
        /// Lane in line zero.
        lane: u8,
    },
}

impl Background {
    /// What does the same to data lines that move half a word at a time: noise between lines needs halves that are each other's inverse, or the
    /// lines would turn over with every second transfer only.
    #[must_use]
    pub fn in_halves(self) -> Self {
        match self {
            Self::Crosstalk(lane) => {
                let against = 1u64 << (lane % 32);
                Self::Solid(0xffff_ffff_0000_0000 ^ (against | against << 32))
            }
            other => other,
        }
    }
}

impl From<Background> for WordRule {
    fn from(background: Background) -> Self {
        match background {
            Background::Solid(word) => Self::Constant(word),
            Background::AddressAsData => Self::Address,
            Background::Random(seed) => Self::Random { seed },
            Background::Striped { word, bit } => Self::Striped { word, bit },
            Background::Walking(lane) => Self::Walking { lane },
            Background::Crosstalk(lane) => Self::Crosstalk { lane },
        }
    }
}

impl WordRule {
    /// The word at `index`, not inverted.
    pub fn word(self, index: u64) -> u64 {
        match self {
            Self::Constant(word) => word,
            Self::Address => index << 3,
            Self::Random { seed } => mix(seed.wrapping_add(index.wrapping_mul(STEP))),
            Self::Striped { word, bit } => word ^ (index >> bit & 1).wrapping_neg(),
            Self::Walking { lane } => 1u64.rotate_left((index as u32).wrapping_add(u32::from(lane)) & 63),
            Self::Crosstalk { lane } => {
                let line = (index >> 3) as u32;
                1u64.rotate_left(line.wrapping_add(u32::from(lane)) & 63) ^ (index & 1).wrapping_sub(1)
            }
        }
    }
}

/// Distance between the states of neighbouring words: 2⁶⁴ divided by the golden ratio, made odd.
pub const STEP: u64 = 0x9e37_79b9_7f4a_7c15;
/// Multiplier of the low half of the state.
pub const MULTIPLY_LOW: u32 = 0xcc9e_2d51;
/// Multiplier of the high half of the state.
pub const MULTIPLY_HIGH: u32 = 0x85eb_ca6b;
/// Added at the end, so that the state zero does not give the word zero.
pub const FINAL_XOR: u64 = 0xa076_1d64_78bd_642f;

/// Turns a running state into a word whose bits are all evenly balanced.
///
/// Two 32 × 32 → 64 bit multiplies, because that is what vector units have; a general 64-bit mixing function would
/// halve the speed of the sweep.
#[inline(always)]
pub fn mix(state: u64) -> u64 {
    let low = (state & 0xffff_ffff) * u64::from(MULTIPLY_LOW);
    let high = (state >> 32) * u64::from(MULTIPLY_HIGH);
    (low ^ high.rotate_left(32)).wrapping_add(state.rotate_left(16)) ^ FINAL_XOR
}

/// Derives the seed of one pass from the seed of the run, so that each pass writes new words and any pass can be
/// written again. The finaliser is SplitMix64 (Steele, Lea, Flood, OOPSLA 2014).
pub fn pass_seed(run_seed: u64, pass: u32) -> u64 {
    let mut z = run_seed.wrapping_add(u64::from(pass).wrapping_mul(STEP));
    z = (z ^ (z >> 30)).wrapping_mul(0xbf58_476d_1ce4_e5b9);
    z = (z ^ (z >> 27)).wrapping_mul(0x94d0_49bb_1331_11eb);
    z ^ (z >> 31)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn no_bit_of_random_words_is_biased_or_copies_its_neighbour() {
        const WORDS: u64 = 1 << 18;
        let rule = WordRule::Random { seed: pass_seed(7, 1) };
        let mut ones = [0u64; 64];
        let mut same_as_next = [0u64; 64];
        for index in 0..WORDS {
            let (word, next) = (rule.word(index), rule.word(index + 1));
            for lane in 0..64 {
                ones[lane] += word >> lane & 1;
                same_as_next[lane] += !(word ^ next) >> lane & 1;
            }
        }
        // Five standard deviations of a fair coin over this many words.
        let allowed = 2.5 * (WORDS as f64).sqrt();
        for lane in 0..64 {
            let off = (ones[lane] as f64 - WORDS as f64 / 2.0).abs();
            assert!(off < allowed, "lane {lane} is off balance by {off} of {WORDS}");
            let repeats = same_as_next[lane] as f64 / WORDS as f64;
            assert!((0.2..0.8).contains(&repeats), "lane {lane} repeats in {repeats}");
        }
    }

    /// What so many data lines see one after the other.
    fn transfers(rule: WordRule, lines: u32) -> Vec<u64> {
        let of_word = |word: u64| (0..64 / lines).map(move |at| word >> (at * lines) & (u64::MAX >> (64 - lines)));
        (0..16).flat_map(|index| of_word(rule.word(index))).collect()
    }

    #[test]
    fn crosstalk_turns_every_line_over_with_every_transfer_and_one_against_the_others() {
        for lane in 0..64u8 {
            let plain = Background::Crosstalk(lane);
            let halves = transfers(plain.in_halves().into(), 32);
            assert!(halves.windows(2).all(|two| two[0] ^ two[1] == 0xffff_ffff), "lane {lane}");
            assert!(halves.iter().all(|beat| [1, 31].contains(&beat.count_ones())), "lane {lane}");
            // Eight words of a line are eight transfers of 64 lines.
            let words = transfers(plain.into(), 64);
            assert!(words[..8].windows(2).all(|two| two[0] ^ two[1] == u64::MAX), "lane {lane}");
            // Without halves that are inverse, 32 lines stand still for every second transfer.
            assert!(transfers(plain.into(), 32)[..16].windows(2).any(|two| (two[0] ^ two[1]).count_ones() < 4));
        }
    }

    #[test]
    fn passes_have_different_seeds() {
        let seeds: std::collections::HashSet<u64> = (1..1000).map(|pass| pass_seed(1, pass)).collect();
        assert_eq!(seeds.len(), 999);
    }
}
