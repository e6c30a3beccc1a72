//! Runs of the logs side by side.

use revisum_diagnose::compare::compare;
use revisum_record::run_state::RunState;

use crate::kit::canvas::Canvas;
use crate::shared::news::Compared;
use revisum_records::wall_time;

const LABELS: u16 = 22;

/// Draws the comparison: what differs stands out.
pub fn draw(canvas: &mut Canvas<'_>, compared: &Compared) {
    let theme = canvas.theme;
    let count = compared.runs.len().max(1) as u16;
    let column = (canvas.width().saturating_sub(LABELS + 2) / count).max(8);
    let room = usize::from(column) - 2;
    canvas.put(2, 0, theme.label(), "compared");
    for (at, run) in (0u16..).zip(&compared.runs) {
        let zone = wall_time::zone(run.state.begin.simulated);
        let started = wall_time::date_and_time(run.state.begin.wall_ms, &zone);
        canvas.put(LABELS + at * column, 0, theme.strong(), &format!("{started:.room$}"));
    }
    let states: Vec<&RunState> = compared.runs.iter().map(|run| &run.state).collect();
    let mut y = 2;
    for line in compare(&states) {
        let differs = line.differs();
        canvas.put(2, y, if differs { theme.attention() } else { theme.label() }, &line.label);
        for (at, value) in (0u16..).zip(&line.values) {
            let style = if differs { theme.strong() } else { theme.label() };
            canvas.put(LABELS + at * column, y, style, &format!("{value:.room$}"));
        }
        y += 1;
        if y + 2 >= canvas.height() {
            break;
        }
    }
    canvas.put(2, y + 1, theme.text(), &compared.in_common);
}
