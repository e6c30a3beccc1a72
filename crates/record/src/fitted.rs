//! What is installed where, as records keep it.

use revisum_engine::units::{ByteRange, bytes_text};
use serde::{Deserialize, Serialize};

/// One memory module.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
pub struct Module {
    /// Serial number; empty when the firmware gives none.
    pub serial: String,
    /// Maker.
    pub maker: String,
    /// Part number.
    pub part: String,
    /// Size in bytes.
    pub bytes: u64,
    /// Generation, such as `DDR4`; empty when unknown.
    #[serde(default)]
    pub generation: String,
    /// Form by its own description, such as `SO-DIMM`; empty when unknown.
    #[serde(default)]
    pub form: String,
    /// Speed in force in MT/s, where known.
    pub speed: Option<u32>,
    /// Highest speed that it is rated for in MT/s, where known.
    #[serde(default)]
    pub rated_speed: Option<u32>,
    /// Highest speed by the standard, without a profile, by its own description, in MT/s.
    #[serde(default)]
    pub base_speed: Option<u32>,
    /// Timings at the base speed by its own description, as on a label; empty when unknown.
    #[serde(default)]
    pub timings: String,
    /// Overclocking profiles that are stored in it.
    #[serde(default)]
    pub profiles: Vec<String>,
    /// Their speeds in MT/s, as far as they can be read.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub profile_speeds: Vec<u32>,
    /// Data lanes of each memory package, by its own description.
    #[serde(default)]
    pub package_width: Option<u8>,
    /// Its own description does not match its checksum.
    #[serde(default)]
    pub damaged_spd: bool,
    /// Ranks, where known.
    #[serde(default)]
    pub ranks: Option<u8>,
    /// Byte lanes: eight, or nine with ECC.
    pub byte_lanes: u8,
    /// Name that the technician gave it.
    pub mark: Option<String>,
}

impl Module {
    /// The last four characters of the serial number, as people read it off a label.
    pub fn short_serial(&self) -> String {
        let count = self.serial.chars().count();
        // What a person wrote instead of a number stays as it is.
        if count <= 4 || self.serial.contains(' ') {
            return self.serial.clone();
        }
        format!("…{}", self.serial.chars().skip(count - 4).collect::<String>())
    }

    /// What it is known by: its serial number, else the slot with everything that tells it from others.
    pub fn identity(&self, slot: &str) -> String {
        if self.serial.is_empty() {
            return format!("{slot}/{}/{}/{}", self.maker, self.part, self.bytes);
        }
        self.serial.clone()
    }

    /// What to call it in a sentence: its mark, else its serial number, else its part number, else its size.
    pub fn name(&self) -> String {
        match (&self.mark, self.serial.is_empty(), self.part.is_empty()) {
            (Some(mark), ..) => mark.clone(),
            (None, false, _) => self.short_serial(),
            (None, true, false) => self.part.clone(),
            (None, true, true) => bytes_text(self.bytes),
        }
    }
}

/// One slot, or one place where memory is soldered.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
pub struct Slot {
    /// Name as the mainboard prints it.
    pub id: String,
    /// Channel, where known: no two channels of a machine have the same name.
    pub channel: Option<String>,
    /// Processor socket that it belongs to, where there are several and that is known.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub socket: Option<String>,
    /// Its memory is soldered and cannot be taken out.
    #[serde(default)]
    pub soldered: bool,
    /// Nothing told of it: a person declared the slot and what sits in it.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub declared: bool,
    /// What sits in it.
    pub module: Option<Module>,
}

/// The machine as fitted.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
pub struct Board {
    /// Mainboard maker and product, where known.
    pub mainboard: String,
    /// Firmware version and date, where known.
    pub firmware: String,
    /// Slots in the order in which the firmware lists them; empty when nothing tells.
    pub slots: Vec<Slot>,
}

impl Board {
    /// Memory fitted by the sum of the modules; nothing where no table tells.
    pub fn fitted_bytes(&self) -> Option<u64> {
        (!self.slots.is_empty()).then(|| self.board_total())
    }

    /// The sum of the modules in bytes.
    pub fn board_total(&self) -> u64 {
        self.modules().map(|(_, module)| module.bytes).sum()
    }

    /// Whether slots and modules are what a person declared, because nothing tells any.
    pub fn is_declared(&self) -> bool {
        self.slots.iter().any(|slot| slot.declared)
    }

    /// Every fitted module with its slot.
    pub fn modules(&self) -> impl Iterator<Item = (&Slot, &Module)> {
        self.slots.iter().filter_map(|slot| slot.module.as_ref().map(|module| (slot, module)))
    }

    /// The slot of this name.
    pub fn slot(&self, id: &str) -> Option<&Slot> {
        self.slots.iter().find(|slot| slot.id == id)
    }

