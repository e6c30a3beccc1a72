//! Machine files: what a simulated machine is made of, as TOML.

use std::collections::BTreeSet;

use revisum_engine::text::cleaned;
use revisum_engine::units::{GIB, MIB, bytes_text, parse_bytes};
use serde::{Deserialize, Deserializer};
use thiserror::Error;

use crate::fault::FaultSpec;
use crate::heat::Heat;
use crate::mapping;

/// A simulated machine.
#[derive(Clone, Debug, PartialEq, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct MachineSpec {
    /// Name.
    pub name: String,
    /// What it is for.
    #[serde(default)]
    pub title: String,
    /// What its owner says.
    #[serde(default)]
    pub complaint: String,
    /// What is really wrong, for those who ask.
    #[serde(default)]
    pub truth: String,
    /// Processor in its own words.
    #[serde(default)]
    pub processor: String,
    /// Logical cores.
    #[serde(default = "one")]
    pub cores: usize,
    /// Largest cache in bytes.
    #[serde(default, deserialize_with = "bytes")]
    pub cache: u64,
    /// Share of what a channel could carry at the speed in force that it does carry, above 0 and up to 1.
    #[serde(default = "usual_efficiency")]
    pub channel_efficiency: f64,
    /// What the running system holds, in bytes.
    #[serde(default, deserialize_with = "bytes")]
    pub held_by_system: u64,
    /// Memory words carry check bits: one wrong bit in a word is corrected and counted, more are reported.
    #[serde(default)]
    pub ecc: bool,
    /// The modules' own descriptions can be read.
    #[serde(default = "yes")]
    pub spd: bool,
    /// The controller stores every word exclusive-or'd with a word that follows from its address.
    #[serde(default)]
    pub scrambled: bool,
    /// Settings that its firmware offers, the ones in force at first in front.
    #[serde(default = "stock")]
    pub settings: Vec<String>,
    /// What was written down when the machine came in.
    #[serde(default)]
    pub intake: Option<IntakeSpec>,
    /// Runs that were made before it came to the bench.
    #[serde(default)]
    pub earlier: Vec<EarlierRun>,
    /// What its own system logged before it came to the bench.
    #[serde(default)]
    pub logged: Vec<LoggedLine>,
    /// How warm its memory gets; without it there is no sensor and nothing is warm.
    #[serde(default)]
    pub heat: Option<Heat>,
    /// The mainboard.
    #[serde(default)]
    pub mainboard: MainboardSpec,
    /// How channels are interleaved, where the usual manner is not wanted.
    #[serde(default)]
    pub map: MapSpec,
    /// Physical addresses where no memory is.
    #[serde(default = "usual_hole", rename = "hole")]
    pub holes: Vec<HoleSpec>,
    /// Slots in the mainboard's order.
    #[serde(rename = "slot")]
    pub slots: Vec<SlotSpec>,
    /// Modules, in slots or on the table.
    #[serde(rename = "module")]
    pub modules: Vec<ModuleSpec>,
    /// The truth.
    #[serde(default, rename = "fault")]
    pub faults: Vec<FaultSpec>,
}

/// The mainboard and its firmware.
#[derive(Clone, Debug, Default, PartialEq, Deserialize)]
#[serde(deny_unknown_fields, default)]
pub struct MainboardSpec {
    /// Maker.
    pub maker: String,
    /// Product.
    pub product: String,
    /// Firmware version.
    pub firmware: String,
    /// Firmware date, as month/day/year.
    pub firmware_date: String,
}

/// How channels are interleaved.
#[derive(Clone, Debug, PartialEq, Deserialize)]
#[serde(deny_unknown_fields, default)]
pub struct MapSpec {
    /// Bytes that stay together on one channel: 2 to this power.
    pub granule_bits: u32,
    /// For two, four or eight channels, for each bit of the channel's number: the address bits that it is the parity of.
    pub way_masks: Vec<u64>,
}

impl Default for MapSpec {
    fn default() -> Self {
        // A granule of 256 bytes, hashed with three higher address bits, and the same shifted for further channel bits.
        let mask = |bit: u32| (1u64 << 8 | 1 << 14 | 1 << 19 | 1 << 25) << bit;
        Self { granule_bits: 8, way_masks: (0..3).map(mask).collect() }
    }
}

