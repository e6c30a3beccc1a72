//! Charts of a measurement of speed.

use plotters::coord::Shift;
use plotters::prelude::*;
use revisum_engine::speed::{Cache, Kind, Spread};
use revisum_engine::units::bytes_text;
use revisum_record::speed::SpeedRecord;
use revisum_words::{Said as _, tests_of};

use crate::fonts::Fonts;
use crate::palette::{CACHE, GRID, INK, LABEL, PAPER, SERIES};
use crate::plot::{FONT, Ground, ink};
use crate::say;
use crate::scene::Scene;

const TEXT: u32 = 17;
const SIZE: (f32, f32) = (940.0, 400.0);

type Root<'a> = DrawingArea<Ground<'a>, Shift>;

/// One line of a chart: places and values, both as they are.
struct Series {
    name: String,
    /// `(place, median, lowest, highest)`.
    points: Vec<(f64, f64, f64, f64)>,
    /// Of the measurement that is compared.
    other: bool,
}

/// A chart over a place that doubles; the values double too.
struct Plan {
    name: &'static str,
    caption: String,
    across: &'static str,
    up: &'static str,
    place: fn(f64) -> String,
    series: Vec<Series>,
    caches: Vec<(f64, String)>,
    /// Lines fall: their names fit above their ends.
    falls: bool,
}

fn bytes_label(bytes: f64) -> String {
    bytes_text(bytes.round() as u64)
}

fn number_label(value: f64) -> String {
    if value >= 1.0 { format!("{value:.0}") } else { format!("{value}") }
}

fn points(curve: &[(f64, Spread)], unit: f64) -> Vec<(f64, f64, f64, f64)> {
    let one = |(place, spread): &(f64, Spread)| (*place, spread.value * unit, spread.low * unit, spread.high * unit);
    curve.iter().filter(|(_, spread)| spread.value > 0.0).map(one).collect()
}

fn curve(record: &SpeedRecord, kind: Kind, cores: usize, unit: f64) -> Vec<(f64, f64, f64, f64)> {
    let curve: Vec<(f64, Spread)> =
        record.curve(kind, cores).into_iter().map(|(bytes, spread)| (bytes as f64, spread)).collect();
    points(&curve, unit)
}

/// Where each cache ends for one of so many cores at work.
fn cache_marks(caches: &[Cache], cores: usize) -> Vec<(f64, String)> {
    let one = |cache: &Cache| {
        let share = cache.bytes as f64 / cache.shared_by.min(cores).max(1) as f64;
        (share, format!("L{}", cache.level))
    };
    caches.iter().map(one).collect()
}

/// The charts that a measurement has something for; `other` is drawn beside it.
fn plans(record: &SpeedRecord, other: Option<&SpeedRecord>) -> Vec<Plan> {
    const GB: f64 = 1e-9;
    const NS: f64 = 1e9;
    let both = || [(record, false)].into_iter().chain(other.map(|other| (other, true)));
    let named = |name: String, other: bool| if other { say::drawing_compared(name) } else { name };
    let mut all = Vec::new();
    for cores in record.core_counts() {
        let kinds = Kind::ALL.into_iter().filter(|kind| *kind != Kind::Latency);
        let series = kinds.flat_map(|kind| {
            both().filter(move |(_, other)| !other || kind == Kind::Read).map(move |(record, other)| Series {
                name: named(kind.said().to_owned(), other),
                points: curve(record, kind, cores, GB),
                other,
            })
        });
        all.push(Plan {
            name: if cores == 1 { "bandwidth-one-core" } else { "bandwidth-all-cores" },
            caption: say::drawing_bandwidth(tests_of::cores(cores)),
            across: say::drawing_working_set(),
            up: "GB/s",
            place: bytes_label,
            series: series.collect(),
            caches: cache_marks(&record.caches, cores),
            falls: true,
        });
    }
    let latency = record.core_counts().into_iter().flat_map(|cores| {
        both().map(move |(record, other)| Series {
            name: named(tests_of::cores(cores), other),
            points: curve(record, Kind::Latency, cores, NS),
            other,
        })
    });
    all.push(Plan {
        name: "latency",
        caption: say::drawing_latency().to_owned(),
        across: say::drawing_working_set(),
        up: "ns",
        place: bytes_label,
        series: latency.collect(),
        caches: cache_marks(&record.caches, 1),
        falls: false,
    });
    let widths = [Kind::Read, Kind::Write].into_iter().flat_map(|kind| {
        [false, true].into_iter().map(move |in_memory| {
            let curve: Vec<(f64, Spread)> = record
                .by_width(kind, in_memory)
                .into_iter()
                .map(|(width, spread)| (f64::from(width.bits()), spread))
                .collect();
            let place = if in_memory { say::drawing_memory() } else { say::drawing_first_cache() };
            Series { name: format!("{}, {place}", kind.said()), points: points(&curve, GB), other: false }
        })
    });
    all.push(Plan {
        name: "widths",
        caption: say::drawing_widths().to_owned(),
        across: say::drawing_bits(),
        up: "GB/s",
        place: number_label,
        series: widths.collect(),
        caches: Vec::new(),
        falls: false,
    });
    let strides = [true, false].into_iter().map(|in_memory| {
        let curve: Vec<(f64, Spread)> =
            record.by_stride(in_memory).into_iter().map(|(stride, spread)| (f64::from(stride), spread)).collect();
        let name = if in_memory { say::drawing_memory() } else { say::drawing_first_cache() };
        Series { name: name.to_owned(), points: points(&curve, NS), other: false }
    });
    all.push(Plan {
        name: "strides",
        caption: say::drawing_strides().to_owned(),
        across: say::drawing_distance(),
        up: "ns",
        place: bytes_label,
        series: strides.collect(),
        caches: Vec::new(),
        falls: false,
    });
    all.iter_mut().for_each(|chart| chart.series.retain(|series| series.points.len() > 1));
    all.retain(|chart| !chart.series.is_empty());
    all
}

