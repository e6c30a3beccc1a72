//! 5 Locate: where the errors are and what failed; the evidence with it.
//!
//! ```text
//! B1 (red dot): a single cell, DQ 19. 1 word failed.
//! certain: the address map of this arrangement is known
//!
//! likely      the module                                   B1: 1 rank of 16 banks, 65 536 rows each
//!             Cells, rows, columns and banks exist …       bank 0  ···············✗·············
//!                                                          bank 4  ·····························
//! slot  where                     words  DQ
//! B1    rank 0 bank 5 row 4660        1  19
//! failing words per data line (DQ)                         errors over 22 s
//! ```

use revisum_diagnose::locate::Location;
use revisum_words as words;
use revisum_words::Said as _;
use revisum_workbench::by_time::TimingStage;


use crate::say;
use crate::kit::bars;
use crate::kit::canvas::{Canvas, FACT_INDENT};
use crate::kit::ribbon;
use crate::shared::facts::Located;
use crate::shared::state::Shared;

use super::zoom::{WIDE, Zoom};
use super::{Locate, found, lines, lists, picture};

/// Columns of facts and groups on a wide screen.
const LEFT: u16 = 60;
/// Rows that words, groups and the picture have at least where the bars stand below them; and where the ribbon does too: a row for each of
/// sixteen banks.
const LEAST_ROOM: u16 = 11;
const WITH_RIBBON: u16 = 19;
/// Rows of the list below a picture that has the width.
const LIST: u16 = 5;

/// Draws the view.
pub fn draw(canvas: &mut Canvas<'_>, screen: &Locate, shared: &Shared) {
    let theme = canvas.theme;
    let Some(located) = &shared.located else {
        let width = canvas.width().saturating_sub(4).min(80);
        canvas.paragraph(2, 0, width, theme.text(), nothing(shared));
        return;
    };
    let y = statement(canvas, &located.location);
    if canvas.width() >= WIDE {
        return wide(&mut canvas.below(y + 1), screen, shared, located);
    }
    let mut below = canvas.below(y);
    if screen.zoom == Zoom::All {
        return narrow(&mut below, screen, shared, located);
    }
    let (width, height) = (below.width(), below.height());
    let list = LIST.min(height / 2);
    let rows = picture::draw(&mut below.part(2, 0, width - 4, height - list), screen, shared);
    lists::draw(&mut below.below(rows), screen, shared);
}

/// Why there is nothing to locate.
fn nothing(shared: &Shared) -> &'static str {
    match (shared.is_running(), shared.facts.trials.is_empty()) {
        (true, _) => say::locate_no_errors(),
        (false, true) => say::locate_nothing_run(),
        (false, false) => say::locate_latest_clean(),
    }
}

fn statement(canvas: &mut Canvas<'_>, location: &Location) -> u16 {
    let theme = canvas.theme;
    let width = canvas.width().saturating_sub(4);
    let y = canvas.paragraph(2, 0, width, theme.error(), &words::locate::statement(location));
    let certainty = location.certainty.map_or(say::unknown(), |certainty| certainty.said());
    let surer = location.surer.map_or_else(String::new, |surer| format!(". {}", surer.said()));
    y + canvas.paragraph(2, y, width, theme.label(), &format!("{certainty}: {}{surer}", location.because.said()))
}

/// Facts and groups on the left, the module on the right, and what all words have in common below.
fn wide(canvas: &mut Canvas<'_>, screen: &Locate, shared: &Shared, located: &Located) {
    let (width, height) = (canvas.width(), canvas.height());
    let below = [(lines::ROWS, LEAST_ROOM), (ribbon::ROWS + 1, WITH_RIBBON)].into_iter().fold((0, height), |(taken, left), (rows, least)| {
        if left >= least + rows { (taken + rows, left - rows) } else { (taken, left) }
    });
    let (bottom, room) = below;
    {
        let mut left = canvas.part(0, 0, LEFT, room);
        let y = causes(&mut left, located, shared.by_time, 0);
        let rows = room.saturating_sub(y + 2);
        lists::draw(&mut left.part(0, y + 1, LEFT, rows), screen, shared);
    }
    picture::draw(&mut canvas.part(LEFT + 4, 0, width - LEFT - 6, room.saturating_sub(1)), screen, shared);
    if bottom >= lines::ROWS {
        lines::draw(&mut canvas.part(2, room, lines::COLUMNS, lines::ROWS), &located.location, chip_width(screen, shared));
        let x = lines::COLUMNS + 7;
        bars::over_time(&mut canvas.part(x, room, width - x - 2, bars::OVER_TIME), &located.state);
    }
    if bottom > lines::ROWS {
        ribbon::draw(&mut canvas.below(room + lines::ROWS + 1), &located.state);
    }
}

