//! What can be wrong with a part, and when it shows.

use revisum_core::address::Cell;
use revisum_core::pattern::pass_seed;
use serde::Deserialize;

use crate::heat::Heat;
use crate::mapping;
use crate::spec::{MachineSpec, ModuleSpec};

/// How a faulty bit behaves. Names as in the literature (van de Goor and Al-Ars, VTS 2000).
#[derive(Clone, Copy, Debug, PartialEq, Eq, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub enum FaultKind {
    /// Always reads `value` (SAF).
    StuckAt,
    /// Cannot change from `value` to the other (TF).
    Transition,
    /// Writing `value` over `value` turns it over (WDF).
    WriteDisturb,
    /// Reading `value` turns it over and returns that (RDF).
    ReadDestructive,
    /// Reading `value` turns it over and still returns `value` (DRDF).
    DeceptiveRead,
    /// Reading `value` returns the other, the cell keeps it (IRF).
    IncorrectRead,
    /// The stored bit turns over by itself now and then; needs `per_hour`.
    Upset,
    /// While warm, a bit that is not `value` decays to it before it is refreshed (data retention fault).
    Retention,
    /// Changing the aggressor to `trigger` sets the bit to `value` (CFid).
    CouplingIdempotent,
    /// Changing the aggressor to `trigger` turns the bit over (CFin).
    CouplingInversion,
    /// While the aggressor holds `trigger` the bit is forced to `value` (CFst).
    CouplingState,
    /// Any read or write of the aggressor turns the bit over while it holds `value` (CFds).
    CouplingDisturb,
}

impl FaultKind {
    /// Whether another cell takes part.
    pub fn is_coupling(self) -> bool {
        matches!(self, Self::CouplingIdempotent | Self::CouplingInversion | Self::CouplingState | Self::CouplingDisturb)
    }
}

/// How far a fault reaches from its cell.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub enum Extent {
    /// That word only.
    #[default]
    Word,
    /// Every word of its row in its bank.
    Row,
    /// The same column of every row in its bank.
    Column,
}

/// The other cell of a coupling.
#[derive(Clone, Copy, Debug, PartialEq, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Aggressor {
    /// Word inside the same module.
    pub cell: Cell,
    /// Data lane, 0 to 63.
    pub lane: u8,
    /// What it changes to, or holds.
    #[serde(default)]
    pub trigger: u8,
}

/// A fault in a machine file: it belongs to a module or to a slot, and moves or stays with it.
#[derive(Clone, Debug, PartialEq, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct FaultSpec {
    /// How it behaves.
    pub kind: FaultKind,
    /// Serial number of the module that it belongs to.
    #[serde(default)]
    pub module: Option<String>,
    /// Slot that it belongs to.
    #[serde(default)]
    pub slot: Option<String>,
    /// Word inside the module.
    pub cell: Cell,
    /// How far it reaches from that word.
    #[serde(default)]
    pub extent: Extent,
    /// The other cell, for couplings.
    #[serde(default)]
    pub aggressor: Option<Aggressor>,
    /// Data lane, 0 to 63.
    pub lane: u8,
    /// 0 or 1, see the kinds.
    #[serde(default)]
    pub value: u8,
    /// Shows only with at least so many channels populated.
    #[serde(default)]
    pub channels: usize,
    /// Shows only while this module is fitted too.
    #[serde(default)]
    pub beside: Option<String>,
    /// Upsets in an hour of running.
    #[serde(default)]
    pub per_hour: f64,
    /// Shows only from this temperature on, in degrees Celsius.
    #[serde(default)]
    pub warm: Option<f64>,
    /// Chance, 0 to 1, that moving or re-seating the module cures it.
    #[serde(default)]
    pub touch_cures: f64,
}

/// Every row is refreshed in this time (JEDEC, 64 ms at normal temperature).
const REFRESH_NS: u64 = 64_000_000;

/// A fault of one bit of one word, as the memory applies it.
#[derive(Clone, Debug)]
pub(crate) struct BitFault {
    kind: FaultKind,
    bit: u64,
    value: bool,
    rate_per_ns: f64,
    seed: u64,
    events: u32,
    /// When the next upset is due.
    next_ns: u64,
    /// Shows only from this temperature on, by this machine's heat.
    warm: Option<(f64, Heat)>,
    written_ns: u64,
}

