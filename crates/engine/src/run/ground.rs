//! What a worker stands on, and what it hands over.

use super::control::Control;
use super::plant::Plant;
use crate::host::Clock;
use crate::memory::Memory;
use crate::places::Places;
use crate::sweep::ElementWork;
use crate::tally::Tally;

/// What all workers of one round share.
pub(super) struct Ground<'a> {
    pub memory: &'a dyn Memory,
    pub clock: &'a dyn Clock,
    pub control: &'a Control,
    pub places: &'a dyn Places,
    pub work: &'a ElementWork,
    pub plant: Option<Plant>,
    pub test: &'a str,
    pub pass: u32,
    pub element: u32,
    /// Cores by the number that shares have.
    pub workers: &'a [usize],
    /// Second looks that each worker may take.
    pub looks: u32,
}

/// What a worker did since its last report.
#[derive(Debug, Default)]
pub(super) struct Report {
    pub core: usize,
    pub bytes: u64,
    pub busy_ns: u64,
    pub tally: Tally,
    pub plant_seen: bool,
    /// The worker is about to be held by a pause.
    pub pausing: bool,
}
