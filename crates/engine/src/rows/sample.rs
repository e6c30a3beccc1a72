//! Pairs that are timed often enough to be told apart, and the border between those that open rows and those that do not.

use super::timer::RowTimer;
use crate::pattern::pass_seed;

/// Pairs that are timed to find the border.
const TRIED: u32 = 3000;
/// Timings of a pair that decide whether it is looked at again, and of one that is.
const QUICK: usize = 3;
const SURE: usize = 15;
/// A border is believed where so much of the pairs at least, and so much at most, lie beyond it.
const FEWEST: f64 = 0.0006;
const MOST: f64 = 0.55;
/// Conflicts take so many times as long at least, and lie so many deviations of the usual times beyond them.
const CLEARLY_LONGER: f64 = 1.06;
const DEVIATIONS: f64 = 5.0;

/// A source of random lines, and pairs that were timed.
pub(super) struct Sampler<'a> {
    timer: &'a dyn RowTimer,
    seed: u64,
    drawn: u32,
    /// Timings so far.
    pub timings: u64,
}

impl<'a> Sampler<'a> {
    pub fn new(timer: &'a dyn RowTimer, seed: u64) -> Self {
        Self { timer, seed, drawn: 0, timings: 0 }
    }

    /// A line and its physical address.
    pub fn line(&mut self) -> Option<(u64, u64)> {
        self.drawn = self.drawn.wrapping_add(1);
        let line = pass_seed(self.seed, self.drawn) % self.timer.lines().max(1);
        Some((line, self.timer.address(line)?.0))
    }

    /// The median of so many timings.
    fn median(&mut self, pair: (u64, u64), count: usize) -> f64 {
        self.timings += count as u64;
        let mut times: Vec<f64> = (0..count).map(|_| self.timer.pair(pair.0, pair.1)).collect();
        times.sort_by(f64::total_cmp);
        times[count / 2]
    }

    /// Whether a pair takes longer than the border, beyond doubt.
    pub fn is_slow(&mut self, pair: (u64, u64), border: f64) -> bool {
        self.median(pair, QUICK) > border && self.is_surely_slow(pair, border)
    }

    /// The same for a pair of which either is likely.
    pub fn is_surely_slow(&mut self, pair: (u64, u64), border: f64) -> bool {
        self.median(pair, SURE) > border
    }

    /// The time beyond which a pair is in conflict; nothing where times do not fall into two groups.
    pub fn border(&mut self) -> Option<f64> {
        let mut times = Vec::new();
        for _ in 0..TRIED {
            let ((one, _), (other, _)) = (self.line()?, self.line()?);
            times.push(((one, other), self.median((one, other), QUICK)));
        }
        times.sort_by(|a, b| a.1.total_cmp(&b.1));
        let usual = times[times.len() / 2].1;
        // Of the half below, which no conflict is in: half of all lie within 0.6745 deviations.
        let below = times[times.len() / 4].1;
        let deviation = (usual - below) / 0.6745;
        let beyond = (usual * CLEARLY_LONGER).max(usual + 2.5 * deviation);
        let pairs: Vec<(u64, u64)> = times.iter().filter(|(_, time)| *time > beyond).map(|(pair, _)| *pair).collect();
        // What was late once by itself is not late again.
        let sure = deviation / ((SURE as f64) / (QUICK as f64)).sqrt();
        let limit = (usual * CLEARLY_LONGER).max(usual + DEVIATIONS * sure);
        let mut again: Vec<f64> = pairs.into_iter().map(|pair| self.median(pair, SURE)).collect();
        again.retain(|time| *time > limit);
        again.sort_by(f64::total_cmp);
        let share = again.len() as f64 / f64::from(TRIED);
        let slow = *again.get(again.len() / 2)?;
        (FEWEST..=MOST).contains(&share).then(|| usual.midpoint(slow))
    }
}
