//! Thermometers on simulated modules: a module is warmer while its lines are read.

use std::collections::BTreeMap;
use std::sync::{Mutex, PoisonError};

use revisum_engine::pattern::pass_seed;
use serde::Deserialize;

/// Modules have thermometers.
#[derive(Clone, Copy, Debug, PartialEq, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Thermometers {
    /// Degrees that a module is warmer in the end while all that is read comes from it.
    pub rise: f64,
    /// Minutes until about two thirds of that.
    pub minutes: f64,
    /// Standard deviation of a reading in degrees.
    pub noise: f64,
}

impl Thermometers {
    pub(crate) fn check(&self) -> Result<(), String> {
        let sane = (0.0..=60.0).contains(&self.rise) && self.minutes > 0.0 && (0.0..=10.0).contains(&self.noise);
        if sane {
            Ok(())
        } else {
            Err("its thermometers need a rise, minutes above 0 and a noise that can be".to_owned())
        }
    }
}

/// How much warmer than the air each module is.
#[derive(Debug)]
pub struct ModuleWarmth {
    of: Thermometers,
    seed: u64,
    now: Mutex<Now>,
}

#[derive(Debug, Default)]
struct Now {
    at_ns: u64,
    above: BTreeMap<String, f64>,
    drawn: u32,
}

/// What a thermometer shows steps of, in degrees (JESD300-5: a quarter).
const STEP: f64 = 0.25;

impl ModuleWarmth {
    /// Nothing was read yet.
    pub fn new(of: Thermometers, seed: u64) -> Self {
        Self { of, seed, now: Mutex::default() }
    }

    /// Until this moment these parts of what was read came from these modules; before the last such call ended nothing was read.
    pub fn read_from(&self, from_ns: u64, to_ns: u64, parts: &BTreeMap<String, f64>) {
        let mut now = self.now.lock().unwrap_or_else(PoisonError::into_inner);
        self.pass(&mut now, from_ns, &BTreeMap::new());
        self.pass(&mut now, to_ns, parts);
    }

    fn pass(&self, now: &mut Now, to_ns: u64, parts: &BTreeMap<String, f64>) {
        let minutes = to_ns.saturating_sub(now.at_ns) as f64 / 6e10;
        now.at_ns = now.at_ns.max(to_ns);
        for slot in parts.keys() {
            now.above.entry(slot.clone()).or_default();
        }
        let stays = (-minutes / self.of.minutes).exp();
        for (slot, above) in &mut now.above {
            let end = self.of.rise * parts.get(slot).copied().unwrap_or(0.0);
            *above = end + (*above - end) * stays;
        }
    }

    /// What a module's thermometer shows above the air.
    pub fn above(&self, slot: &str, now_ns: u64) -> f64 {
        let mut now = self.now.lock().unwrap_or_else(PoisonError::into_inner);
        self.pass(&mut now, now_ns, &BTreeMap::new());
        let mut random = || {
            now.drawn = now.drawn.wrapping_add(1);
            pass_seed(self.seed, now.drawn) as f64 / u64::MAX as f64
        };
        // Sum of twelve: near enough to a normal distribution (Irwin and Hall, 1927).
        let noise = (0..12).map(|_| random()).sum::<f64>() - 6.0;
        let above = now.above.get(slot).copied().unwrap_or(0.0);
        ((above + self.of.noise * noise) / STEP).round() * STEP
    }
}
