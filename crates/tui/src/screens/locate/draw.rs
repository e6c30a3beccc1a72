//! 5 Locate: where the errors are and what failed; the evidence beside it.
//!
//! ```text
//! B1 (red dot): a single cell, data lane 19. 1 word failed.
//! certain: the address map of this fitting is known
//!
//! likely      the module
//!             Cells, rows, columns and banks exist inside a package only …
//!
//! lanes   0 ········ 8 ········ 16 ···█···· 24 ········        bank  15 ·
//!                                                                    5 ·        ×
//! slot  where                     words  lanes                 row   0            8191
//! B1    rank 0 bank 5 row 4660        1  19
//! ```

use revisum_diagnose::locate::{Group, GroupKind, Location, NamedWord};
use revisum_engine::units::{count_text, counted, duration_text};
use revisum_record::run_state::RunState;

use crate::kit::canvas::{Canvas, FACT_INDENT};
use crate::kit::ribbon;
use crate::kit::table::{self, Column};
use crate::shared::facts::Located;
use crate::shared::state::Shared;

use super::{Locate, found};

/// Where the drawing of rows and banks begins on a wide screen.
const RIGHT: u16 = 76;
const WIDE: u16 = 110;
/// Rows of the bars of lanes and of time: a line of words, three of bars, a line of numbers.
const BLOCK: u16 = 5;
/// Rows that bars, ribbon and a short list need.
const LEAST_ROOM: u16 = BLOCK + ribbon::ROWS + 8;
/// Columns and rows of that drawing.
const PLOT: (u16, u16) = (44, 8);

/// Draws the view.
pub fn draw(canvas: &mut Canvas<'_>, screen: &Locate, shared: &Shared) {
    let theme = canvas.theme;
    let Some(located) = &shared.located else {
        let words = match (shared.is_running(), shared.facts.trials.is_empty()) {
            (true, _) => "No errors so far. When there are some, this says where they are and what failed.",
            (false, true) => {
                "Nothing was run in this job yet. Enter begins; when errors come, this says where they are."
            }
            (false, false) => "The latest run of this job found no errors, so there is nothing to locate.",
        };
        let width = canvas.width().saturating_sub(4).min(80);
        canvas.paragraph(2, 0, width, theme.text(), words);
        return;
    };
    let location = &located.location;
    let width = canvas.width().saturating_sub(4);
    let mut y = canvas.paragraph(2, 0, width, theme.error(), &location.statement);
    let certainty = location.certainty.map_or("unknown", |certainty| certainty.word());
    y += canvas.paragraph(2, y, width, theme.label(), &format!("{certainty}: {}", location.because));
    y += 1;
    y += causes(canvas, located, y);
    let roomy = canvas.width() >= WIDE && canvas.height() >= y + LEAST_ROOM;
    y += 1;
    if roomy {
        lane_bars(canvas, location, y);
        over_time(canvas, &located.state, y);
        y += BLOCK + 1;
        ribbon::draw(&mut canvas.below(y), &located.state);
        y += ribbon::ROWS;
    } else {
        y += lanes(canvas, location, y);
    }
    let plotted = roomy && plot_is_worth_it(location);
    if plotted {
        plot(canvas, location, y + 1);
    }
    let width = if plotted { RIGHT - 4 } else { width };
    let below = canvas.height().saturating_sub(y + 1);
    list(&mut canvas.part(0, y + 1, width + 2, below), screen, shared);
}

fn causes(canvas: &mut Canvas<'_>, located: &Located, y: u16) -> u16 {
    let (theme, location) = (canvas.theme, &located.location);
    let width = canvas.width().saturating_sub(4 + FACT_INDENT);
    let causes: Vec<&str> = location.causes.iter().map(|cause| cause.words()).collect();
    let mut rows = 0;
    if !causes.is_empty() {
        canvas.fact(2, y, "likely", &causes.join(", then "));
        rows += 1 + canvas.paragraph(2 + FACT_INDENT, y + 1, width, theme.label(), &location.why);
    }
    if let Some(words) = location.fit_in_words() {
        canvas.fact(2, y + rows, "fits", &words);
        rows += 1;
    }
    if let Some(again) = &located.again {
        canvas.put(2, y + rows, theme.label(), "again");
        rows += canvas.paragraph(2 + FACT_INDENT, y + rows, width, theme.text(), again);
    }
    if location.outside > 0 {
        canvas.fact(2, y + rows, "outside", &format!("{} outside of the map", counted(location.outside, "word")));
        rows += 1;
    }
    for limit in &location.limits {
        canvas.put(2, y + rows, theme.label(), "limit");
        rows += canvas.paragraph(2 + FACT_INDENT, y + rows, width, theme.attention(), limit);
    }
    rows
}

