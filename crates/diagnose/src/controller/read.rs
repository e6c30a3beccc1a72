//! Reading: only from controllers that are known by their exact identifiers, only what their family needs, and nothing is written
//! but an index where no other way exists.

use thiserror::Error;

use super::family::{CLIENT_VENDOR, Family, NODE, NODE_VENDOR, identifier, split};
use super::refusal::{Contradiction, Refusal};
use super::registers::{Place, Registers};
use super::{client, fabric, in_force, northbridge};

/// Whoever reads registers of a machine.
pub trait RegisterBus {
    /// A word of configuration space of bus 0.
    ///
    /// # Errors
    /// Why it cannot be read, in a sentence.
    fn config(&mut self, device: u8, function: u8, offset: u16) -> Result<u32, String>;
    /// Writes an index there: nothing else is ever written.
    ///
    /// # Errors
    /// Why it cannot be written.
    fn write_index(&mut self, device: u8, function: u8, offset: u16, value: u32) -> Result<(), String>;
    /// A word of memory that a controller shows its registers in.
    ///
    /// # Errors
    /// Why it cannot be read, as under a kernel that is locked down.
    fn mapped(&mut self, address: u64) -> Result<u32, String>;
}

/// Why nothing was read.
#[derive(Clone, Debug, Error, PartialEq, Eq)]
pub enum NoRead {
    /// The controller is not known: nothing but its identifier was read.
    #[error(transparent)]
    Refused(#[from] Refusal),
    /// A register cannot be read.
    #[error("the register {0} cannot be read: {1}")]
    Failed(Place, String),
    /// A register said two different things.
    #[error("the register {0} does not read the same twice")]
    Unsteady(Place),
}

/// The host bridge's base of mapped registers, in two words; bit 0 switches it on.
const BASE: u16 = 0x48;
/// Where family 15h chooses the controller that its registers are of.
const CHOOSE: u16 = 0x10c;
/// The fabric's indirect access: function 4, index and data.
const FABRIC_INDEX: u16 = 0x5c;
const FABRIC_DATA: u16 = 0x98;
/// The system management network's index and data at the host bridge.
const MANAGEMENT_INDEX: u16 = 0x60;
const MANAGEMENT_DATA: u16 = 0x64;

/// Reads what the family of this machine's controller needs, and why it was not all, where it was not.
pub fn read(bus: &mut dyn RegisterBus) -> (Registers, Option<NoRead>) {
    let mut reader = Reader { bus, registers: Registers::default(), base: None };
    let stopped = reader.whole().err();
    (reader.registers, stopped)
}

/// Everything that a family needs, in the order in which it is read.
fn places(family: Family) -> Vec<Place> {
    match family {
        Family::Client2011 => of_client(&client::MAPPED_2011),
        Family::Client2015 => of_client(&client::MAPPED_2015),
        Family::Northbridge2007 | Family::Northbridge2011 => of_northbridge(family),
        Family::Fabric2017 => of_fabric(),
    }
}

fn of_client(mapped: &[u32]) -> Vec<Place> {
    use client::{KEPT_BASE, KEPT_MASK, REMAP_BASE, REMAP_LIMIT, TOP_OF_HIGH, TOP_OF_LOW, TOP_OF_MEMORY};
    let host = |offset| Place::Config { device: 0, function: 0, offset };
    let wide = [KEPT_BASE, KEPT_MASK, REMAP_BASE, REMAP_LIMIT, TOP_OF_MEMORY, TOP_OF_HIGH];
    let config = wide.into_iter().flat_map(|offset| [offset, offset + 4]).chain([TOP_OF_LOW]).map(host);
    config.chain(mapped.iter().map(|offset| Place::Mapped { offset: *offset })).collect()
}

fn of_northbridge(family: Family) -> Vec<Place> {
    use northbridge::{
        CONTROLLERS, EXCHANGE, HOLE, MAPS, MASKS, RANGES, SELECT_HIGH, SELECT_LOW, SELECTS, base_of_range,
        limit_of_range, select_base, select_mask,
    };
    let config = |function, offset| Place::Config { device: NODE, function, offset };
    let mut places: Vec<Place> = (0..RANGES).map(base_of_range).collect();
    places.extend([limit_of_range(0), config(MAPS, HOLE)]);
    places.extend([EXCHANGE, SELECT_LOW, SELECT_HIGH].map(|offset| config(CONTROLLERS, offset)));
    for controller in 0..2 {
        places.extend((0..SELECTS).map(|select| select_base(family, controller, select)));
        places.extend((0..MASKS).map(|pair| select_mask(family, controller, pair)));
    }
    places
}

fn of_fabric() -> Vec<Place> {
    use fabric::{CHANNELS, FABRIC, MASKS, SECOND, SELECTS, STARTED, of_channel, select_base, select_mask};
    let of = |channel| {
        let fabric = FABRIC.into_iter().map(move |offset| fabric::of_fabric(channel, offset));
        let selects = (0..SELECTS)
            .flat_map(move |select| [select_base(channel, select), of_channel(channel, SECOND + 4 * select)]);
        let masks = (0..MASKS).map(move |pair| select_mask(channel, pair));
        fabric.chain([of_channel(channel, STARTED)]).chain(selects).chain(masks)
    };
    (0..CHANNELS).flat_map(of).collect()
}

struct Reader<'a> {
    bus: &'a mut dyn RegisterBus,
    registers: Registers,
    /// Where mapped registers begin, once it is known.
    base: Option<u64>,
}

