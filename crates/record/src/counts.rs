//! What a run counted of errors and of its own checks.

use serde::{Deserialize, Serialize};

/// What was counted, with earlier parts of a continued run.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
#[serde(default)]
pub struct Counts {
    /// Words that read wrong.
    pub errors: u64,
    /// Numbers that were computed wrong.
    pub miscalculated: u64,
    /// Errors that the hardware corrected.
    pub corrected: u64,
    /// Errors that the hardware reported as uncorrectable.
    pub uncorrected: u64,
    /// Self-checks that were noticed.
    pub checks_caught: u32,
    /// Self-checks that were not.
    pub checks_missed: u32,
}

impl Counts {
    /// Both together; a count stays at the highest there is.
    pub fn plus(self, other: Self) -> Self {
        Self {
            errors: self.errors.saturating_add(other.errors),
            miscalculated: self.miscalculated.saturating_add(other.miscalculated),
            corrected: self.corrected.saturating_add(other.corrected),
            uncorrected: self.uncorrected.saturating_add(other.uncorrected),
            checks_caught: self.checks_caught.saturating_add(other.checks_caught),
            checks_missed: self.checks_missed.saturating_add(other.checks_missed),
        }
    }

    /// Any error, from the sweeps or from the hardware itself.
    pub fn any(&self) -> bool {
        self.errors > 0 || self.miscalculated > 0 || self.corrected > 0 || self.uncorrected > 0
    }

    /// Errors, and all of them were corrected by the hardware.
    pub fn only_corrected(&self) -> bool {
        self.corrected > 0 && self.errors == 0 && self.miscalculated == 0 && self.uncorrected == 0
    }
}
