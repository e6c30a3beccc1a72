//! How fast memory is, and how fast it should be.
//!
//! ```text
//! Memory carries 21.5 GB/s, about half of what 2 channels give: both modules share one channel.
//! Move a module to a slot of another channel, then measure again.
//!
//!                     one core            6 cores
//! read                14.0 GB/s           21.5 GB/s      42 % of 51.2 GB/s
//! latency             83 ns               83 ns
//! ```

use ratatui::style::Style;
use unicode_width::UnicodeWidthStr;
use revisum_diagnose::speed::{expected, speed_findings};
use revisum_engine::speed::Kind;
use revisum_engine::speed::Spread;
use revisum_engine::units::{bytes_text, latency_text, rate_text};
use revisum_record::speed::SpeedRecord;

use crate::moves::start;
use crate::say;
use crate::kit::canvas::Canvas;
use crate::kit::gauge;
use crate::kit::plot::{self, Plot, Series};
use crate::shared::state::Shared;
use revisum_records::wall_time;
use revisum_words as words;
use revisum_words::Said as _;

use super::{Chart, Speed, WIDE};

/// Columns of the table where the chart stands beside it.
const TABLE: u16 = 58;
const FIRST: u16 = 21;
const COLUMN: u16 = 18;

/// Draws the view.
pub fn draw(canvas: &mut Canvas<'_>, screen: &Speed, shared: &Shared) {
    let width = canvas.width().saturating_sub(4);
    let mut y = progress(canvas, shared);
    let Some(record) = screen.shown(shared) else {
        if !shared.is_measuring() {
            let theme = canvas.theme;
            canvas.put(2, y, theme.strong(), say::speed_not_yet());
            let words = start::not_here(shared).unwrap_or(say::speed_about());
            canvas.paragraph(2, y + 2, width.min(90), theme.text(), words);
        }
        return;
    };
    y += says(&mut canvas.below(y), screen, shared, record) + 1;
    y += against(&mut canvas.below(y), record);
    let mut rest = canvas.below(y);
    if rest.width() >= WIDE {
        let (width, height) = (rest.width(), rest.height());
        table(&mut rest.part(0, 0, TABLE, height), screen, shared, record);
        chart(&mut rest.part(TABLE, 0, width - TABLE, height), screen, record);
    } else if screen.chart.is_some() {
        chart(&mut rest, screen, record);
    } else {
        table(&mut rest, screen, shared, record);
    }
}

/// While it is measured: how far it has come.
fn progress(canvas: &mut Canvas<'_>, shared: &Shared) -> u16 {
    let Some(now) = &shared.speed else { return 0 };
    let theme = canvas.theme;
    let width = canvas.width().saturating_sub(8);
    let words = match now.at {
        None => say::speed_taking().to_owned(),
        Some(at) => {
            let cores = words::tests_of::cores(at.cores);
            let repeats = shared.speed.as_ref().map_or(0, |now| now.record.repeats);
            say::speed_repeat(now.progress.repeat, repeats, at.kind.said(), bytes_text(at.bytes), cores)
        }
    };
    canvas.put(2, 0, theme.text(), &words);
    let ratio = now.progress.done as f64 / now.progress.of.max(1) as f64;
    gauge::draw(&mut canvas.part(2, 1, width, 1), 0, "", ratio, width.min(60));
    3
}

/// What it means; returns the rows taken.
fn says(canvas: &mut Canvas<'_>, screen: &Speed, shared: &Shared, record: &SpeedRecord) -> u16 {
    let theme = canvas.theme;
    let width = canvas.width().saturating_sub(4);
    if shared.is_measuring() {
        return canvas.paragraph(2, 0, width, theme.label(), say::speed_said_later());
    }
    let mut y = 0;
    if !record.is_of(&shared.facts.board, &shared.facts.settings) {
        let words = say::speed_other_arrangement();
        y += canvas.paragraph(2, y, width, theme.attention(), words);
    }
    for finding in speed_findings(record) {
        y += canvas.paragraph(2, y, width, theme.attention(), &format!("{}.", words::board::found(&finding)));
        y += canvas.paragraph(2, y, width, theme.text(), &words::board::advice(&finding));
    }
    let style = if y == 0 { theme.strong() } else { theme.label() };
    y += canvas.paragraph(2, y, width, style, &words::speed::sentence(record));
    if let Some((_, other)) = &screen.compared {
        let words = say::speed_compared(
            &other.machine,
            when(other),
            if other.is_of(&record.board, &record.settings) { say::speed_same() } else { say::speed_differs() },
        );
        y += canvas.paragraph(2, y, width, theme.text(), &words);
    }
    y
}

