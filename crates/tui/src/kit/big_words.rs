//! The word that is read from across the room.

use font8x8::{BASIC_FONTS, LATIN_FONTS, UnicodeFonts};
use ratatui::style::Style;

use super::canvas::Canvas;

/// Rows that big words take.
pub const ROWS: u16 = 4;
/// The largest letters: 48 columns and 24 rows.
const LARGEST: u16 = 6;
/// Pixels in a letter, which is a square.
const PIXELS: u16 = 8;
/// A cell of two pixels, by which of them are set: the upper one counts one, the lower one two.
const HALVES: [char; 4] = [' ', '▀', '▄', '█'];
/// A cell of four pixels: upper left counts one, upper right two, lower left four, lower right eight.
const QUARTERS: [char; 16] = [' ', '▘', '▝', '▀', '▖', '▌', '▞', '▛', '▗', '▚', '▐', '▜', '▄', '▙', '▟', '█'];

/// How large a pixel is.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Pixel {
    /// So many columns, and half as many rows: a square, which carries far.
    Square(u16),
    /// A column and a row, for screens on which twice the columns do not fit.
    Tall,
    /// Half a column.
    Narrow,
}

impl Pixel {
    /// Columns and rows of a letter.
    fn letter(self) -> (u16, u16) {
        match self {
            Self::Square(scale) => (PIXELS * scale, ROWS * scale),
            Self::Tall => (PIXELS, PIXELS),
            Self::Narrow => (PIXELS / 2, ROWS),
        }
    }

    /// Columns and rows that words take.
    pub fn size(self, words: &str) -> (u16, u16) {
        let (columns, rows) = self.letter();
        (words.chars().count() as u16 * columns, rows)
    }
}

/// The sizes that letters can have on a terminal with these glyphs, the largest first.
pub fn sizes(quarter_blocks: bool) -> impl Iterator<Item = Pixel> {
    let twice = (2..=LARGEST).rev().map(Pixel::Square);
    twice.chain([Pixel::Tall, Pixel::Square(1)]).chain(quarter_blocks.then_some(Pixel::Narrow))
}

/// Draws the longest of the wordings that fits, and returns the columns it took. Square pixels where there is room: they
/// carry farther than the narrow ones.
pub fn draw(canvas: &mut Canvas<'_>, wordings: &[&str], style: Style) -> u16 {
    let small = || sizes(canvas.theme.marks.quarter_blocks).filter(|pixel| pixel.letter().1 == ROWS);
    let all = wordings.iter().flat_map(|words| small().map(move |pixel| (*words, pixel)));
    let fitting = all.into_iter().find(|(words, pixel)| pixel.size(words).0 <= canvas.width());
    let Some((words, pixel)) = fitting.filter(|_| canvas.height() >= ROWS) else {
        let words = wordings.last().copied().unwrap_or_default();
        return canvas.put(0, 0, style, words);
    };
    draw_at(canvas, 0, words, pixel, style);
    pixel.size(words).0
}

/// Draws words in this size from this row on.
pub fn draw_at(canvas: &mut Canvas<'_>, y: u16, words: &str, pixel: Pixel, style: Style) {
    for row in 0..pixel.letter().1 {
        let line: String = words.chars().map(|letter| cells(letter, row, pixel)).collect();
        canvas.put(0, y + row, style, &line);
    }
}

/// The cells of a letter in one of its rows. A letter that no font has stays blank.
fn cells(letter: char, row: u16, pixel: Pixel) -> String {
    let lines = BASIC_FONTS.get(letter).or_else(|| LATIN_FONTS.get(letter)).unwrap_or_default();
    let bit = |y: u16, x: u16| usize::from(lines[usize::from(y.min(PIXELS - 1))] >> x.min(PIXELS - 1) & 1);
    match pixel {
        Pixel::Square(scale) => {
            let (upper, lower) = (2 * row / scale, (2 * row + 1) / scale);
            (0..PIXELS * scale).map(|at| HALVES[bit(upper, at / scale) + 2 * bit(lower, at / scale)]).collect()
        }
        Pixel::Tall => (0..PIXELS).map(|x| HALVES[3 * bit(row, x)]).collect(),
        Pixel::Narrow => {
            let pair = |y: u16, x: u16| bit(y, x) + 2 * bit(y, x + 1);
            (0..PIXELS).step_by(2).map(|x| QUARTERS[pair(2 * row, x) + 4 * pair(2 * row + 1, x)]).collect()
        }
    }
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;

    #[rstest]
    #[case('L', Pixel::Square(1), ["▀██▀    ", " ██     ", " ██  ▄█ ", "▀▀▀▀▀▀▀ "])]
    #[case('L', Pixel::Narrow, ["▜▛  ", "▐▌  ", "▐▌▗▌", "▀▀▀▘"])]
    #[case('\u{4e2d}', Pixel::Narrow, ["    "; 4])]
    fn letters(#[case] letter: char, #[case] pixel: Pixel, #[case] expected: [&str; 4]) {
        let rows: Vec<String> = (0..ROWS).map(|row| cells(letter, row, pixel)).collect();
        assert_eq!(rows, expected);
    }

    #[test]
    fn a_tall_letter_has_a_row_for_each_of_its_pixels() {
        let rows: Vec<String> = (0..Pixel::Tall.letter().1).map(|row| cells('L', row, Pixel::Tall)).collect();
        let expected = ["████    ", " ██     ", " ██     ", " ██     ", " ██   █ ", " ██  ██ ", "███████ ", "        "];
        assert_eq!(rows, expected);
    }

    /// Each pixel of a letter becomes a square of pixels, whatever the scale.
    #[rstest]
    #[case(2)]
    #[case(3)]
    #[case(6)]
    fn letters_grow(#[case] scale: u16) {
        let pixels = |pixel: Pixel| -> Vec<Vec<bool>> {
            let rows = (0..pixel.letter().1).map(|row| cells('L', row, pixel));
            let halves = rows
                .flat_map(|row| [['▀', '█'], ['▄', '█']].map(|set| row.chars().map(|c| set.contains(&c)).collect()));
            halves.collect()
        };
        let (small, large) = (pixels(Pixel::Square(1)), pixels(Pixel::Square(scale)));
        let grown = |y: usize, x: usize| small[y / usize::from(scale)][x / usize::from(scale)];
        assert!(large.iter().enumerate().all(|(y, row)| row.iter().enumerate().all(|(x, on)| *on == grown(y, x))));
    }
}
