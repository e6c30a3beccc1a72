//! Every machine that came in, a line each, and the owner's words for the chosen one.



use crate::say;
use crate::kit::canvas::Canvas;
use crate::kit::table::{self, Column};
use crate::kit::theme::Theme;
use crate::shared::state::Shared;
use ratatui::style::Style;
use revisum_records::JobSummary;
use revisum_words as words;
use revisum_words::Said as _;

use super::rows::{JobRow, job_rows};
use super::{Jobs, draw_drives};

fn all_columns() -> [Column<'static>; 4] {
    [Column::fit(say::col_machine()), Column::fit(say::col_job()), Column::fit(say::col_result()), Column::fit(say::col_purpose())]
}
/// Rows below the list: a title, and the owner's words.
const BELOW: u16 = 6;

/// Draws the list, or the drives.
pub fn draw(canvas: &mut Canvas<'_>, screen: &Jobs, shared: &Shared) {
    if let Some(page) = &screen.drives {
        return draw_drives::draw(canvas, page);
    }
    let theme = canvas.theme;
    let width = canvas.width();
    let all = job_rows(shared);
    if all.is_empty() {
        canvas.paragraph(4, 0, width, theme.text(), say::jobs_none());
        return;
    }
    let room = canvas.height().saturating_sub(BELOW).max(3);
    let line = |at: usize| {
        let row = &all[at];
        let text = if at == screen.job { theme.strong() } else { theme.text() };
        let title = row.bench.map(|machine| machine.title.clone()).unwrap_or_default();
        vec![
            (row.machine.to_owned(), text),
            (stage(shared, row), theme.label()),
            came_to(screen, row, theme),
            (title, theme.label()),
        ]
    };
    let rows = table::draw(&mut canvas.part(0, 0, width, room), &all_columns(), all.len(), Some(screen.job), &line);
    let Some(row) = all.get(screen.job) else { return };
    let y = rows + 1;
    let mut fact = |y: u16, label: &str, words: &str| {
        canvas.put(2, y, theme.label(), label);
        canvas.paragraph(14, y, width.saturating_sub(18).min(110), theme.text(), words)
    };
    let open = row.job.filter(|job| job.closed.is_none());
    let step = open.and_then(|job| words::open_step(job.stage, job.planned));
    let below = step.map_or(0, |step| fact(y, say::jobs_open_step(), step));
    fact(y + below, say::the_owner(), &says(row));
}

/// What was told of the machine.
fn says(row: &JobRow<'_>) -> String {
    let told = row.job.map(|job| job.told.as_str()).filter(|told| !told.is_empty());
    match (row.bench, told) {
        (Some(machine), _) => format!("“{}”", machine.complaint),
        (None, Some(told)) => told.to_owned(),
        (None, None) => say::jobs_nothing_noted().to_owned(),
    }
}

/// How far the job is.
fn stage(shared: &Shared, row: &JobRow<'_>) -> String {
    let here = row.job.is_some_and(|job| job.id == shared.facts.job) || row.job.is_none() && row.machine == shared.facts.machine;
    let words = match row.job {
        Some(job) if job.closed.is_some() => say::jobs_closed(job.runs as u64),
        Some(JobSummary { stage: Some(stage), runs, .. }) if *runs > 0 => say::jobs_stage(stage.said(), *runs as u64),
        Some(job) if job.runs > 0 => say::jobs_open(job.runs as u64),
        _ => say::jobs_not_run().to_owned(),
    };
    if here { say::jobs_on_bench(words) } else { words }
}

/// The answer of a closed job, else the latest run of the machine.
fn came_to(screen: &Jobs, row: &JobRow<'_>, theme: &Theme) -> (String, Style) {
    let Some(job) = row.job.filter(|job| job.runs > 0) else { return (String::new(), theme.label()) };
    if let Some(answer) = &job.closed {
        return (answer.clone(), theme.clean());
    }
    let last = screen.latest.iter().find(|log| log.machine == row.machine);
    (last.map_or_else(String::new, |last| words::result::headline_of(&last.headline)), theme.text())
}