impl BitFault {
    /// The fault as it acts from `now_ns` on; `seed` decides when upsets come.
    pub fn new(spec: &FaultSpec, heat: Option<Heat>, now_ns: u64, seed: u64) -> Self {
        let mut fault = Self {
            kind: spec.kind,
            bit: 1 << spec.lane,
            value: spec.value == 1,
            rate_per_ns: spec.per_hour / 3.6e12,
            seed,
            events: 0,
            next_ns: now_ns,
            warm: spec.warm.zip(heat),
            written_ns: now_ns,
        };
        fault.schedule();
        fault
    }

    /// Waiting times of a Poisson process: exponential, from a repeatable random number.
    fn schedule(&mut self) {
        if self.rate_per_ns <= 0.0 {
            self.next_ns = u64::MAX;
            return;
        }
        self.events += 1;
        let random = (pass_seed(self.seed, self.events) >> 11) as f64 / (1u64 << 53) as f64;
        let wait = -(1.0 - random).ln() / self.rate_per_ns;
        self.next_ns = self.next_ns.saturating_add(wait as u64);
    }

    /// Lets the stored bit change by itself: for every upset that is due, and by decay.
    pub fn pass_time(&mut self, now_ns: u64, held: &mut u64) {
        let warm = self.warm.is_none_or(|(celsius, heat)| heat.celsius(now_ns) >= celsius);
        if self.kind == FaultKind::Retention && warm && now_ns >= self.written_ns + REFRESH_NS {
            *held = self.with(*held, self.value);
        }
        self.written_ns = now_ns;
        while self.kind == FaultKind::Upset && self.next_ns <= now_ns {
            *held ^= self.bit;
            self.schedule();
        }
    }

    fn holds_value(&self, held: u64) -> bool {
        (held & self.bit != 0) == self.value
    }

    fn with(&self, held: u64, value: bool) -> u64 {
        if value { held | self.bit } else { held & !self.bit }
    }

    /// What is held after `written` was written over `held`.
    pub fn after_write(&self, held: u64, written: u64) -> u64 {
        match self.kind {
            FaultKind::StuckAt => self.with(written, self.value),
            FaultKind::Transition if self.holds_value(held) => self.with(written, self.value),
            FaultKind::WriteDisturb if self.holds_value(held) && self.holds_value(written) => {
                self.with(written, !self.value)
            }
            _ => written,
        }
    }

