//! The address space as a ribbon: what is fitted, what is held for the run, how far the sweep is, where errors are.

use revisum_engine::units::bytes_text;
use revisum_record::run_state::RunState;
use revisum_record::timeline::PARTS;

use super::canvas::Canvas;
use crate::say;

/// Rows that the ribbon takes.
pub const ROWS: u16 = 3;
const LABEL: u16 = 7;

/// Draws the ribbon of a run over the full width. Where addresses are unknown it is the held memory in sweep order.
pub fn draw(canvas: &mut Canvas<'_>, state: &RunState) {
    let theme = canvas.theme;
    let Some(shown) = Shown::of(state, canvas.width()) else { return };
    canvas.put(2, 1, theme.label(), "0");
    for (x, (held, failed)) in (2 + LABEL..).zip(shown.held.iter().zip(&shown.failed)) {
        let (mark, style) = match (failed, held) {
            (true, _) => ("█", theme.error()),
            (false, true) => ("█", theme.label()),
            (false, false) => ("░", theme.faint()),
        };
        canvas.put(x, 1, style, mark);
        if *failed {
            canvas.put(x, 0, theme.error(), "▼");
        }
    }
    canvas.put(2 + LABEL + shown.held.len() as u16 + 1, 1, theme.label(), &shown.end);
    canvas.put(2 + LABEL, 2, theme.label(), &legend(state));
}

/// Where errors were over the time of the run: a row for each span of it, below a ribbon of the same width. Returns the rows it took; none of
/// a run without errors.
pub fn draw_over_time(canvas: &mut Canvas<'_>, state: &RunState) -> u16 {
    let theme = canvas.theme;
    let (spans, room) = (state.timeline.spans(), usize::from(canvas.height()));
    let columns = Shown::of(state, canvas.width()).map_or(0, |shown| shown.held.len());
    if columns == 0 || room == 0 || spans.iter().all(|span| span.parts == 0) {
        return 0;
    }
    let rows = spans.len().min(room);
    for row in 0..rows {
        let (from, to) = (row * spans.len() / rows, (row + 1) * spans.len() / rows);
        let parts = spans[from..to].iter().fold(0u64, |all, span| all | span.parts);
        let y = row as u16;
        let began = since_start(from as u64 * state.timeline.span_ms() / 1000);
        canvas.cell(2, y, LABEL - 1, theme.label(), &began);
        for column in 0..columns {
            // A part is seen wherever it is touched.
            let part = |column: usize| column * PARTS / columns;
            let failed =
                (part(column)..=part(column + 1).saturating_sub(1).max(part(column))).any(|at| parts >> at & 1 == 1);
            let (mark, style) = if failed { (theme.marks.failed, theme.error()) } else { ("·", theme.faint()) };
            canvas.put(2 + LABEL + column as u16, y, style, mark);
        }
        let heat = spans[from..to].iter().filter_map(|span| span.celsius).reduce(f64::max);
        let heat = heat.map_or(String::new(), |heat| format!("{heat:.0} °C"));
        canvas.put(2 + LABEL + columns as u16 + 1, y, theme.label(), &heat);
    }
    rows as u16
}

/// A time since the start in at most six columns: `7 s`, `4:10`, `13 h`.
fn since_start(seconds: u64) -> String {
    match seconds {
        0..60 => format!("{seconds} s"),
        60..3600 => format!("{}:{:02}", seconds / 60, seconds % 60),
        3600..36_000 => format!("{}h{:02}", seconds / 3600, seconds % 3600 / 60),
        _ => format!("{} h", seconds / 3600),
    }
}

/// What a ribbon shows: of each of its columns whether memory there is held, and whether there are errors.
struct Shown {
    end: String,
    held: Vec<bool>,
    failed: Vec<bool>,
}