/// Physical addresses where no memory is.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct HoleSpec {
    /// First byte, in whole MiB.
    #[serde(deserialize_with = "bytes")]
    pub from: u64,
    /// First byte after it.
    #[serde(deserialize_with = "bytes")]
    pub to: u64,
}

/// Devices below 4 GiB.
fn usual_hole() -> Vec<HoleSpec> {
    vec![HoleSpec { from: 3 * GIB, to: 4 * GIB }]
}

/// A slot.
#[derive(Clone, Debug, PartialEq, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct SlotSpec {
    /// Name as printed on the board.
    pub id: String,
    /// Channel.
    pub channel: String,
    /// Its memory is soldered to the mainboard and stays there.
    #[serde(default)]
    pub soldered: bool,
}

/// What was written down when a machine came in.
#[derive(Clone, Debug, Default, PartialEq, Deserialize)]
#[serde(deny_unknown_fields, default)]
pub struct IntakeSpec {
    /// Who brought it.
    pub owner: String,
    /// What it does wrong, and when.
    pub symptom: String,
    /// What was changed lately.
    pub changed: String,
    /// What was tried already.
    pub tried: String,
    /// Answers picked from the lists, by their names.
    pub picked: BTreeSet<String>,
}

/// A run that was made before the machine came to the bench. It is made by the simulation when the workshop opens.
#[derive(Clone, Debug, PartialEq, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct EarlierRun {
    /// How many hours before the workshop opens.
    pub hours_ago: u32,
    /// Number of passes.
    #[serde(default = "one_pass")]
    pub passes: u32,
    /// Seed.
    pub seed: u64,
    /// What was fitted, serial number by slot; as found when absent.
    #[serde(default)]
    pub fitting: std::collections::BTreeMap<String, String>,
    /// Settings in force; as found when absent.
    #[serde(default)]
    pub setting: Option<String>,
}

/// A line of the log of the machine's own system.
#[derive(Clone, Debug, PartialEq, Eq, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct LoggedLine {
    /// How many hours before now.
    pub hours_ago: u32,
    /// The line, as a kernel writes it.
    pub line: String,
}

/// A module.
#[derive(Clone, Debug, PartialEq, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct ModuleSpec {
    /// Serial number.
    pub serial: String,
    /// Maker.
    pub maker: String,
    /// Part number.
    pub part: String,
    /// Size in bytes; a power of two.
    #[serde(deserialize_with = "bytes")]
    pub size: u64,
    /// Speed in MT/s.
    pub speed: u16,
    /// Speed with the settings `profile`, in MT/s.
    #[serde(default)]
    pub profile_speed: Option<u16>,
    /// Data lanes of each memory package: 4, 8 or 16.
    #[serde(default = "by_eight")]
    pub width: u8,
    /// Ranks: 1, 2 or 4.
    #[serde(default = "one_rank")]
    pub ranks: u32,
    /// Each package corrects a single wrong bit by itself and tells nobody.
    #[serde(default)]
    pub on_die: bool,
    /// Name that the technician gave it.
    #[serde(default)]
    pub mark: Option<String>,
    /// Where it sits at first; on the table when absent.
    #[serde(default)]
    pub slot: Option<String>,
    /// It belongs to another machine, and is here only once it was lent.
    #[serde(skip)]
    pub elsewhere: bool,
}

impl ModuleSpec {
    /// Speed that these settings put in force, in MT/s.
    pub(crate) fn speed_with(&self, setting: &str) -> u16 {
        self.profile_speed.filter(|_| setting == "profile").unwrap_or(self.speed)
    }
}

fn yes() -> bool {
    true
}

fn usual_efficiency() -> f64 {
    0.84
}

fn one() -> usize {
    1
}

fn one_pass() -> u32 {
    1
}

fn one_rank() -> u32 {
    1
}

fn by_eight() -> u8 {
    8
}

fn stock() -> Vec<String> {
    vec!["stock".to_owned()]
}

fn bytes<'de, D: Deserializer<'de>>(deserializer: D) -> Result<u64, D::Error> {
    parse_bytes(&String::deserialize(deserializer)?).map_err(serde::de::Error::custom)
}