    /// What a read returns, and what is held after it.
    pub fn read(&self, held: u64, returned: u64) -> (u64, u64) {
        let (right, wrong) = (self.with(returned, self.value), self.with(returned, !self.value));
        match self.kind {
            FaultKind::StuckAt => (right, self.with(held, self.value)),
            FaultKind::ReadDestructive if self.holds_value(held) => (wrong, self.with(held, !self.value)),
            FaultKind::DeceptiveRead if self.holds_value(held) => (right, self.with(held, !self.value)),
            FaultKind::IncorrectRead if self.holds_value(held) => (wrong, held),
            _ => (returned, held),
        }
    }
}

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
        Some(Self {
            kind: spec.kind,
            aggressor: aggressor_offset,
            aggressor_bit: 1 << aggressor.lane,
            trigger: aggressor.trigger == 1,
            victim: victim_offset,
            victim_bit: 1 << spec.lane,
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

impl FaultSpec {
    /// A fault of one bit without any condition, not yet of a module or a slot.
    pub fn plain(kind: FaultKind, cell: Cell, lane: u8, value: u8) -> Self {
        Self {
            kind,
            module: None,
            slot: None,
            cell,
            extent: Extent::Word,
            aggressor: None,
            lane,
            value,
            channels: 0,
            beside: None,
            per_hour: 0.0,
            warm: None,
            touch_cures: 0.0,
        }
    }

    /// Every word that the fault is in.
    pub(crate) fn cells(&self, module: &ModuleSpec) -> Vec<Cell> {
        match self.extent {
            Extent::Word => vec![self.cell],
            Extent::Row => (0..mapping::COLUMNS).map(|column| Cell { column, ..self.cell }).collect(),
            Extent::Column => (0..mapping::rows(module)).map(|row| Cell { row, ..self.cell }).collect(),
        }
    }

    /// Whether it shows with this fitting, and in which slot.
    pub(crate) fn slot_in<'a>(&'a self, placement: &'a [(String, String)], channels: usize) -> Option<&'a str> {
        let fitted = |serial: &String| placement.iter().any(|(_, fitted)| fitted == serial);
        if channels < self.channels || self.beside.as_ref().is_some_and(|beside| !fitted(beside)) {
            return None;
        }
        let home = placement.iter().find(|(slot, serial)| match (&self.module, &self.slot) {
            (Some(module), _) => serial == module,
            (None, Some(own)) => slot == own,
            (None, None) => false,
        });
        home.map(|(slot, _)| slot.as_str())
    }

    pub(crate) fn check(&self, machine: &MachineSpec) -> Result<(), String> {
        match (&self.module, &self.slot) {
            (Some(serial), None) => {
                let module =
                    machine.module(serial).ok_or_else(|| format!("there is no module {serial} for a fault"))?;
                let cells = [Some(self.cell), self.aggressor.map(|aggressor| aggressor.cell)];
                if let Some(cell) = cells.into_iter().flatten().find(|cell| !mapping::holds(module, *cell)) {
                    return Err(format!("a fault's cell {cell:?} lies outside the module {serial}"));
                }
            }
            (None, Some(slot)) if machine.slots.iter().any(|known| known.id == *slot) => {}
            (None, Some(slot)) => return Err(format!("there is no slot {slot} for a fault")),
            _ => return Err("a fault belongs to a module or to a slot, to one of them".to_owned()),
        }
        if let Some(beside) = self.beside.as_ref().filter(|beside| machine.module(beside).is_none()) {
            return Err(format!("there is no module {beside} for a fault to be beside"));
        }
        let lanes = [Some(self.lane), self.aggressor.map(|aggressor| aggressor.lane)];
        if let Some(lane) = lanes.into_iter().flatten().find(|lane| *lane > 63) {
            return Err(format!("a fault is on lane {lane}, but lanes go from 0 to 63"));
        }
        let coupled = self.aggressor.is_some_and(|other| (other.cell, other.lane) != (self.cell, self.lane));
        if self.kind.is_coupling() != coupled || (coupled && (self.module.is_none() || self.extent != Extent::Word)) {
            return Err(
                "a coupling needs another cell of the same module as its aggressor, no other kind has one".into()
            );
        }
        if self.value > 1 || self.aggressor.is_some_and(|aggressor| aggressor.trigger > 1) {
            return Err(format!("a fault has the value {}, but a bit is 0 or 1", self.value));
        }
        if !(0.0..=1.0).contains(&self.touch_cures) {
            return Err("touch_cures is a chance, from 0 to 1".to_owned());
        }
        if self.warm.is_some() && (machine.heat.is_none() || self.kind != FaultKind::Retention) {
            return Err("warm needs a machine with heat, and belongs to retention faults".to_owned());
        }
        let upset = self.kind == FaultKind::Upset;
        if upset != (self.per_hour > 0.0) || !self.per_hour.is_finite() {
            return Err("an upset needs per_hour above 0, and no other kind takes it".to_owned());
        }
        Ok(())
    }
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;

    fn fault(kind: FaultKind, value: u8) -> BitFault {
        let spec = FaultSpec::plain(kind, Cell::default(), 0, value);
        BitFault::new(&spec, None, 0, 1)
    }

    /// Held, written, held then: the write side of each kind.
    #[rstest]
    #[case(FaultKind::StuckAt, 1, 1, 0, 1)]
    #[case(FaultKind::Transition, 0, 0, 1, 0)]
    #[case(FaultKind::Transition, 0, 1, 0, 0)]
    #[case(FaultKind::WriteDisturb, 0, 0, 0, 1)]
    #[case(FaultKind::WriteDisturb, 0, 1, 0, 0)]
    #[case(FaultKind::IncorrectRead, 0, 1, 0, 0)]
    fn writes(#[case] kind: FaultKind, #[case] value: u8, #[case] held: u64, #[case] word: u64, #[case] then: u64) {
        assert_eq!(fault(kind, value).after_write(held, word), then);
    }

    /// Held, returned, held then: the read side of each kind.
    #[rstest]
    #[case(FaultKind::ReadDestructive, 0, 0, (1, 1))]
    #[case(FaultKind::ReadDestructive, 0, 1, (1, 1))]
    #[case(FaultKind::DeceptiveRead, 0, 0, (0, 1))]
    #[case(FaultKind::IncorrectRead, 1, 1, (0, 1))]
    #[case(FaultKind::StuckAt, 1, 0, (1, 1))]
    fn reads(#[case] kind: FaultKind, #[case] value: u8, #[case] held: u64, #[case] then: (u64, u64)) {
        assert_eq!(fault(kind, value).read(held, held), then);
    }
}
