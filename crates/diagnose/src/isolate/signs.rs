//! What else a failing run told: what its errors looked like, whether the same cells failed before, and how warm it was.

use serde::{Deserialize, Serialize};

use super::priors::Signs as Weights;
use super::tilt::Tilt;
use crate::signature::Shape;

/// What errors looked like, as coarsely as it says something about the cause.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub enum Look {
    /// Certain cells: one, a row, a column, a bank. Silicon.
    Cells,
    /// Certain lanes all over the module. A contact, a trace, or a package.
    Lanes,
    /// By one address bit. A contact or a trace.
    Addresses,
    /// Single bits here and there, never the same again.
    Scattered,
    /// Whole modules, whole channels, everything.
    Everywhere,
}

impl Look {
    /// The look of a signature.
    pub fn of(shape: Shape) -> Self {
        match shape {
            Shape::Cell | Shape::Column | Shape::Row | Shape::Bank => Self::Cells,
            Shape::Lane | Shape::LanePair | Shape::ByteLane => Self::Lanes,
            Shape::AddressLine | Shape::DecoderDoubles => Self::Addresses,
            Shape::Scattered => Self::Scattered,
            Shape::HalfModule | Shape::WholeModule | Shape::Channel | Shape::Machine => Self::Everywhere,
        }
    }
}

/// What else a run told; what is not known says nothing.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Signs {
    /// What its errors looked like.
    pub look: Option<Look>,
    /// The module whose same cells failed in another slot before.
    pub same_cells: Option<String>,
    /// The hottest that the modules became, in °C.
    pub celsius: Option<f64>,
}

/// What all looks of a job say together. Each look counts once, however many runs showed it: they are not independent.
pub(super) fn tilt_of_looks(looks: impl Iterator<Item = Look>, weights: &Weights) -> Tilt {
    let mut seen: Vec<Look> = looks.collect();
    seen.sort();
    seen.dedup();
    let of = |look: &Look| match look {
        Look::Cells => weights.cells,
        Look::Lanes => weights.lanes,
        Look::Addresses => weights.addresses,
        Look::Scattered => weights.scattered,
        Look::Everywhere => weights.everywhere,
    };
    seen.iter().map(of).fold(Tilt::default(), std::ops::Mul::mul)
}
