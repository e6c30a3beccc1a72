//! The wall, and the full screen of a machine on it.

use std::time::Instant;

use revisum_link::BenchNow;
use revisum_records::wall_time;
use unicode_width::UnicodeWidthStr as _;

use super::need::Need;
use super::row::Said;
use super::{Wall, picture, tile};
use crate::kit::canvas::{Canvas, Target};
use crate::kit::table::{self, Column};
use crate::say;

/// Columns and rows between tiles.
const GAP: (u16, u16) = (1, 1);

/// Draws all machines: as tiles where there is room for all of them, else a line each.
pub fn wall(canvas: &mut Canvas<'_>, wall: &Wall, now: Instant, wall_ms: i64) {
    header(canvas, wall, &wall_time::format(wall_ms, &wall_time::zone(false), "%H:%M:%S"));
    footer(canvas, wall);
    let (width, height) = (canvas.width(), canvas.height().saturating_sub(3));
    let mut body = canvas.part(0, 2, width, height);
    if wall.benches.is_empty() {
        return nobody(&mut body, wall);
    }
    let said = |bench: &BenchNow| Said::of(bench, now, wall_ms);
    match grid(wall.benches.len(), (width, height)) {
        Some(grid) => {
            for (at, bench) in wall.benches.iter().enumerate() {
                let (x, y, w, h) = grid.place(at);
                let mut part = body.part(x, y, w, h);
                (0..h).for_each(|row| part.line(row, at));
                tile::draw(&mut part, &said(bench), at == wall.chosen_at());
            }
        }
        None => lines(&mut body, wall, &said),
    }
}

fn header(canvas: &mut Canvas<'_>, wall: &Wall, clock: &str) {
    let theme = canvas.theme;
    canvas.fill_row(0, theme.bar());
    let end = canvas.width().saturating_sub(2);
    canvas.put_right(end, 0, theme.on_bar(theme.label()), clock);
    let x = canvas.put(2, 0, theme.on_bar(theme.attention()), "Revisum");
    let room = end.saturating_sub(clock.width() as u16 + x + 6);
    canvas.cell(x + 2, 0, room, theme.on_bar(theme.strong()), &say::wall_title(&wall.door.shop, &wall.door.address));
    let count = |need: &[Need]| wall.needed.values().filter(|now| need.contains(now)).count();
    let hands = count(&[Need::Hands, Need::HandsAfterErrors]);
    let silent = count(&[Need::Silent]);
    let style = if hands + silent > 0 { theme.attention() } else { theme.clean() };
    let x = canvas.put(2, 1, style, &say::wall_counts(wall.benches.len() as u64, hands as u64, silent as u64));
    if let Some(trouble) = &wall.door.trouble {
        let room = canvas.width().saturating_sub(x + 4);
        canvas.cell(x + 2, 1, room, theme.error(), trouble);
    }
}

fn footer(canvas: &mut Canvas<'_>, wall: &Wall) {
    let theme = canvas.theme;
    let y = canvas.height().saturating_sub(1);
    canvas.fill_row(y, theme.bar());
    let enter = wall.benches.get(wall.chosen_at()).map(|bench| say::wall_key_open(&bench.standing.machine));
    let sound = if wall.sound { say::wall_key_sound_off() } else { say::wall_key_sound_on() };
    let keys = [
        enter.map(|words| ("Enter", words, crossterm::event::KeyCode::Enter)),
        Some(("↑↓", say::wall_key_select().to_owned(), crossterm::event::KeyCode::Down)),
        Some(("s", sound.to_owned(), crossterm::event::KeyCode::Char('s'))),
        Some(("q", say::wall_key_leave().to_owned(), crossterm::event::KeyCode::Char('q'))),
    ];
    let mut x = 2;
    for (name, words, code) in keys.into_iter().flatten() {
        let width = (name.width() + 1 + words.width()) as u16;
        if x + width > canvas.width().saturating_sub(2) {
            break;
        }
        canvas.target(x, y, width, Target::Key(code));
        let after = canvas.put(x, y, theme.on_bar(theme.attention()), name);
        x = canvas.put(after + 1, y, theme.on_bar(theme.text()), &words) + 3;
    }
}

