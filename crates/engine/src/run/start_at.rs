//! Where a run begins: at the beginning, or where another one ended.

use crate::catalog::TestSpec;

/// Where a run begins.
#[derive(Clone, Debug, PartialEq)]
pub struct StartAt {
    /// Pass, from 1.
    pub pass: u32,
    /// Tests that finished in that pass already.
    pub finished: Vec<String>,
    /// Seconds that those took.
    pub finished_seconds: f64,
    /// Seconds that count towards a planned time already.
    pub spent_seconds: f64,
    /// Passes that were added already.
    pub added_passes: u32,
}

impl Default for StartAt {
    fn default() -> Self {
        Self { pass: 1, finished: Vec::new(), finished_seconds: 0.0, spent_seconds: 0.0, added_passes: 0 }
    }
}

impl StartAt {
    /// Whether this test finished in this pass before the run began.
    pub(super) fn has_finished(&self, pass: u32, spec: &TestSpec) -> bool {
        pass == self.pass && self.finished.iter().any(|name| *name == spec.name)
    }

    /// The next test from this place on that did not; past the last one when there is none.
    pub(super) fn next_open(&self, pass: u32, specs: &[TestSpec], from: usize) -> usize {
        (from..specs.len()).find(|at| !self.has_finished(pass, &specs[*at])).unwrap_or(specs.len())
    }
}