/// All 64 data lanes, eight to a byte lane, those that read wrong marked. Returns the rows it took.
fn lanes(canvas: &mut Canvas<'_>, location: &Location, y: u16) -> u16 {
    let theme = canvas.theme;
    let wrong = location.groups.iter().fold(0u64, |all, group| all | group.wrong);
    canvas.put(2, y, theme.label(), "lanes");
    for byte in 0..8u16 {
        let (x, row) = (10 + byte % 4 * 15, y + byte / 4);
        canvas.put_right(x + 2, row, theme.label(), &(byte * 8).to_string());
        for lane in 0..8u16 {
            let bad = wrong >> (byte * 8 + lane) & 1 == 1;
            let (mark, style) = if bad { (theme.marks.failed, theme.bad_lane()) } else { ("·", theme.faint()) };
            canvas.put(x + 3 + lane, row, style, mark);
        }
    }
    2
}

fn row_and_bank(group: &Group) -> Option<(u32, u32)> {
    match group.kind {
        GroupKind::Row { bank, row, .. } => Some((row, bank)),
        _ => None,
    }
}

/// Several rows are needed before their places say anything.
fn plot_is_worth_it(location: &Location) -> bool {
    location.groups.iter().filter_map(row_and_bank).count() > 2
}

/// Rows from left to right, banks from bottom to top.
fn plot(canvas: &mut Canvas<'_>, location: &Location, y: u16) {
    let theme = canvas.theme;
    let points: Vec<(u32, u32)> = location.groups.iter().filter_map(row_and_bank).collect();
    let last_row = points.iter().map(|(row, _)| *row).max().unwrap_or(0).next_power_of_two().max(2);
    let banks = points.iter().map(|(_, bank)| bank + 1).max().unwrap_or(1).next_power_of_two().max(u32::from(PLOT.1));
    for line in 0..PLOT.1 {
        canvas.put(RIGHT, y + line, theme.faint(), &"·".repeat(usize::from(PLOT.0)));
    }
    for (row, bank) in points {
        let x = (u64::from(row) * u64::from(PLOT.0) / u64::from(last_row + 1)) as u16;
        let line = (u64::from(bank) * u64::from(PLOT.1) / u64::from(banks)) as u16;
        canvas.put(RIGHT + x, y + PLOT.1 - 1 - line.min(PLOT.1 - 1), theme.error(), theme.marks.failed);
    }
    canvas.put(RIGHT, y + PLOT.1, theme.label(), &format!("rows 0 to {last_row}, banks 0 to {} upwards", banks - 1));
}

/// How many of the distinct failing words read wrong on each of the 64 data lanes.
fn lane_bars(canvas: &mut Canvas<'_>, location: &Location, y: u16) {
    let theme = canvas.theme;
    let most = location.lanes.iter().copied().max().unwrap_or(0);
    canvas.put(2, y, theme.label(), &format!("data lanes: words wrong on each, at most {}", counted(most, "word")));
    for (lane, words) in (0u16..).zip(&location.lanes) {
        bar(canvas, lane_x(lane), y + 1, *words, most);
        if lane % 8 == 0 {
            canvas.put(lane_x(lane), y + BLOCK - 1, theme.label(), &lane.to_string());
        }
    }
}

/// A gap after each byte lane.
fn lane_x(lane: u16) -> u16 {
    2 + lane + lane / 8
}

/// Wrong words over the time of the run, and the temperature where a sensor tells.
fn over_time(canvas: &mut Canvas<'_>, state: &RunState, y: u16) {
    let theme = canvas.theme;
    let spans = state.timeline.spans();
    let until = duration_text(spans.len() as f64 * state.timeline.span_ms() as f64 / 1000.0);
    let heat: Vec<f64> = spans.iter().filter_map(|span| span.celsius).collect();
    let heat = match (heat.iter().copied().reduce(f64::min), heat.iter().copied().reduce(f64::max)) {
        (Some(least), Some(most)) => format!("{least:.0} to {most:.0} °C"),
        _ => "no temperature told".to_owned(),
    };
    canvas.put(RIGHT, y, theme.label(), &format!("errors over {until}; {heat}"));
    let columns = canvas.width().saturating_sub(RIGHT + 2).min(spans.len() as u16);
    if columns == 0 {
        return;
    }
    let part = |column: u16| {
        let at = |column: u16| usize::from(column) * spans.len() / usize::from(columns);
        &spans[at(column)..at(column + 1).max(at(column) + 1)]
    };
    let errors = |column: u16| part(column).iter().map(|span| span.errors).sum::<u64>();
    let most = (0..columns).map(errors).max().unwrap_or(0);
    let hottest = spans.iter().filter_map(|span| span.celsius).reduce(f64::max);
    for column in 0..columns {
        bar(canvas, RIGHT + column, y + 1, errors(column), most);
        // Where it was nearly as hot as it ever got.
        let hot = part(column).iter().filter_map(|span| span.celsius).any(|celsius| Some(celsius + 1.0) >= hottest);
        if hot {
            canvas.put(RIGHT + column, y + BLOCK - 1, theme.attention(), "^");
        }
    }
}

