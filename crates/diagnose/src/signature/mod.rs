//! What failed, from which cells and lanes fail: a cell, a row, a lane, a package, a contact … and what that points to.
//!
//! Every shape is a place (cell, row, column, bank, rank, half by an address line, module, channel, machine) with lanes (one, two, a package's,
//! all, a random one). For each the chance of exactly these failing words is worked out, a tenth of them being allowed to come from
//! elsewhere; places and lanes that a shape could have had as well count against it. So a shape that explains more than it needs
//! loses to one that fits tightly, and the odds say how much better it fits than the next (minimum description length: Rissanen, 1978).

mod causes;

mod fit;
#[cfg(test)]
mod tests;

use serde::Serialize;

pub use causes::{Cause, causes};

use crate::address::Cell;
use revisum_record::digest::BadCell;

/// What failed.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize)]
#[serde(rename_all = "kebab-case")]
pub enum Shape {
    /// One cell.
    Cell,
    /// Cells of one column of one bank.
    Column,
    /// Cells of one row of one bank.
    Row,
    /// Cells all over one bank.
    Bank,
    /// One data lane, all over the module.
    Lane,
    /// Two data lanes.
    LanePair,
    /// The eight data lanes of one byte lane, all over the module or one rank.
    ByteLane,
    /// All lanes, where one address bit has one value.
    AddressLine,
    /// All lanes of one rank of several.
    HalfModule,
    /// All lanes, all over the module.
    WholeModule,
    /// All slots of one channel.
    Channel,
    /// Words that come in twos, one address bit apart.
    DecoderDoubles,
    /// Single bits here and there.
    Scattered,
    /// Everything, in every channel.
    Machine,
}

impl Shape {
    /// All of them.
    pub const ALL: [Self; 14] = [
        Self::Cell,
        Self::Column,
        Self::Row,
        Self::Bank,
        Self::Lane,
        Self::LanePair,
        Self::ByteLane,
        Self::AddressLine,
        Self::HalfModule,
        Self::WholeModule,
        Self::Channel,
        Self::DecoderDoubles,
        Self::Scattered,
        Self::Machine,
    ];
}

/// A failing word with its place.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct LocatedCell {
    /// Number of the slot, counted over all slots that were tested.
    pub slot: usize,
    /// Place inside the module.
    pub cell: Cell,
    /// How it fails.
    pub bad: BadCell,
}

/// How many of everything there is: what a shape could have been as well.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Geometry {
    /// Ranks of a module.
    pub ranks: u32,
    /// Banks of a rank.
    pub banks: u32,
    /// Rows of a bank.
    pub rows: u32,
    /// Words of a row.
    pub columns: u32,
    /// Lanes of a package: 4, 8 or 16.
    pub package_width: u32,
}

impl Geometry {
    /// The smallest that holds all of these cells; at least as large as modules usually are, because a large place explains less.
    pub fn holding(cells: &[LocatedCell]) -> Self {
        let most = |of: fn(&Cell) -> u32, least: u32| {
            cells.iter().map(|one| of(&one.cell) + 1).max().unwrap_or(1).max(least).next_power_of_two()
        };
        Self {
            ranks: most(|cell| cell.rank, 1),
            banks: most(|cell| cell.bank, 16),
            rows: most(|cell| cell.row, 1 << 15),
            columns: most(|cell| cell.column, 1 << 10),
            package_width: 8,
        }
    }
}

/// What is tested, so that what failed can be set against it.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Tested {
    /// Channel of each tested slot, as a number.
    pub channels: Vec<usize>,
    /// Sizes.
    pub geometry: Geometry,
    /// Whether the places inside modules are known.
    pub cells_told: bool,
    /// Whether the bits of a word stand for lanes: not where memory is encrypted, nor where packages correct by themselves.
    pub lanes_told: bool,
}

/// What the failing words look like.
#[derive(Clone, Debug, PartialEq, Serialize)]
pub struct Signature {
    /// Shapes that may be it, the likeliest first: one where it is clear, several where these words do not tell.
    pub shapes: Vec<Shape>,
    /// How many times likelier the first is than all others together; at most [`MOST_ODDS`]. Nothing where a single word failed:
    /// there is nothing to weigh.
    pub odds: Option<f64>,
    /// Numbers of the slots that it is in.
    pub slots: Vec<usize>,
    /// Data lanes that it is on; empty when it is on all or any.
    pub lanes: Vec<u8>,
    /// Distinct words that it was read from.
    pub words: usize,
    /// How many of them it does not explain.
    pub strays: usize,
}

/// Beyond this the number says nothing more.
pub const MOST_ODDS: f64 = 1e6;

impl Signature {
    /// Reads the signature; nothing when nothing failed.
    pub fn read(cells: &[LocatedCell], tested: &Tested) -> Option<Self> {
        fit::best(cells, tested)
    }

    /// The shape where it is clear.
    pub fn shape(&self) -> Option<Shape> {
        match self.shapes[..] {
            [only] => Some(only),
            _ => None,
        }
    }
}
