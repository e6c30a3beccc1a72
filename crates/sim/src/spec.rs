//! Machine files: what a simulated machine is made of, as TOML.

use std::collections::{BTreeMap, BTreeSet};

use revisum_engine::between::{Between, QUEUE_LINES, Replacement, WAYS};
use revisum_engine::sweep::PutBack;
use revisum_engine::units::{GIB, parse_bytes};
use serde::{Deserialize, Deserializer};

use crate::fault::{FaultSpec, REFRESH_MS};
use crate::heat::{CoreSpeed, Heat};
use crate::warmth::Thermometers;

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
    /// Lines in a set of that cache.
    #[serde(default = "usual_ways")]
    pub cache_ways: u64,
    /// Which line of a set makes room for another.
    #[serde(default)]
    pub cache_replacement: Replacement,
    /// Writes that the memory controller keeps back while reads go first, in cache lines.
    #[serde(default = "usual_queue")]
    pub write_queue: u64,
    /// Share of what a channel could carry at the speed in force that it does carry, above 0 and up to 1.
    #[serde(default = "usual_efficiency")]
    pub channel_efficiency: f64,
    /// What the running system holds, in bytes.
    #[serde(default, deserialize_with = "bytes")]
    pub held_by_system: u64,
    /// Memory words carry check bits: one wrong bit in a word is corrected and counted, more are reported.
    #[serde(default)]
    pub ecc: bool,
    /// Its firmware reports slots and modules.
    #[serde(default = "yes")]
    pub tables: bool,
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
    /// Thermometers on its modules.
    #[serde(default)]
    pub thermometers: Option<Thermometers>,
    /// The clock of its cores; without it nobody tells one.
    #[serde(default)]
    pub core_mhz: Option<CoreSpeed>,
    /// Milliseconds in which every row is refreshed, by the settings in force; 64 where none are given (JEDEC, at normal temperature).
    #[serde(default)]
    pub refresh_ms: BTreeMap<String, f64>,
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
    /// Nothing tells the map but the registers of the memory controller, and its own function chooses the channel.
    pub registers: bool,
    /// Nothing tells the map.
    pub hidden: bool,
    /// For two, four or eight channels, for each bit of the channel's number: the address bits that it is the parity of.
    pub way_masks: Vec<u64>,
}

impl Default for MapSpec {
    fn default() -> Self {
        // A granule of 256 bytes, hashed with three higher address bits, and the same shifted for further channel bits.
        let mask = |bit: u32| (1u64 << 8 | 1 << 14 | 1 << 19 | 1 << 25) << bit;
        Self { granule_bits: 8, registers: false, hidden: false, way_masks: (0..3).map(mask).collect() }
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

/// The serial number of the module that is delivered for another one.
pub(crate) fn replacement_of(serial: &str) -> String {
    format!("{serial}N")
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

fn usual_ways() -> u64 {
    WAYS
}

fn usual_queue() -> u64 {
    QUEUE_LINES
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

/// The smallest cache that is simulated, in bytes: machine files need not name one.
const LEAST_CACHE: u64 = 64 << 10;

impl MachineSpec {
    /// Time in which every row is refreshed with these settings in force.
    pub(crate) fn refresh_ns(&self, setting: &str) -> u64 {
        (self.refresh_ms.get(setting).copied().unwrap_or(REFRESH_MS) * 1e6) as u64
    }

    /// What lies between its processor's sweeps and its cells.
    pub(crate) fn between(&self) -> Between {
        Between {
            replacement: self.cache_replacement,
            queue: self.write_queue,
            ..Between::cache_of(self.cache.max(LEAST_CACHE), self.cache_ways, PutBack::Behind)
        }
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

    /// Lets a sound module of the same kind be delivered for each that the machine has.
    pub(crate) fn stock(&mut self) {
        let own: Vec<ModuleSpec> = self.modules.iter().filter(|module| !module.elsewhere).cloned().collect();
        for module in own {
            let serial = replacement_of(&module.serial);
            if self.module(&serial).is_none() {
                self.modules.push(ModuleSpec { serial, mark: None, slot: None, elsewhere: true, ..module });
            }
        }
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
}
