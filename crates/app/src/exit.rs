//! Exit codes of the program.

use std::process::ExitCode;

use revisum_engine::recipe::RecipeError;
use revisum_record::run_state::Outcome;
use revisum_records::WrongUse;

use revisum_tui::Leave;

/// How the program ends.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Exit {
    /// Done, or a clean run.
    Clean,
    /// Errors were found, however the run ended.
    ErrorsFound,
    /// Wrong use.
    WrongUse,
    /// It could not run, or nothing that it found can be believed.
    CouldNotRun,
    /// Stopped with nothing found.
    CutShort,
    /// A session on a booted machine is over.
    Leave(Leave),
}

impl From<Exit> for ExitCode {
    fn from(exit: Exit) -> Self {
        ExitCode::from(match exit {
            Exit::Clean => 0,
            Exit::ErrorsFound => 1,
            Exit::WrongUse => 2,
            Exit::CouldNotRun => 3,
            Exit::CutShort => 4,
            Exit::Leave(leave) => leave.code(),
        })
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

/// The exit code for an error.
pub fn code_of(error: &anyhow::Error) -> Exit {
    let wrong_use = error.chain().any(|cause| cause.is::<WrongUse>() || cause.is::<RecipeError>());
    if wrong_use { Exit::WrongUse } else { Exit::CouldNotRun }
}