/// Why a machine file cannot be used.
#[derive(Debug, Error)]
pub enum SpecError {
    /// Not TOML, or not what a machine file holds; the message has line and column.
    #[error("the machine file is not understood: {0}")]
    Form(#[from] toml::de::Error),
    /// Understood, but impossible.
    #[error("the machine {machine:?} cannot exist: {reason}")]
    Impossible {
        /// Its name.
        machine: String,
        /// What is wrong.
        reason: String,
    },
}

/// Smallest and largest module that can be simulated.
const MODULE_BYTES: std::ops::RangeInclusive<u64> = GIB / 16..=512 * GIB;

impl MachineSpec {
    /// Reads and checks a machine file.
    ///
    /// # Errors
    /// With place and reason.
    pub fn parse(text: &str) -> Result<Self, SpecError> {
        let spec: Self = toml::from_str(text)?;
        spec.check().map_err(|reason| SpecError::Impossible { machine: cleaned(&spec.name, 40), reason })?;
        Ok(spec)
    }

    /// Which serial number sits in which slot at first.
    pub fn placement(&self) -> Vec<(String, String)> {
        let of_slot = |slot: &SlotSpec| {
            let module = self.modules.iter().find(|module| module.slot.as_ref() == Some(&slot.id))?;
            Some((slot.id.clone(), module.serial.clone()))
        };
        self.slots.iter().filter_map(of_slot).collect()
    }

    /// The module with this serial number.
    pub fn module(&self, serial: &str) -> Option<&ModuleSpec> {
        self.modules.iter().find(|module| module.serial == serial)
    }

    /// Lets the modules of another machine be lent to this one, each with the faults that it has itself.
    pub fn neighbour(&mut self, other: &Self) {
        let new = |module: &&ModuleSpec| self.module(&module.serial).is_none();
        let modules: Vec<ModuleSpec> = other.modules.iter().filter(new).cloned().collect();
        let own = |fault: &&FaultSpec| modules.iter().any(|module| fault.module.as_ref() == Some(&module.serial));
        self.faults.extend(other.faults.iter().filter(own).cloned());
        self.modules.extend(modules.into_iter().map(|module| ModuleSpec { slot: None, elsewhere: true, ..module }));
    }

    /// The slot of this name.
    pub fn slot(&self, id: &str) -> Option<&SlotSpec> {
        self.slots.iter().find(|slot| slot.id == id)
    }

    /// Whether modules can be put so.
    ///
    /// # Errors
    /// A sentence that says why not.
    pub fn check_placement(&self, placement: &[(String, String)]) -> Result<(), String> {
        let (mut slots, mut modules) = (BTreeSet::new(), BTreeSet::new());
        for (slot, serial) in placement {
            if !self.slots.iter().any(|known| known.id == *slot) {
                return Err(format!("there is no slot {slot}"));
            }
            if self.module(serial).is_none() {
                return Err(format!("there is no module {serial}"));
            }
            if !slots.insert(slot) {
                return Err(format!("two modules would sit in slot {slot}"));
            }
            if !modules.insert(serial) {
                return Err(format!("module {serial} would sit in two slots"));
            }
        }
        for (slot, serial) in self.placement() {
            let soldered = self.slot(&slot).is_some_and(|slot| slot.soldered);
            if soldered && !placement.contains(&(slot.clone(), serial.clone())) {
                return Err(format!("the memory {serial} is soldered to {slot} and stays there"));
            }
        }
        Ok(())
    }

