//! How many words failed on each data line, and the chip of the module that drives it.

use revisum_diagnose::locate::Location;


use crate::say;
use crate::kit::bars::{self, bar};
use crate::kit::canvas::Canvas;

/// Rows: a line of words, bars, a line of numbers, and one of chips.
pub const ROWS: u16 = bars::ROWS + 3;
/// Columns of all data lines.
pub const COLUMNS: u16 = 64 + 7;
/// Data lines of a word.
const LINES: u16 = 64;

/// How many of the distinct failing words read wrong on each of the 64 data lines; chips where their width is known.
pub fn draw(canvas: &mut Canvas<'_>, location: &Location, chip_width: Option<u8>) {
    let theme = canvas.theme;
    let most = location.lanes.iter().copied().max().unwrap_or(0);
    canvas.put(0, 0, theme.label(), &say::locate_per_line(most));
    for (line, words) in (0u16..).zip(&location.lanes) {
        bar(canvas, x_of(line), 1, *words, most);
        if line % 8 == 0 {
            canvas.put(x_of(line), 1 + bars::ROWS, theme.label(), &line.to_string());
        }
    }
    let y = 2 + bars::ROWS;
    match chip_width.map(u16::from).filter(|width| LINES.is_multiple_of(*width)) {
        Some(width) => chips(canvas, location, width, y),
        None => drop(canvas.put(0, y, theme.label(), say::locate_chips_unknown())),
    }
}

/// The chips along the edge, those with failing lines in colour.
fn chips(canvas: &mut Canvas<'_>, location: &Location, width: u16, y: u16) {
    let theme = canvas.theme;
    for chip in 0..LINES / width {
        let lines = chip * width..(chip + 1) * width;
        let failed = lines.clone().any(|line| location.lanes.get(usize::from(line)).is_some_and(|words| *words > 0));
        let style = if failed { theme.bad_lane() } else { theme.lane() };
        let columns = x_of(lines.end - 1) + 1 - x_of(lines.start);
        let name = if columns >= 7 { say::locate_chip(chip) } else { chip.to_string() };
        canvas.put(x_of(lines.start), y, style, &format!("{name:^columns$}", columns = usize::from(columns)));
    }
}

/// A gap after each byte lane.
fn x_of(line: u16) -> u16 {
    line + line / 8
}

#[cfg(test)]
mod tests {
    use ratatui::buffer::Buffer;
    use ratatui::layout::Rect;
    use rstest::rstest;

    use super::*;
    use crate::kit::theme::Theme;

    /// Line 19 belongs to the third chip of eight lines, to the fifth of four and the second of sixteen.
    #[rstest]
    #[case(Some(8), "chip 2")]
    #[case(Some(4), "4")]
    #[case(Some(16), "chip 1")]
    fn the_chip_of_a_line_is_marked(#[case] width: Option<u8>, #[case] expected: &str) {
        let (theme, area) = (Theme::full(), Rect::new(0, 0, COLUMNS, ROWS));
        let mut buffer = Buffer::empty(area);
        let mut lanes = vec![0; 64];
        lanes[19] = 3;
        let location = Location { lanes, ..Location::default() };
        draw(&mut Canvas::new(&mut buffer, area, &theme), &location, width);
        let marked = (0..COLUMNS).filter(|x| buffer[(*x, ROWS - 1)].style().bg == theme.bad_lane().bg);
        let words: String = marked.clone().map(|x| buffer[(x, ROWS - 1)].symbol().to_owned()).collect();
        assert_eq!(words.trim(), expected);
        assert!(marked.into_iter().any(|x| x == x_of(19)), "the chip stands below its line");
        assert_eq!(buffer[(x_of(19), 1)].symbol(), "█");
    }

    #[rstest]
    #[case::not_reported(None)]
    #[case::no_such_width(Some(7))]
    #[case::none(Some(0))]
    fn unknown_chips_are_said(#[case] width: Option<u8>) {
        let (theme, area) = (Theme::full(), Rect::new(0, 0, COLUMNS, ROWS));
        let mut buffer = Buffer::empty(area);
        draw(&mut Canvas::new(&mut buffer, area, &theme), &Location::default(), width);
        let row: String = (0..COLUMNS).map(|x| buffer[(x, ROWS - 1)].symbol().to_owned()).collect();
        assert!(row.starts_with("chips unknown"), "{row}");
    }
}
