//! Hardware error counters, temperatures and the clock of the cores beside a run.

use std::collections::BTreeMap;

use crate::host::{CoreClock, Counters, EccCount, Sensors};
use crate::news::News;

/// Remembers what the counters said, so that only what a run adds is told.
pub(super) struct Watch<'a> {
    counters: &'a dyn Counters,
    sensors: &'a dyn Sensors,
    before: BTreeMap<String, (u64, u64)>,
    last_celsius: Option<f64>,
    /// From the slowest to the fastest core, so far in this test.
    clock: Option<CoreClock>,
}

impl<'a> Watch<'a> {
    pub fn new(counters: &'a dyn Counters, sensors: &'a dyn Sensors) -> Self {
        let before = counters.read().into_iter().map(|count| (count.label, (count.corrected, count.uncorrected)));
        Self { before: before.collect(), counters, sensors, last_celsius: None, clock: None }
    }

    /// The clock is told anew: it belongs to what the cores do from now on.
    pub fn expect_other_load(&mut self) {
        self.clock = None;
    }

    /// What is new since the last look.
    pub fn look(&mut self) -> Vec<News> {
        let mut news = Vec::new();
        for EccCount { label, corrected, uncorrected } in self.counters.read() {
            let before = self.before.insert(label.clone(), (corrected, uncorrected)).unwrap_or_default();
            let grown = (corrected.saturating_sub(before.0), uncorrected.saturating_sub(before.1));
            if grown != (0, 0) {
                news.push(News::Corrected { label, corrected: grown.0, uncorrected: grown.1 });
            }
        }
        let changed = |celsius: f64| self.last_celsius.is_none_or(|last| (last - celsius).abs() >= 1.0);
        let first = self.sensors.temperatures().into_iter().next();
        if let Some(reading) = first.filter(|reading| changed(reading.celsius)) {
            self.last_celsius = Some(reading.celsius);
            news.push(News::Heat { sensor: reading.sensor, celsius: reading.celsius });
        }
        if let Some(now) = self.sensors.core_clock() {
            let clock = self.clock.map_or(now, |before| before.with(now));
            if self.clock.is_none_or(|told| differs(told, clock)) {
                self.clock = Some(clock);
                news.push(News::Clock(clock));
            }
        }
        news
    }
}

/// Less is not told: a core hardly ever keeps a clock to the MHz, and idle ones change it all the time.
const TOLD_MHZ: u32 = 100;

fn differs(told: CoreClock, now: CoreClock) -> bool {
    told.lowest_mhz.abs_diff(now.lowest_mhz) >= TOLD_MHZ || told.highest_mhz.abs_diff(now.highest_mhz) >= TOLD_MHZ
}

#[cfg(test)]
mod tests {
    use std::sync::Mutex;

    use super::*;
    use crate::host::{EccCount, Reading};

    /// Cores whose clock differs with every look.
    struct Cores(Mutex<Vec<(u32, u32)>>);

    impl Sensors for Cores {
        fn temperatures(&self) -> Vec<Reading> {
            Vec::new()
        }
        fn core_clock(&self) -> Option<CoreClock> {
            let (lowest_mhz, highest_mhz) = self.0.lock().unwrap().pop()?;
            Some(CoreClock { lowest_mhz, highest_mhz })
        }
    }

    impl Counters for Cores {
        fn read(&self) -> Vec<EccCount> {
            Vec::new()
        }
    }

    /// Idle cores change their clock all the time: only what goes beyond all that was told is told, and each test begins anew.
    #[test]
    fn the_clock_is_told_as_far_as_it_reaches() {
        let looks = [(3000, 4000), (3050, 4090), (2800, 3900), (2900, 4000), (2950, 4200), (3000, 4000)];
        let cores = Cores(Mutex::new(looks.into_iter().rev().collect()));
        let mut watch = Watch::new(&cores, &cores);
        let mut told = Vec::new();
        for look in 0..=looks.len() {
            if look == 5 {
                watch.expect_other_load();
            }
            told.extend(watch.look().into_iter().map(|news| match news {
                News::Clock(clock) => (look, clock.lowest_mhz, clock.highest_mhz),
                other => panic!("{other:?}"),
            }));
        }
        assert_eq!(told, [(0, 3000, 4000), (2, 2800, 4000), (4, 2800, 4200), (5, 3000, 4000)]);
    }
}
