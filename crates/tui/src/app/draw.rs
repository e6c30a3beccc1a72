//! The whole screen: header, board, the screen in front or what stands before it, footer.

use ratatui::Frame;
use revisum_record::outcome::Judgement;
use revisum_words as words;

use super::{App, Front, chrome, commands, overlays};
use crate::kit::canvas::{Canvas, Targets, wrapped};
use crate::kit::theme::Theme;
use crate::kit::{board_strip, course_line};
use crate::room::view::View;
use crate::say;
use crate::shared::state::Shared;

/// Smallest screen that everything fits on.
const LEAST: (u16, u16) = (60, 18);

/// Draws the whole screen.
pub fn draw(frame: &mut Frame<'_>, app: &App, theme: &Theme, targets: &Targets) {
    let area = frame.area();
    let shared = &app.shared;
    let mut canvas = Canvas::new(frame.buffer_mut(), area, theme).pointed(targets);
    for y in 0..canvas.height() {
        canvas.fill_row(y, theme.ground());
    }
    if area.width < LEAST.0 || area.height < LEAST.1 {
        too_small(&mut canvas, shared);
        return;
    }
    let all = app.commands();
    let room = &app.rooms[app.view as usize];
    if app.front.is_none() && room.is_whole(shared) {
        room.paint(&mut canvas, shared);
        return;
    }
    chrome::draw_top(&mut canvas, app.view, shared);
    let footer = area.height - 1;
    // What stands in front of the screen names its own keys.
    let keys = if app.front.is_some() { &[] } else { all.as_slice() };
    chrome::draw_footer(&mut canvas.part(0, footer, area.width, 1), keys);
    let air = u16::from(area.height >= 30);
    let mut y = chrome::TOP_ROWS + air;
    let strip = room.board(shared);
    let rows = board_strip::rows(&strip);
    board_strip::draw(&mut canvas.part(0, y, area.width, rows), &strip);
    // Of saved facts there is no job.
    if !shared.facts.saved {
        course_line::draw(&mut canvas.part(0, y + rows, area.width, 1), &shared.facts.course);
    }
    y += rows + 1 + air;
    let mut body = canvas.part(0, y, area.width, footer.saturating_sub(y));
    match &app.front {
        None => room.paint(&mut body, shared),
        Some(Front::Help) => overlays::help(&mut body, app.view.name(), &all),
        Some(Front::Actions { typed, chosen }) => {
            overlays::actions(&mut body, &commands::matching(all, typed), typed, *chosen);
        }
        Some(Front::Dialog(dialog)) => dialog.draw(&mut body, shared),
    }
    if app.view == View::Board && app.front.is_none() {
        booted_line(&mut body, shared);
    }
}

/// On a machine that was booted from the drive: what begins by itself, and that results have nowhere to go.
fn booted_line(canvas: &mut Canvas<'_>, shared: &Shared) {
    let Some(booted) = &shared.facts.booted else { return };
    let words = if let Some(seconds) = shared.begins_in {
        let next = if shared.planned_matches() { say::planned_run() } else { say::first_look() };
        say::starts_automatically(next, seconds)
    } else if let Some(why) = &booted.not_kept {
        say::results_lost(why)
    } else if let Some(doubt) = &booted.doubt {
        say::results_doubtful(doubt)
    } else if let Some(trouble) = booted.troubles.first() {
        trouble.clone()
    } else {
        return;
    };
    let (theme, width) = (canvas.theme, canvas.width().saturating_sub(4));
    let rows = wrapped(&words, width.max(8)).len() as u16;
    canvas.paragraph(2, canvas.height().saturating_sub(rows), width, theme.attention(), &words);
}

/// The one thing that still has to be readable, and what to do.
fn too_small(canvas: &mut Canvas<'_>, shared: &Shared) {
    let theme = canvas.theme;
    let words = match shared.run_state() {
        Some(state) => words::result::headline(&Judgement::of(state, shared.is_running())),
        None => say::no_run_yet().to_owned(),
    };
    canvas.put(0, 0, theme.strong(), &words);
    let (width, height) = (canvas.width(), LEAST);
    canvas.paragraph(0, 1, width, theme.label(), &say::enlarge(height.0, height.1));
}
