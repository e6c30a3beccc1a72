//! What a widget draws, as rows of text, for tests.

use ratatui::buffer::Buffer;
use ratatui::layout::Rect;

use super::canvas::Canvas;
use super::theme::Theme;

/// Rows of an area of so many columns and rows after drawing, without blanks at their ends.
pub fn rows(draw: impl Fn(&mut Canvas<'_>), (width, height): (u16, u16)) -> Vec<String> {
    let (theme, area) = (Theme::full(), Rect::new(0, 0, width, height));
    let mut buffer = Buffer::empty(area);
    draw(&mut Canvas::new(&mut buffer, area, &theme));
    let row = |y: u16| (0..width).map(|x| buffer[(x, y)].symbol()).collect::<String>();
    (0..height).map(|y| row(y).trim_end().to_owned()).collect()
}
