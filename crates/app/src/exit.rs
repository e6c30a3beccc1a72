//! Exit codes of the program.

use std::process::ExitCode;

use revisum_core::recipe::RecipeError;
use revisum_core::run_state::Outcome;
use thiserror::Error;

/// How the program ends.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Exit {
    /// Done, or a clean run.
    Clean = 0,
    /// Errors were found, however the run ended.
    ErrorsFound = 1,
    /// Wrong use.
    WrongUse = 2,
    /// It could not run, or nothing that it found can be believed.
    CouldNotRun = 3,
    /// Stopped with nothing found.
    CutShort = 4,
}

impl From<Exit> for ExitCode {
    fn from(exit: Exit) -> Self {
        ExitCode::from(exit as u8)
    }
}

impl From<Outcome> for Exit {
    fn from(outcome: Outcome) -> Self {
        match outcome {
            Outcome::Clean => Self::Clean,
            Outcome::ErrorsFound => Self::ErrorsFound,
            Outcome::CheckingFailed => Self::CouldNotRun,
            Outcome::CleanSoFar | Outcome::CutShort | Outcome::Interrupted => Self::CutShort,
        }
    }
}

/// A mistake in how the program was called.
#[derive(Debug, Error)]
#[error("{0}")]
pub struct WrongUse(pub String);

/// The exit code for an error.
pub fn code_of(error: &anyhow::Error) -> Exit {
    let wrong_use = error.chain().any(|cause| cause.is::<WrongUse>() || cause.is::<RecipeError>());
    if wrong_use { Exit::WrongUse } else { Exit::CouldNotRun }
}
