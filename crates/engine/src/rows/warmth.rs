//! Which channel a module is on, by its thermometer: reading the lines of one channel alone warms its modules.
//!
//! The channels are heated one after the other and in the opposite order again, and all thermometers are read every second. What a
//! thermometer shows is fitted, for each channel, by a level, a steady drift, and what an exponential approach to the warmth of that
//! channel's turns would give (Newton's law of cooling; least squares). A module is on the channel that explains its thermometer best, if
//! that is beyond doubt.

use std::time::Duration;

/// Modules that can be warmed.
pub trait Warming {
    /// Reads lines of this channel alone for so long.
    fn warm(&self, channel: usize, time: Duration);
    /// Degrees Celsius of every thermometer, in the same order each time; nothing where one cannot be read.
    fn read(&self) -> Option<Vec<f64>>;
}

/// What thermometers showed after a second in which one channel was heated.
#[derive(Clone, Debug, PartialEq)]
pub struct Second {
    /// The channel.
    pub channel: usize,
    /// Of each thermometer, in degrees Celsius.
    pub celsius: Vec<f64>,
}

/// Of a turn in which one channel is heated.
const TURN_SECONDS: usize = 30;
/// Rounds in which every channel is heated once: so many before anything is believed, and at most.
const LEAST_ROUNDS: usize = 3;
const MOST_ROUNDS: usize = 10;
/// Seconds until about two thirds of the warmth of a module, as far as that is tried.
const APPROACHES: [f64; 5] = [15.0, 30.0, 60.0, 120.0, 240.0];
/// A module has to get so much warmer, in degrees, as one that is heated for long.
const WARMER: f64 = 0.7;
/// And so many of its standard errors.
const BEYOND_DOUBT: f64 = 6.0;
/// The next best channel has to be less likely by this factor, as a logarithm: readings wander together, so this is far more than chance asks for.
const LESS_LIKELY: f64 = 12.0;

/// Heats channel after channel until every module's is known, or for ten rounds. `go_on` is told how many turns of how many at most were
/// made. Nothing where thermometers cannot be read any more, or `go_on` says no.
///
/// `equal` says that all channels have equally many modules: where they come out unequal nothing is claimed.
pub fn learn_by_warmth(
    modules: &dyn Warming,
    channels: usize,
    equal: bool,
    go_on: &mut dyn FnMut(usize, usize) -> bool,
) -> Option<Vec<Option<usize>>> {
    let order = order(channels, MOST_ROUNDS);
    let mut seconds: Vec<Second> = Vec::new();
    let mut found = Vec::new();
    for (at, channel) in order.iter().enumerate() {
        if !go_on(at, order.len()) {
            return None;
        }
        for _ in 0..TURN_SECONDS {
            modules.warm(*channel, Duration::from_secs(1));
            seconds.push(Second { channel: *channel, celsius: modules.read()? });
        }
        let turns = at + 1;
        if turns.is_multiple_of(channels) && turns / channels >= LEAST_ROUNDS {
            found = channels_by_warmth(&seconds, channels, equal);
            if found.iter().all(Option::is_some) {
                break;
            }
        }
    }
    Some(found)
}

/// The order in which channels are heated: each as often as the others, and as early as late.
fn order(channels: usize, rounds: usize) -> Vec<usize> {
    let round = |number: usize| -> Vec<usize> {
        if number.is_multiple_of(2) { (0..channels).collect() } else { (0..channels).rev().collect() }
    };
    (0..rounds).flat_map(round).collect()
}

/// The channel of each thermometer, as far as that is beyond doubt.
pub fn channels_by_warmth(seconds: &[Second], channels: usize, equal: bool) -> Vec<Option<usize>> {
    let thermometers = seconds.iter().map(|second| second.celsius.len()).min().unwrap_or(0);
    let warmths: Vec<Vec<Vec<f64>>> = (0..channels)
        .map(|channel| APPROACHES.iter().map(|approach| expected(seconds, channel, *approach)).collect())
        .collect();
    let of = |one: usize| {
        let shown: Vec<f64> = seconds.iter().map(|second| second.celsius[one]).collect();
        warmed_by(&shown, &warmths)
    };
    let found: Vec<Option<usize>> = (0..thermometers).map(of).collect();
    let count = |channel: usize| found.iter().filter(|of| **of == Some(channel)).count();
    let even = found.iter().any(Option::is_none) || (1..channels).all(|channel| count(channel) == count(0));
    if equal && !even { vec![None; thermometers] } else { found }
}

/// How warm a module of this channel would be, from 0 to 1, after each second.
fn expected(seconds: &[Second], channel: usize, approach: f64) -> Vec<f64> {
    let stays = (-1.0 / approach).exp();
    let warmer = |warmth: &mut f64, second: &Second| {
        let end = if second.channel == channel { 1.0 } else { 0.0 };
        *warmth = end + (*warmth - end) * stays;
        Some(*warmth)
    };
    seconds.iter().scan(0.0, warmer).collect()
}

