//! A module's life: what jobs made of it, and every run of it on whatever mainboard.

use revisum_engine::units::count_text;

use crate::say;
use crate::kit::canvas::Canvas;
use crate::kit::table::{self, Column};
use revisum_records::LifeLine;
use revisum_words as words;

use super::page::LifePage;

fn all_columns() -> [Column<'static>; 6] {
    [
        Column::fixed(say::col_started(), 16),
        Column::fit(say::col_machine()),
        Column::fit(say::col_slot()),
        Column::number(say::col_errors()),
        Column::fit(say::col_result()),
        Column::fit(say::col_mainboard()),
    ]
}

/// Draws it, the newest run first.
pub fn draw(canvas: &mut Canvas<'_>, page: &LifePage) {
    let (theme, life) = (canvas.theme, &page.life);
    let x = canvas.put(2, 0, theme.label(), say::logs_history_of());
    let kind = life.runs.last().map(|run| run.kind.as_str()).unwrap_or_default();
    let failed = life.runs.iter().filter(|run| run.errors > 0).count() as u64;
    let x = canvas.put(x, 0, theme.strong(), &format!("{}   {kind}   {}", page.name, life.serial));
    let runs = say::logs_with_errors(life.runs.len() as u64, failed);
    canvas.put(x + 3, 0, if failed > 0 { theme.error() } else { theme.text() }, &runs);
    let mut y = 2;
    for end in life.ends.iter().rev().take(4) {
        let closed = end.closed.as_ref().map_or(say::logs_open(), |_| say::logs_closed());
        let x = canvas.cell(4, y, 40, theme.label(), &say::logs_job(&end.job, closed));
        canvas.put(x + 2, y, theme.strong(), words::advice::end(end.end));
        y += 1;
    }
    if life.runs.is_empty() {
        canvas.put(2, y + 1, theme.text(), say::logs_no_run_of());
        return;
    }
    y += u16::from(!life.ends.is_empty());
    let result = |run: &LifeLine| words::result::headline_of(&run.headline);
    let line = |at: usize| {
        let Some(run) = life.runs.iter().rev().nth(at) else { return Vec::new() };
        let style = if at == page.at { theme.strong() } else { theme.text() };
        let errors = if run.errors > 0 { theme.error() } else { theme.label() };
        vec![
            (run.started.replace('T', " ").chars().take(16).collect(), style),
            (run.machine.clone(), style),
            (run.slot.clone(), style),
            (count_text(run.errors), errors),
            (result(run), style),
            (run.mainboard.clone(), theme.label()),
        ]
    };
    // A narrow screen leaves the mainboard to the run itself.
    let columns = if canvas.width() >= 100 { &all_columns()[..] } else { &all_columns()[..5] };
    table::draw(&mut canvas.below(y), columns, life.runs.len(), Some(page.at), &line);
}
