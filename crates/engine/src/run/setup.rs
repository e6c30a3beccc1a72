//! What a run is given.

use super::control::Control;
use super::start_at::StartAt;
use crate::estimate::Rates;
use crate::host::{Clock, Counters, Sensors, Sleeper};
use crate::memory::Memory;
use crate::places::Places;
use crate::recipe::Recipe;

/// What a run needs.
pub struct RunSetup<'a> {
    /// Leased memory.
    pub memory: &'a dyn Memory,
    /// Time.
    pub clock: &'a dyn Clock,
    /// Hardware error counters.
    pub counters: &'a dyn Counters,
    /// Temperatures.
    pub sensors: &'a dyn Sensors,
    /// Sleep.
    pub sleeper: &'a dyn Sleeper,
    /// Addresses to slots.
    pub places: &'a dyn Places,
    /// What to run.
    pub recipe: &'a Recipe,
    /// Seed of the run.
    pub seed: u64,
    /// The cores that work.
    pub workers: &'a [usize],
    /// What sweeps reach here, for how far the run is; a guess serves where nothing was measured.
    pub rates: Rates,
    /// Largest cache in bytes.
    pub cache_bytes: u64,
    /// Modules move half a word at a time: DDR5 has two channels of 32 data lines on a module.
    pub half_words: bool,
    /// Pause, skip, stop.
    pub control: &'a Control,
    /// Where to begin; not at the beginning when it goes on with a run that ended early.
    pub from: &'a StartAt,
}
