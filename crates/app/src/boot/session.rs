//! The child: the full screen on the machine's console.

use std::path::{Path, PathBuf};

use anyhow::Result;
use revisum_linux::boot::{CommandLine, RESULTS, enter_console};
use revisum_words::{Language, speak_as_asked};

use super::next::boot_next;
use crate::cli::SessionArgs;
use crate::exit::Exit;
use revisum_tui as tui;
use revisum_tui::{Booted, Leave, Parting};

/// Where records go while there is no drive for them.
const WITHOUT_DRIVE: &str = "/tmp/revisum";

/// Why something is not recorded, from the session that was left to the first process; empty when everything is.
pub(super) const NOT_KEPT_FILE: &str = "/tmp/revisum-not-kept";

/// Runs the full screen until somebody leaves it.
///
/// # Errors
/// When the console cannot be opened or the screen cannot be drawn.
pub fn session(args: &SessionArgs) -> Result<Exit> {
    enter_console(&args.console)?;
    let line = CommandLine::read();
    chosen_in_menu(&line).into_iter().for_each(speak_as_asked);
    let results = args.results.then(|| PathBuf::from(RESULTS));
    let booted = Booted {
        entry: line.entry,
        chained: line.chained,
        results: results.clone(),
        doubt: args.doubt.clone(),
        not_kept: args.not_kept.clone(),
        died: args.died.clone(),
        by_memory: args.by_memory,
    };
    let data = results.as_deref().map(|results| results.join("revisum"));
    let Parting { leave, not_kept } = tui::booted(data.as_deref(), Path::new(WITHOUT_DRIVE), booted)?;
    // The first process says the farewell, and must not say that everything is written where it is not.
    std::fs::write(NOT_KEPT_FILE, not_kept.unwrap_or_default())?;
    if let (Leave::Other, Some(other), Some(results)) = (leave, line.entry.other(), &results) {
        boot_next(Path::new(results), other)?;
    }
    Ok(Exit::Leave(leave))
}

/// The language that was chosen in the boot loader's menu.
pub(super) fn chosen_in_menu(line: &CommandLine) -> Option<Language> {
    line.language.as_deref().and_then(Language::tagged)
}
