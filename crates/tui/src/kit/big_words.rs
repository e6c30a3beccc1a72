//! The word that is read from across the room.

use font8x8::{BASIC_FONTS, LATIN_FONTS, UnicodeFonts};
use ratatui::style::Style;

use super::canvas::Canvas;

/// Rows that big words take.
pub const ROWS: u16 = 4;
/// Pixels in a letter, which is a square.
const PIXELS: u16 = 8;
/// A cell of two pixels, by which of them are set: the upper one counts one, the lower one two.
const HALVES: [char; 4] = [' ', '▀', '▄', '█'];
/// A cell of four pixels: upper left counts one, upper right two, lower left four, lower right eight.
const QUARTERS: [char; 16] = [' ', '▘', '▝', '▀', '▖', '▌', '▞', '▛', '▗', '▚', '▐', '▜', '▄', '▙', '▟', '█'];

/// How wide a pixel is.
#[derive(Clone, Copy, PartialEq, Eq)]
enum Pixel {
    /// A column: with half a row of height it is a square, which carries far.
    Square,
    /// Half a column.
    Narrow,
}

impl Pixel {
    fn letter_columns(self) -> u16 {
        if self == Self::Square { PIXELS } else { PIXELS / 2 }
    }
}

/// Draws the longest of the wordings that fits, and returns the columns it took. Square pixels where there is room: they
/// carry farther than the narrow ones.
pub fn draw(canvas: &mut Canvas<'_>, wordings: &[&str], style: Style) -> u16 {
    let sizes: &[Pixel] =
        if canvas.theme.marks.quarter_blocks { &[Pixel::Square, Pixel::Narrow] } else { &[Pixel::Square] };
    let width = |words: &str, pixel: Pixel| words.chars().count() as u16 * pixel.letter_columns();
    let all = wordings.iter().flat_map(|words| sizes.iter().map(move |pixel| (*words, *pixel)));
    let fitting = all.into_iter().find(|(words, pixel)| width(words, *pixel) <= canvas.width());
    let Some((words, pixel)) = fitting.filter(|_| canvas.height() >= ROWS) else {
        let words = wordings.last().copied().unwrap_or_default();
        return canvas.put(0, 0, style, words);
    };
    for row in 0..ROWS {
        canvas.put(0, row, style, &words.chars().map(|letter| cells(letter, row, pixel)).collect::<String>());
    }
    width(words, pixel)
}

/// The cells of a letter in one of the rows. A letter that no font has stays blank.
fn cells(letter: char, row: u16, pixel: Pixel) -> String {
    let lines = BASIC_FONTS.get(letter).or_else(|| LATIN_FONTS.get(letter)).unwrap_or_default();
    let (upper, lower) = (lines[usize::from(2 * row)], lines[usize::from(2 * row + 1)]);
    let bit = |line: u8, at: u16| usize::from(line >> at & 1);
    match pixel {
        Pixel::Square => (0..PIXELS).map(|at| HALVES[bit(upper, at) + 2 * bit(lower, at)]).collect(),
        Pixel::Narrow => {
            let pair = |line: u8, at: u16| bit(line, at) + 2 * bit(line, at + 1);
            (0..PIXELS).step_by(2).map(|at| QUARTERS[pair(upper, at) + 4 * pair(lower, at)]).collect()
        }
    }
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;

    #[rstest]
    #[case('L', Pixel::Square, ["▀██▀    ", " ██     ", " ██  ▄█ ", "▀▀▀▀▀▀▀ "])]
    #[case('L', Pixel::Narrow, ["▜▛  ", "▐▌  ", "▐▌▗▌", "▀▀▀▘"])]
    #[case('\u{4e2d}', Pixel::Narrow, ["    "; 4])]
    fn letters(#[case] letter: char, #[case] pixel: Pixel, #[case] expected: [&str; 4]) {
        let rows: Vec<String> = (0..ROWS).map(|row| cells(letter, row, pixel)).collect();
        assert_eq!(rows, expected);
    }
}
