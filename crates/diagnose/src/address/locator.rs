//! Which slots an address can belong to, and how sure that is.

use super::cell::{Cell, Extent, Placed};
use super::coarse::Coarse;
use super::learned::LearnedMap;
use super::map::AddressMap;
use crate::controller::{KnownController, Labelled};
use revisum_engine::places::{Certainty, Places};
use revisum_engine::rows::Halves;
use revisum_engine::units::{ByteRange, PhysAddr};
use revisum_record::fitted::{Board, MappedDevice};
use serde::Serialize;

/// Where an address can belong.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Attribution {
    /// Possible slots.
    pub slots: Vec<String>,
    /// How sure.
    pub certainty: Certainty,
    /// Place inside the module, where a map tells.
    pub cell: Option<Cell>,
}

/// Bytes of a cache line: they are all in one slot.
const LINE: u64 = 64;

/// Attributes addresses for one fitting.
#[derive(Clone, Debug, Default)]
pub struct Locator {
    map: Option<AddressMap>,
    /// The map is somebody's word that no run has confirmed.
    assumed: bool,
    /// A map of slots that was learned when the same arrangement was here before.
    learned: Option<LearnedMap>,
    registers: Option<Labelled>,
    /// Two halves that time told.
    halves: Option<Halves>,
    coarse: Coarse,
    populated: Vec<String>,
    /// The fitted slots, joined by blanks.
    any_slot: String,
}

impl Locator {
    /// For a board as fitted, with its address map where one is known.
    pub fn new(board: &Board, map: Option<AddressMap>) -> Self {
        let populated: Vec<String> = board.modules().map(|(slot, _)| slot.id.clone()).collect();
        Self { map, any_slot: populated.join(" "), populated, ..Self::default() }
    }

    /// With a map that is known to be right.
    #[must_use]
    pub fn knowing(self, map: AddressMap) -> Self {
        Self { map: Some(map), assumed: false, ..self }
    }

    /// With a map that nothing has confirmed yet.
    #[must_use]
    pub fn assuming(self, map: AddressMap) -> Self {
        Self { map: Some(map), assumed: true, ..self }
    }

    /// With a map of slots that was learned before: used where there is no map.
    #[must_use]
    pub fn with_learned(self, map: LearnedMap) -> Self {
        Self { learned: Some(map), ..self }
    }

    /// With what the memory controller's registers say: used where there is no map.
    #[must_use]
    pub fn with_registers(self, known: Option<&KnownController>) -> Self {
        Self { registers: known.map(|known| known.map.clone()), ..self }
    }

    /// With two halves that time told: they name no slot.
    #[must_use]
    pub fn with_halves(self, halves: Option<Halves>) -> Self {
        Self { halves, ..self }
    }

    /// With what the firmware says of the addresses of each device: used where there is no map.
    #[must_use]
    pub fn with_firmware_ranges(self, mapped: &[MappedDevice]) -> Self {
        let fitted: Vec<MappedDevice> =
            mapped.iter().filter(|device| self.populated.contains(&device.slot)).cloned().collect();
        Self { coarse: Coarse::new(&fitted), ..self }
    }

    /// Attributes one address; an unknown address can be in any fitted slot.
    pub fn attribute(&self, address: Option<PhysAddr>) -> Attribution {
        let placed = self.map.as_ref().zip(address).and_then(|(map, address)| map.locate(address));
        if let Some(placed) = placed {
            let certainty = if self.assumed { Certainty::Assumed } else { Certainty::Certain };
            return Attribution { slots: vec![placed.slot], certainty, cell: Some(placed.cell) };
        }
        if let Some(slot) = self.learned_slot(address) {
            return Attribution { slots: vec![slot.to_owned()], certainty: Certainty::Assumed, cell: None };
        }
        if let Some(slots) = self.registers_alone().zip(address).and_then(|(known, address)| known.slots(address)) {
            let certainty = if slots.len() == 1 { Certainty::Told } else { Certainty::OneOf };
            return Attribution { slots, certainty, cell: None };
        }
        if let Some(slots) = self.coarse_slots(address) {
            let slots: Vec<String> = slots.to_vec();
            let certainty = if slots.len() == 1 { Certainty::Assumed } else { Certainty::OneOf };
            return Attribution { slots, certainty, cell: None };
        }
        let certainty = match self.populated.len() {
            0 => Certainty::Unknown,
            1 => Certainty::Certain,
            _ => Certainty::OneOf,
        };
        Attribution { slots: self.populated.clone(), certainty, cell: None }
    }

