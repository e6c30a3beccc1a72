//! A measurement of speed as charts and as a document.

use plotters::coord::Shift;
use plotters::prelude::*;
use revisum_diagnose::speed::{expected, speed_findings, speed_sentence};
use revisum_engine::speed::Spread;
use revisum_engine::speed::{Cache, Kind};
use revisum_engine::units::{bytes_text, cores_text, counted, latency_text, rate_text};
use revisum_record::speed::SpeedRecord;

use crate::document::{Block, Document, Figure, Table};

const LABEL: RGBColor = RGBColor(0x6a, 0x67, 0x60);
const FAINT: RGBColor = RGBColor(0xe4, 0xe1, 0xd8);
const CACHE: RGBColor = RGBColor(0xb4, 0xb0, 0xa4);
const COLOURS: [RGBColor; 4] =
    [RGBColor(0x23, 0x26, 0x2a), RGBColor(0x1f, 0x82, 0x75), RGBColor(0x9a, 0x6a, 0x10), RGBColor(0x6d, 0x62, 0xb0)];
const FONT: &str = "Open Sans";
const TEXT: u32 = 17;
const SIZE: (u32, u32) = (940, 400);

type Root<'a> = DrawingArea<SVGBackend<'a>, Shift>;

/// One line of a chart: places and values, both as they are.
struct Series {
    name: String,
    /// `(place, median, lowest, highest)`.
    points: Vec<(f64, f64, f64, f64)>,
    /// Of the measurement that is compared.
    other: bool,
}

