//! Counts as bars of three rows: side by side, and over the time of a run.

use revisum_engine::units::duration_text;
use revisum_record::run_state::RunState;
use revisum_record::timeline::Span;

use super::canvas::Canvas;
use crate::say;

/// Rows of a bar.
pub const ROWS: u16 = 3;
/// Rows of bars over time: words, bars, and where it was hottest.
pub const OVER_TIME: u16 = ROWS + 2;

/// A bar in half blocks with its foot three rows below; something is always seen of a count.
pub fn bar(canvas: &mut Canvas<'_>, x: u16, y: u16, count: u64, most: u64) {
    let theme = canvas.theme;
    if count == 0 {
        canvas.put(x, y + ROWS - 1, theme.faint(), "·");
        return;
    }
    let halves = (count as f64 / most.max(1) as f64 * f64::from(2 * ROWS)).ceil() as u16;
    for row in 0..ROWS {
        let left = halves.saturating_sub(2 * row);
        let mark = match left {
            0 => break,
            1 => "▄",
            _ => "█",
        };
        canvas.put(x, y + ROWS - 1 - row, theme.error(), mark);
    }
}

/// Errors over the time of a run on the whole width, and the temperature where a sensor reports it.
pub fn over_time(canvas: &mut Canvas<'_>, state: &RunState) {
    let theme = canvas.theme;
    let spans = state.timeline.spans();
    let columns = canvas.width();
    if columns < 8 || spans.is_empty() {
        return;
    }
    canvas.put(0, 0, theme.label(), &title(spans, state.timeline.span_ms()));
    let part = |column: u16| {
        let at = |column: u16| usize::from(column) * spans.len() / usize::from(columns);
        &spans[at(column)..at(column + 1).max(at(column) + 1)]
    };
    let errors = |column: u16| part(column).iter().map(|span| span.errors).sum::<u64>();
    let most = (0..columns).map(errors).max().unwrap_or(0);
    let hottest = range(spans).filter(|(least, most)| most - least >= 1.0).map(|(_, most)| most);
    for column in 0..columns {
        bar(canvas, column, 1, errors(column), most);
        // Where it was nearly as hot as it ever got.
        let hot = part(column)
            .iter()
            .filter_map(|span| span.celsius)
            .any(|celsius| hottest.is_some_and(|most| celsius + 1.0 >= most));
        if hot {
            canvas.put(column, OVER_TIME - 1, theme.attention(), "^");
        }
    }
}

/// The lowest and the highest temperature.
fn range(spans: &[Span]) -> Option<(f64, f64)> {
    let heat = || spans.iter().filter_map(|span| span.celsius);
    heat().reduce(f64::min).zip(heat().reduce(f64::max))
}

fn title(spans: &[Span], span_ms: u64) -> String {
    let time = duration_text(spans.len() as f64 * span_ms as f64 / 1000.0);
    match range(spans) {
        Some((least, most)) if most - least < 1.0 => say::errors_over_one(time, format!("{:.0}", most)),
        Some((least, most)) => say::errors_over_range(time, format!("{:.0}", least), format!("{:.0}", most)),
        None => say::errors_over_none(time),
    }
}

#[cfg(test)]
mod tests {
    use revisum_record::timeline::Timeline;
    use rstest::rstest;

    use super::*;
    use crate::kit::drawn::rows;

    #[rstest]
    #[case::none(0, 8, ["", "", "·"])]
    #[case::all(8, 8, ["█", "█", "█"])]
    #[case::half(4, 8, ["", "▄", "█"])]
    #[case::something_is_seen(1, 1_000_000, ["", "", "▄"])]
    fn bars(#[case] count: u64, #[case] most: u64, #[case] expected: [&str; 3]) {
        assert_eq!(rows(|canvas| bar(canvas, 0, 0, count, most), (1, 3)), expected);
    }

    #[rstest]
    #[case::four_to_a_span((8, 5), &["errors…", "    ████", "    ████", "····████", "    ^^^^"])]
    #[case::too_narrow((7, 5), &["", "", "", "", ""])]
    #[case::no_rows((8, 1), &["errors…"])]
    fn time_fills_the_width(#[case] size: (u16, u16), #[case] expected: &[&str]) {
        let mut timeline = Timeline::default();
        timeline.add_heat(0, 30.0);
        timeline.add_heat(1000, 50.0);
        timeline.add_errors(1500, 7);
        let state = RunState { timeline, ..RunState::default() };
        assert_eq!(rows(|canvas| over_time(canvas, &state), size), expected);
    }
}