/// Draws a chart; with its title where no caption stands beside it.
fn draw(root: &Root<'_>, chart: &Plan, titled: bool) -> Option<()> {
    let all = || chart.series.iter().flat_map(|series| &series.points);
    let bounds = |values: &mut dyn Iterator<Item = f64>| {
        values.fold((f64::INFINITY, f64::NEG_INFINITY), |(low, high), value| (low.min(value), high.max(value)))
    };
    let (left, right) = bounds(&mut all().map(|point| point.0.log2()));
    let (bottom, top) = bounds(&mut all().flat_map(|point| [point.2.log2(), point.3.log2()]));
    if !(left < right && bottom.is_finite() && top.is_finite()) {
        return None;
    }
    let (label, black) = (ink(LABEL), ink(INK));
    let words = TextStyle::from((FONT, TEXT).into_font()).color(&label);
    let caption = TextStyle::from((FONT, 19).into_font()).color(&black);
    if titled {
        root.draw(&Text::new(chart.caption.clone(), (14, 8), caption)).ok()?;
    }
    let (bottom, top) = (bottom.floor(), top.ceil().max(bottom.floor() + 1.0));
    let mut drawn = ChartBuilder::on(root)
        .margin(12)
        .margin_top(if titled { 40 } else { 12 })
        .x_label_area_size(44)
        .y_label_area_size(64)
        .build_cartesian_2d(left..right, bottom..top)
        .ok()?;
    drawn
        .configure_mesh()
        .light_line_style(TRANSPARENT)
        .bold_line_style(ink(GRID))
        .axis_style(label)
        .x_desc(chart.across)
        .y_desc(chart.up)
        .x_labels(12)
        .y_labels(8)
        .label_style(words.clone())
        .axis_desc_style(words.clone())
        .x_label_formatter(&|place| if is_whole(*place) { (chart.place)(place.exp2()) } else { String::new() })
        .y_label_formatter(&|value| if is_whole(*value) { number_label(value.exp2()) } else { String::new() })
        .draw()
        .ok()?;
    for (at, name) in chart.caches.iter().filter(|(at, _)| (left..right).contains(&at.log2())) {
        let line = vec![(at.log2(), bottom), (at.log2(), top)];
        drawn.draw_series(DashedLineSeries::new(line, 4, 4, ink(CACHE).stroke_width(1))).ok()?;
        let text =
            Text::new(name.clone(), (at.log2() + (right - left) * 0.006, top - (top - bottom) * 0.01), words.clone());
        drawn.draw_series(std::iter::once(text)).ok()?;
    }
    for (colour, series) in chart.series.iter().enumerate() {
        let style = ink(SERIES[colour % SERIES.len()]);
        let line: Vec<(f64, f64)> = series.points.iter().map(|point| (point.0.log2(), point.1.log2())).collect();
        // Lowest and highest of the repeats.
        let bars = series.points.iter().map(|(place, _, low, high)| {
            PathElement::new(
                vec![(place.log2(), low.log2()), (place.log2(), high.log2())],
                style.mix(0.5).stroke_width(3),
            )
        });
        drawn.draw_series(bars).ok()?;
        let drawn_line = match series.other {
            false => drawn.draw_series(LineSeries::new(line, style.stroke_width(2))).ok()?,
            true => drawn.draw_series(DashedLineSeries::new(line, 7, 5, style.stroke_width(2))).ok()?,
        };
        drawn_line
            .label(series.name.clone())
            .legend(move |(x, y)| PathElement::new(vec![(x, y), (x + 18, y)], style.stroke_width(3)));
    }
    drawn
        .configure_series_labels()
        .position(if chart.falls { SeriesLabelPosition::UpperRight } else { SeriesLabelPosition::UpperLeft })
        .background_style(ink(PAPER).mix(0.85))
        .label_font(words)
        .draw()
        .ok()
}

