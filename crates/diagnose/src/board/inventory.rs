//! What is fitted, from every source that tells, and what the sources disagree on.

use std::collections::{BTreeMap, BTreeSet};

use super::events::{MemoryEvent, read_events};
use super::fact::Facts;
use super::fact_names as names;
use super::firmware::Firmware;
use super::raw::{RawFirmware, SpdImage};
use super::smbios::SmbiosFacts;
use super::spd::{Profile, Spd, SpdError};
use crate::controller::{InForce, KnownController, Refusal, ShownChannels, in_force};
use revisum_engine::units::{RangeSet, bytes_text, volts_text};
use revisum_record::fitted::{Board, MappedDevice, Module, Slot};

/// Everything known of the machine as it is fitted.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Inventory {
    /// Slots and modules, each field from the source that is trusted most.
    pub board: Board,
    /// Every fact with its sources.
    pub facts: Facts,
    /// Slot by the handle of its SMBIOS structure.
    pub handles: BTreeMap<u16, String>,
    /// Physical addresses that devices answer to, where the firmware tells.
    pub mapped: Vec<MappedDevice>,
    /// The addresses of all memory by the firmware's own account; empty where it does not tell.
    pub arrays: RangeSet,
    /// How much that is, in bytes; nothing where it does not tell.
    pub mapped_bytes: Option<u64>,
    /// Memory that the firmware gives to the operating system.
    pub usable: RangeSet,
    /// What its map holds besides.
    pub reserved: RangeSet,
    /// The tables are those of a virtual machine.
    pub guest: bool,
    /// Date of the firmware, as `month/day/year`.
    pub firmware_date: String,
    /// The memory controller, where its registers give a map that fits the board.
    pub controller: Option<KnownController>,
    /// Memory errors that somebody logged.
    pub events: Vec<MemoryEvent>,
    /// Memory is encrypted; nothing where that cannot be told.
    pub encrypted: Option<bool>,
    /// Places of modules' own descriptions (SPD) on the bus, with the slots that they are in by serial number.
    pub places: BTreeMap<String, String>,
    /// Names under which facts stand that belong to no slot.
    pub unplaced: Vec<String>,
    /// What is not known and why.
    pub unknown: Vec<Unknown>,
}

/// Something that is not known of a board, and why.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Unknown {
    /// The SPD at this place cannot be used.
    Spd(String, SpdError),
    /// An SPD matches none of the modules in the tables.
    SpdUnmatched {
        /// Place on the bus.
        place: String,
        /// Part and serial number.
        module: String,
    },
    /// No tables: slots have no names.
    Tables,
    /// Something could not be read, in the words of whoever read it.
    Trouble(String),
    /// The memory map cannot be read.
    Map,
    /// Whether memory is encrypted.
    Encryption,
    /// Why the memory controller's registers give no map.
    Controller(Refusal),
    /// Timings in force stand in registers that are not read.
    TimingsInForce,
}

/// The board from everything that tells. Where nothing does the board is empty: nothing is guessed.
pub fn board_of(firmware: &dyn Firmware) -> Board {
    Inventory::read(&firmware.raw()).board
}

impl Inventory {
    /// Reads everything raw. Nothing is guessed: what no source tells stays unknown.
    pub fn read(raw: &RawFirmware) -> Self {
        let tables = raw.smbios.as_ref().map(SmbiosFacts::read).unwrap_or_default();
        let mut inventory = Self {
            board: tables.board,
            facts: tables.facts,
            handles: tables.handles,
            mapped: tables.mapped,
            mapped_bytes: Some(tables.arrays.bytes()).filter(|bytes| *bytes > 0),
            arrays: tables.arrays,
            usable: raw.map.usable(),
            reserved: raw.map.reserved(),
            guest: tables.guest,
            firmware_date: tables.firmware_date,
            encrypted: raw.encrypted,
            ..Self::default()
        };
        for fact in &raw.system {
            inventory.facts.tell("", &fact.name, &fact.told.source, fact.told.value.clone());
        }
        inventory.take_spd(&raw.spd);
        inventory.tell_map(raw);
        match KnownController::read(&raw.registers, &inventory.board, &ShownChannels::default()) {
            Ok(known) => inventory.take_controller(known),
            Err(refusal) => inventory.unknown.push(Unknown::Controller(refusal)),
        }
        inventory.tell_timings(&in_force(&raw.registers));
        inventory.events = read_events(raw, &inventory.board, &inventory.mapped, &inventory.handles);
        inventory.say_what_is_unknown(raw);
        inventory
    }