    fn learned_slot(&self, address: Option<PhysAddr>) -> Option<&str> {
        let map = self.learned.as_ref().filter(|_| self.map.is_none() && self.populated.len() > 1)?;
        map.slot(address?.0)
    }

    /// Only where there is no map, and more than one module could be it.
    fn registers_alone(&self) -> Option<&Labelled> {
        self.registers.as_ref().filter(|_| self.map.is_none() && self.populated.len() > 1)
    }

    /// Only where there is no better map, and more than one module could be it.
    fn coarse_slots(&self, address: Option<PhysAddr>) -> Option<&[String]> {
        if self.map.is_some() || self.registers.is_some() || self.populated.len() < 2 {
            return None;
        }
        self.coarse.slots(address?)
    }

    /// The channel of an address by the memory controller's registers, else the half that it lies in as time told, whichever slots are on it.
    pub fn channel(&self, address: PhysAddr) -> Option<u8> {
        if let Some(registers) = self.registers_alone() {
            return Some(registers.map().channel(address)?.0.number);
        }
        let alone = self.map.is_none() && self.populated.len() > 1;
        self.halves.filter(|_| alone).map(|halves| halves.of(address))
    }

    /// Slot and cell of an address, where a map tells.
    pub fn placed(&self, address: PhysAddr) -> Option<Placed> {
        self.map.as_ref()?.locate(address)
    }

    /// Ranks, banks, rows and columns of the module in a slot, where a map tells.
    pub fn extent(&self, slot: &str) -> Option<Extent> {
        self.map.as_ref()?.extent(slot)
    }

    /// The address of a cell, where a map tells.
    pub fn address(&self, placed: &Placed) -> Option<PhysAddr> {
        self.map.as_ref()?.address(placed)
    }

    /// A piece of the address space around an address of which nothing more is known.
    fn unknown_run(&self, address: Option<PhysAddr>) -> ByteRange {
        match address {
            Some(address) if self.registers_alone().is_some() => {
                self.registers_alone().map_or(ByteRange::new(0, u64::MAX), |known| known.map().run(address))
            }
            Some(address) if !self.coarse.is_empty() => self.coarse.gap(address),
            _ => ByteRange::new(0, u64::MAX),
        }
    }

    /// Whether places inside modules are known.
    pub fn tells_cells(&self) -> bool {
        self.map.is_some()
    }

    /// Why attributions are as sure as they are.
    pub fn reason(&self) -> Ground {
        match (&self.map, self.populated.len()) {
            (Some(_), _) if self.assumed => Ground::AssumedMap,
            (Some(_), _) => Ground::Map,
            (None, 0) => Ground::SlotsUnknown,
            (None, 1) => Ground::OneModule,
            (None, _) if self.learned.is_some() => Ground::LearnedMap,
            (None, _) if self.registers.is_some() => Ground::Registers,
            (None, _) if !self.coarse.is_empty() => Ground::FirmwareRanges,
            (None, _) => Ground::NoMap,
        }
    }
}

/// What attributions of addresses to slots rest on.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize)]
#[serde(rename_all = "kebab-case")]
pub enum Ground {
    /// An address map that no run has confirmed yet.
    AssumedMap,
    /// The address map of the arrangement.
    Map,
    /// The firmware does not report which slots are in use.
    #[default]
    SlotsUnknown,
    /// Only one module is installed.
    OneModule,
    /// No map of cells; which slot holds an address was learned when the same arrangement was here before.
    LearnedMap,
    /// No map; the memory controller's registers tell which slots hold an address.
    Registers,
    /// No map; the firmware reports which slots hold an address.
    FirmwareRanges,
    /// No map; all errors are in one half of the addresses, as time told: on one channel of two.
    OneHalf,
    /// No map: any slot in use is possible.
    NoMap,
}

impl Ground {
    /// All of them.
    pub const ALL: [Self; 9] = [
        Self::AssumedMap,
        Self::Map,
        Self::SlotsUnknown,
        Self::OneModule,
        Self::LearnedMap,
        Self::Registers,
        Self::FirmwareRanges,
        Self::OneHalf,
        Self::NoMap,
    ];

    /// The word in journals.
    pub fn word(self) -> &'static str {
        match self {
            Self::AssumedMap => "assumed-map",
            Self::Map => "map",
            Self::SlotsUnknown => "slots-unknown",
            Self::OneModule => "one-module",
            Self::LearnedMap => "learned-map",
            Self::Registers => "registers",
            Self::FirmwareRanges => "firmware-ranges",
            Self::OneHalf => "one-half",
            Self::NoMap => "no-map",
        }
    }
}