    fn check(&self) -> Result<(), String> {
        if self.name.is_empty() || self.name.contains(|c: char| !(c.is_ascii_alphanumeric() || c == '-')) {
            return Err("its name may hold letters, digits and hyphens only".to_owned());
        }
        if self.cores == 0 || !(self.channel_efficiency > 0.0 && self.channel_efficiency <= 1.0) {
            return Err("it needs at least one core, and a channel_efficiency above 0 and up to 1".to_owned());
        }
        unique(self.slots.iter().map(|slot| &slot.id), "slot")?;
        unique(self.modules.iter().map(|module| &module.serial), "module")?;
        for module in &self.modules {
            if !module.size.is_power_of_two() || !MODULE_BYTES.contains(&module.size) {
                return Err(format!("module {} must have a power of two from 64 MiB to 512 GiB", module.serial));
            }
        }
        for module in &self.modules {
            if ![4, 8, 16].contains(&module.width) || ![1, 2, 4].contains(&module.ranks) {
                return Err(format!(
                    "module {} needs packages of 4, 8 or 16 lanes, and 1, 2 or 4 ranks",
                    module.serial
                ));
            }
        }
        let mut next = 0;
        for hole in &self.holes {
            if hole.from < next || hole.to <= hole.from || (hole.from | hole.to) % MIB != 0 || hole.to >= 1 << 48 {
                return Err(format!(
                    "the hole from {} to {} overlaps another one, is out of order, or is not in whole MiB",
                    bytes_text(hole.from),
                    bytes_text(hole.to)
                ));
            }
            next = hole.to;
        }
        if self.settings.is_empty() {
            return Err("its settings must name at least one".to_owned());
        }
        unique(self.settings.iter(), "setting")?;
        for slot in self.slots.iter().filter(|slot| slot.soldered) {
            if !self.modules.iter().any(|module| module.slot.as_ref() == Some(&slot.id)) {
                return Err(format!("slot {} is soldered, but no memory is in it", slot.id));
            }
        }
        let placed: Vec<_> =
            self.modules.iter().filter_map(|module| Some((module.slot.clone()?, module.serial.clone()))).collect();
        self.check_placement(&placed)?;
        self.heat.map_or(Ok(()), |heat| heat.check())?;
        for fault in &self.faults {
            fault.check(self)?;
        }
        for run in &self.earlier {
            let fitting: Vec<_> = run.fitting.clone().into_iter().collect();
            if !fitting.is_empty() {
                self.check_placement(&fitting)
                    .map_err(|reason| format!("an earlier run cannot have been: {reason}"))?;
            }
            if run.setting.as_ref().is_some_and(|setting| !self.settings.contains(setting)) || run.passes == 0 {
                return Err("an earlier run needs settings that the machine has, and passes".to_owned());
            }
        }
        mapping::address_map(self, &self.placement()).map(|_| ()).map_err(|error| error.to_string())
    }
}

fn unique<'a>(mut ids: impl Iterator<Item = &'a String>, what: &str) -> Result<(), String> {
    let mut seen = BTreeSet::new();
    match ids.find(|id| !seen.insert(*id)) {
        Some(twice) => Err(format!("there are two {what}s named {twice}")),
        None => Ok(()),
    }
}

static SHIPPED: [(&str, &str); 13] = [
    ("dome-1", include_str!("machines/dome-1.toml")),
    ("stacker", include_str!("machines/stacker.toml")),
    ("allsky", include_str!("machines/allsky.toml")),
    ("spectro", include_str!("machines/spectro.toml")),
    ("guide", include_str!("machines/guide.toml")),
    ("tracker", include_str!("machines/tracker.toml")),
    ("meteo", include_str!("machines/meteo.toml")),
    ("archive", include_str!("machines/archive.toml")),
    ("radio", include_str!("machines/radio.toml")),
    ("heliostat", include_str!("machines/heliostat.toml")),
    ("frontdesk", include_str!("machines/frontdesk.toml")),
    ("plates", include_str!("machines/plates.toml")),
    ("almanac", include_str!("machines/almanac.toml")),
];

/// Names of the machines that come with the program.
pub fn shipped_names() -> impl Iterator<Item = &'static str> {
    SHIPPED.iter().map(|(name, _)| *name)
}

