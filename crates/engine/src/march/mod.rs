//! March tests: their notation.

pub mod notation;

pub use notation::{Element, March, NotationError, Op, Order};