/// What there is to be done where no machine is linked.
fn nobody(canvas: &mut Canvas<'_>, wall: &Wall) {
    let (theme, width) = (canvas.theme, canvas.width().saturating_sub(8).min(90));
    let mut y = 1;
    for words in [say::wall_nobody(), say::wall_how_drive(), say::wall_how_address()] {
        y += canvas.paragraph(4, y, width, theme.text(), words) + 1;
    }
    canvas.paragraph(4, y, width, theme.strong(), &wall.door.address);
}

/// Tiles in columns and rows.
struct Grid {
    columns: u16,
    size: (u16, u16),
}

impl Grid {
    fn place(&self, at: usize) -> (u16, u16, u16, u16) {
        let (column, row) = (at as u16 % self.columns, at as u16 / self.columns);
        (column * (self.size.0 + GAP.0), row * (self.size.1 + GAP.1), self.size.0, self.size.1)
    }
}

/// The grid with the largest letters that has room for so many tiles.
fn grid(count: usize, (width, height): (u16, u16)) -> Option<Grid> {
    let of = |columns: u16| {
        let rows = (count as u16).div_ceil(columns);
        let size = ((width + GAP.0) / columns, (height + GAP.1) / rows);
        let size = (size.0.saturating_sub(GAP.0), size.1.saturating_sub(GAP.1));
        (size.0 >= tile::LEAST.0 && size.1 >= tile::LEAST.1).then_some(Grid { columns, size })
    };
    if count > 64 {
        return None;
    }
    (1..=4).filter_map(of).next()
}

/// Rows below the lines for all that is known of the chosen machine.
const BELOW: u16 = 4;

fn lines(canvas: &mut Canvas<'_>, wall: &Wall, said: &dyn Fn(&BenchNow) -> Said) {
    let theme = canvas.theme;
    let columns = [
        Column::number(say::wall_col_number()),
        Column::fit(say::col_machine()),
        Column::fit(say::col_result()),
        Column::fit(say::wall_col_slots()),
        Column::fit(say::wall_col_ends()),
        Column::rest(say::wall_col_next()),
    ];
    let line = |at: usize| {
        let said = said(&wall.benches[at]);
        let style = match said.need {
            Need::Silent => theme.label(),
            _ => said.grade.map_or(theme.text(), |grade| theme.graded(grade)),
        };
        let doing = if said.next.is_empty() { said.test } else { said.next };
        vec![
            (said.number, theme.strong()),
            (said.machine, theme.strong()),
            (said.large.into_iter().next().unwrap_or_default(), style),
            (said.slots, theme.error()),
            (said.ends, theme.text()),
            (said.trouble.unwrap_or(doing), if said.need.calls() { theme.attention() } else { theme.text() }),
        ]
    };
    let (width, height) = (canvas.width(), canvas.height());
    let room = height.saturating_sub(BELOW + 1);
    table::draw(&mut canvas.part(0, 0, width, room), &columns, wall.benches.len(), Some(wall.chosen_at()), &line);
    if let Some(bench) = wall.benches.get(wall.chosen_at()) {
        let said = said(bench);
        let all = [said.headline, said.test, said.stage, said.heard];
        let known = all.into_iter().filter(|text| !text.is_empty()).collect::<Vec<_>>().join("   ");
        let mut below = canvas.below(height.saturating_sub(BELOW));
        let rows = below.paragraph(2, 0, width.saturating_sub(4), theme.text(), &known);
        below.paragraph(2, rows, width.saturating_sub(4), theme.attention(), &said.next);
    }
}

/// The full screen of a machine, and under it whose it is and how one comes back.
pub fn machine(canvas: &mut Canvas<'_>, bench: &BenchNow, now: Instant, wall_ms: i64) {
    let theme = canvas.theme;
    let said = Said::of(bench, now, wall_ms);
    let (width, last) = (canvas.width(), canvas.height().saturating_sub(1));
    match &bench.picture {
        Some(picture) => picture::draw(&mut canvas.part(0, 0, width, last), picture),
        None => {
            canvas.paragraph(4, 2, width.saturating_sub(8), theme.text(), say::wall_picture_comes());
        }
    }
    let silent = said.need == Need::Silent;
    let style = if silent { theme.bad_lane() } else { theme.chosen() };
    canvas.fill_row(last, style);
    let name = format!("{} {}", said.number, said.machine);
    let words = if silent { say::wall_bar_silent(name.trim(), &said.next) } else { say::wall_bar(name.trim()) };
    canvas.cell(1, last, width.saturating_sub(2), style, &words);
}
