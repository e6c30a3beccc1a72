//! What the core needs from a machine, as traits. `revisum-linux` implements them on real hardware, `revisum-sim` on
//! simulated machines; exactly one place in the application chooses between the two.

mod drives;
mod firmware;
mod hands;
mod layout;
mod memory;
mod records;
mod speed;
mod system;

use std::sync::Arc;

pub use drives::{Drive, Drives};
pub use firmware::{Firmware, SmbiosTables, SystemFacts};
pub use hands::Hands;
pub use layout::{Layout, Segment};
pub use memory::{
    BadStretch, Changes, Kept, LeaseError, LeaseRequest, Load, Memory, MemoryOffer, MemorySource, MismatchSink,
};
pub use records::{History, JournalStore, PastRun};
pub use speed::{SpeedTrack, Speedometer};
pub use system::{Awake, Clock, Counters, EccCount, Reading, Sensors, SystemLog};

/// Everything that is known and reachable of one machine.
pub struct Machine {
    /// Real memory or simulated memory.
    pub memory: Arc<dyn MemorySource>,
    /// Time.
    pub clock: Arc<dyn Clock>,
    /// Firmware tables and system facts.
    pub firmware: Arc<dyn Firmware>,
    /// Temperatures.
    pub sensors: Arc<dyn Sensors>,
    /// Hardware error counters.
    pub counters: Arc<dyn Counters>,
    /// Staying awake.
    pub awake: Arc<dyn Awake>,
    /// How fast memory is.
    pub speed: Arc<dyn Speedometer>,
    /// What systems logged.
    pub log: Arc<dyn SystemLog>,
    /// Drives that can be taken out.
    pub drives: Arc<dyn Drives>,
    /// Present on simulated machines only.
    pub hands: Option<Arc<dyn Hands>>,
}

impl Machine {
    /// Whether everything this machine shows is simulated.
    pub fn is_simulated(&self) -> bool {
        self.hands.is_some()
    }
}
