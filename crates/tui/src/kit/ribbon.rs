//! The address space as a ribbon: what is fitted, what is held for the run, how far the sweep is, where errors are.

use revisum_engine::units::{bytes_text, count_text};
use revisum_record::run_state::RunState;

use super::canvas::Canvas;

/// Rows that the ribbon takes.
pub const ROWS: u16 = 3;
const LABEL: u16 = 7;

/// Draws the ribbon of a run over the full width. Where addresses are unknown it is the held memory in sweep order.
pub fn draw(canvas: &mut Canvas<'_>, state: &RunState) {
    let theme = canvas.theme;
    let known = state.held.addresses_known;
    let top = top(state);
    let end = bytes_text(top);
    let columns = canvas.width().saturating_sub(2 + LABEL + 1 + end.chars().count() as u16 + 2);
    if columns < 8 || top == 0 {
        return;
    }
    let places: Vec<(u64, u64)> = state.errors.places.places().map(|(at, bytes, _)| (at, bytes)).collect();
    canvas.put(2, 1, theme.label(), "0");
    for column in 0..columns {
        let from = top / u64::from(columns) * u64::from(column);
        let to = if column + 1 == columns { top } else { top / u64::from(columns) * u64::from(column + 1) };
        let x = 2 + LABEL + column;
        if places.iter().any(|(at, bytes)| *at < to && at + bytes > from) {
            canvas.put(x, 0, theme.error(), "▼");
            canvas.put(x, 1, theme.error(), "█");
            continue;
        }
        let held = !known || state.held.ranges.ranges().iter().any(|range| range.start < to && range.end > from);
        let (mark, style) = if held { ("█", theme.label()) } else { ("░", theme.faint()) };
        canvas.put(x, 1, style, mark);
    }
    canvas.put(2 + LABEL + columns + 1, 1, theme.label(), &end);
    canvas.put(2 + LABEL, 2, theme.label(), &legend(state));
}

/// End of the drawn space: the highest held address, or the bytes held where addresses are unknown.
fn top(state: &RunState) -> u64 {
    if state.held.addresses_known {
        state.held.ranges.ranges().last().map_or(0, |range| range.end)
    } else {
        state.held.bytes
    }
}

fn legend(state: &RunState) -> String {
    let held = bytes_text(state.held.bytes);
    let of = state.begin.fitted_bytes.filter(|fitted| *fitted > 0).map(|fitted| {
        let percent = state.held.bytes as f64 / fitted as f64 * 100.0;
        format!("{held} of {} held ({:.1} %)", bytes_text(fitted), (percent * 10.0).floor() / 10.0)
    });
    let reached = of.unwrap_or_else(|| format!("{held} held, installed memory unknown"));
    let places = state.errors.places.places().count();
    let addresses = if state.held.addresses_known { "" } else { "   addresses unknown" };
    if places == 0 {
        return format!("{reached}{addresses}");
    }
    format!(
        "{reached}{addresses}   {} with errors",
        match places {
            1 => "1 place".to_owned(),
            several => format!("{} places", count_text(several as u64)),
        }
    )
}
