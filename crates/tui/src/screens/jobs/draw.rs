//! Every machine that came in, a line each, and the owner's words for the chosen one.

use revisum_engine::units::counted;

use crate::kit::canvas::Canvas;
use crate::kit::table::{self, Column};
use crate::kit::theme::Theme;
use crate::shared::state::Shared;
use ratatui::style::Style;

use super::rows::{JobRow, job_rows};
use super::{Jobs, draw_drives};

const COLUMNS: [Column<'_>; 4] =
    [Column::fit("machine"), Column::fit("job"), Column::fit("result"), Column::fit("purpose")];
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
        canvas.paragraph(4, 0, width, theme.text(), "No job on record.");
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
    let rows = table::draw(&mut canvas.part(0, 0, width, room), &COLUMNS, all.len(), Some(screen.job), &line);
    let Some(row) = all.get(screen.job) else { return };
    let y = rows + 1;
    canvas.put(2, y, theme.label(), "the owner");
    canvas.paragraph(14, y, width.saturating_sub(18).min(110), theme.text(), &says(row));
}

/// What was told of the machine.
fn says(row: &JobRow<'_>) -> String {
    let told = row.job.map(|job| job.told.as_str()).filter(|told| !told.is_empty());
    match (row.bench, told) {
        (Some(machine), _) => format!("“{}”", machine.complaint),
        (None, Some(told)) => told.to_owned(),
        (None, None) => "nothing noted".to_owned(),
    }
}

/// How far the job is.
fn stage(shared: &Shared, row: &JobRow<'_>) -> String {
    let here = row.job.is_some_and(|job| job.id == shared.facts.job) || row.job.is_none() && row.machine == shared.facts.machine;
    let words = match row.job {
        Some(job) if job.closed.is_some() => format!("closed after {}", counted(job.runs as u64, "run")),
        Some(job) if job.runs > 0 => format!("open, {}", counted(job.runs as u64, "run")),
        _ => "not run yet".to_owned(),
    };
    if here { format!("{words}, on the bench") } else { words }
}

/// The answer of a closed job, else the latest run of the machine.
fn came_to(screen: &Jobs, row: &JobRow<'_>, theme: &Theme) -> (String, Style) {
    let Some(job) = row.job.filter(|job| job.runs > 0) else { return (String::new(), theme.label()) };
    if let Some(answer) = &job.closed {
        return (answer.clone(), theme.clean());
    }
    let last = screen.latest.iter().find(|log| log.machine == row.machine);
    (last.map_or_else(String::new, |last| last.headline.clone()), theme.text())
}
