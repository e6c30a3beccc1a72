//! Which rows are opened often to disturb those beside them.
//!
//! A row is opened only when another row of its bank was open, so all rows of a set have to lie in one bank. Defences in modules watch a
//! few rows that are opened often and refresh their neighbours in time; sets of many rows are more than some can watch (Frigo et al.,
//! IEEE Symposium on Security and Privacy 2020). A refresh interval is shared by all rows of a set, so both few and many are tried.

use crate::host::Clock;
use crate::memory::Memory;
use crate::news::RowChoice;
use crate::pattern::pass_seed;
use crate::places::Places;

/// Sets of rows in one round.
const SETS: u32 = 16;
/// Rows of a set, one number after the other.
const ROWS: [usize; 4] = [2, 8, 12, 20];
/// Reads of one set, all rows together: more than a refresh interval holds.
const READS: u32 = 1_600_000;
/// Every row is refreshed once in this time (JEDEC, 64 ms at normal temperature).
const REFRESH_NS: f64 = 64e6;
/// Reads of each word of a pair that is timed, and how often it is timed: the fastest counts.
const TIMED_READS: u32 = 500;
const TIMINGS: u32 = 3;
/// Pairs that are timed to learn how long rows in one bank take.
const PAIRS: u32 = 96;
/// Two rows of one bank take so many times as long at least.
const CLEARLY_LONGER: f64 = 1.2;
/// Nearest places that are asked whether they lie in the same bank.
const NEAREST: u64 = 1024;
/// Their distance: no row of a module is shorter.
const NEAR_BYTES: u64 = 8 << 10;
/// Distances tried where neither a map nor timing tells: rows of one bank lie some power of two apart.
const DISTANCES: [u64; 8] = [256 << 10, 512 << 10, 1 << 20, 2 << 20, 4 << 20, 8 << 20, 16 << 20, 32 << 20];

/// Rows to open in turns.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(super) struct Set {
    /// A word of each row.
    pub words: Vec<u64>,
    pub by: RowChoice,
}

impl Set {
    /// How often each word is read.
    pub fn times(&self) -> u32 {
        READS / self.words.len().max(1) as u32
    }

    /// Openings of each row in one refresh interval when all reads of the set took so long; 0 where nobody knows whether they opened any.
    pub fn openings(&self, elapsed_ns: u64) -> u64 {
        let reads = f64::from(self.times()) * self.words.len() as f64;
        let in_interval = REFRESH_NS / (elapsed_ns as f64 / reads).max(1.0);
        match self.by {
            RowChoice::Guess => 0,
            RowChoice::Map | RowChoice::Timing => (in_interval.min(reads) / self.words.len() as f64) as u64,
        }
    }
}

/// Finds rows of one bank.
pub(super) struct Chooser<'a> {
    memory: &'a dyn Memory,
    clock: &'a dyn Clock,
    places: &'a dyn Places,
    /// Nanoseconds of a read from which on it opened a row; nothing where timing does not tell.
    opens_ns: Option<f64>,
}

impl<'a> Chooser<'a> {
    /// Learns how long reads take that open rows, where no map tells the rows.
    pub fn new(memory: &'a dyn Memory, clock: &'a dyn Clock, places: &'a dyn Places, seed: u64) -> Self {
        let mut chooser = Self { memory, clock, places, opens_ns: None };
        if chooser.by_map(0, 2).is_none() {
            chooser.opens_ns = chooser.learned(seed);
        }
        chooser
    }

    /// The sets of one round.
    pub fn sets(&self, seed: u64) -> impl Iterator<Item = Set> + use<'_, 'a> {
        let bytes = self.memory.layout().bytes();
        (1..=SETS).map(move |number| {
            let offset = pass_seed(seed, number) % (bytes / 64).max(1) * 64;
            let rows = ROWS[number as usize % ROWS.len()];
            let by = |by, words| Set { words, by };
            let known = self.by_map(offset, rows).map(|words| by(RowChoice::Map, words));
            let timed = || self.by_timing(offset, rows).map(|words| by(RowChoice::Timing, words));
            known.or_else(timed).unwrap_or_else(|| by(RowChoice::Guess, guessed(offset, rows, bytes)))
        })
    }

