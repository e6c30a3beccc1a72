//! From physical addresses to slots and the coordinates inside a module.

mod cell;
mod cells;
mod coarse;
mod file;
mod halves;
mod known_channels;
mod layout;
mod learn;
mod learned;
mod linear;
mod locator;
mod map;

pub use cell::{Cell, Extent, MapError, Placed, Twofold};
pub use cells::{CellMap, CellMasks};
pub use file::{FittingKey, MapFile, MapFileError, MapStatus};
pub use halves::KnownHalves;
pub use known_channels::KnownChannels;
pub use layout::{Layout, Sharing, learn_layout};
pub use learn::{KnownWord, Learned, Open, learn};
pub use learned::{LearnedMap, LearnedMapError};
pub use linear::BitMatrix;
pub use locator::{Attribution, Ground, Locator};
pub use map::{AddressMap, Region, Stack, Way};
