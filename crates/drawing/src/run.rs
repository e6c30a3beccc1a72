//! Charts of a run: errors over time with the temperature, and tests against passes.

use plotters::prelude::*;
use revisum_engine::units::count_text;
use revisum_record::run_state::{RunState, TestState};
use revisum_words::tests_of;

use crate::fonts::{Fonts, Weight};
use crate::palette::{CLEAN, ERROR, FAINT, INK, LABEL, WARM};
use crate::plot::{FONT, Ground, ink};
use crate::scene::{Scene, Shape};

const SIZE: (f32, f32) = (940.0, 280.0);
/// Size of the words in a chart as its library counts it.
const WORDS: u32 = 17;
/// The same as text of a scene.
const TEXT: f32 = 13.7;
/// Passes drawn in the grid.
const MOST_PASSES: usize = 16;

/// Words on the axes, in the language of the document.
pub struct RunLabels<'a> {
    /// Across: time.
    pub minutes: String,
    /// Upwards: errors.
    pub errors: String,
    /// Upwards, on the right: temperature.
    pub celsius: String,
    /// A number with one decimal as the language writes it.
    pub decimal: &'a dyn Fn(f64) -> String,
}

/// Bars of errors, and the temperature as a line, over minutes.
pub fn errors_over_time(state: &RunState, labels: &RunLabels<'_>) -> Option<Scene> {
    let (spans, span_minutes) = (state.timeline.spans(), state.timeline.span_ms() as f64 / 60_000.0);
    let minutes = spans.len().max(1) as f64 * span_minutes;
    let most = spans.iter().map(|span| span.errors).max().unwrap_or(0).max(1) as f64;
    let heat: Vec<(f64, f64)> =
        (0..).zip(spans).filter_map(|(at, span)| Some(((f64::from(at) + 0.5) * span_minutes, span.celsius?))).collect();
    let bounds = |pick: fn(f64, f64) -> f64, start: f64| heat.iter().map(|(_, celsius)| *celsius).fold(start, pick);
    let (coldest, hottest) =
        (bounds(f64::min, f64::INFINITY).floor() - 2.0, bounds(f64::max, f64::NEG_INFINITY).ceil() + 2.0);
    let fonts = Fonts::read()?;
    let mut scene = Scene::new(SIZE.0, SIZE.1);
    {
        let root = Ground { scene: &mut scene, fonts: &fonts }.into_drawing_area();
        let (label, faint, warm) = (ink(LABEL), ink(FAINT), ink(WARM));
        let words = TextStyle::from((FONT, WORDS).into_font()).color(&label);
        let mut builder = ChartBuilder::on(&root);
        // Counts of a flood have eleven digits: they stand beside the axis, and its name beside them.
        let widest = fonts.width(&count_text((most * 1.1) as u64), Weight::Regular, WORDS as f32);
        builder.margin(12).x_label_area_size(40).y_label_area_size((widest as u32 + 36).max(64));
        if !heat.is_empty() {
            builder.right_y_label_area_size(48);
        }
        let base = builder.build_cartesian_2d(0.0..minutes, 0.0..most * 1.1).ok()?;
        let scale = if heat.is_empty() { 0.0..1.0 } else { coldest..hottest };
        let mut chart = base.set_secondary_coord(0.0..minutes, scale);
        chart
            .configure_mesh()
            .disable_x_mesh()
            .light_line_style(TRANSPARENT)
            .bold_line_style(faint)
            .axis_style(label)
            .x_desc(labels.minutes.as_str())
            .y_desc(labels.errors.as_str())
            .label_style(words.clone())
            .axis_desc_style(words.clone())
            .x_label_formatter(&|minutes| {
                if *minutes >= 10.0 { format!("{minutes:.0}") } else { (labels.decimal)(*minutes) }
            })
            .y_label_formatter(&|count| if count.fract() == 0.0 { count_text(*count as u64) } else { String::new() })
            .draw()
            .ok()?;
        let bars = (0..).zip(spans).filter(|(_, span)| span.errors > 0).map(|(at, span)| {
            let left = f64::from(at) * span_minutes;
            Rectangle::new([(left, 0.0), (left + span_minutes, span.errors as f64)], ink(ERROR).filled())
        });
        chart.draw_series(bars).ok()?;
        if !heat.is_empty() {
            chart
                .configure_secondary_axes()
                .axis_style(warm)
                .y_desc(labels.celsius.as_str())
                .label_style(words.clone())
                .axis_desc_style(words)
                .draw()
                .ok()?;
            chart.draw_secondary_series(LineSeries::new(heat, warm.stroke_width(2))).ok()?;
        }
        root.present().ok()?;
    }
    Some(scene)
}

