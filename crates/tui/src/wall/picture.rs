//! A screen as a picture that travels, and back.

use ratatui::buffer::Buffer;
use ratatui::style::{Color, Modifier, Style};
use revisum_engine::text::shown;
use revisum_link::{Picture, Row, Span};
use unicode_width::UnicodeWidthStr as _;

use crate::kit::canvas::Canvas;

/// Colours by number: none, sixteen named ones, then red, green and blue above this.
const RGB: u32 = 0x0100_0000;
const NAMED: [Color; 17] = [
    Color::Reset,
    Color::Black,
    Color::Red,
    Color::Green,
    Color::Yellow,
    Color::Blue,
    Color::Magenta,
    Color::Cyan,
    Color::Gray,
    Color::DarkGray,
    Color::LightRed,
    Color::LightGreen,
    Color::LightYellow,
    Color::LightBlue,
    Color::LightMagenta,
    Color::LightCyan,
    Color::White,
];

/// What is drawn in a buffer.
pub fn picture_of(buffer: &Buffer) -> Picture {
    let area = buffer.area;
    let rows = (0..area.height).map(|y| (y, row_of(buffer, y))).collect();
    Picture { columns: area.width, rows: area.height, changed: rows }
}

fn row_of(buffer: &Buffer, y: u16) -> Row {
    let mut row = Row::new();
    let mut skip = 0;
    for x in 0..buffer.area.width {
        // A wide letter takes the cell after it too.
        if skip > 0 {
            skip -= 1;
            continue;
        }
        let cell = &buffer[(x, y)];
        skip = cell.symbol().width().saturating_sub(1);
        let look = (number_of(cell.fg), number_of(cell.bg), cell.modifier.bits());
        match row.last_mut() {
            Some(last) if (last.front, last.ground, last.marks) == look => last.text.push_str(cell.symbol()),
            _ => row.push(Span { text: cell.symbol().to_owned(), front: look.0, ground: look.1, marks: look.2 }),
        }
    }
    row
}

/// Draws a picture. What came from elsewhere reaches the terminal without control characters.
pub fn draw(canvas: &mut Canvas<'_>, picture: &Picture) {
    for (y, row) in &picture.changed {
        let mut x = 0;
        for span in row {
            let style = Style::default()
                .fg(colour_of(span.front))
                .bg(colour_of(span.ground))
                .add_modifier(Modifier::from_bits_truncate(span.marks));
            x = canvas.put(x, *y, style, &shown(&span.text));
        }
    }
}

fn number_of(colour: Color) -> u32 {
    match colour {
        Color::Rgb(red, green, blue) => RGB | u32::from_be_bytes([0, red, green, blue]),
        named => NAMED.iter().position(|known| *known == named).unwrap_or(0) as u32,
    }
}

fn colour_of(number: u32) -> Color {
    if number & RGB != 0 {
        let [_, red, green, blue] = number.to_be_bytes();
        return Color::Rgb(red, green, blue);
    }
    NAMED.get(number as usize).copied().unwrap_or_default()
}

#[cfg(test)]
mod tests {
    use ratatui::layout::Rect;

    use super::*;
    use crate::kit::theme::Theme;

    #[test]
    fn a_picture_that_travelled_is_the_same() {
        let area = Rect::new(0, 0, 12, 2);
        let mut buffer = Buffer::empty(area);
        let bold = Style::default().fg(Color::Rgb(1, 2, 3)).bg(Color::LightRed).add_modifier(Modifier::BOLD);
        buffer.set_string(0, 0, "PC-3 ✓", bold);
        buffer.set_string(2, 1, "Größe │█", Style::default().fg(Color::White));
        let (mut again, theme) = (Buffer::empty(area), Theme::full());
        draw(&mut Canvas::new(&mut again, area, &theme), &picture_of(&buffer));
        assert_eq!(again, buffer);
    }

    #[test]
    fn nothing_steers_the_terminal() {
        let area = Rect::new(0, 0, 20, 1);
        let bad = Span { text: "a\u{1b}[2Jb\u{202e}c".into(), marks: u16::MAX, front: u32::MAX, ground: 99 };
        let picture = Picture { columns: 20, rows: 1, changed: vec![(0, vec![bad]), (9, Row::new())] };
        let (mut buffer, theme) = (Buffer::empty(area), Theme::full());
        draw(&mut Canvas::new(&mut buffer, area, &theme), &picture);
        let text: String = (0..20).map(|x| buffer[(x, 0)].symbol()).collect();
        assert!(!text.contains(['\u{1b}', '\u{202e}']), "{text:?}");
    }
}
