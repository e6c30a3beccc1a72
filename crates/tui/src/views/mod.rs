//! The views. Each draws its part of the screen from the state and changes nothing.

mod board;
mod compare;
mod drives;
mod intake;
mod jobs;
mod life;
mod locate;
mod logs;
mod recipe;
mod report;
mod run;
mod speed;
mod swap;
mod system_log;

pub use report::report_lines;

use ratatui::Frame;

use super::action::View;
use super::canvas::{Canvas, wrapped};
use super::state::{App, Overlay};
use super::theme::Theme;
use super::widgets::{board_strip, chrome, overlays};
use revisum_record::outcome::Judgement;

/// Smallest screen that everything fits on.
const LEAST: (u16, u16) = (60, 18);

/// Draws the whole screen.
pub fn draw(frame: &mut Frame<'_>, app: &App, theme: &Theme) {
    let area = frame.area();
    let mut canvas = Canvas::new(frame.buffer_mut(), area, theme);
    for y in 0..canvas.height() {
        canvas.fill_row(y, theme.ground());
    }
    if area.width < LEAST.0 || area.height < LEAST.1 {
        too_small(&mut canvas, app);
        return;
    }
    chrome::draw_top(&mut canvas, app);
    let footer = area.height - 1;
    chrome::draw_footer(&mut canvas.part(0, footer, area.width, 1), app);
    let air = u16::from(area.height >= 30);
    let mut y = chrome::TOP_ROWS + air;
    let strip = board_strip::rows(app);
    board_strip::draw(&mut canvas.part(0, y, area.width, strip), app);
    y += strip + 1 + air;
    let mut body = canvas.part(0, y, area.width, footer.saturating_sub(y));
    // What is looked for is typed above the list itself.
    if app.overlay.as_ref().is_some_and(|overlay| !matches!(overlay, Overlay::Find)) {
        overlays::draw(&mut body, app);
        return;
    }
    match app.view {
        View::Jobs => match &app.drive_page {
            Some(page) => drives::draw(&mut body, page),
            None => jobs::draw(&mut body, app),
        },
        View::Report => report::draw(&mut body, app),
        View::Intake => intake::draw(&mut body, app),
        View::Board => board::draw(&mut body, app),
        View::Recipe => recipe::draw(&mut body, app),
        View::Run => run::draw(&mut body, app),
        View::Locate => locate::draw(&mut body, app),
        View::Swap => swap::draw(&mut body, app),
        View::Speed => speed::draw(&mut body, app),
        View::Logs => logs::draw(&mut body, app),
    }
    if app.view == View::Board {
        booted_line(&mut body, app);
    }
}

/// On a machine that was booted from the drive: what begins by itself, and that results have nowhere to go.
fn booted_line(canvas: &mut Canvas<'_>, app: &App) {
    let Some(booted) = &app.facts.booted else { return };
    let words = if let Some(seconds) = app.begins_in {
        let next = if app.planned_matches() { "The planned run" } else { "A first look at all memory" };
        format!("{next} begins by itself in {seconds} s; any key stops that.")
    } else if let Some(why) = &booted.not_kept {
        format!("Results are lost when the machine is switched off: {why}.")
    } else if let Some(doubt) = &booted.doubt {
        format!("The file system for results is damaged ({doubt}): copy its records off, and make the drive anew.")
    } else {
        return;
    };
    let (theme, width) = (canvas.theme, canvas.width().saturating_sub(4));
    let rows = wrapped(&words, width.max(8)).len() as u16;
    canvas.paragraph(2, canvas.height().saturating_sub(rows), width, theme.attention(), &words);
}

/// The one thing that still has to be readable, and what to do.
fn too_small(canvas: &mut Canvas<'_>, app: &App) {
    let theme = canvas.theme;
    let words = match app.run_state() {
        Some(state) => Judgement::of(state, app.is_running()).headline(),
        None => "no run yet".to_owned(),
    };
    canvas.put(0, 0, theme.strong(), &words);
    let (width, height) = (canvas.width(), LEAST);
    canvas.paragraph(0, 1, width, theme.label(), &format!("enlarge to {}x{}; q leaves", height.0, height.1));
}

#[cfg(test)]
mod tests;
