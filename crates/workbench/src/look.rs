//! One look at a machine: what is fitted, whether it is right, and what of it can be tested.

use std::path::Path;

use anyhow::{Context, Result};
use revisum_diagnose::board::SystemFacts;
use revisum_diagnose::board::{Coverage, Finding, Inventory, Known, RawFirmware, coverage, findings};
use revisum_diagnose::machine::Machine;
use revisum_engine::host::{EccCount, Reading};
use revisum_engine::memory::MemoryOffer;
use revisum_record::fitted::Before;
use revisum_record::speed::SpeedRecord;

use crate::say;

/// What a look shows.
pub struct Look {
    /// Everything raw.
    pub raw: RawFirmware,
    /// What the system knows.
    pub system: SystemFacts,
    /// What was read out of it.
    pub inventory: Inventory,
    /// What of the memory can be tested; nothing where only saved facts are looked at.
    pub coverage: Option<Coverage>,
    /// What could be tested.
    pub offer: MemoryOffer,
    /// What the error-correcting hardware counted.
    pub counters: Vec<EccCount>,
    /// Temperatures.
    pub temperatures: Vec<Reading>,
    /// Everything is simulated.
    pub simulated: bool,
    /// Milliseconds since 1970; nothing when the clock is plainly wrong.
    wall_ms: Option<i64>,
}

impl Look {
    /// Looks at a machine.
    pub fn at(machine: &Machine) -> Self {
        let (raw, system, offer) = (machine.firmware.raw(), machine.firmware.facts(), machine.memory.offer());
        let inventory = Inventory::read(&raw);
        let system = SystemFacts { guest: system.guest || inventory.guest, ..system };
        let coverage = coverage(&inventory, &offer, system.seen_bytes, system.guest);
        Self {
            // Of a machine that is not here nothing can be tested, and nobody knows what could be.
            coverage: machine.is_here.then_some(coverage),
            inventory,
            raw,
            system,
            offer,
            counters: machine.counters.read(),
            temperatures: machine.sensors.temperatures(),
            simulated: machine.is_simulated(),
            wall_ms: Some(machine.clock.wall_ms()).filter(|_| !machine.clock.wall_is_doubtful()),
        }
    }

    /// The same without serial numbers and without the machine's name.
    #[must_use]
    pub fn masked(mut self) -> Self {
        revisum_diagnose::board::mask(&mut self.raw);
        self.inventory = Inventory::read(&self.raw);
        self.system.machine = "masked".to_owned();
        self
    }

    /// Writes everything raw into a folder.
    ///
    /// # Errors
    /// When a file cannot be written.
    pub fn save(&self, folder: &Path) -> Result<()> {
        let raw = RawFirmware { guest: self.system.guest, ..self.raw.clone() };
        revisum_linux::save_folder(folder, &raw).with_context(|| say::look_not_all(folder.display().to_string()))
    }

    /// What is not as it should be, worst first; with how it was last time, and how fast, where that is known.
    pub fn findings(&self, before: Option<&Before>, speed: Option<&SpeedRecord>) -> Vec<Finding> {
        findings(&Known {
            inventory: &self.inventory,
            system: &self.system,
            counters: &self.counters,
            before,
            wall_ms: self.wall_ms,
            speed,
        })
    }
}