impl Places for Locator {
    fn slots_of(&self, address: Option<PhysAddr>) -> (Vec<String>, Certainty) {
        let attribution = self.attribute(address);
        (attribution.slots, attribution.certainty)
    }

    fn slots_run(&self, address: Option<PhysAddr>) -> (&str, ByteRange) {
        let run = self.map.as_ref().zip(address).and_then(|(map, address)| map.slot_run(address));
        let alone = self.map.is_some() || self.populated.len() < 2;
        let registers = || {
            let (known, address) = self.registers_alone().zip(address)?;
            Some((known.joined(address)?, known.map().run(address)))
        };
        let learned = || {
            let line = address.map(|address| address.0 & !(LINE - 1))?;
            Some((self.learned_slot(address)?, ByteRange::new(line, line + LINE)))
        };
        let coarse = || {
            let usable = !alone && self.registers.is_none();
            address.filter(|_| usable).and_then(|address| self.coarse.run(address))
        };
        run.or_else(learned).or_else(registers).or_else(coarse).unwrap_or((&self.any_slot, self.unknown_run(address)))
    }

    fn rows_beside(&self, address: PhysAddr) -> Option<[PhysAddr; 2]> {
        let Placed { slot, cell } = self.placed(address)?;
        let beside = |row: Option<u32>| self.address(&Placed { slot: slot.clone(), cell: Cell { row: row?, ..cell } });
        Some([beside(cell.row.checked_sub(1))?, beside(cell.row.checked_add(1))?])
    }
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;
    use revisum_record::fitted::{Module, Slot};

    fn device(slot: &str, start: u64, end: u64) -> MappedDevice {
        MappedDevice {
            slot: slot.into(),
            range: ByteRange::new(start, end),
            interleave_position: None,
            interleave_depth: None,
        }
    }

    fn fitted(ids: &[&str]) -> Board {
        let slot = |id: &&str| Slot { id: (*id).into(), module: Some(Module::default()), ..Slot::default() };
        Board { slots: ids.iter().map(slot).collect(), ..Board::default() }
    }

    /// A1 and B1 take turns below 0x8000, A2 follows, C1 is not fitted.
    #[rstest]
    #[case(0x1000, &["A1", "B1"], Certainty::OneOf)]
    #[case(0x7fff, &["A1", "B1"], Certainty::OneOf)]
    #[case(0x8000, &["A2"], Certainty::Assumed)]
    #[case(0xc000, &["A1", "A2", "B1"], Certainty::OneOf)]
    fn the_firmware_tells_which_slots_answer(
        #[case] address: u64,
        #[case] slots: &[&str],
        #[case] certainty: Certainty,
    ) {
        let mapped = [
            device("A1", 0, 0x8000),
            device("B1", 0, 0x8000),
            device("A2", 0x8000, 0xc000),
            device("C1", 0xc000, 0x10000),
        ];
        let locator = Locator::new(&fitted(&["A1", "A2", "B1"]), None).with_firmware_ranges(&mapped);
        let attribution = locator.attribute(Some(PhysAddr(address)));
        let slots: Vec<String> = slots.iter().map(|slot| (*slot).to_owned()).collect();
        let (joined, run) = locator.slots_run(Some(PhysAddr(address)));
        assert_eq!(joined, slots.join(" "));
        assert!(run.contains(address) && (run.end <= 0x8000 || run.start >= 0x8000), "{run:?}");
        assert_eq!((attribution.slots, attribution.certainty), (slots, certainty));
    }

    #[rstest]
    #[case(&[], Certainty::Unknown)]
    #[case(&["A1"], Certainty::Certain)]
    #[case(&["A1", "B1"], Certainty::OneOf)]
    fn without_a_map_every_fitted_slot_is_possible(#[case] fitted: &[&str], #[case] certainty: Certainty) {
        let slots = ["A1", "B1"].map(|id| Slot {
            id: id.into(),
            channel: None,
            soldered: false,
            socket: None,
            declared: false,
            module: fitted.contains(&id).then(Module::default),
        });
        let locator = Locator::new(&Board { slots: slots.into(), ..Board::default() }, None);
        let attribution = locator.attribute(Some(PhysAddr(0x1000)));
        assert_eq!((attribution.slots.len(), attribution.certainty), (fitted.len(), certainty));
    }
}
