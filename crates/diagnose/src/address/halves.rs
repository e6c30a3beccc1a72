//! The two halves of the addresses of an arrangement, kept as a file: time told them, and not which slots they are.

use revisum_engine::rows::Halves;
use revisum_engine::units::ByteRange;
use serde::{Deserialize, Serialize};

use super::file::FittingKey;
use super::learned::LearnedMapError;

/// Version of the format.
const FORMAT: u32 = 1;

/// Halves with what they belong to.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct KnownHalves {
    format: u32,
    of: FittingKey,
    ranges: Vec<ByteRange>,
    halves: Halves,
}

impl KnownHalves {
    /// Nothing where nothing says which mainboard they belong to.
    pub fn new(of: FittingKey, ranges: &[ByteRange], halves: Halves) -> Option<Self> {
        (!of.mainboard.is_empty()).then(|| Self { format: FORMAT, of, ranges: ranges.to_vec(), halves })
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
        let known: Self = toml::from_str(text)?;
        if known.format == FORMAT { Ok(known) } else { Err(LearnedMapError::Format(known.format)) }
    }

    /// The halves, where they are those of this arrangement with memory at these addresses.
    pub fn of(&self, of: &FittingKey, ranges: &[ByteRange]) -> Option<Halves> {
        (self.of == *of && self.ranges == ranges).then_some(self.halves)
    }

    /// The mainboard that they were learned on.
    pub fn mainboard(&self) -> &str {
        &self.of.mainboard
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_is_written_reads_the_same_and_belongs_to_one_arrangement() {
        let key = |settings: &str| FittingKey {
            mainboard: "Tarnwerk Holm M2".into(),
            settings: settings.into(),
            ..FittingKey::default()
        };
        let halves = Halves { mask: 0x2_0100, from: 4 << 30, offset: 1 << 30 };
        let ranges = [ByteRange::new(0, 3 << 30), ByteRange::new(4 << 30, 5 << 30)];
        let known = KnownHalves::new(key("stock"), &ranges, halves).unwrap();
        let text = known.text().unwrap();
        assert_eq!(KnownHalves::parse(&text).unwrap(), known, "{text}");
        assert_eq!(known.of(&key("stock"), &ranges), Some(halves));
        assert_eq!(known.of(&key("profile"), &ranges), None);
        assert_eq!(known.of(&key("stock"), &ranges[..1]), None, "memory at other addresses");
        assert!(KnownHalves::parse(&text.replace("format = 1", "format = 2")).is_err());
        assert_eq!(KnownHalves::new(FittingKey::default(), &ranges, halves), None);
    }
}