/// The channel whose warmth explains what a thermometer showed.
fn warmed_by(shown: &[f64], warmths: &[Vec<Vec<f64>>]) -> Option<usize> {
    let alone = Fit::of(shown, None)?;
    let of_channel = |warmths: &Vec<Vec<f64>>| {
        let fits = warmths.iter().filter_map(|warmth| Fit::of(shown, Some(warmth))).filter(|fit| fit.degrees > 0.0);
        fits.min_by(|a, b| a.left.total_cmp(&b.left)).unwrap_or(alone)
    };
    let mut fits: Vec<(usize, Fit)> = warmths.iter().map(of_channel).enumerate().collect();
    fits.sort_by(|a, b| a.1.left.total_cmp(&b.1.left));
    let [(channel, first), (_, second), ..] = fits[..] else { return None };
    let less_likely = shown.len() as f64 / 2.0 * (second.left / first.left.max(f64::MIN_POSITIVE)).ln();
    let sure = first.degrees >= WARMER && first.degrees >= BEYOND_DOUBT * first.error;
    (sure && less_likely >= LESS_LIKELY).then_some(channel)
}

/// What fits readings best: a level and a drift, and where one is expected a warmth.
#[derive(Clone, Copy, Debug)]
struct Fit {
    /// Degrees at a warmth of 1, and their standard error.
    degrees: f64,
    error: f64,
    /// Squares of what is not explained.
    left: f64,
}

impl Fit {
    /// Nothing where there are too few readings, or the warmth is a drift itself.
    fn of(shown: &[f64], warmth: Option<&[f64]>) -> Option<Self> {
        let left = without_drift(shown)?;
        let squares = |values: &[f64]| values.iter().map(|one| one * one).sum::<f64>();
        let Some(warmth) = warmth else { return Some(Self { degrees: 0.0, error: 0.0, left: squares(&left) }) };
        let warmth = without_drift(warmth)?;
        let own = squares(&warmth);
        if own < 1e-9 {
            return None;
        }
        let degrees = left.iter().zip(&warmth).map(|(one, warmth)| one * warmth).sum::<f64>() / own;
        let unexplained = squares(&left) - degrees * degrees * own;
        let freedom = shown.len() as f64 - 3.0;
        Some(Self { degrees, error: (unexplained.max(0.0) / freedom / own).sqrt(), left: unexplained.max(0.0) })
    }
}

/// Values without their level and without a steady drift.
fn without_drift(values: &[f64]) -> Option<Vec<f64>> {
    if values.len() < 4 {
        return None;
    }
    let middle = (values.len() - 1) as f64 / 2.0;
    let mean = values.iter().sum::<f64>() / values.len() as f64;
    let times = || (0..values.len()).map(|at| at as f64 - middle);
    let drift = times().zip(values).map(|(time, value)| time * (value - mean)).sum::<f64>()
        / times().map(|time| time * time).sum::<f64>();
    Some(times().zip(values).map(|(time, value)| value - mean - drift * time).collect())
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;

    #[test]
    fn each_channel_comes_early_and_late() {
        assert_eq!(order(3, 2), [0, 1, 2, 2, 1, 0]);
        assert_eq!(order(2, 4), [0, 1, 1, 0, 0, 1, 1, 0]);
    }

    /// Two thermometers in four turns of two channels: `(channel, degrees)` of each, the approach, and the drift of a second.
    fn seconds(of: [(usize, f64); 2], approach: f64, drift: f64) -> Vec<Second> {
        let turns = order(2, 4).into_iter().flat_map(|channel| [channel; TURN_SECONDS]);
        let mut seconds: Vec<Second> = turns.map(|channel| Second { channel, celsius: Vec::new() }).collect();
        for (channel, degrees) in of {
            let warmth = expected(&seconds, channel, approach);
            for (at, (second, warmth)) in seconds.iter_mut().zip(warmth).enumerate() {
                // Steps of a quarter, and a reading that is off now and then.
                let off = if at % 7 == 3 { 0.5 } else { 0.0 };
                second.celsius.push(((40.0 + degrees * warmth + drift * at as f64 + off) * 4.0).round() / 4.0);
            }
        }
        seconds
    }

    #[rstest]
    #[case::each_has_its_own([(0, 2.0), (1, 2.0)], 60.0, 0.0, true, &[Some(0), Some(1)])]
    #[case::slow([(1, 4.0), (0, 4.0)], 200.0, 0.0, true, &[Some(1), Some(0)])]
    #[case::in_air_that_gets_warmer([(0, 2.0), (1, 2.0)], 30.0, 0.02, true, &[Some(0), Some(1)])]
    #[case::both_on_one([(0, 2.0), (0, 2.0)], 60.0, 0.0, true, &[None, None])]
    #[case::both_on_one_may_be([(0, 2.0), (0, 2.0)], 60.0, 0.0, false, &[Some(0), Some(0)])]
    #[case::too_little([(0, 0.1), (1, 0.1)], 60.0, 0.0, true, &[None, None])]
    #[case::one_is_not_warmed([(0, 2.0), (1, 0.0)], 60.0, 0.01, true, &[Some(0), None])]
    fn modules_and_channels(
        #[case] of: [(usize, f64); 2],
        #[case] approach: f64,
        #[case] drift: f64,
        #[case] equal: bool,
        #[case] expected: &[Option<usize>],
    ) {
        assert_eq!(channels_by_warmth(&seconds(of, approach, drift), 2, equal), expected);
    }

    #[test]
    fn a_second_or_two_tell_nothing() {
        let seconds = [Second { channel: 0, celsius: vec![40.0] }, Second { channel: 1, celsius: vec![44.0] }];
        assert_eq!(channels_by_warmth(&seconds, 2, true), [None]);
        assert_eq!(channels_by_warmth(&[], 2, true), []);
    }
}
