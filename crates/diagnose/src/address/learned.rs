//! A map of slots that was learned from failing words: kept as a file, and proposed when the same mainboard comes again with the same firmware,
//! settings and arrangement. It tells slots, not cells.

use serde::{Deserialize, Serialize};
use thiserror::Error;

use super::file::FittingKey;
use super::layout::Layout;
use revisum_engine::units::ByteRange;

/// Version of the format.
const FORMAT: u32 = 1;

/// A learned map with what it belongs to.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct LearnedMap {
    format: u32,
    of: FittingKey,
    layout: Layout,
}

/// Why a file with a learned map cannot be used.
#[derive(Debug, Error)]
pub enum LearnedMapError {
    /// Not what such a file holds; the message has line and column.
    #[error("the learned map is not understood: {0}")]
    Form(#[from] toml::de::Error),
    /// Another version of the format.
    #[error("the learned map is of format {0}; this program reads format {FORMAT}")]
    Format(u32),
}

impl LearnedMap {
    /// Nothing where something of it is open still, or where nothing says which mainboard it belongs to.
    pub fn new(of: FittingKey, layout: Layout) -> Option<Self> {
        let known = !of.mainboard.is_empty() && layout.is_determined();
        known.then_some(Self { format: FORMAT, of, layout })
    }

    /// As a file.
    ///
    /// # Errors
    /// When it cannot be written as TOML.
    pub fn text(&self) -> Result<String, toml::ser::Error> {
        toml::to_string(self)
    }

    /// Reads such a file.
    ///
    /// # Errors
    /// When it is none.
    pub fn parse(text: &str) -> Result<Self, LearnedMapError> {
        let map: Self = toml::from_str(text)?;
        if map.format == FORMAT { Ok(map) } else { Err(LearnedMapError::Format(map.format)) }
    }

    /// Whether it is a map of this arrangement, with memory at these addresses: other addresses would be taken apart otherwise.
    pub fn belongs_to(&self, of: &FittingKey, ranges: &[ByteRange]) -> bool {
        self.of == *of && self.layout.ranges() == ranges
    }

    /// The mainboard that it was learned on.
    pub fn mainboard(&self) -> &str {
        &self.of.mainboard
    }

    /// The slot of a physical address; nothing where memory is not known to be.
    pub fn slot(&self, address: u64) -> Option<&str> {
        self.layout.slot(address)
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::address::{KnownWord, learn_layout};

    /// Words of two channels by a hash and of two slots behind each other in each, over a hole.
    fn layout() -> Layout {
        let ranges = [ByteRange::new(0, 3 << 30), ByteRange::new(4 << 30, 5 << 30)];
        let slot = |packed: u64| {
            let channel = if (packed & 0x2_0100).count_ones() % 2 == 1 { 'B' } else { 'A' };
            format!("{channel}{}", if packed < 2 << 30 { 1 } else { 2 })
        };
        let mixed = |seed: u64| {
            let mixed = seed.wrapping_mul(0x9e37_79b9_7f4a_7c15);
            ((mixed ^ mixed >> 29) % (4 << 30)) & !63
        };
        let words: Vec<KnownWord> = (1..800)
            .map(mixed)
            .map(|packed| {
                let address = if packed < 3 << 30 { packed } else { packed + (1 << 30) };
                KnownWord { address, label: slot(packed) }
            })
            .collect();
        let fitted: Vec<(String, String)> =
            ["A1", "A2", "B1", "B2"].map(|id| (id.to_owned(), id[..1].to_owned())).into();
        learn_layout(&words, &fitted, &ranges, 6)
    }

    fn key(mainboard: &str) -> FittingKey {
        FittingKey { mainboard: mainboard.into(), firmware: "1.14".into(), ..FittingKey::default() }
    }

    #[test]
    fn what_is_written_reads_the_same_and_places_every_address() {
        let map = LearnedMap::new(key("Tarnwerk Holm M2"), layout()).unwrap();
        let text = map.text().unwrap();
        let again = LearnedMap::parse(&text).unwrap();
        assert_eq!(again, map, "{text}");
        assert_eq!(
            (again.slot(0x40), again.slot(0x140), again.slot(0x1_0000_0100)),
            (Some("A1"), Some("B1"), Some("B2"))
        );
        assert_eq!(again.slot(0xd000_0000), None, "in the hole");
        assert!(matches!(
            LearnedMap::parse(&text.replace("format = 1", "format = 9")),
            Err(LearnedMapError::Format(9))
        ));
        assert!(LearnedMap::parse("format = 1\nnonsense").is_err());
    }

    #[test]
    fn it_belongs_to_one_arrangement() {
        let map = LearnedMap::new(key("Tarnwerk Holm M2"), layout()).unwrap();
        let ranges = [ByteRange::new(0, 3 << 30), ByteRange::new(4 << 30, 5 << 30)];
        assert!(map.belongs_to(&key("Tarnwerk Holm M2"), &ranges));
        assert!(!map.belongs_to(&key("Tarnwerk Holm M3"), &ranges));
        assert!(!map.belongs_to(&key("Tarnwerk Holm M2"), &ranges[..1]), "memory at other addresses");
        assert_eq!(LearnedMap::new(key(""), layout()), None, "nobody knows which mainboard");
        let open = learn_layout(&[], &[("A1".into(), "A".into()), ("B1".into(), "B".into())], &ranges, 6);
        assert_eq!(LearnedMap::new(key("Tarnwerk Holm M2"), open), None);
    }
}
