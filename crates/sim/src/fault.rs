//! What can be wrong with a part.

use revisum_core::address::Cell;
use serde::Deserialize;

use crate::mapping;
use crate::spec::MachineSpec;

/// A fault in a machine file.
#[derive(Clone, Debug, PartialEq, Deserialize)]
#[serde(tag = "kind", rename_all = "kebab-case", deny_unknown_fields)]
pub enum FaultSpec {
    /// One bit of one word always reads the same (stuck-at fault, SAF).
    StuckAt {
        /// Serial number of the module.
        module: String,
        /// Word inside the module.
        cell: Cell,
        /// Data lane, 0 to 63.
        lane: u8,
        /// What it reads.
        value: u8,
    },
}

/// A fault of one word, as the memory applies it.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) struct StuckBits {
    /// Bits that always read 1.
    pub ones: u64,
    /// Bits that always read 0.
    pub zeros: u64,
}

impl StuckBits {
    /// What the word reads as.
    pub fn seen(self, held: u64) -> u64 {
        (held | self.ones) & !self.zeros
    }
}

impl FaultSpec {
    /// The module that the fault belongs to, its cell and what is stuck there.
    pub(crate) fn stuck(&self) -> (&str, Cell, StuckBits) {
        let Self::StuckAt { module, cell, lane, value } = self;
        let bit = 1u64 << lane;
        let stuck = if *value == 0 { StuckBits { ones: 0, zeros: bit } } else { StuckBits { ones: bit, zeros: 0 } };
        (module, *cell, stuck)
    }

    pub(crate) fn check(&self, machine: &MachineSpec) -> Result<(), String> {
        let Self::StuckAt { module, cell, lane, value } = self;
        let known = machine.module(module).ok_or_else(|| format!("there is no module {module} for a fault"))?;
        if *lane > 63 {
            return Err(format!("a fault is on lane {lane}, but lanes go from 0 to 63"));
        }
        if *value > 1 {
            return Err(format!("a fault sticks at {value}, but a bit is 0 or 1"));
        }
        if !mapping::holds(known, *cell) {
            return Err(format!("a fault's cell {cell:?} lies outside the module {module}"));
        }
        Ok(())
    }
}
