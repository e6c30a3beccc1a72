//! March tests: their notation and the catalogue of tests that can be chosen.

pub mod catalog;
pub mod notation;

pub use catalog::{CATALOG, TestSpec, find_test};
pub use notation::{Element, March, NotationError, Op, Order};