/// What memory carries as a part of what its channels could; returns the rows taken.
fn against(canvas: &mut Canvas<'_>, record: &SpeedRecord) -> u16 {
    let most = record.core_counts().last().copied().unwrap_or(1);
    let (Ok(expected), Some(read)) = (expected(&record.board), record.of_memory(Kind::Read, most)) else { return 0 };
    let theme = canvas.theme;
    let share = read.value / expected.most();
    let words = say::speed_share_of(format!("{:.0}", share * 100.0), rate_text(expected.most()));
    let x = canvas.put(2, 0, theme.text(), say::speed_reading());
    let x = canvas.put(x, 0, theme.strong(), &rate_text(read.value)) + 2;
    let width = canvas.width().saturating_sub(x + words.width() as u16 + 4).min(60);
    let filled = (share.clamp(0.0, 1.0) * f64::from(width)).floor() as u16;
    let style = if speed_findings(record).is_empty() { theme.clean() } else { theme.attention() };
    canvas.put(x, 0, style, &"█".repeat(usize::from(filled)));
    canvas.put(x + filled, 0, theme.faint(), &"░".repeat(usize::from(width - filled)));
    canvas.put(x + width + 2, 0, theme.text(), &words);
    2
}

fn when(record: &SpeedRecord) -> String {
    wall_time::format(record.wall_ms, &wall_time::zone(record.simulated), "%Y-%m-%d %H:%M")
}

fn value_text(kind: Kind, spread: &Spread) -> String {
    if kind == Kind::Latency { latency_text(spread.value) } else { rate_text(spread.value) }
}

/// How far the repeats lie apart.
fn spread_text(spread: &Spread) -> String {
    format!(" ±{:.0} %", (spread.width() * 50.0).ceil())
}

/// Bandwidth and latency of the memory itself by cores, and what they were measured with.
fn table(canvas: &mut Canvas<'_>, screen: &Speed, shared: &Shared, record: &SpeedRecord) {
    let theme = canvas.theme;
    let counts = record.core_counts();
    for (column, cores) in counts.iter().enumerate() {
        canvas.put(x_of(column), 0, theme.label(), &words::tests_of::cores(*cores));
    }
    let gap = u16::from(canvas.height() >= ROOMY);
    let mut y = group(canvas, screen, record, say::speed_bandwidth(), &BANDWIDTH, 0);
    if y == 1 {
        canvas.put(2, y, theme.label(), say::speed_none_larger());
        y += 1;
    }
    let expected = expected(&record.board).ok();
    if let Some(expected) = &expected {
        let channels = if expected.channels == 1 { say::speed_channel() } else { say::speed_channels() };
        let peak = rate_text(expected.most());
        let words = say::speed_peak(peak, expected.channels, channels, expected.speed.to_string());
        y += fact(canvas, y, say::speed_theoretical(), &words);
    }
    y = group(canvas, screen, record, say::speed_latency(), &[Kind::Latency], y + gap);
    if let Some(row) = expected.and_then(|expected| expected.row_ns) {
        y += fact(canvas, y, say::speed_lowest(), &say::speed_timings_only(format!("{:.0}", row)));
    }
    if canvas.height() > y + 2 {
        conditions(&mut canvas.below(y + gap), shared, record);
    }
}

/// Kinds of bandwidth.
const BANDWIDTH: [Kind; 4] = [Kind::Read, Kind::Write, Kind::Stream, Kind::Copy];
/// From this many rows on groups have air between them.
const ROOMY: u16 = 14;

fn x_of(column: usize) -> u16 {
    FIRST + column as u16 * COLUMN
}

fn fact(canvas: &mut Canvas<'_>, y: u16, label: &str, words: &str) -> u16 {
    let theme = canvas.theme;
    canvas.put(2, y, theme.label(), label);
    canvas.put(FIRST, y, theme.text(), words);
    1
}

