//! Finding runs: from the ledger, or where none can be kept from the journals themselves.

use std::path::{Path, PathBuf};

use anyhow::Result;

use super::ledger::Ledger;
use super::runs::{RunSummary, find_run, list_runs};
use crate::say;
use crate::{DataDir, WrongUse};

/// Runs that were found.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Found {
    /// The newest of them.
    pub runs: Vec<RunSummary>,
    /// How many there are.
    pub count: u64,
    /// Journals that could not be read.
    pub unreadable: Vec<String>,
    /// Why the journals were read one by one, where they were.
    pub without_ledger: Option<String>,
    /// Why runs of others are missing, where a server keeps the ledger and did not answer.
    pub aside: Option<String>,
}

/// The newest runs with all of these words, at most `most`.
///
/// # Errors
/// When the records cannot be read.
pub fn find_runs(data: &DataDir, text: &str, most: usize) -> Result<Found> {
    let folder = data.runs();
    if !folder.exists() {
        return Ok(Found::default());
    }
    let known = || {
        let ledger = Ledger::open(data)?;
        let (runs, count) = ledger.find(text, most)?;
        let aside = ledger.aside().map(str::to_owned);
        Ok(Found { runs, count, unreadable: ledger.unreadable()?, without_ledger: None, aside })
    };
    // Where no ledger can be kept the records are read one by one.
    Ledger::repaired(data, known)
        .or_else(|error| Ok(Found { without_ledger: Some(format!("{error:#}")), ..scan_runs(&folder, text, most)? }))
}

/// A run's journal in these records by its id, the beginning of it, or `last`.
///
/// # Errors
/// When there is none, or several; and with whose records hold it, where they are others that share the ledger.
pub fn find_run_here(data: &DataDir, wanted: &str) -> Result<PathBuf> {
    find_run(&data.runs(), wanted).map_err(|error| match keeper(data, wanted) {
        Some(name) => WrongUse(say::run_kept_elsewhere(wanted, name)).into(),
        None => error,
    })
}

fn keeper(data: &DataDir, id: &str) -> Option<String> {
    let shared = data.ledger_place().exists().then(|| Ledger::open(data).ok()).flatten()?;
    shared.keeper(id).ok().flatten()
}

/// The same by reading every journal in a folder.
///
/// # Errors
/// When the folder cannot be read.
pub fn scan_runs(folder: &Path, text: &str, most: usize) -> Result<Found> {
    let (mut runs, unreadable) = list_runs(folder)?;
    let words: Vec<String> = text.to_lowercase().split_whitespace().map(str::to_owned).collect();
    runs.retain(|run| words.iter().all(|word| run.has(word)));
    let count = runs.len() as u64;
    runs.truncate(most);
    Ok(Found { runs, count, unreadable, without_ledger: None, aside: None })
}