    fn take_spd(&mut self, images: &[SpdImage]) {
        let mut read = Vec::new();
        for image in images {
            match Spd::read(&image.bytes) {
                Ok(spd) => read.push((image.place.as_str(), spd)),
                Err(error) => self.unknown.push(Unknown::Spd(image.place.clone(), error)),
            }
        }
        if self.board.slots.is_empty() {
            // Without tables the bus tells at least what is fitted, in an order of its own.
            self.board.slots = read.iter().map(|(place, _)| slot_of_spd(place)).collect();
        }
        self.places = by_serial(&self.board, &read);
        let homes = match_slots(&self.board, &read);
        for ((place, spd), home) in read.into_iter().zip(homes) {
            match home {
                Some(slot) => self.take_module(&slot, place, &spd),
                None => {
                    let module = format!("{} {}", spd.part, spd.serial);
                    self.unknown.push(Unknown::SpdUnmatched { place: place.to_owned(), module });
                    let name = slot_of_spd(place).id;
                    tell_spd(&mut self.facts, &name, place, &spd);
                    self.unplaced.push(name);
                }
            }
        }
    }

    /// Facts of an image whose sum is wrong are shown, and not used where another source tells.
    fn take_module(&mut self, slot: &str, place: &str, spd: &Spd) {
        tell_spd(&mut self.facts, slot, place, spd);
        let Some(known) = self.board.slots.iter_mut().find(|known| known.id == slot) else { return };
        let module = known.module.get_or_insert_default();
        let whole = spd.bad_sums.is_empty();
        let fill = |field: &mut String, value: &str| {
            if field.is_empty() {
                value.clone_into(field);
            }
        };
        fill(&mut module.serial, &spd.serial);
        fill(&mut module.maker, &spd.maker);
        fill(&mut module.part, &spd.part);
        fill(&mut module.generation, spd.generation);
        if module.bytes == 0 {
            module.bytes = spd.bytes.unwrap_or(0);
        }
        if whole {
            module.ranks = module.ranks.or(spd.ranks);
            module.base_speed = spd.speed;
            module.package_width = spd.package_width;
            module.form = spd.form.to_owned();
            module.timings = spd.timings.map(|timings| timings.text()).unwrap_or_default();
            module.profiles = spd.profiles.iter().map(Profile::text).collect();
            module.profile_speeds = spd.profiles.iter().filter_map(|profile| profile.speed).collect();
        }
        if module.byte_lanes == 0 {
            module.byte_lanes = if spd.ecc { 9 } else { 8 };
        }
        module.damaged_spd = !whole;
    }

    fn take_controller(&mut self, known: Option<KnownController>) {
        if let Some(known) = &known {
            for (position, slots, _) in known.map.labels() {
                if let [only] = &slots[..] {
                    self.facts.tell(only, names::CHANNEL, names::REGISTERS, position.channel.to_string());
                }
            }
        }
        self.controller = known;
    }

    /// Of all modules where all channels have the same, else of those whose channel is known.
    fn tell_timings(&mut self, channels: &[InForce]) {
        // What registers of a channel without modules hold is in force nowhere.
        let has_modules = |channel: &&InForce| {
            let known = self.controller.as_ref().map(|known| known.map.map());
            known.is_none_or(|map| map.positions().iter().any(|(at, _)| at.channel == channel.channel))
        };
        let texts: BTreeSet<String> = channels.iter().filter(has_modules).map(InForce::text).collect();
        let slots: Vec<String> = self.board.modules().map(|(slot, _)| slot.id.clone()).collect();
        for slot in slots {
            let own = self.controller.as_ref().and_then(|known| known.map.channel_of(&slot));
            let text = match own {
                Some(own) => channels.iter().find(|channel| channel.channel == own).map(InForce::text),
                None => texts.first().filter(|_| texts.len() == 1).cloned(),
            };
            self.facts.tell(&slot, names::TIMINGS_IN_FORCE, names::REGISTERS, text.unwrap_or_default());
        }
    }

