//! Address maps as files: TOML, read and written. `docs/reference/map-file.md` describes the format.

use std::collections::BTreeMap;

use revisum_record::fitted::Board;
use serde::{Deserialize, Deserializer, Serialize, Serializer};
use thiserror::Error;

use super::cell::MapError;
use super::cells::{CellMap, CellMasks};
use super::map::{AddressMap, Region, Stack, Way};
use revisum_engine::units::ByteRange;

/// Version of the format.
const FORMAT: u32 = 1;
/// A byte belongs to a cache line of this many at least.
const LEAST_GRANULE: u64 = 64;

/// How far a map can be believed.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub enum MapStatus {
    /// Somebody wrote it down.
    #[default]
    Assumed,
    /// Runs have confirmed it.
    Confirmed,
}

/// What a map belongs to: another fitting, firmware or setting has another map.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
#[serde(deny_unknown_fields, default)]
pub struct FittingKey {
    /// Maker and product of the mainboard.
    pub mainboard: String,
    /// Version of its firmware.
    pub firmware: String,
    /// Settings in force.
    pub settings: String,
    /// Bytes in each fitted slot.
    pub slots: BTreeMap<String, u64>,
}

impl FittingKey {
    /// Of a board with these settings.
    pub fn of(board: &Board, settings: &str) -> Self {
        Self {
            mainboard: board.mainboard.clone(),
            firmware: board.firmware.clone(),
            settings: settings.to_owned(),
            slots: board.modules().map(|(slot, module)| (slot.id.clone(), module.bytes)).collect(),
        }
    }
}

/// A map with what it belongs to.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct MapFile {
    /// What it belongs to.
    pub of: FittingKey,
    /// How far it can be believed.
    pub status: MapStatus,
    /// The map.
    pub map: AddressMap,
}

/// Why a map file cannot be used.
#[derive(Debug, Error)]
pub enum MapFileError {
    /// Not TOML, or not what a map file holds; the message has line and column.
    #[error("the map file is not understood: {0}")]
    Form(#[from] toml::de::Error),
    /// Another version of the format.
    #[error("the map file is of format {0}; this program reads format {FORMAT}")]
    Format(u32),
    /// Understood, but no map.
    #[error("{place}: {reason}")]
    Place {
        /// Which region, way or stack.
        place: String,
        /// What is wrong.
        reason: MapError,
    },
    /// A granule that is none.
    #[error("region {0}: a granule must be a power of two of at least {LEAST_GRANULE} bytes")]
    Granule(usize),
    /// The parts do not make a map.
    #[error("{0}")]
    Whole(#[from] MapError),
}

/// A mask or an address, written in hexadecimal and read as a number or as text.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
struct Hex(u64);

impl Serialize for Hex {
    fn serialize<S: Serializer>(&self, serializer: S) -> Result<S::Ok, S::Error> {
        serializer.serialize_str(&format!("{:#x}", self.0))
    }
}

impl<'de> Deserialize<'de> for Hex {
    fn deserialize<D: Deserializer<'de>>(deserializer: D) -> Result<Self, D::Error> {
        #[derive(Deserialize)]
        #[serde(untagged)]
        enum Either {
            Number(u64),
            Text(String),
        }
        match Either::deserialize(deserializer)? {
            Either::Number(number) => Ok(Self(number)),
            Either::Text(text) => {
                revisum_engine::units::parse_address(&text).map(Self).map_err(serde::de::Error::custom)
            }
        }
    }
}

#[derive(Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
struct Form {
    format: u32,
    #[serde(default)]
    status: MapStatus,
    ranges: Vec<(Hex, Hex)>,
    #[serde(default)]
    of: FittingKey,
    #[serde(rename = "region")]
    regions: Vec<RegionForm>,
}

#[derive(Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
struct RegionForm {
    bytes: Hex,
    granule: u64,
    #[serde(default)]
    masks: Vec<Hex>,
    #[serde(rename = "way")]
    ways: Vec<WayForm>,
}

#[derive(Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
struct WayForm {
    #[serde(default = "zero")]
    start: Hex,
    #[serde(rename = "stack")]
    stacks: Vec<StackForm>,
}

fn zero() -> Hex {
    Hex(0)
}

#[derive(Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
struct StackForm {
    slots: Vec<String>,
    column: Vec<Hex>,
    #[serde(default)]
    bank: Vec<Hex>,
    #[serde(default)]
    row: Vec<Hex>,
    #[serde(default)]
    rank: Vec<Hex>,
    #[serde(default)]
    slot: Vec<Hex>,
}

impl MapFile {
    /// Reads and checks a map file.
    ///
    /// # Errors
    /// With place and reason.
    pub fn parse(text: &str) -> Result<Self, MapFileError> {
        let form: Form = toml::from_str(text)?;
        if form.format != FORMAT {
            return Err(MapFileError::Format(form.format));
        }
        let ranges = form.ranges.iter().map(|(start, end)| ByteRange::new(start.0, end.0)).collect();
        let mut regions = Vec::new();
        let mut start = 0u64;
        for (at, region) in form.regions.iter().enumerate() {
            let region = region.build(at + 1, start)?;
            start = start.saturating_add(region.bytes);
            regions.push(region);
        }
        Ok(Self { of: form.of, status: form.status, map: AddressMap::new(ranges, regions)? })
    }