/// Measurements that belong together, below their name. Returns the row after them.
fn group(canvas: &mut Canvas<'_>, screen: &Speed, record: &SpeedRecord, name: &str, kinds: &[Kind], y: u16) -> u16 {
    let theme = canvas.theme;
    let counts = record.core_counts();
    let most = counts.last().copied().unwrap_or(1);
    canvas.put(2, y, theme.label(), name);
    let mut y = y + 1;
    for kind in kinds.iter().copied() {
        let spreads: Vec<_> = counts.iter().map(|cores| record.of_memory(kind, *cores)).collect();
        if spreads.iter().all(Option::is_none) {
            continue;
        }
        canvas.put(2, y, theme.text(), name_of(kind));
        for (column, spread) in spreads.iter().enumerate() {
            let Some(spread) = spread else { continue };
            let x = canvas.put(x_of(column), y, theme.strong(), &value_text(kind, spread));
            canvas.put(x, y, theme.label(), &spread_text(spread));
        }
        let compared = screen.compared.as_ref().and_then(|(_, other)| other.of_memory(kind, most));
        if let (Some(Some(own)), Some(other)) = (spreads.last(), compared) {
            let words = say::speed_share_of(format!("{:.0}", own.value / other.value * 100.0), value_text(kind, &other));
            canvas.put(2, y + 1, theme.label(), say::speed_compared_to());
            canvas.put(x_of(counts.len().saturating_sub(1)), y + 1, theme.text(), &words);
            y += 1;
        }
        y += 1;
    }
    y
}

fn name_of(kind: Kind) -> &'static str {
    match kind {
        Kind::Stream => say::speed_non_temporal(),
        Kind::Latency => say::speed_random_load(),
        kind => kind.said(),
    }
}

/// What it was measured with.
fn conditions(canvas: &mut Canvas<'_>, shared: &Shared, record: &SpeedRecord) {
    let caches: Vec<String> =
        record.caches.iter().map(|cache| format!("L{} {}", cache.level, bytes_text(cache.bytes))).collect();
    let mut y = 0;
    if !caches.is_empty() {
        y += fact(canvas, y, say::speed_caches(), &caches.join("  "));
    }
    if let Some(share) = record.large_pages {
        y += fact(canvas, y, say::speed_large_pages(), &say::speed_of_measured(format!("{:.0}", share * 100.0)));
    }
    let whole = record.complete || shared.is_measuring();
    let how = if whole { say::speed_times_each(record.repeats) } else { say::speed_stopped_early().to_owned() };
    fact(canvas, y, say::speed_measured(), &format!("{}, {how}", when(record)));
}

fn chart(canvas: &mut Canvas<'_>, screen: &Speed, record: &SpeedRecord) {
    let theme = canvas.theme;
    let counts = record.core_counts();
    let most = counts.last().copied().unwrap_or(1);
    let shown = screen.chart.unwrap_or(Chart::AllCores);
    let colours = [theme.strong(), theme.clean(), theme.attention(), theme.label()];
    let other = screen.compared.as_ref().map(|(_, other)| other.as_ref());
    let (title, plot) = match shown {
        Chart::AllCores => (say::chart_bandwidth(words::tests_of::cores(most)), bandwidth(record, other, most, colours)),
        Chart::OneCore => (say::chart_one_core().to_owned(), bandwidth(record, other, 1, colours)),
        Chart::Latency => {
            (say::chart_waits().to_owned(), latency(record, other, colours))
        }
        Chart::Widths => (say::chart_width().to_owned(), widths(record, colours)),
        Chart::Strides => {
            (say::chart_distance().to_owned(), strides(record, colours))
        }
    };
    let at = Chart::ALL.iter().position(|chart| *chart == shown).unwrap_or(0) + 1;
    let x = canvas.put(2, 0, theme.label(), &format!("{at}/{} ", Chart::ALL.len()));
    canvas.put(x, 0, theme.text(), &title);
    if plot.series.iter().all(|series| series.points.len() < 2) {
        canvas.put(2, 2, theme.label(), say::chart_nothing());
        return;
    }
    plot::draw(&mut canvas.below(1), &plot);
}

