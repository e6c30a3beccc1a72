//! Drawing text at places, clipped to an area.

use std::cell::RefCell;

use ratatui::buffer::Buffer;
use ratatui::layout::{Position, Rect};
use ratatui::style::Style;
use unicode_width::UnicodeWidthStr;

use crossterm::event::KeyCode;

use super::theme::Theme;

/// What is meant by pointing at a place.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Target {
    /// The same as this key.
    Key(KeyCode),
    /// A line of what is in front, by its place in its list.
    Line(usize),
    /// A slot of the board.
    Slot(usize),
}

/// Places that were drawn and what pointing at them means; the last drawn lies on top.
#[derive(Debug, Default)]
pub struct Targets(RefCell<Vec<(Rect, Target)>>);

impl Targets {
    /// What is meant at this column and row.
    pub fn at(&self, column: u16, row: u16) -> Option<Target> {
        let all = self.0.borrow();
        all.iter().rev().find(|(area, _)| area.contains(Position::new(column, row))).map(|(_, target)| *target)
    }
}

/// An area of the screen to draw on. Coordinates count from its corner; what does not fit is cut off.
pub struct Canvas<'a> {
    buffer: &'a mut Buffer,
    area: Rect,
    targets: Option<&'a Targets>,
    /// Colours and marks.
    pub theme: &'a Theme,
}

impl<'a> Canvas<'a> {
    /// The area of a buffer.
    pub fn new(buffer: &'a mut Buffer, area: Rect, theme: &'a Theme) -> Self {
        let area = area.intersection(buffer.area);
        Self { buffer, area, theme, targets: None }
    }

    /// The same, and what can be pointed at is noted down.
    pub fn pointed(self, targets: &'a Targets) -> Self {
        Self { targets: Some(targets), ..self }
    }

    /// Notes down what pointing at a part of a row means.
    pub fn target(&self, x: u16, y: u16, width: u16, target: Target) {
        if let Some(targets) = self.targets {
            let area = Rect::new(self.area.x.saturating_add(x), self.area.y.saturating_add(y), width, 1);
            targets.0.borrow_mut().push((area.intersection(self.area), target));
        }
    }

    /// Notes down that a whole row is a line of a list.
    pub fn line(&self, y: u16, at: usize) {
        self.target(0, y, self.width(), Target::Line(at));
    }

    /// Columns.
    pub fn width(&self) -> u16 {
        self.area.width
    }

    /// Rows.
    pub fn height(&self) -> u16 {
        self.area.height
    }

    /// A part of this canvas.
    pub fn part(&mut self, x: u16, y: u16, width: u16, height: u16) -> Canvas<'_> {
        let area = Rect::new(self.area.x.saturating_add(x), self.area.y.saturating_add(y), width, height);
        let area = area.intersection(self.area);
        Canvas { buffer: self.buffer, area, theme: self.theme, targets: self.targets }
    }

    /// Everything below this row.
    pub fn below(&mut self, y: u16) -> Canvas<'_> {
        let (width, height) = (self.width(), self.height().saturating_sub(y));
        self.part(0, y, width, height)
    }

    /// Writes text and returns the column after it.
    pub fn put(&mut self, x: u16, y: u16, style: Style, text: &str) -> u16 {
        if y >= self.area.height || x >= self.area.width {
            return x;
        }
        let room = usize::from(self.area.width - x);
        let text = self.theme.drawable(text);
        let (end, _) = self.buffer.set_stringn(self.area.x + x, self.area.y + y, text, room, style);
        end - self.area.x
    }

    /// Writes text that ends before this column.
    pub fn put_right(&mut self, end: u16, y: u16, style: Style, text: &str) {
        let width = text.width() as u16;
        self.put(end.saturating_sub(width), y, style, text);
    }

    /// Fills a row.
    pub fn fill_row(&mut self, y: u16, style: Style) {
        let blank = " ".repeat(usize::from(self.width()));
        self.put(0, y, style, &blank);
    }

    /// Writes a paragraph within a width and returns the rows it took.
    pub fn paragraph(&mut self, x: u16, y: u16, width: u16, style: Style, text: &str) -> u16 {
        let width = width.min(self.width().saturating_sub(x)).max(8);
        let lines = wrapped(text, width);
        for (row, line) in (y..).zip(&lines) {
            self.put(x, row, style, line);
        }
        lines.len() as u16
    }

    /// A row of `label  value`.
    pub fn fact(&mut self, x: u16, y: u16, label: &str, value: &str) -> u16 {
        let (label_style, text) = (self.theme.label(), self.theme.text());
        self.put(x, y, label_style, label);
        self.put(x + FACT_INDENT, y, text, value)
    }

    /// A full-width block for a widget of a library.
    pub fn render(&mut self, widget: impl ratatui::widgets::Widget) {
        widget.render(self.area, self.buffer);
    }
}

/// Text in lines of at most this width. Dates and slot names are never broken at their hyphens.
pub fn wrapped(text: &str, width: u16) -> Vec<std::borrow::Cow<'_, str>> {
    let options = textwrap::Options::new(usize::from(width.max(8)));
    textwrap::wrap(text, options.word_splitter(textwrap::WordSplitter::NoHyphenation))
}

/// Columns that labels take.
pub const FACT_INDENT: u16 = 14;

/// At most so many characters; what is cut off is marked.
pub fn shortened(words: &str, room: usize) -> String {
    if words.chars().count() <= room {
        return words.to_owned();
    }
    let kept: String = words.chars().take(room.saturating_sub(3)).collect();
    format!("{}...", kept.trim_end())
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;

    #[rstest]
    #[case("Clean", 5, "Clean")]
    #[case("Clean", 80, "Clean")]
    #[case("Clean so far: 1 of 45 passes", 16, "Clean so far:...")]
    #[case("Clean so far: 1 of 45 passes", 17, "Clean so far:...")]
    #[case("µµµµµ", 4, "µ...")]
    #[case("anything", 0, "...")]
    fn what_is_cut_off_is_marked(#[case] words: &str, #[case] room: usize, #[case] shown: &str) {
        assert_eq!(shortened(words, room), shown);
    }
}
