//! Which channel each slot of a mainboard is on, kept as a file: how a mainboard is wired is the same in every machine that has it.

use std::collections::BTreeMap;

use revisum_record::fitted::Board;
use serde::{Deserialize, Serialize};

use super::learned::LearnedMapError;
use crate::controller::ShownChannels;

/// Version of the format.
const FORMAT: u32 = 1;

/// Channels of slots with the mainboard and firmware that they belong to: another firmware may have other names for the slots.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct KnownChannels {
    format: u32,
    mainboard: String,
    firmware: String,
    channels: BTreeMap<String, u8>,
}

impl KnownChannels {
    /// Nothing where nothing was shown, or nothing says of which mainboard.
    pub fn new(board: &Board, shown: &ShownChannels) -> Option<Self> {
        let channels = shown.channels().clone();
        (!board.mainboard.is_empty() && !channels.is_empty()).then(|| Self {
            format: FORMAT,
            mainboard: board.mainboard.clone(),
            firmware: board.firmware.clone(),
            channels,
        })
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

    /// The channels, where they are those of this board.
    pub fn of(&self, board: &Board) -> Option<&BTreeMap<String, u8>> {
        (self.mainboard == board.mainboard && self.firmware == board.firmware).then_some(&self.channels)
    }

    /// The mainboard that they are of.
    pub fn mainboard(&self) -> &str {
        &self.mainboard
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_is_written_reads_the_same_and_belongs_to_one_board() {
        let board = |firmware: &str| Board {
            mainboard: "Tarnwerk Holm M2".into(),
            firmware: firmware.into(),
            ..Board::default()
        };
        let channels = BTreeMap::from([("A1".to_owned(), 0), ("B1".to_owned(), 1)]);
        let shown = ShownChannels::known(channels.clone());
        let known = KnownChannels::new(&board("1.14"), &shown).unwrap();
        let text = known.text().unwrap();
        assert_eq!(KnownChannels::parse(&text).unwrap(), known, "{text}");
        assert_eq!((known.of(&board("1.14")), known.of(&board("1.15"))), (Some(&channels), None));
        assert!(KnownChannels::parse(&text.replace("format = 1", "format = 2")).is_err());
        assert_eq!(KnownChannels::new(&Board::default(), &shown), None);
        assert_eq!(KnownChannels::new(&board("1.14"), &ShownChannels::NONE), None);
    }
}
