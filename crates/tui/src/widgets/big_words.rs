//! The word that is read from across the room.

use ratatui::style::Style;
use tui_big_text::{BigText, PixelSize};

use crate::canvas::Canvas;

/// Rows that big words take.
pub const ROWS: u16 = 4;
/// Pixels in a letter, which is a square.
const PIXELS: u16 = 8;

/// Draws the longest of the wordings that fits, and returns the columns it took. Square pixels where there is room: they
/// carry farther than the narrow ones.
pub fn draw(canvas: &mut Canvas<'_>, wordings: &[&str], style: Style) -> u16 {
    let sizes: &[(PixelSize, u16)] = match canvas.theme.marks.quarter_blocks {
        true => &[(PixelSize::HalfHeight, PIXELS), (PixelSize::Quadrant, PIXELS / 2)],
        false => &[(PixelSize::HalfHeight, PIXELS)],
    };
    let width = |words: &str, letter: u16| words.chars().count() as u16 * letter;
    let all = wordings.iter().flat_map(|words| sizes.iter().map(move |(size, letter)| (*words, *size, *letter)));
    let fitting = all.into_iter().find(|(words, _, letter)| width(words, *letter) <= canvas.width());
    let Some((words, size, letter)) = fitting.filter(|_| canvas.height() >= ROWS) else {
        let words = wordings.last().copied().unwrap_or_default();
        return canvas.put(0, 0, style, words);
    };
    let taken = width(words, letter);
    let text = BigText::builder().pixel_size(size).style(style).lines([words.into()]).build();
    canvas.part(0, 0, taken, ROWS).render(text);
    taken
}