    fn tell_map(&mut self, raw: &RawFirmware) {
        let usable = self.usable.bytes();
        let words = if usable > 0 { bytes_text(usable) } else { String::new() };
        self.facts.tell("", names::GIVEN, &raw.map.source, words);
    }

    fn say_what_is_unknown(&mut self, raw: &RawFirmware) {
        if raw.smbios.is_none() {
            self.unknown.push(Unknown::Tables);
        }
        self.unknown.extend(raw.trouble.iter().cloned().map(Unknown::Trouble));
        if raw.map.source.is_empty() {
            self.unknown.push(Unknown::Map);
        }
        if raw.encrypted.is_none() {
            self.unknown.push(Unknown::Encryption);
        }
        if in_force(&raw.registers).is_empty() {
            self.unknown.push(Unknown::TimingsInForce);
        }
    }
}

fn slot_of_spd(place: &str) -> Slot {
    Slot { id: format!("spd {place}"), module: Some(Module::default()), ..Slot::default() }
}

/// Whether an image may be a module's.
type Rule<'a> = &'a dyn Fn(&Module, &Spd) -> bool;

/// Which slot each image belongs to: by serial number, else by part number where only one module has it, else by order where
/// as many images as modules remain and none contradicts.
fn match_slots(board: &Board, images: &[(&str, Spd)]) -> Vec<Option<String>> {
    let mut free: Vec<(&Slot, &Module)> = board.modules().collect();
    let mut homes: Vec<Option<String>> = vec![None; images.len()];
    let same_serial = |module: &Module, spd: &Spd| is_same_serial(&module.serial, &spd.serial);
    let same_part =
        |module: &Module, spd: &Spd| !spd.part.is_empty() && module.part.trim().eq_ignore_ascii_case(&spd.part);
    let rules: [Rule<'_>; 2] = [&same_serial, &same_part];
    for rule in rules {
        for (home, (_, spd)) in homes.iter_mut().zip(images).filter(|(home, _)| home.is_none()) {
            let fits: Vec<usize> = (0..free.len()).filter(|at| rule(free[*at].1, spd)).collect();
            if let [only] = fits[..] {
                *home = Some(free.remove(only).0.id.clone());
            }
        }
    }
    let open: Vec<usize> = (0..homes.len()).filter(|at| homes[*at].is_none()).collect();
    let agree = |(at, (_, module)): (&usize, &(&Slot, &Module))| {
        let spd = &images[*at].1;
        let size = module.bytes == 0 || spd.bytes.is_none_or(|bytes| bytes == module.bytes);
        let part = module.part.is_empty() || spd.part.is_empty() || same_part(module, spd);
        let serial = module.serial.is_empty() || spd.serial.is_empty() || same_serial(module, spd);
        size && part && serial
    };
    if open.len() == free.len() && open.iter().zip(&free).all(agree) {
        for (at, (slot, _)) in open.into_iter().zip(free) {
            homes[at] = Some(slot.id.clone());
        }
    }
    homes
}

/// Slots of images by serial number, where only one module has it.
fn by_serial(board: &Board, images: &[(&str, Spd)]) -> BTreeMap<String, String> {
    let slot = |spd: &Spd| {
        let mut fits = board.modules().filter(|(_, module)| is_same_serial(&module.serial, &spd.serial));
        let (slot, _) = fits.next()?;
        fits.next().is_none().then(|| slot.id.clone())
    };
    images.iter().filter_map(|(place, spd)| Some(((*place).to_owned(), slot(spd)?))).collect()
}

/// Firmware writes the four bytes as hexadecimal digits, some of it the last byte first, some with `0x` in front.
fn is_same_serial(table: &str, spd: &str) -> bool {
    if spd.is_empty() {
        return false;
    }
    let table = table.trim_start_matches("0x").to_uppercase();
    let turned: String = (0..4).rev().filter_map(|byte| spd.get(byte * 2..byte * 2 + 2)).collect();
    table == spd || table == turned
}

fn tell_spd(facts: &mut Facts, slot: &str, place: &str, spd: &Spd) {
    let source = format!("SPD {place}");
    let mut tell = |name, value: String| facts.tell(slot, name, &source, value);
    tell(names::FORM, spd.form.to_owned());
    tell(names::MAKER, spd.maker.clone());
    tell(names::MAKER_CODE, spd.maker_code.clone());
    tell(names::PART, spd.part.clone());
    tell(names::SERIAL, spd.serial.clone());
    tell(names::SIZE, spd.bytes.map(bytes_text).unwrap_or_default());
    tell(names::GENERATION, spd.generation.to_owned());
    tell(names::RANKS, spd.ranks.map(|ranks| ranks.to_string()).unwrap_or_default());
    tell(names::BASE, spd.speed.map(|speed| format!("{speed} MT/s")).unwrap_or_default());
    tell(names::TIMINGS, spd.timings.map(|timings| timings.text()).unwrap_or_default());
    tell(names::RATED_VOLTAGE, spd.millivolts.map(volts_text).unwrap_or_default());
    tell(names::PACKAGE_WIDTH, spd.package_width.map(|width| width.to_string()).unwrap_or_default());
    tell(names::PACKAGE_MAKER, spd.package_maker.clone());
    tell(names::MADE, spd.made.map(|(year, week)| format!("{year}, week {week}")).unwrap_or_default());
    tell(names::PROFILES, spd.profiles.iter().map(Profile::text).collect::<Vec<_>>().join(", "));
    let sums = match spd.bad_sums.as_slice() {
        [] => names::SUMS_RIGHT.to_owned(),
        bad => format!("{}{}", names::SUMS_WRONG, bad.join(", ")),
    };
    tell(names::SPD, sums);
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;
    use revisum_engine::units::GIB;

    fn slot(id: &str, serial: &str, part: &str) -> Slot {
        let module = Module { serial: serial.into(), part: part.into(), bytes: 8 * GIB, ..Module::default() };
        Slot { id: id.into(), module: Some(module), ..Slot::default() }
    }

    fn spd(serial: &str, part: &str) -> Spd {
        Spd { serial: serial.into(), part: part.into(), bytes: Some(8 * GIB), ..Spd::default() }
    }

    #[rstest]
    #[case::serials([("5A220093", "P"), ("5A220094", "P")], [("5A220094", "P"), ("5A220093", "P")], [Some("B1"), Some("A1")])]
    #[case::last_byte_first([("0x9300225a", "P"), ("", "")], [("5A220093", "P"), ("", "")], [Some("A1"), Some("B1")])]
    #[case::parts([("", "P"), ("", "Q")], [("", "q"), ("", "p")], [Some("B1"), Some("A1")])]
    #[case::order([("", ""), ("", "")], [("1", "P"), ("2", "P")], [Some("A1"), Some("B1")])]
    #[case::contradiction([("77", "X"), ("78", "Y")], [("01", "P"), ("02", "P")], [None, None])]
    fn images_find_their_slots(
        #[case] modules: [(&str, &str); 2],
        #[case] images: [(&str, &str); 2],
        #[case] expected: [Option<&str>; 2],
    ) {
        let board = Board {
            slots: vec![slot("A1", modules[0].0, modules[0].1), slot("B1", modules[1].0, modules[1].1)],
            ..Board::default()
        };
        let images = images.map(|(serial, part)| ("0-0050", spd(serial, part)));
        let homes = match_slots(&board, &images);
        assert_eq!(homes.iter().map(Option::as_deref).collect::<Vec<_>>(), expected);
    }

    #[test]
    fn without_tables_the_bus_tells_the_modules() {
        let mut inventory = Inventory::default();
        inventory.board.slots = vec![slot_of_spd("0-0050")];
        inventory.take_module("spd 0-0050", "0-0050", &spd("5A220093", "HD8G32J"));
        let module = inventory.board.slots[0].module.as_ref().unwrap();
        assert_eq!((module.serial.as_str(), module.bytes, module.byte_lanes), ("5A220093", 8 * GIB, 8));
    }

    #[test]
    fn a_machine_that_tells_nothing_says_what_is_missing() {
        let inventory = Inventory::read(&RawFirmware::default());
        assert!(inventory.board.slots.is_empty());
        assert_eq!(inventory.unknown, [Unknown::Tables, Unknown::Map, Unknown::Encryption, Unknown::TimingsInForce]);
    }
}