const GB: f64 = 1e9;
const NS: f64 = 1e-9;

fn number(value: f64) -> String {
    if value >= 1.0 { format!("{value:.0}") } else { format!("{value}") }
}

fn bytes(value: f64) -> String {
    bytes_text(value.round() as u64)
}

fn line(name: impl Into<String>, style: Style, points: impl Iterator<Item = (f64, f64)>) -> Series {
    Series { name: name.into(), style, points: points.filter(|(place, value)| *place > 0.0 && *value > 0.0).collect() }
}

fn curve(record: &SpeedRecord, kind: Kind, cores: usize, unit: f64) -> impl Iterator<Item = (f64, f64)> {
    record.curve(kind, cores).into_iter().map(move |(bytes, spread)| (bytes as f64, spread.value / unit))
}

/// Where each cache ends for one of so many cores.
fn marks(record: &SpeedRecord, cores: usize) -> Vec<(f64, String)> {
    let end = |cache: &revisum_engine::speed::Cache| cache.bytes as f64 / cache.shared_by.min(cores).max(1) as f64;
    record.caches.iter().map(|cache| (end(cache), format!("L{}", cache.level))).collect()
}

fn bandwidth(record: &SpeedRecord, other: Option<&SpeedRecord>, cores: usize, colours: [Style; 4]) -> Plot {
    let kinds = [Kind::Read, Kind::Stream, Kind::Write, Kind::Copy];
    let one = |(kind, style): (Kind, Style)| {
        let name = if kind == Kind::Stream { say::chart_non_temporal() } else { kind.said() };
        line(name, style, curve(record, kind, cores, GB))
    };
    let mut series: Vec<Series> = kinds.into_iter().zip(colours).map(one).collect();
    let before = other.map(|other| line(say::chart_read_compared(), colours[3], curve(other, Kind::Read, cores, GB)));
    series.extend(before);
    series.retain(|series| !series.points.is_empty());
    Plot {
        series,
        marks: marks(record, cores),
        place: bytes,
        value: number,
        up: "GB/s",
        across: say::chart_working_set(),
    }
}

fn latency(record: &SpeedRecord, other: Option<&SpeedRecord>, colours: [Style; 4]) -> Plot {
    let counts = record.core_counts();
    let mut series: Vec<Series> = counts
        .iter()
        .zip(colours)
        .map(|(cores, style)| line(words::tests_of::cores(*cores), style, curve(record, Kind::Latency, *cores, NS)))
        .collect();
    series.extend(other.map(|other| line(say::chart_compared(), colours[3], curve(other, Kind::Latency, 1, NS))));
    series.retain(|series| !series.points.is_empty());
    Plot { series, marks: marks(record, 1), place: bytes, value: number, up: "ns", across: say::chart_working_set() }
}

fn widths(record: &SpeedRecord, colours: [Style; 4]) -> Plot {
    let places = [(Kind::Read, false), (Kind::Write, false), (Kind::Read, true), (Kind::Write, true)];
    let one = |((kind, in_memory), style): ((Kind, bool), Style)| {
        let place = if in_memory { say::chart_memory() } else { say::chart_cache() };
        let points = record.by_width(kind, in_memory).into_iter();
        line(
            format!("{}, {place}", kind.said()),
            style,
            points.map(|(width, spread)| (f64::from(width.bits()), spread.value / GB)),
        )
    };
    let series = places.into_iter().zip(colours).map(one).filter(|series| !series.points.is_empty()).collect();
    Plot { series, marks: Vec::new(), place: number, value: number, up: "GB/s", across: say::chart_bits() }
}

fn strides(record: &SpeedRecord, colours: [Style; 4]) -> Plot {
    let one = |(in_memory, style): (bool, Style)| {
        let points = record.by_stride(in_memory).into_iter();
        let name = if in_memory { say::chart_memory() } else { say::chart_first_cache() };
        line(name, style, points.map(|(stride, spread)| (f64::from(stride), spread.value / NS)))
    };
    let series = [true, false].into_iter().zip(colours).map(one).filter(|series| !series.points.is_empty()).collect();
    Plot { series, marks: Vec::new(), place: bytes, value: number, up: "ns", across: say::chart_distance_between() }
}
