//! The child: the full screen on the machine's console.

use std::path::{Path, PathBuf};

use anyhow::Result;
use revisum_linux::boot::{CommandLine, RESULTS, enter_console};

use super::next::boot_next;
use crate::cli::SessionArgs;
use crate::exit::Exit;
use revisum_tui as tui;
use revisum_tui::{Booted, Leave};

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
