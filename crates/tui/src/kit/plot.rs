//! Lines over a place that doubles, with values that double: the shape of everything that caches and widths decide.

use ratatui::style::{Color, Style};
use ratatui::symbols::Marker;
use ratatui::widgets::canvas::{Canvas as Plane, Line};

use super::canvas::Canvas;

/// Columns of the labels on the left, and of the names on the right.
const LEFT: u16 = 7;
const RIGHT: u16 = 17;
/// Rows of the labels below.
const BELOW: u16 = 2;
/// Columns that a label below takes.
const LABEL: u16 = 9;

/// One line.
pub struct Series {
    /// Its name, at its end.
    pub name: String,
    /// Colour of both.
    pub style: Style,
    /// `(place, value)`, in order; both above zero.
    pub points: Vec<(f64, f64)>,
}

/// What is drawn.
pub struct Plot {
    /// Lines.
    pub series: Vec<Series>,
    /// Places that are marked, with their names.
    pub marks: Vec<(f64, String)>,
    /// A place in words.
    pub place: fn(f64) -> String,
    /// A value in words.
    pub value: fn(f64) -> String,
    /// What the values are, above their labels.
    pub up: &'static str,
    /// What the places are, below their labels.
    pub across: &'static str,
}

/// Whole powers of two, so many steps of the same size.
#[derive(Clone, Copy, Debug, PartialEq)]
struct Axis {
    from: i32,
    to: i32,
    step: i32,
}

impl Axis {
    /// Around these values with at most so many steps.
    fn around(values: impl Iterator<Item = f64>, most: u16) -> Option<Self> {
        let logs: Vec<f64> = values.filter(|value| *value > 0.0).map(f64::log2).collect();
        let from = logs.iter().copied().reduce(f64::min)?.floor() as i32;
        let to = logs.iter().copied().reduce(f64::max)?.ceil().max(f64::from(from) + 1.0) as i32;
        let step = (to - from).div_euclid(i32::from(most.max(1))) + i32::from((to - from) % i32::from(most.max(1)) > 0);
        let step = step.max(1);
        Some(Self { from, to: from + (to - from + step - 1) / step * step, step })
    }

    fn labels(self) -> impl Iterator<Item = i32> {
        (self.from..=self.to).step_by(self.step as usize)
    }

    /// Where a value lies, from 0 to 1.
    fn share(self, value: f64) -> f64 {
        (value.log2() - f64::from(self.from)) / f64::from(self.to - self.from)
    }
}

/// Draws it on the whole canvas.
pub fn draw(canvas: &mut Canvas<'_>, plot: &Plot) {
    let theme = canvas.theme;
    let (width, height) = (canvas.width(), canvas.height());
    if width < LEFT + RIGHT + 20 || height < BELOW + 4 {
        return;
    }
    let (across, up) = (width - LEFT - RIGHT, height - BELOW - 1);
    let points = || plot.series.iter().flat_map(|series| &series.points);
    let horizontal = Axis::around(points().map(|point| point.0), across / LABEL);
    let vertical = Axis::around(points().map(|point| point.1), (up / 2).min(8));
    let (Some(horizontal), Some(vertical)) = (horizontal, vertical) else { return };
    canvas.put_right(LEFT - 1, 0, theme.label(), plot.up);
    lines(&mut canvas.part(LEFT, 1, across, up), plot, horizontal, vertical);
    for power in vertical.labels() {
        let y = row_of(vertical.share(f64::from(power).exp2()), up);
        canvas.put_right(LEFT - 1, 1 + y, theme.label(), &(plot.value)(f64::from(power).exp2()));
    }
    let mut free = 0;
    for power in horizontal.labels() {
        let text = (plot.place)(f64::from(power).exp2());
        let middle = LEFT + (horizontal.share(f64::from(power).exp2()) * f64::from(across - 1)).round() as u16;
        let x = middle.saturating_sub(text.chars().count() as u16 / 2);
        if x >= free {
            free = canvas.put(x, 1 + up, theme.label(), &text) + 1;
        }
    }
    canvas.put(LEFT, 2 + up, theme.faint(), plot.across);
    for (at, name) in plot.marks.iter().filter(|(at, _)| (0.0..1.0).contains(&horizontal.share(*at))) {
        let x = LEFT + (horizontal.share(*at) * f64::from(across - 1)).round() as u16;
        canvas.put(x, 0, theme.label(), name);
    }
    names(canvas, plot, vertical, (LEFT + across + 1, up));
}

/// The row of a share, counted from the top.
fn row_of(share: f64, rows: u16) -> u16 {
    ((1.0 - share).clamp(0.0, 1.0) * f64::from(rows.saturating_sub(1))).round() as u16
}

fn lines(canvas: &mut Canvas<'_>, plot: &Plot, horizontal: Axis, vertical: Axis) {
    let theme = canvas.theme;
    let marker = if theme.marks.quarter_blocks { Marker::Braille } else { Marker::Dot };
    let colour = |style: Style| style.fg.unwrap_or(Color::Reset);
    let plane = Plane::default()
        .background_color(theme.ground().bg.unwrap_or(Color::Reset))
        .x_bounds([0.0, 1.0])
        .y_bounds([0.0, 1.0])
        .marker(marker)
        .paint(|context| {
            for (at, _) in &plot.marks {
                let x = horizontal.share(*at);
                context.draw(&Line { x1: x, y1: 0.0, x2: x, y2: 1.0, color: colour(theme.faint()) });
            }
            // What lies above is drawn later: the first line is the most important one.
            for series in plot.series.iter().rev() {
                context.layer();
                for pair in series.points.windows(2) {
                    let at = |point: (f64, f64)| (horizontal.share(point.0), vertical.share(point.1));
                    let ((x1, y1), (x2, y2)) = (at(pair[0]), at(pair[1]));
                    context.draw(&Line { x1, y1, x2, y2, color: colour(series.style) });
                }
            }
        });
    canvas.render(plane);
}

/// Names at the ends of the lines, moved apart where they would lie on each other.
fn names(canvas: &mut Canvas<'_>, plot: &Plot, vertical: Axis, (x, rows): (u16, u16)) {
    let last = |series: &Series| series.points.last().map_or(0.0, |point| vertical.share(point.1));
    let mut order: Vec<&Series> = plot.series.iter().collect();
    order.sort_by(|a, b| last(b).total_cmp(&last(a)));
    // As many rows as names still to come stay free below each.
    let count = order.len() as u16;
    let mut free = 1;
    for (place, series) in (0u16..).zip(order) {
        let latest = (rows + 1).saturating_sub(count - place);
        let y = (1 + row_of(last(series), rows)).min(latest).max(free);
        canvas.put(x, y, series.style, &series.name);
        free = y + 1;
    }
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;

    #[rstest]
    #[case(&[4096.0, 536_870_912.0], 9, Some(Axis { from: 12, to: 30, step: 2 }))]
    #[case(&[8.0, 512.0], 9, Some(Axis { from: 3, to: 9, step: 1 }))]
    #[case(&[5.0, 5.0], 4, Some(Axis { from: 2, to: 3, step: 1 }))]
    #[case(&[4.0, 4.0], 4, Some(Axis { from: 2, to: 3, step: 1 }))]
    #[case(&[], 4, None)]
    fn axes_hold_everything(#[case] values: &[f64], #[case] most: u16, #[case] expected: Option<Axis>) {
        assert_eq!(Axis::around(values.iter().copied(), most), expected);
    }
}
