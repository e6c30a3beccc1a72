//! Load that comes in steps: vector work with known answers on many cores at once, steadily and in bursts.
//!
//! The supply of a processor follows a step of current late, and rings at frequencies that nobody outside knows; so the length of the
//! bursts walks from 10 µs to 10 ms. All cores take the same clock and therefore begin and end together.

mod chaos;
mod steps;

pub use chaos::Vectors;
pub use steps::{Phase, phase, until_change, works};