impl Shown {
    /// In so many columns of the screen; nothing where there is no room or nothing is held.
    fn of(state: &RunState, width: u16) -> Option<Self> {
        let top = state.top();
        let end = bytes_text(top);
        let columns = usize::from(width.saturating_sub(2 + LABEL + 1 + end.chars().count() as u16 + 2));
        if columns < 8 || top == 0 {
            return None;
        }
        let column = |at: u64| (u128::from(at) * columns as u128 / u128::from(top)).min(columns as u128 - 1) as usize;
        let mark =
            |all: &mut Vec<bool>, from: u64, to: u64| all[column(from)..=column(to.max(from + 1) - 1)].fill(true);
        let known = state.held.addresses_known;
        let (mut held, mut failed) = (vec![!known; columns], vec![false; columns]);
        if known {
            state.held.ranges.ranges().iter().for_each(|range| mark(&mut held, range.start, range.end));
        }
        state.errors.places.places().for_each(|(at, bytes, _)| mark(&mut failed, at, at.saturating_add(bytes)));
        Some(Self { end, held, failed })
    }
}

fn legend(state: &RunState) -> String {
    let held = bytes_text(state.held.bytes);
    let of = state.begin.fitted_bytes.filter(|fitted| *fitted > 0).map(|fitted| {
        let percent = state.held.bytes as f64 / fitted as f64 * 100.0;
        say::ribbon_held(&held, bytes_text(fitted), format!("{:.1}", (percent * 10.0).floor() / 10.0))
    });
    let reached = of.unwrap_or_else(|| say::ribbon_held_unknown(held));
    let places = state.errors.places.places().count();
    let addresses = if state.held.addresses_known { "" } else { say::ribbon_no_addresses() };
    if places == 0 {
        return format!("{reached}{addresses}");
    }
    say::ribbon_with_errors(reached, addresses, places)
}

#[cfg(test)]
mod tests {
    use revisum_engine::units::{ByteRange, RangeSet};
    use revisum_record::journal::Held;
    use rstest::rstest;

    use super::*;
    use crate::kit::drawn::rows;

    const MIB: u64 = 1 << 20;

    /// Of 64 MiB the upper half is held; errors were in the last MiB at first and in the middle a minute later.
    fn state(known: bool) -> RunState {
        let ranges: RangeSet = vec![ByteRange::new(32 * MIB, 64 * MIB)].into();
        let held = Held { ranges, bytes: 32 * MIB, addresses_known: known, ..Held::default() };
        let mut state = RunState { held, ..RunState::default() };
        for (t_ms, at) in [(0, 63 * MIB), (60_000, 48 * MIB)] {
            state.errors.places.add(at, 1);
            state.timeline.add_place(t_ms, at, at + 4096, 64 * MIB);
        }
        state.timeline.add_heat(60_000, 51.0);
        state
    }

    /// Eight columns of eight MiB each.
    #[rstest]
    #[case::known(true, "  0      ░░░░████ 64 MiB")]
    #[case::by_offset(false, "  0      ████████ 32 MiB")]
    fn what_is_held(#[case] known: bool, #[case] expected: &str) {
        let drawn = rows(|canvas| draw(canvas, &state(known)), (26, 3));
        assert_eq!(drawn[1], expected, "{drawn:?}");
        let marks = drawn[0].matches('▼').count();
        assert_eq!(marks, if known { 2 } else { 1 }, "what lies beyond is at the end: {drawn:?}");
    }

    #[rstest]
    #[case::first_and_last((26, 2), &["  0 s    ·······✗", "  30 s   ······✗· 51 °C"])]
    #[case::all_in_one((26, 1), &["  0 s    ······✗✗ 51 °C"])]
    #[case::too_narrow((20, 2), &["", ""])]
    fn where_errors_were_over_time(#[case] size: (u16, u16), #[case] expected: &[&str]) {
        assert_eq!(
            rows(
                |canvas| {
                    draw_over_time(canvas, &state(true));
                },
                size
            ),
            expected
        );
    }

    #[test]
    fn without_errors_there_is_nothing_to_see_over_time() {
        let state = RunState { held: state(true).held, ..RunState::default() };
        assert!(rows(|canvas| assert_eq!(draw_over_time(canvas, &state), 0), (60, 4)).concat().is_empty());
    }
}