/// A row a test and a column a pass: a filled circle where it was clean, the number of errors where it was not.
pub fn tests_by_pass(state: &RunState) -> Option<Scene> {
    const LEFT: f32 = 230.0;
    const COLUMN: f32 = 44.0;
    const ROW: f32 = 28.0;
    /// From the upper edge of a line of text to where its letters stand.
    const DOWN: f32 = 10.4;
    let passes: Vec<u32> = {
        let mut all: Vec<u32> = state.tests.iter().flat_map(|test| &test.cells).map(|cell| cell.pass).collect();
        all.sort_unstable();
        all.dedup();
        all.split_off(all.len().saturating_sub(MOST_PASSES))
    };
    if passes.is_empty() {
        return None;
    }
    let mut scene = Scene::new(SIZE.0, (state.tests.len() + 1) as f32 * ROW + 24.0);
    let column = |at: usize| LEFT + at as f32 * COLUMN;
    for (at, pass) in passes.iter().enumerate() {
        scene.text((column(at), 10.0 + DOWN), TEXT, Weight::Regular, LABEL, &pass.to_string());
    }
    for (row, test) in state.tests.iter().enumerate() {
        let y = 10.0 + (row + 1) as f32 * ROW;
        scene.text((24.0, y + DOWN), TEXT, Weight::Regular, INK, &tests_of::title_of(&test.name));
        for (at, pass) in passes.iter().enumerate() {
            cell(&mut scene, test, *pass, (column(at), y), DOWN);
        }
    }
    Some(scene)
}

/// At most three digits and an SI prefix, cut off and never rounded up, so that the number fits its column.
fn short(count: u64) -> String {
    const PREFIXES: [&str; 7] = ["", "k", "M", "G", "T", "P", "E"];
    let thousands = count.checked_ilog(1000).unwrap_or(0);
    format!("{}{}", count / 1000u64.pow(thousands), PREFIXES[thousands as usize])
}

fn cell(scene: &mut Scene, test: &TestState, pass: u32, (x, y): (f32, f32), down: f32) {
    let Some(state) = test.cells.iter().find(|cell| cell.pass == pass) else { return };
    let middle = (x + 4.0, y + 8.0);
    match (state.errors, state.finished) {
        (0, Some(true)) => scene.add(Shape::Disc { middle, radius: 4.0, fill: CLEAN }),
        (0, _) => scene.add(Shape::Circle { middle, radius: 4.0, line: FAINT, width: 2.0 }),
        (errors, _) => {
            scene.text((x, y + down), TEXT, Weight::Regular, ERROR, &short(errors));
        }
    }
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use revisum_record::run_state::CellState;

    use super::*;

    fn test(name: &str, errors: u64, finished: Option<bool>) -> TestState {
        let cells = (1..=20).map(|pass| CellState { pass, errors, finished, ..CellState::default() });
        TestState { name: name.into(), cells: cells.collect(), ..TestState::default() }
    }

    #[rstest]
    #[case(999, "999")]
    #[case(1000, "1k")]
    #[case(999_999, "999k")]
    #[case(15_609_102_157, "15G")]
    #[case(u64::MAX, "18E")]
    fn counts_fit_their_column(#[case] count: u64, #[case] expected: &str) {
        assert_eq!(short(count), expected);
    }

    #[test]
    fn the_latest_passes_are_drawn_with_what_each_came_to() {
        let tests = vec![test("clean", 0, Some(true)), test("broken-off", 0, None), test("wrong", 12_345, Some(true))];
        let scene = tests_by_pass(&RunState { tests, ..RunState::default() }).unwrap();
        let count = |is: fn(&Shape) -> bool| scene.shapes.iter().filter(|shape| is(shape)).count();
        assert_eq!(count(|shape| matches!(shape, Shape::Disc { .. })), MOST_PASSES);
        assert_eq!(count(|shape| matches!(shape, Shape::Circle { .. })), MOST_PASSES);
        assert_eq!(scene.texts().filter(|text| text.words == "12k").count(), MOST_PASSES);
        assert!(scene.says("20") && !scene.texts().any(|text| text.words == "4"), "only the latest 16");
        assert_eq!(tests_by_pass(&RunState::default()), None);
    }

    #[test]
    fn errors_over_time_have_axes_and_a_bar_for_each_span_with_errors() {
        let mut state = RunState::default();
        state.timeline.add_errors(0, 3);
        state.timeline.add_errors(400_000, 5);
        state.timeline.add_heat(10, 41.0);
        let decimal = |value: f64| format!("{value:.1}");
        let labels =
            RunLabels { minutes: "minutes".into(), errors: "errors".into(), celsius: "°C".into(), decimal: &decimal };
        let scene = errors_over_time(&state, &labels).unwrap();
        assert!(scene.says("minutes") && scene.says("errors") && scene.says("°C"));
        let bar = |shape: &&Shape| matches!(shape, Shape::Rectangle { fill, .. } if *fill == ERROR);
        assert_eq!(scene.shapes.iter().filter(bar).count(), 2);
    }
}
