//! The child: the full screen on the machine's console.

use std::path::{Path, PathBuf};

use anyhow::Result;
use revisum_linux::boot::{CommandLine, Entry, RESULTS, enter_console};

use super::Leave;
use super::ending::boot_next;
use crate::cli::SessionArgs;
use crate::exit::Exit;
use crate::tui;

/// What the interface knows of the boot drive.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Booted {
    /// Which entry was booted.
    pub entry: Entry,
    /// It was booted by itself after the other one.
    pub chained: bool,
    /// Where results go that stay; nothing when there is no room for them on any drive.
    pub results: Option<PathBuf>,
    /// How the session before this one ended, where it ended by itself.
    pub died: Option<String>,
    /// It ended because the hardware reported a memory error.
    pub by_memory: bool,
}

/// Where records go while there is no drive for them.
const WITHOUT_DRIVE: &str = "/tmp/revisum";

/// Runs the full screen until somebody leaves it.
///
/// # Errors
/// When the console cannot be opened or the screen cannot be drawn.
pub fn session(args: &SessionArgs) -> Result<Exit> {
    enter_console(&args.console)?;
    let line = CommandLine::read();
    let results = args.results.then(|| PathBuf::from(RESULTS));
    let booted = Booted {
        entry: line.entry,
        chained: line.chained,
        results: results.clone(),
        died: args.died.clone(),
        by_memory: args.by_memory,
    };
    let data = results.as_deref().map_or_else(|| PathBuf::from(WITHOUT_DRIVE), |results| results.join("revisum"));
    let leave = tui::booted(&data, booted)?;
    if let (Leave::Other, Some(other), Some(results)) = (leave, line.entry.other(), &results) {
        boot_next(Path::new(results), other)?;
    }
    Ok(Exit::Leave(leave))
}
