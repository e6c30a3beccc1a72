//! Whether warmth makes memory fail: time and errors of a run by temperature.
//!
//! Only tests that showed an error count: that a test found nothing while it was cool says nothing of one that ran later.

use std::collections::BTreeMap;

/// Degrees of a band.
const BAND: i32 = 5;
/// Errors that are told within this time are one event: a sweep comes to many cells of one fault.
const EVENT_MS: u64 = 1000;
/// So many events were to be expected in the cooler time, had warmth made no difference: none then has a chance below 5 % (e⁻³).
const EXPECTED: f64 = 3.0;
/// Events on either side from which on two rates are compared, and how far they may lie apart.
const EVENTS: u64 = 5;
const ALIKE: f64 = 2.0;

#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
struct Band {
    ms: u64,
    events: u64,
}

type Bands = BTreeMap<i32, Band>;

/// Time and error events of a run in bands of 5 °C.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Warmth {
    tests: BTreeMap<String, Bands>,
    last_event_ms: Option<u64>,
}

/// What that says.
#[derive(Clone, Copy, Debug, PartialEq)]
pub enum Says {
    /// Errors from this temperature on only, although it was cooler for long enough.
    OnlyFrom {
        /// The lowest temperature of the band with the first errors, in °C.
        celsius: i32,
    },
    /// As often in the cooler half of the bands as in the warmer one.
    NoDifference {
        /// Lowest and highest temperature of the bands, in °C.
        from: i32,
        /// The end of the warmest.
        to: i32,
    },
}

impl Warmth {
    /// This test ran for so long at this temperature.
    pub fn add_time(&mut self, test: &str, celsius: f64, ms: u64) {
        if let Some(band) = self.band(test, celsius) {
            band.ms = band.ms.saturating_add(ms);
        }
    }

    /// This test showed errors at this time since the start.
    pub fn add_errors(&mut self, test: &str, celsius: f64, t_ms: u64) {
        if self.last_event_ms.is_some_and(|last| t_ms.saturating_sub(last) < EVENT_MS) {
            return;
        }
        self.last_event_ms = Some(t_ms);
        if let Some(band) = self.band(test, celsius) {
            band.events = band.events.saturating_add(1);
        }
    }

    fn band(&mut self, test: &str, celsius: f64) -> Option<&mut Band> {
        // A sensor that tells what no memory bears tells nothing.
        let number = (-60.0..200.0).contains(&celsius).then(|| (celsius / f64::from(BAND)).floor() as i32)?;
        if !self.tests.contains_key(test) {
            self.tests.insert(test.to_owned(), Bands::new());
        }
        self.tests.get_mut(test).map(|bands| bands.entry(number).or_default())
    }

    /// Those of the tests that showed an error, together.
    fn bands(&self) -> Bands {
        let showed = self.tests.values().filter(|bands| bands.values().any(|band| band.events > 0));
        showed.flatten().fold(Bands::new(), |mut all, (number, band)| {
            let into = all.entry(*number).or_default();
            (into.ms, into.events) = (into.ms.saturating_add(band.ms), into.events.saturating_add(band.events));
            all
        })
    }

    /// What the bands say, where they say anything.
    pub fn says(&self) -> Option<Says> {
        let bands = self.bands();
        let first = *bands.iter().find(|(_, band)| band.events > 0)?.0;
        let sum = |bands: &mut dyn Iterator<Item = (&i32, &Band)>| {
            bands.fold(Band::default(), |sum, (_, band)| Band {
                ms: sum.ms.saturating_add(band.ms),
                events: sum.events.saturating_add(band.events),
            })
        };
        let (below, from) = (sum(&mut bands.range(..first)), sum(&mut bands.range(first..)));
        if below.ms > 0 && from.ms > 0 && from.events as f64 / from.ms as f64 * below.ms as f64 >= EXPECTED {
            return Some(Says::OnlyFrom { celsius: first * BAND });
        }
        let (lowest, highest) = (*bands.first_key_value()?.0, *bands.last_key_value()?.0);
        let middle = lowest + (highest - lowest + 1) / 2;
        let (cool, warm) = (sum(&mut bands.range(..middle)), sum(&mut bands.range(middle..)));
        let rate = |band: Band| band.events as f64 / band.ms.max(1) as f64;
        let alike = rate(warm) <= rate(cool) * ALIKE && rate(cool) <= rate(warm) * ALIKE;
        (highest - lowest >= 2 && cool.events >= EVENTS && warm.events >= EVENTS && alike)
            .then_some(Says::NoDifference { from: lowest * BAND, to: (highest + 1) * BAND })
    }
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;

    /// Minutes and events at a temperature.
    fn warmth(told: &[(f64, u64, u64)]) -> Warmth {
        let (mut warmth, mut now) = (Warmth::default(), 0);
        for (celsius, minutes, events) in told {
            warmth.add_time("random", *celsius, minutes * 60_000);
            warmth.add_time("idle", 20.0, 60_000_000);
            for _ in 0..*events {
                now += EVENT_MS;
                warmth.add_errors("random", *celsius, now);
                warmth.add_errors("random", *celsius, now + 1);
            }
        }
        warmth
    }

    #[rstest]
    #[case::only_warm(&[(31.0, 10, 0), (38.0, 10, 0), (47.0, 10, 0), (52.0, 10, 4)], Some(Says::OnlyFrom { celsius: 50 }))]
    #[case::too_short_when_cool(&[(38.0, 1, 0), (52.0, 10, 4)], None)]
    #[case::too_few_to_tell(&[(38.0, 10, 0), (52.0, 10, 2)], None)]
    #[case::always(&[(31.0, 10, 9), (38.0, 10, 12), (47.0, 10, 10)], Some(Says::NoDifference { from: 30, to: 50 }))]
    #[case::more_when_warm(&[(31.0, 10, 5), (38.0, 10, 5), (47.0, 10, 40)], None)]
    #[case::one_temperature(&[(31.0, 10, 50)], None)]
    #[case::nothing(&[(31.0, 10, 0), (52.0, 10, 0)], None)]
    #[case::no_sensor_at_all(&[(4000.0, 10, 9)], None)]
    fn bands_say_what_they_can(#[case] told: &[(f64, u64, u64)], #[case] says: Option<Says>) {
        assert_eq!(warmth(told).says(), says);
    }
}