/// A bar of three rows, in half blocks; something is always seen of a count.
fn bar(canvas: &mut Canvas<'_>, x: u16, y: u16, count: u64, most: u64) {
    let theme = canvas.theme;
    let rows = BLOCK - 2;
    if count == 0 {
        canvas.put(x, y + rows - 1, theme.faint(), "·");
        return;
    }
    let halves = (count as f64 / most as f64 * f64::from(2 * rows)).ceil() as u16;
    for row in 0..rows {
        let left = halves.saturating_sub(2 * row);
        let mark = match left {
            0 => break,
            1 => "▄",
            _ => "█",
        };
        canvas.put(x, y + rows - 1 - row, theme.error(), mark);
    }
}

fn list(canvas: &mut Canvas<'_>, screen: &Locate, shared: &Shared) {
    let theme = canvas.theme;
    let typing = screen.typing;
    let mut y = 0;
    if typing || !screen.find.value().is_empty() {
        let x = canvas.put(2, 0, theme.label(), "find  ");
        let x = canvas.put(x, 0, theme.attention(), screen.find.value());
        let words = if typing { "_   Enter keeps, Esc shows all" } else { "   / changes it, Esc shows all" };
        canvas.put(x, 0, theme.label(), words);
        y = 1;
    }
    let mut below = canvas.below(y);
    match screen.word {
        None => group_list(&mut below, screen, shared),
        Some(chosen) => word_list(&mut below, screen, shared, chosen),
    }
}

fn group_list(canvas: &mut Canvas<'_>, screen: &Locate, shared: &Shared) {
    const COLUMNS: [Column<'_>; 4] = [
        Column::fit("slot"),
        Column::fit("where"),
        Column::number("words"),
        Column::fit("lanes"),
    ];
    let theme = canvas.theme;
    let groups = found::groups(screen, shared);
    if groups.is_empty() {
        canvas.put(2, 1, theme.attention(), "No group has this in its line.");
    }
    let line = |at: usize| {
        let group = groups[at];
        vec![
            (group.slot.clone().unwrap_or_else(|| "?".to_owned()), theme.strong()),
            (group.words_of_kind(), theme.text()),
            (count_text(group.words as u64), theme.text()),
            (found::lanes_text(group.wrong), theme.text()),
        ]
    };
    table::draw(canvas, &COLUMNS, groups.len(), Some(screen.group), &line);
}

fn word_list(canvas: &mut Canvas<'_>, screen: &Locate, shared: &Shared, chosen: usize) {
    const COLUMNS: [Column<'_>; 4] = [
        Column::fixed("address", 18),
        Column::fit("cell"),
        Column::fit("lanes"),
        Column::fit("seen to fail"),
    ];
    let theme = canvas.theme;
    let words = found::words(screen, shared);
    if words.is_empty() {
        canvas.put(2, 1, theme.attention(), "No word has this in its line.");
    }
    let line = |at: usize| {
        let word = words[at];
        let cell =
            word.cell.map(|cell| format!("r{} bank {} row {} col {}", cell.rank, cell.bank, cell.row, cell.column));
        vec![
            (word.place.to_string(), theme.text()),
            (cell.unwrap_or_else(|| "not told".to_owned()), theme.text()),
            (found::lanes_text(word.wrong), theme.text()),
            (seen_text(word), theme.text()),
        ]
    };
    // A narrow screen says of the chosen word only how it was seen to fail.
    let wide = canvas.width() >= 100;
    let (width, height) = (canvas.width(), canvas.height().saturating_sub(u16::from(!wide)));
    let columns = if wide { &COLUMNS[..] } else { &COLUMNS[..3] };
    table::draw(&mut canvas.part(0, 0, width, height), columns, words.len(), Some(chosen), &line);
    if let Some(word) = words.get(chosen).filter(|_| !wide) {
        canvas.put(2, height, theme.label(), &format!("failed {}", seen_text(word)));
    }
}

fn seen_text(word: &NamedWord) -> String {
    match word.seen {
        1 => format!("once: {}", word.behaviour()),
        times => format!("{times} times: {}", word.behaviour()),
    }
}
