//! What read wrong in memory that the program itself was about to use.

use std::sync::{Mutex, PoisonError};

use crate::tally::Tally;

/// Words that read wrong before the first run, until a run counts them.
#[derive(Debug, Default)]
pub struct OwnMemory(Mutex<Tally>);

/// Samples that are kept.
const SAMPLES: usize = 128;

impl OwnMemory {
    /// These read wrong.
    pub fn found(&self, tally: &Tally) {
        self.0.lock().unwrap_or_else(PoisonError::into_inner).merge(tally, SAMPLES);
    }

    /// What was found and not counted yet; whoever takes it counts it.
    pub fn take(&self) -> Option<Tally> {
        let found = std::mem::take(&mut *self.0.lock().unwrap_or_else(PoisonError::into_inner));
        (!found.is_empty()).then_some(found)
    }
}
