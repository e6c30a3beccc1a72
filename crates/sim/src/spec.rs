//! Machine files: what a simulated machine is made of, as TOML.

use std::collections::BTreeSet;

use revisum_core::text::cleaned;
use revisum_core::units::{GIB, parse_bytes};
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
    /// What one populated channel moves, in bytes a second.
    #[serde(deserialize_with = "bytes")]
    pub channel_bandwidth: u64,
    /// What the running system holds, in bytes.
    #[serde(default, deserialize_with = "bytes")]
    pub held_by_system: u64,
    /// How warm its memory gets; without it there is no sensor and nothing is warm.
    #[serde(default)]
    pub heat: Option<Heat>,
    /// The mainboard.
    #[serde(default)]
    pub mainboard: MainboardSpec,
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

/// A slot.
#[derive(Clone, Debug, PartialEq, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct SlotSpec {
    /// Name as printed on the board.
    pub id: String,
    /// Channel.
    pub channel: String,
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
    /// Name that the technician gave it.
    #[serde(default)]
    pub mark: Option<String>,
    /// Where it sits at first; on the table when absent.
    #[serde(default)]
    pub slot: Option<String>,
}

fn one() -> usize {
    1
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
        Ok(())
    }

    fn check(&self) -> Result<(), String> {
        if self.name.is_empty() || self.name.contains(|c: char| !(c.is_ascii_alphanumeric() || c == '-')) {
            return Err("its name may hold letters, digits and hyphens only".to_owned());
        }
        if self.cores == 0 || self.channel_bandwidth == 0 {
            return Err("it needs at least one core and some bandwidth".to_owned());
        }
        unique(self.slots.iter().map(|slot| &slot.id), "slot")?;
        unique(self.modules.iter().map(|module| &module.serial), "module")?;
        for module in &self.modules {
            if !module.size.is_power_of_two() || !MODULE_BYTES.contains(&module.size) {
                return Err(format!("module {} must have a power of two from 64 MiB to 512 GiB", module.serial));
            }
        }
        let placed: Vec<_> =
            self.modules.iter().filter_map(|module| Some((module.slot.clone()?, module.serial.clone()))).collect();
        self.check_placement(&placed)?;
        self.heat.map_or(Ok(()), |heat| heat.check())?;
        for fault in &self.faults {
            fault.check(self)?;
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

static SHIPPED: [(&str, &str); 7] = [
    ("dome-1", include_str!("machines/dome-1.toml")),
    ("stacker", include_str!("machines/stacker.toml")),
    ("allsky", include_str!("machines/allsky.toml")),
    ("spectro", include_str!("machines/spectro.toml")),
    ("guide", include_str!("machines/guide.toml")),
    ("meteo", include_str!("machines/meteo.toml")),
    ("frontdesk", include_str!("machines/frontdesk.toml")),
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
    #[case::same_serial("serial = \"HA220094\"", "serial = \"HA220093\"", "two modules named HA220093")]
    #[case::odd_size("size = \"8 GiB\"", "size = \"7 GiB\"", "power of two")]
    #[case::lane_beyond("lane = 19", "lane = 64", "lane 64")]
    #[case::row_beyond("row = 0x1a3c", "row = 0x1ffff", "outside the module")]
    #[case::fault_of_nothing("module = \"HA220094\"", "module = \"HA0\"", "there is no module HA0")]
    #[case::of_two_parts("lane = 19", "lane = 19\nslot = \"A1\"", "to one of them")]
    #[case::rate_without_upset("lane = 19", "lane = 19\nper_hour = 2.0", "an upset needs per_hour")]
    #[case::beside_nothing("lane = 19", "lane = 19\nbeside = \"X\"", "no module X for a fault to be beside")]
    #[case::coupling_without_aggressor(
        "kind = \"stuck-at\"",
        "kind = \"coupling-state\"",
        "a coupling needs another cell"
    )]
    #[case::warmth_without_heat("lane = 19", "lane = 19\nwarm = 40.0", "a machine with heat")]
    #[case::unknown_key("complaint =", "complain =", "line 4, column 1")]
    #[case::not_toml("cores = 4", "cores = = 4", "line 7")]
    fn mistakes_are_refused_with_place_and_reason(#[case] right: &str, #[case] wrong: &str, #[case] reason: &str) {
        assert!(DOME.contains(right), "{right}");
        let error = MachineSpec::parse(&DOME.replace(right, wrong)).unwrap_err().to_string();
        assert!(error.contains(reason), "{error}");
    }
}