/// A machine that comes with the program.
pub fn shipped(name: &str) -> Option<Result<MachineSpec, SpecError>> {
    SHIPPED.iter().find(|(known, _)| *known == name).map(|(_, text)| MachineSpec::parse(text))
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;

    const DOME: &str = include_str!("machines/dome-1.toml");

    #[test]
    fn every_shipped_machine_is_possible() {
        for name in shipped_names() {
            let machine = shipped(name).unwrap().unwrap();
            assert_eq!(machine.name, name);
            assert!(!machine.truth.is_empty() && !machine.complaint.is_empty(), "{name}");
        }
    }

    #[rstest]
    #[case::two_in_a_slot("slot = \"B1\"", "slot = \"A1\"", "two modules would sit in slot A1")]
    #[case::no_such_slot("slot = \"B1\"", "slot = \"C9\"", "there is no slot C9")]
    #[case::same_serial("serial = \"4A220094\"", "serial = \"4A220093\"", "two modules named 4A220093")]
    #[case::odd_size("size = \"8 GiB\"", "size = \"7 GiB\"", "power of two")]
    #[case::lane_beyond("lane = 19", "lane = 64", "lane 64")]
    #[case::row_beyond("row = 0x1a3c", "row = 0x1ffff", "outside the module")]
    #[case::fault_of_nothing("module = \"4A220094\"", "module = \"HA0\"", "there is no module HA0")]
    #[case::of_two_parts("lane = 19", "lane = 19\nslot = \"A1\"", "to one of them")]
    #[case::rate_without_upset("lane = 19", "lane = 19\nper_hour = 2.0", "an upset needs per_hour")]
    #[case::beside_nothing("lane = 19", "lane = 19\nbeside = \"X\"", "no module X for a fault to be beside")]
    #[case::coupling_without_aggressor(
        "kind = \"stuck-at\"",
        "kind = \"coupling-state\"",
        "need another cell as their aggressor"
    )]
    #[case::warmth_without_heat("lane = 19", "lane = 19\nwarm = 40.0", "a machine with heat")]
    #[case::two_homes("lane = 19", "lane = 19\nmainboard = true", "to one of them")]
    #[case::no_such_channel("module = \"4A220094\"", "channel = \"Z\"", "there is no channel Z")]
    #[case::no_lane("lane = 19", "", "needs a lane or a package")]
    #[case::package_beyond("lane = 19", "package = 8", "lanes go from 0 to 63")]
    #[case::no_such_setting("lane = 19", "lane = 19\nsetting = \"fast\"", "no settings \"fast\"")]
    #[case::noise_in_a_cell("kind = \"stuck-at\"", "kind = \"noise\"", "noise is on a whole module")]
    #[case::stuck_module("lane = 19", "lane = 19\nextent = \"module\"", "has a cell, or the extent")]
    #[case::chance_beyond("lane = 19", "lane = 19\nchance = 1.5", "from 0 to 1")]
    #[case::growth_of_nothing("lane = 19", "lane = 19\ngrowth = 1.5", "growth belongs to upsets")]
    #[case::load_of_a_cell("lane = 19", "lane = 19\nload = \"computing\"", "a load belongs to upsets")]
    #[case::odd_width("size = \"8 GiB\"", "size = \"8 GiB\"\nwidth = 5", "packages of 4, 8 or 16 lanes")]
    #[case::soldered_empty("id = \"A2\"", "id = \"A2\"\nsoldered = true", "slot A2 is soldered, but no memory")]
    #[case::holes_overlap(
        "[mainboard]",
        "[[hole]]\nfrom = \"3 GiB\"\nto = \"4 GiB\"\n[[hole]]\nfrom = \"3584 MiB\"\nto = \"5 GiB\"\n[mainboard]",
        "overlap"
    )]
    #[case::map_without_its_bit("[mainboard]", "[map]\nway_masks = [0x80000]\n[mainboard]", "not one-to-one")]
    #[case::map_inside_the_granule("[mainboard]", "[map]\nway_masks = [0x108]\n[mainboard]", "not one-to-one")]
    #[case::map_with_too_few_masks("[mainboard]", "[map]\nway_masks = []\n[mainboard]", "needs at least 1")]
    #[case::earlier_impossible("seed = 11", "seed = 11\nfitting = { A1 = \"HA1\" }", "there is no module HA1")]
    #[case::unknown_key("complaint =", "complain =", "line 4, column 1")]
    #[case::not_toml("cores = 4", "cores = = 4", "line 7")]
    fn mistakes_are_refused_with_place_and_reason(#[case] right: &str, #[case] wrong: &str, #[case] reason: &str) {
        assert!(DOME.contains(right), "{right}");
        let error = MachineSpec::parse(&DOME.replace(right, wrong)).unwrap_err().to_string();
        assert!(error.contains(reason), "{error}");
    }
}
