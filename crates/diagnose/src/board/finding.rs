//! What a rule found, and how much it matters.

use serde::Serialize;

/// How much it matters.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Serialize)]
#[serde(rename_all = "kebab-case")]
pub enum Weight {
    /// Memory is missing or fails.
    Wrong,
    /// It works, but not as it could, or not for long.
    Doubtful,
    /// Good to know before a test.
    Note,
}

/// One finding.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
pub struct Finding {
    /// How much it matters.
    pub weight: Weight,
    /// What was found.
    pub what: String,
    /// What to do about it.
    pub advice: String,
}
