//! One place inside a module, and why a map of such places cannot be.

use serde::{Deserialize, Serialize};
use thiserror::Error;

/// Where a word sits inside a module. JEDEC coordinates; the column counts 64-bit words here.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Hash, PartialOrd, Ord, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Cell {
    /// Rank.
    #[serde(default)]
    pub rank: u32,
    /// Bank, bank group included.
    pub bank: u32,
    /// Row.
    pub row: u32,
    /// Word within the row.
    pub column: u32,
}

/// How many of each coordinate a module has.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub struct Extent {
    /// Ranks.
    pub ranks: u32,
    /// Banks of a rank, bank groups included.
    pub banks: u32,
    /// Rows of a bank.
    pub rows: u32,
    /// 64-bit words of a row.
    pub columns: u32,
}

impl Extent {
    /// The smallest that holds both.
    #[must_use]
    pub fn with(self, other: Self) -> Self {
        Self {
            ranks: self.ranks.max(other.ranks),
            banks: self.banks.max(other.banks),
            rows: self.rows.max(other.rows),
            columns: self.columns.max(other.columns),
        }
    }
}

/// A word's place: slot and cell.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Placed {
    /// Slot.
    pub slot: String,
    /// Place inside the module.
    pub cell: Cell,
}

/// The part of an address map that would send two addresses to one cell, or one to two.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Error)]
pub enum Twofold {
    /// A region without ways, or one whose granule is smaller than a cache line.
    #[error("a region without ways, or a granule below a cache line")]
    Ways,
    /// A region of another length than its ways divide.
    #[error("the length of a region")]
    Length,
    /// Masks that do not tell all ways apart.
    #[error("the number of ways and their masks")]
    Masks,
    /// A mask of one way.
    #[error("a way's mask")]
    Mask,
    /// Physical ranges that overlap.
    #[error("overlapping physical ranges")]
    Ranges,
    /// Regions that overlap.
    #[error("overlapping regions")]
    Regions,
    /// A mask with bits below those that choose a word.
    #[error("a mask that holds bits inside a word")]
    InsideAWord,
    /// Coordinates that do not lead back.
    #[error("the cell coordinates")]
    Coordinates,
}

/// Why a map cannot be used.
#[derive(Debug, Error, PartialEq, Eq)]
pub enum MapError {
    /// Two addresses would reach the same cell.
    #[error("the address map is not one-to-one: {0} would send two addresses to the same cell")]
    NotOneToOne(Twofold),
    /// A stack names another number of slots than its masks choose from.
    #[error("a stack of the address map names another number of slots than its slot masks can tell apart")]
    Slots,
    /// A channel has less memory than is mapped to it.
    #[error("a channel of the address map holds less memory than its region sends there")]
    Channel,
    /// Not enough masks for the number of channels.
    #[error("the address map needs at least {0} way masks for this many channels")]
    TooFewMasks(usize),
    /// Physical ranges do not fit the regions.
    #[error("the address map's physical ranges hold {ranges} bytes, but its regions hold {regions}")]
    Size {
        /// Bytes in the physical ranges.
        ranges: u64,
        /// Bytes in the regions.
        regions: u64,
    },
}
