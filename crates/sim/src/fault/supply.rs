//! How far the supply sags under load, by a model: a resonance that steps of current set ringing.

use revisum_engine::load::{Phase, phase};
use revisum_engine::memory::Load;
use serde::Deserialize;

/// Current that sweeping draws beside vectors on half of the cores.
const SWEEPING: f64 = 0.1;
/// The same for transforms in scalar arithmetic.
const SCALAR: f64 = 0.4;

/// A supply and a controller that loses bits when it sags. Sags are measured in that of steady vector work.
#[derive(Clone, Copy, Debug, PartialEq, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Supply {
    /// Period of the resonance in microseconds.
    pub period_us: f64,
    /// How much larger the answer to steps is at the resonance than to slow ones.
    pub quality: f64,
    /// The sag that the controller still bears. Beyond it upsets grow with the square.
    pub margin: f64,
}

impl Supply {
    /// The deepest sag under a load that began so long ago.
    pub fn sag(&self, load: Load, elapsed_ns: u64) -> f64 {
        match (load, phase(elapsed_ns)) {
            (Load::Sweeping, _) => SWEEPING,
            (Load::Computing, _) => SCALAR,
            (Load::Steps, Phase::Steady) => 1.0,
            (Load::Steps, Phase::Bursts { half_ns }) => self.ringing(2.0 * half_ns as f64 / 1000.0),
        }
    }

    /// The sag under a square wave of this period: its mean, and its fundamental through a resonance of second order.
    fn ringing(&self, period_us: f64) -> f64 {
        let ratio = self.period_us / period_us;
        let gain = 1.0 / ((1.0 - ratio * ratio).powi(2) + (ratio / self.quality).powi(2)).sqrt();
        0.5 + std::f64::consts::FRAC_2_PI * gain
    }

    /// The deepest that any load brings about.
    pub fn deepest(&self) -> f64 {
        (0..2000).map(|ms| self.sag(Load::Steps, ms * 1_000_000)).fold(1.0, f64::max)
    }

    /// How much more often upsets come than under steady vector work.
    pub fn times(&self, sag: f64) -> f64 {
        ((sag - self.margin).max(0.0) / (1.0 - self.margin)).powi(2)
    }

    pub(crate) fn check(&self) -> Result<(), String> {
        let sane = (1.0..=1e5).contains(&self.period_us)
            && (0.5..=20.0).contains(&self.quality)
            && (0.0..=0.9).contains(&self.margin);
        if sane {
            Ok(())
        } else {
            Err("a supply needs period_us from 1 to 100000, quality from 0.5 to 20 and margin from 0 to 0.9".to_owned())
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn bursts_at_the_resonance_sag_deepest() {
        let supply = Supply { period_us: 200.0, quality: 3.0, margin: 0.3 };
        let sag = |half_us: f64| supply.ringing(2.0 * half_us);
        assert!((sag(100.0) - (0.5 + 2.0 * 3.0 / std::f64::consts::PI)).abs() < 1e-9);
        assert!(sag(10.0) < 1.0 && (sag(10_000.0) - 1.137).abs() < 1e-3);
        assert!((supply.deepest() - sag(100.0)).abs() < 1e-9);
        assert!((supply.times(1.7) - 4.0).abs() < 1e-9 && supply.times(0.3) == 0.0);
        assert!(supply.sag(Load::Sweeping, 0) < supply.sag(Load::Computing, 0));
    }
}