fn is_whole(value: f64) -> bool {
    (value - value.round()).abs() < 1e-6
}

/// A chart by itself.
#[derive(Clone, Debug, PartialEq)]
pub struct Chart {
    /// Short name, for a file.
    pub name: &'static str,
    /// What it shows.
    pub caption: String,
    /// The chart.
    pub scene: Scene,
}

/// Each chart by itself.
pub fn speed_charts(record: &SpeedRecord, other: Option<&SpeedRecord>) -> Vec<Chart> {
    let Some(fonts) = Fonts::read() else { return Vec::new() };
    let one = |plan: &Plan| {
        let mut scene = Scene::new(SIZE.0, SIZE.1);
        draw(&Ground { scene: &mut scene, fonts: &fonts }.into_drawing_area(), plan, false)?;
        Some(Chart { name: plan.name, caption: plan.caption.clone(), scene })
    };
    plans(record, other).iter().filter_map(one).collect()
}

/// All charts in one drawing, one below the other; empty where there is nothing to draw.
pub fn speed_scene(record: &SpeedRecord, other: Option<&SpeedRecord>) -> Scene {
    let plans = plans(record, other);
    let size = (SIZE.0, SIZE.1 * plans.len().max(1) as f32);
    let mut scene = Scene::new(size.0, size.1);
    scene.rectangle((0.0, 0.0), size, PAPER);
    let Some(fonts) = Fonts::read() else { return scene };
    let root = Ground { scene: &mut scene, fonts: &fonts }.into_drawing_area();
    for (part, plan) in root.split_evenly((plans.len().max(1), 1)).iter().zip(&plans) {
        // A chart that cannot be drawn leaves its place empty; the others are there.
        let _ = draw(part, plan, true);
    }
    drop(root);
    scene
}

#[cfg(test)]
mod tests {
    use revisum_engine::speed::{Point, Width, Work};
    use revisum_engine::units::MIB;

    use super::*;

    fn record() -> SpeedRecord {
        let sets = (12..28).map(|bit| 1u64 << bit);
        let point = |kind: Kind, width: Width, stride: u32, bytes: u64, value: f64| Point {
            work: Work { kind, width, stride, bytes, cores: 1 },
            samples: vec![value, value * 1.25, value * 0.75],
        };
        let mut points: Vec<Point> =
            sets.clone().map(|bytes| point(Kind::Read, Width::W256, 32, bytes, 1e11 / bytes as f64 * 4096.0)).collect();
        points.extend(sets.map(|bytes| point(Kind::Latency, Width::W64, 8, bytes, 1e-9 * bytes as f64 / 4096.0)));
        points.extend((4..12).map(|bit| point(Kind::Read, Width::W64, 1 << bit, 64 * MIB, 1e9)));
        SpeedRecord {
            machine: "bench".into(),
            cores: 1,
            caches: vec![Cache { level: 1, bytes: 32 << 10, shared_by: 1 }],
            points,
            ..SpeedRecord::default()
        }
    }

    #[test]
    fn charts_have_axes_with_units_and_cache_marks() {
        let record = record();
        let charts = speed_charts(&record, None);
        let names: Vec<&str> = charts.iter().map(|chart| chart.name).collect();
        assert_eq!(names, ["bandwidth-one-core", "latency", "strides"]);
        for words in ["GB/s", "working set of each core", "L1", "64 KiB", "1 MiB"] {
            assert!(charts[0].scene.says(words), "{words}");
        }
        assert!(charts[1].scene.texts().any(|text| text.words == "ns"), "the unit stands by itself");
        let one = speed_scene(&record, Some(&record));
        assert_eq!(one.texts().filter(|text| text.words == "working set of each core").count(), 2);
        assert!(one.says("Bandwidth over the working set of each core, one core"));
        assert!(one.says("read, compared"));
    }

    #[test]
    fn nothing_measured_draws_nothing() {
        assert!(speed_charts(&SpeedRecord::default(), None).is_empty());
    }
}