fn narrow(canvas: &mut Canvas<'_>, screen: &Locate, shared: &Shared, located: &Located) {
    let mut y = 1;
    y += causes(canvas, located, shared.by_time, y) + 1;
    y += lanes(canvas, &located.location, y);
    lists::draw(&mut canvas.below(y + 1), screen, shared);
}

/// Data lines of a chip of the module that the chosen group is in.
fn chip_width(screen: &Locate, shared: &Shared) -> Option<u8> {
    let groups = found::groups(screen, shared);
    let slot = groups.get(screen.group)?.slot.as_ref()?;
    let board = &shared.located.as_ref()?.state.begin.board;
    board.slot(slot)?.module.as_ref()?.package_width
}

fn stage_said(stage: TimingStage) -> String {
    match stage {
        TimingStage::Rows => say::by_time_pairs().to_owned(),
        TimingStage::Channels => say::by_time_streams().to_owned(),
        TimingStage::Warming { done, of } => say::by_time_warming(done, of),
    }
}

fn causes(canvas: &mut Canvas<'_>, located: &Located, now: Option<TimingStage>, y: u16) -> u16 {
    let (theme, location) = (canvas.theme, &located.location);
    let width = canvas.width().saturating_sub(4 + FACT_INDENT);
    let causes: Vec<&str> = location.causes.iter().map(|cause| cause.said()).collect();
    let mut rows = 0;
    if !causes.is_empty() {
        let why = location.shape().map_or("", words::locate::why);
        canvas.fact(2, y, say::locate_likely(), &causes.join(say::locate_then()));
        rows += 1 + canvas.paragraph(2 + FACT_INDENT, y + 1, width, theme.label(), why);
    }
    if let Some(words) = words::locate::fit(location) {
        canvas.fact(2, y + rows, say::locate_fits(), &words);
        rows += 1;
    }
    if let Some(again) = &located.again {
        canvas.put(2, y + rows, theme.label(), say::locate_again());
        rows += canvas.paragraph(2 + FACT_INDENT, y + rows, width, theme.text(), again);
    }
    if located.learned_fits {
        canvas.put(2, y + rows, theme.label(), say::locate_learned());
        rows += canvas.paragraph(2 + FACT_INDENT, y + rows, width, theme.text(), say::locate_learned_fits());
    }
    if let Some(stage) = now {
        canvas.put(2, y + rows, theme.label(), say::locate_by_time());
        rows += canvas.paragraph(2 + FACT_INDENT, y + rows, width, theme.text(), &stage_said(stage));
    }
    if location.outside > 0 {
        canvas.fact(2, y + rows, say::locate_outside(), &say::locate_outside_map(location.outside));
        rows += 1;
    }
    for limit in &location.limits {
        canvas.put(2, y + rows, theme.label(), say::locate_limit());
        rows += canvas.paragraph(2 + FACT_INDENT, y + rows, width, theme.attention(), limit.said());
    }
    rows
}

/// All 64 data lanes, eight to a byte lane, those that read wrong marked. Returns the rows it took.
fn lanes(canvas: &mut Canvas<'_>, location: &Location, y: u16) -> u16 {
    let theme = canvas.theme;
    let wrong = location.groups.iter().fold(0u64, |all, group| all | group.wrong);
    canvas.put(2, y, theme.label(), say::locate_lanes());
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
