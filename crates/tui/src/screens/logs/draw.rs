//! Earlier runs, and one of them as it looked.

use std::sync::PoisonError;

use crate::say;
use crate::kit::canvas::Canvas;
use crate::kit::table::{self, Column};
use crate::kit::run_panel::{self, Shown};
use crate::shared::state::Shared;
use revisum_engine::recipe::Depth;
use revisum_words::Said as _;
use revisum_engine::units::{count_text, duration_text};
use revisum_record::outcome::Grade;
use revisum_records::wall_time;
use revisum_records::Standing;
use revisum_words as words;

use super::page::{Page, RunPage};
use super::{Logs, compare, life, system_log};

fn all_columns() -> [Column<'static>; 8] {
    [
        Column::fixed(say::col_started(), 18),
        Column::fit(say::col_machine()),
        Column::fit(say::col_depth()),
        Column::fit(say::col_result()),
        Column::number(say::col_errors()),
        Column::number(say::col_corrected()),
        Column::fit(say::col_slot()),
        Column::rest(say::col_arrangement()),
    ]
}
/// Columns of a narrow screen: the errors are in the result, and what was installed in the run itself.
const NARROW: [usize; 5] = [0, 1, 2, 3, 6];
/// From this width on there is room for all.
const WIDE: u16 = 110;

/// Draws the page in front.
pub fn draw(canvas: &mut Canvas<'_>, screen: &Logs, shared: &Shared) {
    match &screen.page {
        Page::List => list(canvas, screen),
        Page::Run(page) => run(canvas, page, shared),
        Page::Compared(compared) => compare::draw(canvas, compared),
        Page::Life(page) => life::draw(canvas, page),
        Page::SystemLog(page) => system_log::draw(canvas, shared, page),
    }
}

fn run(canvas: &mut Canvas<'_>, page: &RunPage, shared: &Shared) {
    let theme = canvas.theme;
    let recorded = &page.run;
    let zone = wall_time::zone(recorded.state.begin.simulated);
    let started = wall_time::date_and_time(recorded.state.begin.wall_ms, &zone);
    let doubtful = if recorded.state.begin.wall_doubtful { say::logs_clock_wrong() } else { "" };
    let x = canvas.put(2, 0, theme.label(), say::logs_log_of());
    let x = canvas.put(x, 0, theme.strong(), &format!("{}   {started}{doubtful}", recorded.id));
    if let Some((at, length)) = page.at {
        let [at, length] = [at, length].map(|ms| duration_text(ms as f64 / 1000.0));
        canvas.put(x + 3, 0, theme.attention(), &say::logs_state_after(at, length));
    }
    let live = recorded.standing == Standing::Running;
    let shown =
        Shown { state: &recorded.state, live, chosen: None, trouble: None, suspect: None, wall_ms: shared.wall_ms };
    run_panel::draw(&mut canvas.below(2), &shown);
}

fn list(canvas: &mut Canvas<'_>, screen: &Logs) {
    let theme = canvas.theme;
    let typing = screen.typing;
    if typing || !screen.find.value().is_empty() {
        let more = screen.listed.count.saturating_sub(screen.listed.runs.len() as u64);
        let all = if more > 0 { say::logs_of(screen.listed.runs.len(), screen.listed.count) } else { screen.listed.count.to_string() };
        let cursor = if typing { "_" } else { "" };
        let y = canvas.height().saturating_sub(1);
        canvas.put(2, y, theme.attention(), &say::logs_found(screen.find.value(), cursor, all));
    }
    if let Some(now) = &screen.bringing_in {
        let (at, of) = *now.progress.lock().unwrap_or_else(PoisonError::into_inner);
        let y = canvas.height().saturating_sub(3);
        // Before the first of them it is not known how many there are.
        let far = if of > 0 { say::logs_far(at, of) } else { say::logs_records().to_owned() };
        canvas.put(2, y, theme.attention(), &say::logs_importing(far, now.from.display().to_string()));
    }
    if screen.listed.runs.is_empty() && !screen.find.value().is_empty() {
        canvas.put(2, 0, theme.strong(), say::logs_nothing_found());
    } else if screen.listed.runs.is_empty() {
        canvas.put(2, 0, theme.strong(), say::logs_none_yet());
        canvas.put(2, 2, theme.label(), say::logs_recorded());
    } else {
        draw_list(canvas, screen);
    }
    // What a command line needs to name it.
    if let Some(log) = screen.listed.runs.get(screen.log).filter(|_| !typing && screen.find.value().is_empty()) {
        let y = canvas.height().saturating_sub(1);
        let id = say::logs_id(&log.id);
        let words = log.elsewhere.as_ref().map_or(id.clone(), |name| format!("{id}   {}", say::logs_kept_elsewhere(name)));
        canvas.put(2, y, theme.label(), &words);
    }
    let width = canvas.width().saturating_sub(4);
    // An import goes on for a moment only.
    if screen.listed.aside.is_some() && screen.bringing_in.is_none() {
        let y = canvas.height().saturating_sub(3);
        canvas.cell(2, y, width, theme.attention(), say::logs_aside());
    }
    if !screen.listed.unreadable.is_empty() {
        let words = say::logs_unreadable(screen.listed.unreadable.len(), &screen.listed.unreadable[0]);
        let y = canvas.height().saturating_sub(2);
        canvas.paragraph(2, y, width, theme.attention(), &words);
    }
}

fn draw_list(canvas: &mut Canvas<'_>, screen: &Logs) {
    let theme = canvas.theme;
    let line = |at: usize| {
        let log = &screen.listed.runs[at];
        let text = if at == screen.log { theme.strong() } else { theme.text() };
        let mark = match log.grade {
            Grade::Clean => theme.marks.passed,
            Grade::Errors | Grade::Void => theme.marks.failed,
            Grade::Reduced | Grade::Open | Grade::Corrected => theme.marks.open,
        };
        let compared = if screen.chosen.contains(&log.id) { "+ " } else { "" };
        let count = |count: u64, style| (count_text(count), if count > 0 { style } else { theme.label() });
        vec![
            (format!("{compared}{}", wall_time::date_and_time(log.wall_ms, &wall_time::zone(log.simulated))), text),
            (log.machine.clone(), text),
            (Depth::of_word(&log.depth).map_or(log.depth.as_str(), |depth| depth.said()).to_owned(), theme.text()),
            (format!("{mark} {}", words::result::headline_of(&log.headline)), theme.graded(log.grade)),
            count(log.errors, theme.error()),
            count(log.corrected, theme.attention()),
            (log.slots.clone(), theme.error()),
            (log.arrangement.clone(), theme.label()),
        ]
    };
    let (width, height) = (canvas.width(), canvas.height().saturating_sub(3));
    let all: Vec<usize> = if width >= WIDE { (0..all_columns().len()).collect() } else { NARROW.to_vec() };
    let columns: Vec<Column<'_>> = all.iter().map(|at| all_columns()[*at]).collect();
    let line = |at: usize| {
        let mut cells = line(at);
        all.iter().map(|at| std::mem::take(&mut cells[*at])).collect()
    };
    table::draw(&mut canvas.part(0, 0, width, height), &columns, screen.listed.runs.len(), Some(screen.log), &line);
}
