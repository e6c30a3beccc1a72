//! What several screens begin: a run, and a step that the job advises.

pub mod dark;
pub mod declare;
pub mod next;
pub mod notes;
pub mod start;
pub mod steps;
