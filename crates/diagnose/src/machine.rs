//! One machine, real or simulated, as the traits that the rest of the program reaches it by. `revisum-linux` has the real ones,
//! `revisum-sim` the simulated ones; exactly one place in the program chooses between the two.

use std::sync::Arc;

use revisum_engine::host::{Awake, Clock, Counters, Sensors, Sleeper};
use revisum_engine::memory::{MemorySource, OwnMemory};
use revisum_engine::speed::Speedometer;

use crate::board::Firmware;
use crate::hands::Hands;
use crate::system_log::SystemLog;

/// Everything that is known and reachable of one machine.
pub struct Machine {
    /// Real memory or simulated memory.
    pub memory: Arc<dyn MemorySource>,
    /// What read wrong in memory that the program itself was about to use.
    pub own_memory: Arc<OwnMemory>,
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
    /// Sleep with memory that refreshes itself.
    pub sleeper: Arc<dyn Sleeper>,
    /// How fast memory is.
    pub speed: Arc<dyn Speedometer>,
    /// What systems logged.
    pub log: Arc<dyn SystemLog>,
    /// The machine is the one that this program runs on, or a simulated one; else it stands elsewhere and cannot run anything.
    pub is_here: bool,
    /// Present on simulated machines only.
    pub hands: Option<Arc<dyn Hands>>,
}

impl Machine {
    /// Whether everything this machine shows is simulated.
    pub fn is_simulated(&self) -> bool {
        self.hands.is_some()
    }
}