impl Reader<'_> {
    fn whole(&mut self) -> Result<(), NoRead> {
        self.take(identifier(0))?;
        if self.vendor() == Some(NODE_VENDOR) {
            self.take(identifier(NODE))?;
        }
        places(Family::of(&self.registers)?).into_iter().try_for_each(|place| self.take(place))?;
        // The map needs none of these: what comes last spoils nothing.
        in_force::places(&self.registers).into_iter().try_for_each(|place| self.take(place))
    }

    fn vendor(&self) -> Option<u16> {
        self.registers.get(identifier(0)).map(|id| split(id).0)
    }

    /// Reads a register twice: a machine with bad memory or a firmware at work is not believed.
    fn take(&mut self, place: Place) -> Result<(), NoRead> {
        let value = self.once(place)?;
        if self.once(place)? != value {
            return Err(NoRead::Unsteady(place));
        }
        self.registers.insert(place, value);
        Ok(())
    }

    fn once(&mut self, place: Place) -> Result<u32, NoRead> {
        let base = if matches!(place, Place::Mapped { .. }) { self.mapped_base()? } else { 0 };
        self.by_bus(place, base).map_err(|why| NoRead::Failed(place, why))
    }

    fn by_bus(&mut self, place: Place, base: u64) -> Result<u32, String> {
        match place {
            Place::Config { device, function, offset } => self.bus.config(device, function, offset),
            Place::Chosen { chosen, function, offset } => self.chosen(chosen, function, offset),
            Place::Mapped { offset } => self.bus.mapped(base + u64::from(offset)),
            Place::Fabric { instance, function, offset } => {
                // Access to one instance, function, register in words, instance.
                let index = 1 | u32::from(offset & 0x7fc) | u32::from(function) << 11 | u32::from(instance) << 16;
                self.bus.write_index(NODE, 4, FABRIC_INDEX, index)?;
                self.bus.config(NODE, 4, FABRIC_DATA)
            }
            Place::Management { address } => {
                self.bus.write_index(0, 0, MANAGEMENT_INDEX, address)?;
                self.bus.config(0, 0, MANAGEMENT_DATA)
            }
        }
    }

    /// The choice goes back to what it was.
    fn chosen(&mut self, chosen: u8, function: u8, offset: u16) -> Result<u32, String> {
        let before = self.bus.config(NODE, northbridge::MAPS, CHOOSE)?;
        self.bus.write_index(NODE, northbridge::MAPS, CHOOSE, before & !7 | u32::from(chosen))?;
        let value = self.bus.config(NODE, function, offset);
        self.bus.write_index(NODE, northbridge::MAPS, CHOOSE, before)?;
        value
    }

    fn mapped_base(&mut self) -> Result<u64, NoRead> {
        if let Some(base) = self.base {
            return Ok(base);
        }
        debug_assert_eq!(self.vendor(), Some(CLIENT_VENDOR));
        let mut word = |offset| {
            let place = Place::Config { device: 0, function: 0, offset };
            self.bus.config(0, 0, offset).map_err(|why| NoRead::Failed(place, why))
        };
        let (low, high) = (word(BASE)?, word(BASE + 4)?);
        if low & 1 == 0 {
            return Err(Refusal::from(Contradiction::SwitchedOff).into());
        }
        // Bits 38 to 15.
        let base = (u64::from(high & 0x7f) << 32) | u64::from(low & 0xffff_8000);
        self.base = Some(base);
        Ok(base)
    }
}
