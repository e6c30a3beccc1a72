//! How warm the memory of a simulated machine gets.

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
