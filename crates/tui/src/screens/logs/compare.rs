//! Runs of the logs side by side.

use revisum_record::run_state::RunState;

use crate::say;
use crate::kit::canvas::Canvas;
use crate::shared::news::Compared;
use revisum_records::wall_time;
use revisum_words as words;

const LABELS: u16 = 22;

/// Draws the comparison: what differs stands out.
pub fn draw(canvas: &mut Canvas<'_>, compared: &Compared) {
    let theme = canvas.theme;
    let count = compared.runs.len().max(1) as u16;
    let column = (canvas.width().saturating_sub(LABELS + 2) / count).max(8);
    canvas.put(2, 0, theme.label(), say::logs_compared());
    for (at, run) in (0u16..).zip(&compared.runs) {
        let zone = wall_time::zone(run.state.begin.simulated);
        let started = wall_time::date_and_time(run.state.begin.wall_ms, &zone);
        canvas.cell(LABELS + at * column, 0, column - 2, theme.strong(), &started);
    }
    let states: Vec<&RunState> = compared.runs.iter().map(|run| &run.state).collect();
    let mut y = 2;
    for line in words::compare::compare(&states) {
        let differs = line.differs();
        canvas.cell(2, y, LABELS - 3, if differs { theme.attention() } else { theme.label() }, &line.label);
        for (at, value) in (0u16..).zip(&line.values) {
            let style = if differs { theme.strong() } else { theme.label() };
            canvas.cell(LABELS + at * column, y, column - 2, style, value);
        }
        y += 1;
        if y + 2 >= canvas.height() {
            break;
        }
    }
    let width = canvas.width().saturating_sub(4);
    canvas.paragraph(2, y + 1, width, theme.text(), &compared.in_common);
}
