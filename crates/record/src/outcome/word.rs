//! How a run stands or ended, in one word.

use serde::{Deserialize, Serialize};

/// How a run stands or ended.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub enum Outcome {
    /// Running, no error yet.
    CleanSoFar,
    /// All that was planned was done, no error of any kind.
    Clean,
    /// Any error, however it ended.
    ErrorsFound,
    /// Ended before all that was planned was done, nothing found.
    CutShort,
    /// Power loss, hang or restart: the journal has no end. Nothing found until then.
    Interrupted,
    /// Nothing found in what can be read, but the record is damaged: what was lost may have told of errors.
    NotWhole,
    /// A planted wrong word was not reported, so nothing that this run says can be believed.
    CheckingFailed,
}

impl Outcome {
    /// All of them.
    pub const ALL: [Self; 7] = [
        Self::CleanSoFar,
        Self::Clean,
        Self::ErrorsFound,
        Self::CutShort,
        Self::Interrupted,
        Self::NotWhole,
        Self::CheckingFailed,
    ];

    /// The word in JSON and in the ledger.
    pub fn word(self) -> &'static str {
        match self {
            Self::CleanSoFar => "clean-so-far",
            Self::Clean => "clean",
            Self::ErrorsFound => "errors-found",
            Self::CutShort => "cut-short",
            Self::Interrupted => "interrupted",
            Self::NotWhole => "not-whole",
            Self::CheckingFailed => "checking-failed",
        }
    }

    /// The outcome with this [`Self::word`].
    pub fn of_word(word: &str) -> Option<Self> {
        Self::ALL.into_iter().find(|outcome| outcome.word() == word)
    }
}
