//! The whole screen: header, board, the screen in front or what stands before it, footer.

use std::borrow::Cow;

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
    let (room_for_all, width) = (footer.saturating_sub(y), area.width.saturating_sub(4).max(8));
    let is_board = app.view == View::Board && app.front.is_none();
    let start = if is_board { words_of_the_start(shared, width, room_for_all) } else { Vec::new() };
    let rows = room_for_all - room_for_all.min(start.len() as u16);
    for (words, y) in start.iter().zip(y + rows..) {
        canvas.put(2, y, canvas.theme.attention(), words);
    }
    let mut body = canvas.part(0, y, area.width, rows);
    match &app.front {
        None => room.paint(&mut body, shared),
        Some(Front::Help) => overlays::help(&mut body, app.view.name(), &all),
        Some(Front::Actions { typed, chosen }) => {
            overlays::actions(&mut body, &commands::matching(all, typed), typed, *chosen);
        }
        Some(Front::Dialog(dialog)) => dialog.draw(&mut body, shared),
    }
}

/// On a machine that was booted from the drive: what begins by itself, that results have nowhere to go, and what went wrong at its start. No more than
/// a third of the room is theirs; what does not fit is counted.
fn words_of_the_start(shared: &Shared, width: u16, rows: u16) -> Vec<String> {
    let Some(booted) = &shared.facts.booted else { return Vec::new() };
    let next = shared.begins_in.map(|seconds| {
        let next = if shared.planned_matches() { say::planned_run() } else { say::first_look() };
        say::starts_automatically(next, seconds)
    });
    let lost = booted.not_kept.as_ref().map(say::results_lost);
    let doubt = booted.doubt.as_ref().map(say::results_doubtful);
    let mut words: Vec<String> =
        next.into_iter().chain(lost.or(doubt)).chain(booted.troubles.iter().cloned()).collect();
    let tall = |words: &[String]| words.iter().map(|words| wrapped(words, width).len()).sum::<usize>();
    let fitting = (1..=words.len()).rev().find(|count| tall(&words[..*count]) <= usize::from(rows) / 3).unwrap_or(1);
    let more = words.len().saturating_sub(fitting);
    if more > 0 {
        words.truncate(fitting);
        let is_written = booted.not_kept.is_none();
        words.push(if is_written { say::more_of_the_start_written(more) } else { say::more_of_the_start(more) });
    }
    words.iter().flat_map(|words| wrapped(words, width)).map(Cow::into_owned).collect()
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
