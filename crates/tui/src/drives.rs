//! Making a boot drive: choosing one, confirming by its name, watching.

use std::sync::atomic::Ordering;

use crossterm::event::{KeyCode, KeyEvent};
use revisum_drive::Drive;
use tui_input::Input;

use super::effect::Effect;
use super::state::{App, Overlay};
use super::typing::typed;
use super::update::stepped;

/// Longest name that is typed.
const LONGEST: usize = 80;

/// Whether a drive is being written at the moment.
pub fn is_writing(app: &App) -> bool {
    let writing = app.drive_page.as_ref().and_then(|page| page.writing.as_ref());
    writing.is_some_and(|writing| writing.ended.get().is_none())
}

fn chosen(app: &App) -> Option<&Drive> {
    let page = app.drive_page.as_ref()?;
    page.drives.get(page.at)
}

/// What Enter does here.
pub fn next_step_words(app: &App) -> Option<String> {
    let page = app.drive_page.as_ref()?;
    let drive = chosen(app).filter(|drive| drive.refused.is_none())?;
    (page.image.is_some() && !is_writing(app)).then(|| format!("write it to {}", drive.name))
}

/// Another drive.
pub fn step(app: &mut App, by: isize) {
    if is_writing(app) {
        return;
    }
    if let Some(page) = &mut app.drive_page {
        page.at = stepped(page.at, by, page.drives.len());
    }
}

/// The results on a boot drive stay, or not.
pub fn keep(app: &mut App) {
    if let Some(page) = app.drive_page.as_mut() {
        page.keep = !page.keep;
    }
}

/// Asks for the name.
pub fn proceed(app: &mut App) -> Vec<Effect> {
    if next_step_words(app).is_some() {
        app.overlay = Some(Overlay::DriveName(Input::default()));
    }
    Vec::new()
}

/// Takes one key press while the name is typed.
pub fn key(app: &mut App, key: KeyEvent, mut input: Input) -> Vec<Effect> {
    match key.code {
        KeyCode::Esc => return Vec::new(),
        KeyCode::Enter => return confirm(app, &input),
        _ => typed(&mut input, key, LONGEST),
    }
    app.overlay = Some(Overlay::DriveName(input));
    Vec::new()
}

fn confirm(app: &mut App, input: &Input) -> Vec<Effect> {
    let keep = app.drive_page.as_ref().is_some_and(|page| page.keep);
    let Some(drive) = chosen(app).cloned() else { return Vec::new() };
    if input.value().trim() != drive.name {
        let words = format!("That is not its name, which is {}. Nothing was written.", drive.name);
        app.overlay = Some(Overlay::Notice(words));
        return Vec::new();
    }
    vec![Effect::WriteDrive { drive: Box::new(drive), keep }]
}

/// Gives up writing; the drive is then known as unfinished.
pub fn give_up(app: &mut App) {
    if let Some(writing) = app.drive_page.as_ref().and_then(|page| page.writing.as_ref()) {
        writing.give_up.store(true, Ordering::SeqCst);
    }
}

/// Back to the jobs, unless a drive is being written.
pub fn back(app: &mut App) {
    if is_writing(app) {
        let words = "A drive is being written. x gives it up; what was on it is gone then, and it is not finished.";
        app.overlay = Some(Overlay::Notice(words.to_owned()));
    } else {
        app.drive_page = None;
    }
}
