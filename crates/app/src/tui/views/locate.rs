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

use revisum_core::locate::{Group, GroupKind, Location};
use revisum_core::units::counted;

use crate::tui::canvas::{Canvas, FACT_INDENT};
use crate::tui::state::App;

/// Where the drawing of rows and banks begins on a wide screen.
const RIGHT: u16 = 76;
const WIDE: u16 = 110;
/// Columns and rows of that drawing.
const PLOT: (u16, u16) = (44, 8);

/// Draws the view.
pub fn draw(canvas: &mut Canvas<'_>, app: &App) {
    let theme = canvas.theme;
    let Some(located) = &app.facts.located else {
        let words = match (app.is_running(), app.facts.trials.is_empty()) {
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
    y += causes(canvas, location, y);
    let narrow = canvas.width() < WIDE || !plot_is_worth_it(location);
    let evidence = y + 1;
    y = evidence + lanes(canvas, location, evidence);
    if !narrow {
        plot(canvas, location, evidence);
    }
    groups(canvas, app, location, y + 1, if narrow { width } else { RIGHT - 4 });
}

fn causes(canvas: &mut Canvas<'_>, location: &Location, y: u16) -> u16 {
    let theme = canvas.theme;
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

fn groups(canvas: &mut Canvas<'_>, app: &App, location: &Location, y: u16, width: u16) {
    let theme = canvas.theme;
    canvas.put(2, y, theme.label(), "slot");
    canvas.put(8, y, theme.label(), "where");
    canvas.put_right(46, y, theme.label(), "words");
    canvas.put(48, y, theme.label(), "lanes");
    let room = usize::from(canvas.height().saturating_sub(y + 1));
    let first = app.group.saturating_sub(room.saturating_sub(3));
    for (at, group) in location.groups.iter().enumerate().skip(first).take(room.saturating_sub(2)) {
        let row = y + 1 + (at - first) as u16;
        if at == app.group {
            canvas.put(0, row, theme.attention(), theme.marks.here);
        }
        canvas.put(2, row, theme.strong(), group.slot.as_deref().unwrap_or("?"));
        canvas.put(8, row, theme.text(), &group.words_of_kind());
        canvas.put_right(46, row, theme.text(), &group.words.to_string());
        let lanes: Vec<String> = group.lanes().iter().map(u8::to_string).collect();
        let lanes = if lanes.len() > 8 { counted(lanes.len() as u64, "lane") } else { lanes.join(" ") };
        canvas.part(48, row, width.saturating_sub(46), 1).put(0, 0, theme.text(), &lanes);
    }
    let named = location.groups.get(app.group).map(|group| &group.named);
    let last = canvas.height().saturating_sub(1);
    if let Some(named) = named.filter(|named| !named.is_empty()) {
        let most = usize::from(canvas.width().saturating_sub(FACT_INDENT + 6) / 18).max(1);
        let words: Vec<String> = named.iter().take(most).map(ToString::to_string).collect();
        let more = if named.len() > most { " …" } else { "" };
        canvas.fact(2, last, "addresses", &format!("{}{more}", words.join(", ")));
    }
}