    /// The slots that names joined by blanks stand for. Names can have blanks in them: what the board knows is taken for a name; words that
    /// fit no slots of it are names each.
    pub fn slots_in<'a>(&self, joined: &'a str) -> Vec<&'a str> {
        if joined.is_empty() {
            return Vec::new();
        }
        self.split(joined).unwrap_or_else(|| joined.split(' ').collect())
    }

    /// In one go over the places where names can end, so that names made up to be ambiguous cost no time.
    fn split<'a>(&self, joined: &'a str) -> Option<Vec<&'a str>> {
        let ends: Vec<usize> = joined.match_indices(' ').map(|(at, _)| at).chain([joined.len()]).collect();
        // For each end the start of the longest known name that ends there and that can be reached.
        let mut begun: Vec<Option<usize>> = vec![None; ends.len()];
        for at in 0..ends.len() {
            let starts =
                std::iter::once(0).chain((0..at).filter(|before| begun[*before].is_some()).map(|b| ends[b] + 1));
            let mut known =
                starts.filter(|start| joined.get(*start..ends[at]).is_some_and(|id| self.slot(id).is_some()));
            let longest = known.next();
            begun[at] = longest;
        }
        let mut names = Vec::new();
        let mut at = ends.len() - 1;
        loop {
            let start = begun[at]?;
            names.push(&joined[start..ends[at]]);
            if start == 0 {
                names.reverse();
                return Some(names);
            }
            at = ends.iter().position(|end| end + 1 == start)?;
        }
    }

    /// Which serial number sits in which slot.
    pub fn placement(&self) -> Vec<(String, String)> {
        self.modules().map(|(slot, module)| (slot.id.clone(), module.serial.clone())).collect()
    }

    /// The settings that this board shows to be in force: `profile` where a module runs faster than it does by the standard, `stock`
    /// where none does although one could; nothing where no module tells.
    pub fn settings_shown(&self) -> Option<&'static str> {
        let modules = self.modules().map(|(_, module)| module);
        let with_profile = modules.filter(|module| !module.profiles.is_empty());
        let fast = with_profile.filter_map(|module| Some(module.speed? > module.base_speed?)).reduce(|a, b| a || b)?;
        Some(if fast { "profile" } else { "stock" })
    }

    /// Whether the modules move half a word at a time and correct single bits on the die: DDR5 does (JESD79-5).
    pub fn moves_half_words(&self) -> bool {
        self.modules().any(|(_, module)| module.generation.starts_with("DDR5"))
    }

    /// What is in which slot, by what each module is known by: modules without a serial number too.
    pub fn known_placement(&self) -> Vec<(String, String)> {
        self.modules().map(|(slot, module)| (slot.id.clone(), module.identity(&slot.id))).collect()
    }
}

/// How a machine was when it was last looked at.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Before {
    /// What was fitted.
    pub board: Board,
    /// Memory that the firmware gave to the operating system, in bytes; zero when unknown.
    pub usable_bytes: u64,
}

/// A device and the addresses that it answers to.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
pub struct MappedDevice {
    /// Its slot.
    pub slot: String,
    /// Physical addresses.
    pub range: ByteRange,
    /// Its position among the devices that take turns in this range, from 1; zero where they do not take turns; nothing where
    /// that is unknown.
    pub interleave_position: Option<u8>,
    /// How many consecutive rows each contributes in its turn; nothing where that is unknown or they do not take turns.
    pub interleave_depth: Option<u8>,
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;

    #[rstest]
    #[case::plain(&["A1", "B1"], "A1 B1", &["A1", "B1"])]
    #[case::one(&["A1", "B1"], "B1", &["B1"])]
    #[case::with_blanks(&["DIMM 1", "DIMM 2"], "DIMM 1 DIMM 2", &["DIMM 1", "DIMM 2"])]
    #[case::one_with_a_blank(&["DIMM 1", "DIMM 2"], "DIMM 2", &["DIMM 2"])]
    #[case::commas(&["Board 1, DIMM 05", "Board 1, DIMM 06"], "Board 1, DIMM 05 Board 1, DIMM 06", &["Board 1, DIMM 05", "Board 1, DIMM 06"])]
    #[case::names_within_names(&["A", "A B", "B"], "A B", &["A B"])]
    #[case::other_board(&["X"], "A1 B1", &["A1", "B1"])]
    #[case::nothing(&["A1"], "", &[])]
    fn joined_names_come_apart(#[case] slots: &[&str], #[case] joined: &str, #[case] expected: &[&str]) {
        let slots = slots.iter().map(|id| Slot { id: (*id).into(), ..Slot::default() }).collect();
        assert_eq!(Board { slots, ..Board::default() }.slots_in(joined), expected);
    }
}
