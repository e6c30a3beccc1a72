//! The child: the full screen on the machine's console.

use std::path::{Path, PathBuf};
use std::time::{Duration, Instant};

use anyhow::Result;
use revisum_drive::{DriveSettings, Where};
use revisum_linux::boot::{CommandLine, RESULTS, SERIAL, enter_console, lay_out};
use revisum_words::{Language, speak_as_asked};
use revisum_workbench::{first_look::first_look, wire};

use super::moments::{note, since_start};
use super::next::boot_next;
use super::readiness::{Readiness, Room};
use super::settings::settings;
use crate::cli::SessionArgs;
use crate::exit::Exit;
use crate::say;
use revisum_tui as tui;
use revisum_tui::{Booted, Leave, Parting, Starting};

/// Where records go while there is no drive for them.
const WITHOUT_DRIVE: &str = "/tmp/revisum";

/// Why something is not recorded, from the session that was left to the first process; empty when everything is.
pub(super) const NOT_KEPT_FILE: &str = "/tmp/revisum-not-kept";

/// So long drivers and drives are waited for: several times what the slowest machine takes.
const PATIENCE: Duration = Duration::from_secs(90);
/// Keyboard layouts in the first file system.
const KEYBOARDS: &str = "/keyboards";

/// Runs the full screen until somebody leaves it.
///
/// # Errors
/// When the console cannot be opened or the screen cannot be drawn.
pub fn session(args: &SessionArgs) -> Result<Exit> {
    let typed = enter_console(&args.console)?;
    // While drives are waited for there is time for what takes a moment. Without a thread it is done when it is needed.
    let _ = std::thread::Builder::new().spawn(revisum_engine::depth::prepare);
    let cores = std::thread::available_parallelism().map_or(1, usize::from);
    let own_words_wrong = first_look(&wire::real(), cores);
    let line = CommandLine::read();
    chosen_in_menu(&line).into_iter().for_each(speak_as_asked);
    let mut elsewhere = false;
    let mut screen = None;
    let begin = Instant::now();
    let mut starting = || {
        screen = screen.or_else(since_start);
        match Readiness::now() {
            // A driver that hangs must not keep the memory from being tested.
            Readiness::Drivers | Readiness::Drive if begin.elapsed() > PATIENCE => {
                let room = Room { kept: Err(say::boot_no_answer().to_owned()), troubles: Vec::new() };
                Starting::Ready(Box::new(booted(args, &line, room, own_words_wrong)))
            }
            Readiness::Drivers => Starting::Drivers,
            Readiness::Drive => Starting::Drive,
            Readiness::Ready(room) => {
                let booted = booted(args, &line, room, own_words_wrong);
                elsewhere = booted.settings.screen == Where::Serial && args.console != SERIAL;
                if let Some(results) = booted.results.as_deref().filter(|_| !elsewhere && args.died.is_none()) {
                    note(results, &line, screen, since_start(), &booted.troubles);
                }
                if elsewhere { Starting::Elsewhere } else { Starting::Ready(Box::new(booted)) }
            }
        }
    };
    let appeared = Box::new(|| Readiness::now().is_kept().then(|| PathBuf::from(RESULTS)));
    let parting = tui::booted(&args.console, &mut starting, Path::new(WITHOUT_DRIVE), &typed, appeared)?;
    if elsewhere {
        return Ok(Exit::Elsewhere);
    }
    let Parting { leave, not_kept } = parting;
    // The first process says the farewell, and must not say that everything is written where it is not.
    std::fs::write(NOT_KEPT_FILE, not_kept.unwrap_or_default())?;
    if let (Leave::Other, Some(other), true) = (leave, line.entry.other(), Readiness::now().is_kept()) {
        boot_next(Path::new(RESULTS), Some(other))?;
    }
    Ok(Exit::Leave(leave))
}

/// What the full screen knows of the start.
fn booted(args: &SessionArgs, line: &CommandLine, room: Room, own_words_wrong: u64) -> Booted {
    let mut troubles = room.troubles;
    let (doubt, not_kept) = match room.kept {
        Ok(doubt) => (doubt, None),
        Err(why) => (None, Some(why)),
    };
    let results = not_kept.is_none().then(|| PathBuf::from(RESULTS));
    if let Some(results) = results.as_deref().filter(|_| line.chained) {
        // Without the boot loader nobody has taken back what was to be booted next. A drive that takes nothing is said elsewhere.
        let _ = boot_next(results, None);
    }
    let mut settings = settings(results.as_deref()).unwrap_or_else(|why| {
        troubles.push(say::boot_settings_unreadable(why));
        DriveSettings::default()
    });
    if let (Some(card), Some(counter)) = (&mut settings.card, &line.counter) {
        card.insert("counter".to_owned(), counter.clone().into());
    }
    if let Some(layout) = &settings.keyboard
        && let Err(error) = lay_out(Path::new(KEYBOARDS), layout, &args.console)
    {
        troubles.push(say::boot_keyboard_not_set(error.to_string()));
    }
    if own_words_wrong > 0 {
        troubles.insert(0, say::boot_own_memory(own_words_wrong));
    }
    Booted {
        entry: line.entry,
        chained: line.chained,
        results,
        doubt,
        not_kept,
        died: args.died.clone(),
        by_memory: args.by_memory,
        settings,
        troubles,
    }
}

/// The language that was chosen in the boot loader's menu.
pub(super) fn chosen_in_menu(line: &CommandLine) -> Option<Language> {
    line.language.as_deref().and_then(Language::tagged)
}
