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
    last_clock: Option<CoreClock>,
}

impl<'a> Watch<'a> {
    pub fn new(counters: &'a dyn Counters, sensors: &'a dyn Sensors) -> Self {
        let before = counters.read().into_iter().map(|count| (count.label, (count.corrected, count.uncorrected)));
        Self { before: before.collect(), counters, sensors, last_celsius: None, last_clock: None }
    }

    /// The clock is told again with the next look: it belongs to what the cores do then.
    pub fn expect_other_load(&mut self) {
        self.last_clock = None;
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
        let changed = |clock: CoreClock| self.last_clock.is_none_or(|last| differs(last, clock));
        if let Some(clock) = self.sensors.core_clock().filter(|clock| changed(*clock)) {
            self.last_clock = Some(clock);
            news.push(News::Clock(clock));
        }
        news
    }
}

/// Less of a change is not told: a core hardly ever keeps a clock to the MHz.
const TOLD_MHZ: u32 = 100;

fn differs(last: CoreClock, now: CoreClock) -> bool {
    last.lowest_mhz.abs_diff(now.lowest_mhz) >= TOLD_MHZ || last.highest_mhz.abs_diff(now.highest_mhz) >= TOLD_MHZ
}
