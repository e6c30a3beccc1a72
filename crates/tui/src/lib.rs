//! The full screen.
//!
//! One way: a key goes to what stands before the screen, else to the screen in front (`screens`), whose commands say what it means; what that
//! asks for (`room::step`) is carried out by the program (`app`) or by the `workshop`, on a thread of its own; what that came to (`shared::news`)
//! is told to all. Screens see what is shared and change nothing but themselves.

mod app;
mod booted;
mod dialogs;
mod event_loop;
mod kit;
mod moves;
mod room;
mod say;

mod screens;
mod session;
mod shared;
mod terminal;
mod wall;
mod welcome;
mod workshop;

use std::net::SocketAddr;
use std::path::Path;
use std::sync::Arc;

use anyhow::Result;
use revisum_records::{DataDir, Which, last_moment};
use revisum_sim::{BEGIN_MS, SimOptions, shipped_names};
use revisum_words::{Language, speak_as_kept, spoken};
use revisum_workbench::{earlier, wire};

use self::room::view::View;
pub use self::workshop::Appeared;
use self::workshop::{Maker, Workshop};

pub use self::booted::{Booted, Leave};
pub use self::session::{Session, Told, Wish};
pub use self::wall::WallLines;
pub use self::welcome::Starting;

/// What the demonstration shows.
pub struct Demo {
    /// Simulated machine, by name or as a machine file; all of the workshop when absent.
    pub machine: Option<String>,
    /// Seed of all that is random.
    pub seed: u64,
    /// Simulated seconds in a real second.
    pub pace: f64,
}

/// The machine that is on the bench before one is chosen.
const FIRST_MACHINE: &str = "dome-1";
/// What passes between two simulated sittings: a quarter of an hour.
const BETWEEN_SITTINGS_MS: i64 = 900_000;

/// The full screen on this machine.
///
/// # Errors
/// When there is no terminal, or records cannot be kept.
pub fn real(data: Option<&Path>) -> Result<()> {
    let data = DataDir::choose(data, None)?;
    data.prepare()?;
    speak_as_kept_in(&data);
    event_loop::run(Workshop::open(wire::real(), data, None, None, Which::Latest)?, View::Board)?;
    Ok(())
}

/// The wall of the counter with these records: every machine that is linked to it.
///
/// # Errors
/// When there is no terminal, or the counter cannot be opened.
pub fn wall(data: Option<&Path>, listen: Option<SocketAddr>) -> Result<()> {
    let data = DataDir::choose(data, None)?;
    speak_as_kept_in(&data);
    event_loop::run_wall(&data, listen)
}

/// The full screen on facts that were saved of a machine. What is noted in it is gone when it is closed.
///
/// # Errors
/// When the folder holds no facts, or there is no terminal.
pub fn saved(folder: &Path) -> Result<()> {
    let kept = tempfile::tempdir()?;
    event_loop::run(
        Workshop::open(wire::saved(folder)?, data_in(kept.path())?, None, None, Which::Latest)?,
        View::Board,
    )?;
    Ok(())
}

/// The same without a terminal, with what is noted in a folder.
///
/// # Errors
/// When a folder cannot be read or written.
pub fn saved_session(folder: &Path, data: &Path, size: (u16, u16), told: Told) -> Result<Session> {
    let workshop = Workshop::open(wire::saved(folder)?, data_in(data)?, None, None, Which::Latest)?;
    Ok(Session::here(workshop, View::Board, size, told))
}

fn data_in(folder: &Path) -> Result<DataDir> {
    let data = DataDir::choose(Some(folder), None)?;
    data.prepare()?;
    Ok(data)
}

/// The language that was chosen here at another time, unless somebody asks for one now.
fn speak_as_kept_in(data: &DataDir) {
    data.language().into_iter().for_each(speak_as_kept);
}

/// The menu of the drive was asked for a language once; the start for the rest of the memory comes without the menu.
fn keep_for_next_start(data: &DataDir) {
    let language = spoken();
    if language != Language::EN && data.language() != Some(language) {
        // A drive that takes nothing is said where results are written to it.
        let _ = data.keep_language(language);
    }
}

