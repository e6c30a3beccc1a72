//! Couplings between two words.

use super::{FaultKind, FaultSpec};

/// A coupling between two words, as the memory applies it.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Coupling {
    kind: FaultKind,
    /// Offset of the aggressor's word.
    pub aggressor: u64,
    aggressor_bit: u64,
    trigger: bool,
    /// Offset of the victim's word.
    pub victim: u64,
    victim_bit: u64,
    value: bool,
}

impl Coupling {
    /// A coupling between the words at these offsets; nothing for other kinds.
    pub fn new(spec: &FaultSpec, aggressor_offset: u64, victim_offset: u64) -> Option<Self> {
        let aggressor = spec.aggressor.filter(|_| spec.kind.is_coupling())?;
        let lane = spec.lane?;
        Some(Self {
            kind: spec.kind,
            aggressor: aggressor_offset,
            aggressor_bit: 1 << aggressor.lane,
            trigger: aggressor.trigger == 1,
            victim: victim_offset,
            victim_bit: 1 << lane,
            value: spec.value == 1,
        })
    }

    /// What the victim's word holds after the aggressor's word was accessed and went from `before` to `after`.
    pub fn after_access(&self, before: u64, after: u64, victim: u64) -> u64 {
        let bit = |word: u64| word & self.aggressor_bit != 0;
        let changed = bit(before) != bit(after) && bit(after) == self.trigger;
        let forced = if self.value { victim | self.victim_bit } else { victim & !self.victim_bit };
        match self.kind {
            FaultKind::CouplingIdempotent if changed => forced,
            FaultKind::CouplingInversion if changed => victim ^ self.victim_bit,
            FaultKind::CouplingState if bit(after) == self.trigger => forced,
            FaultKind::CouplingDisturb if (victim & self.victim_bit != 0) == self.value => victim ^ self.victim_bit,
            _ => victim,
        }
    }

    /// Whether the victim has to be looked after when it is accessed itself.
    pub fn holds_all_the_time(&self) -> bool {
        self.kind == FaultKind::CouplingState
    }
}
