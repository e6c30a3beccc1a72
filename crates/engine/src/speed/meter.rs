//! Timing of loops.

use std::sync::atomic::AtomicBool;

use super::plan::Reach;
use super::work::Work;
use crate::memory::LeaseError;

/// Timing bare loops over memory.
pub trait Speedometer: Send + Sync {
    /// What can be measured.
    fn reach(&self) -> Reach;
    /// Takes memory for working sets of so many bytes together.
    ///
    /// # Errors
    /// When the system refuses.
    fn open(&self, bytes: u64, stop: &AtomicBool) -> Result<Box<dyn SpeedTrack>, LeaseError>;
}

/// Memory that loops go over. Given back when dropped.
pub trait SpeedTrack: Send + Sync {
    /// Times one loop: bytes a second of all cores together, a copied byte counted once; of a latency seconds for one load. Nothing when it
    /// was stopped before that could be told.
    fn time(&self, work: &Work, stop: &AtomicBool) -> Option<f64>;
    /// Share of the memory that lies in large pages, 0 to 1; nothing where that is unknown.
    fn large_pages(&self) -> Option<f64>;
}