    /// Every other row from the one below a word's own on: the rows between them have one on both sides.
    fn by_map(&self, offset: u64, rows: usize) -> Option<Vec<u64>> {
        let layout = self.memory.layout();
        let mut between = self.memory.address_of(offset)?;
        let [below, _] = self.places.rows_beside(between)?;
        let mut words = vec![layout.offset_of(below)?];
        while words.len() < rows {
            let Some([_, above]) = self.places.rows_beside(between) else { break };
            let Some(word) = layout.offset_of(above) else { break };
            words.push(word);
            let Some([_, next]) = self.places.rows_beside(above) else { break };
            between = next;
        }
        (words.len() >= 2).then_some(words)
    }

    /// The nearest words whose rows take turns with that of this word and with each other's.
    fn by_timing(&self, offset: u64, rows: usize) -> Option<Vec<u64>> {
        let (limit, bytes) = (self.opens_ns?, self.memory.layout().bytes());
        let mut words = vec![offset];
        for step in 1..=NEAREST {
            let above = offset.checked_add(step * NEAR_BYTES).filter(|word| *word < bytes);
            let below = offset.checked_sub(step * NEAR_BYTES);
            for word in [above, below].into_iter().flatten() {
                let alternates = |held: &u64| self.read_ns(*held, word) >= limit;
                if words.len() < rows && words.iter().all(alternates) {
                    words.push(word);
                }
            }
        }
        (words.len() >= 2).then_some(words)
    }

    /// Nanoseconds of one read when two words are read in turns.
    fn read_ns(&self, one: u64, other: u64) -> f64 {
        let timing = |_| {
            let begin_ns = self.clock.now_ns();
            self.memory.activate(&[one, other], TIMED_READS);
            self.clock.now_ns().saturating_sub(begin_ns)
        };
        (0..TIMINGS).map(timing).min().unwrap_or(0) as f64 / f64::from(2 * TIMED_READS)
    }

    /// From random pairs: some few lie in one bank and take clearly longer than most.
    fn learned(&self, seed: u64) -> Option<f64> {
        let lines = (self.memory.layout().bytes() / 64).max(1);
        let word = |draw| pass_seed(seed ^ 0x0b0e, draw) % lines * 64;
        let mut times: Vec<f64> = (0..PAIRS).map(|pair| self.read_ns(word(2 * pair), word(2 * pair + 1))).collect();
        times.sort_by(f64::total_cmp);
        let usual = times[times.len() / 2];
        let longer: Vec<f64> = times.into_iter().filter(|time| *time >= usual * CLEARLY_LONGER).collect();
        // With 2 to 64 banks at work; more or fewer is noise of another kind.
        let plausible = longer.len() >= 2 && longer.len() <= PAIRS as usize / 3;
        plausible.then(|| usual.midpoint(longer[longer.len() / 2]))
    }
}

/// Rows that may lie in one bank.
fn guessed(offset: u64, rows: usize, bytes: u64) -> Vec<u64> {
    // Odd multiples of different powers of two are never the same.
    let distance = |number: usize| DISTANCES[number % DISTANCES.len()] * (1 + 2 * (number / DISTANCES.len()) as u64);
    (0..rows).map(|number| if number == 0 { offset } else { (offset + distance(number - 1)) % bytes.max(1) }).collect()
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;

    /// At 50 ns a read an interval holds 1 280 000 of them.
    #[rstest]
    #[case(2, RowChoice::Map, 640_000)]
    #[case(20, RowChoice::Timing, 64_000)]
    #[case(20, RowChoice::Guess, 0)]
    fn openings_share_the_refresh_interval(#[case] rows: usize, #[case] by: RowChoice, #[case] expected: u64) {
        let set = Set { words: vec![0; rows], by };
        assert_eq!(set.openings(u64::from(READS) * 50), expected);
    }

    #[test]
    fn guesses_differ_and_are_held() {
        let words = guessed(4096, 20, 1 << 30);
        let distinct: std::collections::BTreeSet<_> = words.iter().collect();
        assert_eq!((words.len(), distinct.len()), (20, 20));
        assert!(words.iter().all(|word| *word < 1 << 30));
    }
}