/// A chart over a place that doubles; the values double too.
struct Chart {
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
fn charts(record: &SpeedRecord, other: Option<&SpeedRecord>) -> Vec<Chart> {
    const GB: f64 = 1e-9;
    const NS: f64 = 1e9;
    let both = || [(record, false)].into_iter().chain(other.map(|other| (other, true)));
    let named = |name: String, other: bool| if other { format!("{name}, compared") } else { name };
    let mut all = Vec::new();
    for cores in record.core_counts() {
        let kinds = Kind::ALL.into_iter().filter(|kind| *kind != Kind::Latency);
        let series = kinds.flat_map(|kind| {
            both().filter(move |(_, other)| !other || kind == Kind::Read).map(move |(record, other)| Series {
                name: named(kind.words().to_owned(), other),
                points: curve(record, kind, cores, GB),
                other,
            })
        });
        all.push(Chart {
            name: if cores == 1 { "bandwidth-one-core" } else { "bandwidth-all-cores" },
            caption: format!("Bandwidth over the working set of each core, {}", cores_text(cores)),
            across: "working set of each core",
            up: "GB/s",
            place: bytes_label,
            series: series.collect(),
            caches: cache_marks(&record.caches, cores),
            falls: true,
        });
    }
    let latency = record.core_counts().into_iter().flat_map(|cores| {
        both().map(move |(record, other)| Series {
            name: named(cores_text(cores), other),
            points: curve(record, Kind::Latency, cores, NS),
            other,
        })
    });
    all.push(Chart {
        name: "latency",
        caption: "Time of a load that waits for the one before, in random order".to_owned(),
        across: "working set of each core",
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
            let place = if in_memory { "memory" } else { "first cache" };
            Series { name: format!("{}, {place}", kind.words()), points: points(&curve, GB), other: false }
        })
    });
    all.push(Chart {
        name: "widths",
        caption: "Bandwidth by the width of each access, one core".to_owned(),
        across: "bits of one access",
        up: "GB/s",
        place: number_label,
        series: widths.collect(),
        caches: Vec::new(),
        falls: false,
    });
    let strides = [true, false].into_iter().map(|in_memory| {
        let curve: Vec<(f64, Spread)> =
            record.by_stride(in_memory).into_iter().map(|(stride, spread)| (f64::from(stride), spread)).collect();
        let name = if in_memory { "memory" } else { "first cache" };
        Series { name: name.to_owned(), points: points(&curve, NS), other: false }
    });
    all.push(Chart {
        name: "strides",
        caption: "Time of one load by the distance to the next, one core".to_owned(),
        across: "distance between loads",
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
fn draw(root: &Root<'_>, chart: &Chart, titled: bool) -> Option<()> {
    let all = || chart.series.iter().flat_map(|series| &series.points);
    let bounds = |values: &mut dyn Iterator<Item = f64>| {
        values.fold((f64::INFINITY, f64::NEG_INFINITY), |(low, high), value| (low.min(value), high.max(value)))
    };
    let (left, right) = bounds(&mut all().map(|point| point.0.log2()));
    let (bottom, top) = bounds(&mut all().flat_map(|point| [point.2.log2(), point.3.log2()]));
    if !(left < right && bottom.is_finite() && top.is_finite()) {
        return None;
    }
    let words = TextStyle::from((FONT, TEXT).into_font()).color(&LABEL);
    let caption = TextStyle::from((FONT, 19).into_font()).color(&COLOURS[0]);
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
        .bold_line_style(FAINT)
        .axis_style(LABEL)
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
        drawn.draw_series(DashedLineSeries::new(line, 4, 4, CACHE.stroke_width(1))).ok()?;
        let text =
            Text::new(name.clone(), (at.log2() + (right - left) * 0.006, top - (top - bottom) * 0.01), words.clone());
        drawn.draw_series(std::iter::once(text)).ok()?;
    }
    for (colour, series) in chart.series.iter().enumerate() {
        let style = COLOURS[colour % COLOURS.len()];
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
        .background_style(WHITE.mix(0.85))
        .label_font(words)
        .draw()
        .ok()
}

fn is_whole(value: f64) -> bool {
    (value - value.round()).abs() < 1e-6
}

/// Each chart by itself.
pub fn speed_figures(record: &SpeedRecord, other: Option<&SpeedRecord>) -> Vec<Figure> {
    let one = |chart: &Chart| {
        let mut svg = String::new();
        {
            let root = SVGBackend::with_string(&mut svg, SIZE).into_drawing_area();
            draw(&root, chart, false)?;
            root.present().ok()?;
        }
        Some(Figure { name: chart.name.to_owned(), caption: chart.caption.clone(), svg })
    };
    charts(record, other).iter().filter_map(one).collect()
}

/// All charts in one drawing, one below the other; empty where there is nothing to draw.
pub fn speed_drawing(record: &SpeedRecord, other: Option<&SpeedRecord>) -> String {
    let charts = charts(record, other);
    let mut svg = String::new();
    {
        let root = SVGBackend::with_string(&mut svg, (SIZE.0, SIZE.1 * charts.len().max(1) as u32)).into_drawing_area();
        if root.fill(&WHITE).is_err() {
            return String::new();
        }
        for (part, chart) in root.split_evenly((charts.len().max(1), 1)).iter().zip(&charts) {
            // A chart that cannot be drawn leaves its place empty; the others are there.
            let _ = draw(part, chart, true);
        }
        let _ = root.present();
    }
    svg
}

/// The measurement for printing.
pub fn speed_document(record: &SpeedRecord, other: Option<&SpeedRecord>, when: &str) -> Document {
    let findings = speed_findings(record);
    let answer = findings.first().map_or_else(|| speed_sentence(record), |finding| format!("{}.", finding.what));
    let beneath = match findings.first() {
        Some(finding) => vec![finding.advice.clone(), speed_sentence(record)],
        None => Vec::new(),
    };
    let mut facts = vec![
        (
            "machine".to_owned(),
            if record.simulated { format!("{}, simulated", record.machine) } else { record.machine.clone() },
        ),
        ("measured".to_owned(), when.to_owned()),
        ("processor".to_owned(), record.processor.clone()),
        ("caches".to_owned(), caches_words(&record.caches)),
        ("repeats".to_owned(), repeats_words(record)),
    ];
    if let Some(share) = record.large_pages {
        facts.push(("large pages".to_owned(), format!("{:.0} % of what was gone over", share * 100.0)));
    }
    facts.retain(|(_, value)| !value.is_empty());
    let mut blocks = vec![
        Block::Answer { words: answer, bad: !findings.is_empty(), beneath },
        Block::Heading("What the memory does".to_owned()),
        Block::Table(memory_table(record, other)),
        Block::Small(
            "Over working sets that no cache holds; in brackets the lowest and the highest of all repeats. A copied byte counts once."
                .to_owned(),
        ),
    ];
    if let Ok(expected) = expected(&record.board) {
        let row = expected.row_ns.map(|ns| format!(" A word of another row takes at least {ns:.0} ns by the modules' own timings at their base speed; the way to the processor and back comes on top."));
        blocks.push(Block::Paragraph(format!(
            "{} at {} MT/s could carry {}.{}",
            counted(expected.channels as u64, "channel"),
            expected.speed,
            rate_text(expected.most()),
            row.unwrap_or_default()
        )));
    }
    blocks.push(Block::Heading("Charts".to_owned()));
    blocks.extend(speed_figures(record, other).into_iter().map(Block::Figure));
    Document {
        title: "How fast this memory is".to_owned(),
        letterhead: Vec::new(),
        facts,
        blocks,
        foot: format!("{}   {{page}} of {{pages}}", record.machine),
        language: "en",
    }
}

fn repeats_words(record: &SpeedRecord) -> String {
    let whole = if record.complete { "" } else { ", stopped before all of them" };
    format!("{}, each loop once before any of them again{whole}", record.repeats)
}

fn caches_words(caches: &[Cache]) -> String {
    let one = |cache: &Cache| {
        let shared = if cache.shared_by > 1 { format!(" for {} cores", cache.shared_by) } else { String::new() };
        format!("L{} {}{shared}", cache.level, bytes_text(cache.bytes))
    };
    caches.iter().map(one).collect::<Vec<_>>().join(", ")
}

fn memory_table(record: &SpeedRecord, other: Option<&SpeedRecord>) -> Table {
    let counts = record.core_counts();
    let mut columns = vec![String::new()];
    columns.extend(counts.iter().map(|cores| cores_text(*cores)));
    columns.extend(other.map(|_| "compared".to_owned()));
    let row = |kind: Kind| {
        let text = |spread: Option<Spread>| spread.map_or("-".to_owned(), |spread| spread_text(kind, &spread));
        let mut row = vec![kind.words().to_owned()];
        row.extend(counts.iter().map(|cores| text(record.of_memory(kind, *cores))));
        row.extend(other.map(|other| {
            let most = other.core_counts().last().copied().unwrap_or(1);
            text(other.of_memory(kind, most))
        }));
        row
    };
    let share = 1.0 / columns.len() as f32;
    Table { shares: vec![share; columns.len()], columns, rows: Kind::ALL.into_iter().map(row).collect() }
}

/// A value with its spread: `21.5 GB/s (21.3 to 21.7)`.
pub fn spread_text(kind: Kind, spread: &Spread) -> String {
    let text: fn(f64) -> String = if kind == Kind::Latency { latency_text } else { rate_text };
    let number = |value: f64| text(value).split(' ').next().unwrap_or_default().to_owned();
    let unit = |value: f64| text(value).split(' ').nth(1).unwrap_or_default().to_owned();
    let same = unit(spread.low) == unit(spread.value) && unit(spread.high) == unit(spread.value);
    if same {
        format!("{} ({} to {})", text(spread.value), number(spread.low), number(spread.high))
    } else {
        format!("{} ({} to {})", text(spread.value), text(spread.low), text(spread.high))
    }
}

#[cfg(test)]
mod tests {
    use revisum_engine::speed::Point;
    use revisum_engine::speed::{Width, Work};
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
        let figures = speed_figures(&record, None);
        let names: Vec<&str> = figures.iter().map(|figure| figure.name.as_str()).collect();
        assert_eq!(names, ["bandwidth-one-core", "latency", "strides"]);
        for words in ["GB/s", "working set of each core", "L1", "64 KiB", "1 MiB"] {
            assert!(figures[0].svg.contains(words), "{words}");
        }
        assert!(figures[1].svg.lines().any(|line| line.trim() == "ns"), "the unit stands by itself");
        let one = speed_drawing(&record, Some(&record));
        assert_eq!(one.matches("working set of each core").count(), 3);
        assert!(one.contains("read, compared"));
    }

    #[test]
    fn the_document_says_what_it_came_to() {
        let document = speed_document(&record(), None, "2031-04-12 13:16");
        let Block::Answer { words, .. } = &document.blocks[0] else { panic!("no answer in front") };
        assert!(words.contains("is not known"), "{words}");
        assert!(crate::pdf(&document).unwrap().starts_with(b"%PDF"));
        let spread = Spread { value: 21.5e9, low: 21.3e9, high: 21.7e9 };
        assert_eq!(spread_text(Kind::Read, &spread), "21.5 GB/s (21.3 to 21.7)");
        assert_eq!(
            spread_text(Kind::Latency, &Spread { value: 1e-9, low: 9e-10, high: 1.1e-9 }),
            "1.0 ns (0.9 to 1.1)"
        );
    }

    #[test]
    fn nothing_measured_draws_nothing() {
        assert!(speed_figures(&SpeedRecord::default(), None).is_empty());
    }
}