/// The full screen on a machine that was booted from the drive. It is there before the drive is found: `starting` says how far that is. Records are
/// on the drive, or in the other folder where they cannot be, until `appeared` says where one is. `typed` is what was typed before.
///
/// # Errors
/// When the screen cannot be drawn, or records cannot even be kept for now.
pub fn booted(
    console: &str,
    starting: &mut dyn FnMut() -> Starting,
    otherwise: &Path,
    typed: &[u8],
    appeared: Appeared,
) -> Result<Parting> {
    let machine = wire::real();
    let first = welcome::Welcome::on(&machine.firmware.facts(), machine.memory.offer().usable.bytes());
    let mut appeared = Some(appeared);
    let mut open = |booted: Booted| {
        let mut workshop = workshop_on_drive(otherwise, booted)?;
        appeared.take().into_iter().for_each(|appeared| workshop.looks_for_drive(appeared));
        Ok(workshop)
    };
    let early = event_loop::Early { console, starting, first, typed: welcome::keys_in(typed), open: &mut open };
    let (leave, not_kept) = event_loop::run_booted(early)?;
    Ok(Parting { leave: leave.unwrap_or(Leave::Restart), not_kept })
}

/// The workshop of a machine that was booted, once it is known where its records go.
fn workshop_on_drive(otherwise: &Path, mut booted: Booted) -> Result<Workshop> {
    let open = |data: &Path, booted: Booted| {
        let data = DataDir::choose(Some(data), None)?;
        data.prepare()?;
        booted.settings.language.as_deref().and_then(Language::tagged).into_iter().for_each(speak_as_kept);
        speak_as_kept_in(&data);
        keep_for_next_start(&data);
        let mut workshop = Workshop::open(wire::real(), data, None, None, Which::Latest)?;
        workshop.was_booted(booted)?;
        Ok(workshop)
    };
    let data = booted.results.as_deref().map(|results| results.join("revisum"));
    let on_drive: Option<Result<Workshop>> = data.map(|data| open(&data, booted.clone()));
    match on_drive {
        Some(Ok(workshop)) => Ok(workshop),
        // A drive that takes nothing is no reason not to test: what is found stays in memory, and on every screen stands that it does.
        refused => {
            if let Some(Err(error)) = refused {
                booted.not_kept = Some(say::drive_takes_nothing(error.root_cause().to_string()));
            }
            open(otherwise, booted)
        }
    }
}

/// How a session on a booted machine was left.
pub struct Parting {
    /// What shall become of the machine.
    pub leave: Leave,
    /// Why something is not recorded, where it is not.
    pub not_kept: Option<String>,
}

/// The full screen on a simulated machine.
///
/// # Errors
/// When there is no such machine, no terminal, or records cannot be kept.
pub fn demo(data: Option<&Path>, demo: &Demo) -> Result<()> {
    let (workshop, first) = demonstration(data, demo)?;
    event_loop::run(workshop, first)?;
    Ok(())
}

/// The same without a terminal: keys are given to the session, and its pictures are asked for.
///
/// # Errors
/// When there is no such machine, or records cannot be kept.
pub fn demo_session(data: Option<&Path>, demo: &Demo, size: (u16, u16), told: Told) -> Result<Session> {
    let (workshop, first) = demonstration(data, demo)?;
    Ok(Session::here(workshop, first, size, told))
}

fn demonstration(data: Option<&Path>, demo: &Demo) -> Result<(Workshop, View)> {
    let data = DataDir::choose(data, Some("demo"))?;
    data.prepare()?;
    speak_as_kept_in(&data);
    let names: Vec<&str> = match &demo.machine {
        Some(name) => vec![name.as_str()],
        None => shipped_names().collect(),
    };
    names.iter().try_for_each(|name| earlier::prepare(name, &data, BEGIN_MS))?;
    // Simulated time goes on where the last sitting ended, so that runs keep their order.
    let begin_ms = last_moment(&data)?.map(|wall_ms| (wall_ms + BETWEEN_SITTINGS_MS).max(BEGIN_MS));
    let options = SimOptions { pace: demo.pace, begin_ms, seed: demo.seed, every_word: false };
    let maker: Maker = Arc::new(move |name| wire::in_workshop(name, options));
    let machine = maker(demo.machine.as_deref().unwrap_or(FIRST_MACHINE))?;
    let first = if demo.machine.is_some() { View::Board } else { View::Jobs };
    let workshop = Workshop::open(machine, data, Some(demo.seed), Some(maker), Which::Latest)?;
    Ok((workshop.called(demo.machine.as_deref().unwrap_or(FIRST_MACHINE)), first))
}
