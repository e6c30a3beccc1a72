//! What a run hands over to the run that continues it.

use serde::{Deserialize, Serialize};

use crate::counts::Counts;

/// What all earlier parts of a continued run came to. It stands in the first record of the part that goes on, so that each record
/// is whole in itself.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize)]
#[serde(default)]
pub struct Carried {
    /// The run that is continued.
    pub run: String,
    /// Full passes.
    pub passes: u32,
    /// Seconds of the full passes.
    pub pass_seconds: f64,
    /// The pass to go on with, from 1.
    pub pass: u32,
    /// Tests that finished in that pass.
    pub finished: Vec<String>,
    /// Seconds that those took.
    pub finished_seconds: f64,
    /// Tests that finished at least once.
    pub tests: Vec<String>,
    /// Bytes on which they did.
    pub bytes: u64,
    /// Seconds of testing that count towards a planned time: up to the latest test that finished.
    pub counted_seconds: f64,
    /// Milliseconds from first to last record.
    pub elapsed_ms: u64,
    /// Milliseconds in pauses.
    pub paused_ms: u64,
    /// Milliseconds in which nothing ran, pauses left out.
    pub stalled_ms: u64,
    /// Milliseconds of sweeping.
    pub sweep_ms: u64,
    /// Passes that were added.
    pub added_passes: u32,
    /// What was counted.
    pub counts: Counts,
}

/// What a run repeats that is to show again what another one showed.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize)]
#[serde(default)]
pub struct Repeated {
    /// The run that showed it.
    pub run: String,
    /// Seconds of the same tests over the same places until the first error, as far as that is known.
    pub first_error_seconds: f64,
    /// How warm it was then, in °C.
    pub celsius: Option<f64>,
}
