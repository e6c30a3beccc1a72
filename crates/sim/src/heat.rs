//! How warm a simulated machine gets, and how fast its cores are then.

use revisum_engine::host::CoreClock;
use serde::Deserialize;

/// Warms up from the ambient temperature towards a plateau, by simulated time since the machine was put on the bench.
#[derive(Clone, Copy, Debug, PartialEq, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Heat {
    /// Degrees Celsius at the start.
    pub ambient: f64,
    /// Degrees above that in the end.
    pub rise: f64,
    /// Minutes until about two thirds of the rise.
    pub minutes: f64,
}

impl Heat {
    /// Degrees Celsius after this time: an exponential approach, as a body in a steady draught warms up.
    pub fn celsius(&self, now_ns: u64) -> f64 {
        let minutes = now_ns as f64 / 6e10;
        self.ambient + self.rise * (1.0 - (-minutes / self.minutes).exp())
    }

    pub(crate) fn check(&self) -> Result<(), String> {
        let sane = (-40.0..=120.0).contains(&self.ambient) && (0.0..=100.0).contains(&self.rise) && self.minutes > 0.0;
        if sane { Ok(()) } else { Err("its heat needs an ambient, a rise and minutes above 0 that can be".to_owned()) }
    }
}

/// How fast the cores run, and that they slow down when it is warm.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct CoreSpeed {
    /// MHz while it is cool.
    pub cool: u32,
    /// MHz from that temperature on.
    pub hot: u32,
    /// Degrees Celsius.
    pub from_celsius: i32,
}

impl CoreSpeed {
    /// At a temperature; cool where nobody knows it.
    pub(crate) fn clock(&self, celsius: Option<f64>) -> CoreClock {
        let hot = celsius.is_some_and(|celsius| celsius >= f64::from(self.from_celsius));
        let mhz = if hot { self.hot } else { self.cool };
        CoreClock { lowest_mhz: mhz, highest_mhz: mhz }
    }

    pub(crate) fn check(&self, has_heat: bool) -> Result<(), String> {
        let sane = |mhz: u32| (100..=10_000).contains(&mhz);
        if has_heat && sane(self.cool) && sane(self.hot) {
            Ok(())
        } else {
            Err("core_mhz needs a machine with heat, and 100 to 10000 MHz".to_owned())
        }
    }
}
