//! From physical addresses to slots and the coordinates inside a module.

mod linear;
mod locator;
mod map;

pub use linear::BitMatrix;
pub use locator::{Attribution, Certainty, Locator};
pub use map::{AddressMap, Cell, CellMap, MapError, Placed, Region, Way};
