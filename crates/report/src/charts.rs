//! Charts: wrong words over time with the temperature, and tests against passes.

use plotters::prelude::*;
use revisum_engine::units::count_text;
use revisum_record::run_state::{RunState, TestState};
use revisum_view::board_drawing;

use crate::document::Figure;
use crate::texts::Texts;

const INK: RGBColor = RGBColor(0x23, 0x26, 0x2a);
const LABEL: RGBColor = RGBColor(0x6a, 0x67, 0x60);
const FAINT: RGBColor = RGBColor(0xd5, 0xd1, 0xc6);
const ERROR: RGBColor = RGBColor(0xc7, 0x43, 0x2c);
const WARM: RGBColor = RGBColor(0x9a, 0x6a, 0x10);
const FONT: &str = "Open Sans";
const SIZE: (u32, u32) = (940, 280);
/// Passes drawn in the grid.
const MOST_PASSES: usize = 16;

/// The charts of a run that have something to show: `number` is what the report calls it.
pub fn charts(state: &RunState, number: usize, texts: &Texts) -> Vec<Figure> {
    let run = || [("run", number.into())];
    let mut all = vec![Figure {
        name: format!("run-{number}-board"),
        caption: texts.put("chart-board", &run()),
        svg: board_drawing(state),
    }];
    let heat = state.timeline.spans().iter().any(|span| span.celsius.is_some());
    if state.errors.words > 0 {
        let caption = if heat { texts.put("chart-errors-heat", &run()) } else { texts.put("chart-errors", &run()) };
        all.extend(over_time(state, texts).map(|svg| Figure { name: format!("run-{number}-errors"), caption, svg }));
    }
    all.extend(grid(state).map(|svg| Figure {
        name: format!("run-{number}-tests"),
        caption: texts.put("chart-grid", &run()),
        svg,
    }));
    all
}

/// Bars of wrong words, and the temperature as a line, over minutes.
fn over_time(state: &RunState, texts: &Texts) -> Option<String> {
    let (spans, span_minutes) = (state.timeline.spans(), state.timeline.span_ms() as f64 / 60_000.0);
    let minutes = spans.len().max(1) as f64 * span_minutes;
    let most = spans.iter().map(|span| span.errors).max().unwrap_or(0).max(1) as f64;
    let heat: Vec<(f64, f64)> =
        (0..).zip(spans).filter_map(|(at, span)| Some(((f64::from(at) + 0.5) * span_minutes, span.celsius?))).collect();
    let bounds = |pick: fn(f64, f64) -> f64, start: f64| heat.iter().map(|(_, celsius)| *celsius).fold(start, pick);
    let (coldest, hottest) =
        (bounds(f64::min, f64::INFINITY).floor() - 2.0, bounds(f64::max, f64::NEG_INFINITY).ceil() + 2.0);
    let mut svg = String::new();
    {
        let root = SVGBackend::with_string(&mut svg, SIZE).into_drawing_area();
        let words = TextStyle::from((FONT, 17).into_font()).color(&LABEL);
        let mut builder = ChartBuilder::on(&root);
        builder.margin(12).x_label_area_size(40).y_label_area_size(64);
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
            .bold_line_style(FAINT)
            .axis_style(LABEL)
            .x_desc(texts.say("axis-minutes"))
            .y_desc(texts.say("axis-words"))
            .label_style(words.clone())
            .axis_desc_style(words.clone())
            .x_label_formatter(&|minutes| {
                if *minutes >= 10.0 { format!("{minutes:.0}") } else { texts.decimal(*minutes, 1) }
            })
            .y_label_formatter(&|count| if count.fract() == 0.0 { count_text(*count as u64) } else { String::new() })
            .draw()
            .ok()?;
        let bars = (0..).zip(spans).filter(|(_, span)| span.errors > 0).map(|(at, span)| {
            let left = f64::from(at) * span_minutes;
            Rectangle::new([(left, 0.0), (left + span_minutes, span.errors as f64)], ERROR.filled())
        });
        chart.draw_series(bars).ok()?;
        if !heat.is_empty() {
            chart
                .configure_secondary_axes()
                .axis_style(WARM)
                .y_desc(texts.say("axis-celsius"))
                .label_style(words.clone())
                .axis_desc_style(words)
                .draw()
                .ok()?;
            chart.draw_secondary_series(LineSeries::new(heat, WARM.stroke_width(2))).ok()?;
        }
        root.present().ok()?;
    }
    Some(svg)
}

/// A row a test and a column a pass: a filled circle where it was clean, the number of wrong words where it was not.
fn grid(state: &RunState) -> Option<String> {
    const LEFT: i32 = 230;
    const COLUMN: i32 = 44;
    const ROW: i32 = 28;
    let passes: Vec<u32> = {
        let mut all: Vec<u32> = state.tests.iter().flat_map(|test| &test.cells).map(|cell| cell.pass).collect();
        all.sort_unstable();
        all.dedup();
        all.split_off(all.len().saturating_sub(MOST_PASSES))
    };
    if passes.is_empty() {
        return None;
    }
    let height = (state.tests.len() as i32 + 1) * ROW + 24;
    let mut svg = String::new();
    {
        let root = SVGBackend::with_string(&mut svg, (SIZE.0, height as u32)).into_drawing_area();
        for (at, pass) in (0i32..).zip(&passes) {
            root.draw(&Text::new(pass.to_string(), (LEFT + at * COLUMN, 10), style(&LABEL))).ok()?;
        }
        for (row, test) in (1i32..).zip(&state.tests) {
            let y = 10 + row * ROW;
            root.draw(&Text::new(test.name.clone(), (24, y), style(&INK))).ok()?;
            for (at, pass) in (0i32..).zip(&passes) {
                cell(&root, test, *pass, (LEFT + at * COLUMN, y))?;
            }
        }
        root.present().ok()?;
    }
    Some(svg)
}

fn style(colour: &RGBColor) -> TextStyle<'_> {
    TextStyle::from((FONT, 17).into_font()).color(colour)
}

type Area<'a> = DrawingArea<SVGBackend<'a>, plotters::coord::Shift>;

fn cell(root: &Area<'_>, test: &TestState, pass: u32, (x, y): (i32, i32)) -> Option<()> {
    let state = test.cells.iter().find(|cell| cell.pass == pass)?;
    let middle = (x + 4, y + 8);
    match (state.errors, state.finished) {
        (0, Some(true)) => root.draw(&Circle::new(middle, 4, RGBColor(0x1f, 0x82, 0x75).filled())).ok(),
        (0, _) => root.draw(&Circle::new(middle, 4, FAINT.stroke_width(2))).ok(),
        (errors, _) => {
            let words = if errors < 1000 { errors.to_string() } else { format!("{}k", errors / 1000) };
            root.draw(&Text::new(words, (x, y), style(&ERROR))).ok()
        }
    }
}
