//! Machine files: read, checked whether such a machine can be, and those that come with the program.

use std::collections::BTreeSet;

use revisum_engine::text::cleaned;
use revisum_engine::units::{GIB, MIB, bytes_text};
use thiserror::Error;

use crate::mapping;
use crate::spec::MachineSpec;

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

/// Longest queue of writes, in cache lines.
const MOST_QUEUE: u64 = 4096;

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

    fn check(&self) -> Result<(), String> {
        if self.name.is_empty() || self.name.contains(|c: char| !(c.is_ascii_alphanumeric() || c == '-')) {
            return Err("its name may hold letters, digits and hyphens only".to_owned());
        }
        if self.cores == 0 || !(self.channel_efficiency > 0.0 && self.channel_efficiency <= 1.0) {
            return Err("it needs at least one core, and a channel_efficiency above 0 and up to 1".to_owned());
        }
        if !(1..=64).contains(&self.cache_ways) || self.write_queue > MOST_QUEUE {
            return Err(format!("it needs 1 to 64 cache_ways and a write_queue of at most {MOST_QUEUE} lines"));
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
                    "module {} needs chips of 4, 8 or 16 data lines, and 1, 2 or 4 ranks",
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
        self.thermometers.map_or(Ok(()), |of| of.check())?;
        self.core_mhz.map_or(Ok(()), |cores| cores.check(self.heat.is_some()))?;
        for (setting, ms) in &self.refresh_ms {
            if !self.settings.contains(setting) || !(1.0..=60_000.0).contains(ms) {
                return Err("refresh_ms needs settings that the machine has, with 1 to 60000 milliseconds".to_owned());
            }
        }
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
    #[case::lane_beyond("lane = 19", "lane = 64", "data line 64")]
    #[case::row_beyond("row = 0x1a3c", "row = 0x1ffff", "outside the module")]
    #[case::fault_of_nothing("module = \"4A220094\"", "module = \"HA0\"", "there is no module HA0")]
    #[case::of_two_parts("lane = 19", "lane = 19\nslot = \"A1\"", "to one of them")]
    #[case::rate_without_upset("lane = 19", "lane = 19\nper_hour = 2.0", "an upset needs per_hour")]
    #[case::beside_nothing("lane = 19", "lane = 19\nbeside = \"X\"", "no module X that a fault")]
    #[case::coupling_without_aggressor(
        "kind = \"stuck-at\"",
        "kind = \"coupling-state\"",
        "need another cell as their aggressor"
    )]
    #[case::warmth_without_heat("lane = 19", "lane = 19\nwarm = 40.0", "a machine with heat")]
    #[case::two_homes("lane = 19", "lane = 19\nmainboard = true", "to one of them")]
    #[case::no_such_channel("module = \"4A220094\"", "channel = \"Z\"", "there is no channel Z")]
    #[case::no_lane("lane = 19", "", "needs a data line or a chip")]
    #[case::package_beyond("lane = 19", "package = 8", "data lines are 0 to 63")]
    #[case::no_such_setting("lane = 19", "lane = 19\nsetting = \"fast\"", "no settings \"fast\"")]
    #[case::noise_in_a_cell("kind = \"stuck-at\"", "kind = \"noise\"", "noise is on a whole module")]
    #[case::stuck_module("lane = 19", "lane = 19\nextent = \"module\"", "has a cell, or the extent")]
    #[case::chance_beyond("lane = 19", "lane = 19\nchance = 1.5", "from 0 to 1")]
    #[case::growth_of_nothing("lane = 19", "lane = 19\ngrowth = 1.5", "growth belongs to upsets")]
    #[case::load_of_a_cell("lane = 19", "lane = 19\nload = \"computing\"", "a load belongs to upsets")]
    #[case::odd_width("size = \"8 GiB\"", "size = \"8 GiB\"\nwidth = 5", "chips of 4, 8 or 16 data lines")]
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