    /// The file's text.
    ///
    /// # Errors
    /// Never for a map that was checked; the writer's own error otherwise.
    pub fn text(&self) -> Result<String, toml::ser::Error> {
        let ranges = self.map.physical().iter().map(|range| (Hex(range.start), Hex(range.end))).collect();
        let regions = self.map.regions().iter().map(RegionForm::of).collect();
        toml::to_string(&Form { format: FORMAT, status: self.status, ranges, of: self.of.clone(), regions })
    }
}

impl RegionForm {
    fn of(region: &Region) -> Self {
        let ways = region.ways.iter().map(|way| WayForm {
            start: Hex(way.channel_start),
            stacks: way.stacks.iter().map(StackForm::of).collect(),
        });
        Self {
            bytes: Hex(region.bytes),
            granule: 1 << region.granule_bits,
            masks: hex(&region.way_masks),
            ways: ways.collect(),
        }
    }

    fn build(&self, number: usize, start: u64) -> Result<Region, MapFileError> {
        if !self.granule.is_power_of_two() || self.granule < LEAST_GRANULE {
            return Err(MapFileError::Granule(number));
        }
        let way = |(at, way): (usize, &WayForm)| {
            let stacks = way.stacks.iter().map(|stack| stack.build(&format!("region {number}, way {}", at + 1)));
            Ok(Way { channel_start: way.start.0, stacks: stacks.collect::<Result<_, MapFileError>>()? })
        };
        Ok(Region {
            start,
            bytes: self.bytes.0,
            ways: self.ways.iter().enumerate().map(way).collect::<Result<_, MapFileError>>()?,
            granule_bits: self.granule.trailing_zeros(),
            way_masks: self.masks.iter().map(|mask| mask.0).collect(),
        })
    }
}

fn hex(masks: &[u64]) -> Vec<Hex> {
    masks.iter().map(|mask| Hex(*mask)).collect()
}

impl StackForm {
    fn of(stack: &Stack) -> Self {
        let masks = stack.cells.masks();
        Self {
            slots: stack.slots.clone(),
            column: hex(&masks.column),
            bank: hex(&masks.bank),
            row: hex(&masks.row),
            rank: hex(&masks.rank),
            slot: hex(&masks.slot),
        }
    }

    fn build(&self, place: &str) -> Result<Stack, MapFileError> {
        let plain = |masks: &[Hex]| masks.iter().map(|mask| mask.0).collect();
        let masks = CellMasks {
            column: plain(&self.column),
            bank: plain(&self.bank),
            row: plain(&self.row),
            rank: plain(&self.rank),
            slot: plain(&self.slot),
        };
        let place = format!("{place}, stack {}", revisum_engine::text::cleaned(&self.slots.join(" "), 60));
        let cells = CellMap::new(masks).map_err(|reason| MapFileError::Place { place, reason })?;
        let slots = self.slots.iter().map(|slot| revisum_engine::text::cleaned(slot, 32)).collect();
        Ok(Stack { slots, cells })
    }
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;

    const TWO_WAYS: &str = r#"
format = 1
ranges = [["0x0", "0x8000"], ["0x10000", "0x18000"]]

[[region]]
bytes = 0x10000
granule = 256
masks = [0x4100]

[[region.way]]
stack = [{ slots = ["A1"], column = ["0x8", "0x10", "0x20", "0x40", "0x80"], row = ["0x100", "0x200", "0x400", "0x800", "0x1000", "0x2000", "0x4000"] }]

[[region.way]]
stack = [{ slots = ["B1"], column = ["0x8", "0x10", "0x20", "0x40", "0x80"], row = ["0x100", "0x200", "0x400", "0x800", "0x1000", "0x2000", "0x4000"] }]
"#;

    #[test]
    fn what_is_written_reads_the_same() {
        let mut file = MapFile::parse(TWO_WAYS).unwrap();
        file.of.slots.insert("A1".into(), 0x8000);
        file.status = MapStatus::Confirmed;
        assert_eq!(MapFile::parse(&file.text().unwrap()).unwrap(), file);
    }

    #[rstest]
    #[case::syntax("format = 1\nranges = [", "line 2")]
    #[case::unknown_field(&TWO_WAYS.replace("granule", "grain"), "grain")]
    #[case::version(&TWO_WAYS.replace("format = 1", "format = 9"), "format 9")]
    #[case::granule(&TWO_WAYS.replace("256", "96"), "region 1: a granule")]
    #[case::doubled_mask(&TWO_WAYS.replacen("\"0x10\"", "\"0x8\"", 1), "region 1, way 1, stack A1: ")]
    #[case::sizes(&TWO_WAYS.replace("\"0x18000\"", "\"0x18008\""), "65544 bytes, but its regions hold 65536")]
    #[case::too_small(&TWO_WAYS.replacen(", \"0x4000\"] }", "] }", 1), "holds less memory")]
    #[case::slots(&TWO_WAYS.replacen("[\"A1\"]", "[\"A1\", \"A2\"]", 1), "another number of slots")]
    #[case::overlap(&TWO_WAYS.replace("[\"0x10000\", \"0x18000\"]", "[\"0x7000\", \"0xf000\"]"), "overlapping physical")]
    #[case::backwards(&TWO_WAYS.replace("[\"0x10000\", \"0x18000\"]", "[\"0x18000\", \"0x10000\"]"), "but its regions hold")]
    fn mistakes_are_refused_at_their_place(#[case] text: &str, #[case] words: &str) {
        let error = MapFile::parse(text).unwrap_err().to_string();
        assert!(error.contains(words), "{error}");
    }
}
