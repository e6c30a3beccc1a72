//! Exit codes of the program.

use std::process::ExitCode;

use revisum_engine::recipe::RecipeError;
use revisum_record::outcome::{Grade, Judgement};
use revisum_records::WrongUse;

use revisum_tui::Leave;

/// Exit code of a session whose screen is on another console; beyond those of leaving.
pub const ELSEWHERE: u8 = 43;

/// Exit code when there is no memory left for the program itself: that of what could not run.
pub const SHORT_OF_MEMORY: u8 = 3;

/// How the program ends.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Exit {
    /// Done, or a run in which all that was planned was done and nothing found.
    Clean,
    /// Errors were found, those that the hardware corrected too, however the run ended.
    ErrorsFound,
    /// Wrong use.
    WrongUse,
    /// It could not run, or nothing that it found can be believed.
    CouldNotRun,
    /// Ended before all that was planned was done, with nothing found.
    CutShort,
    /// A session on a booted machine is over.
    Leave(Leave),
    /// The drive says that the screen of a booted machine is on another console.
    Elsewhere,
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
            Exit::Elsewhere => ELSEWHERE,
        })
    }
}

impl From<&Judgement> for Exit {
    fn from(judgement: &Judgement) -> Self {
        match judgement.grade {
            Grade::Errors | Grade::Corrected => Self::ErrorsFound,
            Grade::Void => Self::CouldNotRun,
            Grade::Clean | Grade::Reduced | Grade::Open if judgement.complete => Self::Clean,
            Grade::Clean | Grade::Reduced | Grade::Open => Self::CutShort,
        }
    }
}

/// The exit code for an error.
pub fn code_of(error: &anyhow::Error) -> Exit {
    let wrong_use = error.chain().any(|cause| cause.is::<WrongUse>() || cause.is::<RecipeError>());
    if wrong_use { Exit::WrongUse } else { Exit::CouldNotRun }
}
