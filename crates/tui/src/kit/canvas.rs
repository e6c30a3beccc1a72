//! Drawing text at places, clipped to an area.

use std::borrow::Cow;
use std::cell::RefCell;

use ratatui::buffer::Buffer;
use ratatui::layout::{Position, Rect};
use ratatui::style::Style;
use ratatui::widgets::{Scrollbar, ScrollbarOrientation, ScrollbarState, StatefulWidget as _};
use unicode_width::{UnicodeWidthChar, UnicodeWidthStr};

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

    /// Writes text and returns the column after it. What does not fit is cut off, and that it was is marked.
    pub fn put(&mut self, x: u16, y: u16, style: Style, text: &str) -> u16 {
        if y >= self.area.height || x >= self.area.width {
            return x;
        }
        let room = usize::from(self.area.width - x);
        let text = self.theme.drawable(&fitted(text, room)).into_owned();
        #[cfg(test)]
        collisions::note(self.buffer, (self.area.x + x, self.area.y + y), &text);
        let (end, _) = self.buffer.set_stringn(self.area.x + x, self.area.y + y, text, room, style);
        end - self.area.x
    }

    /// Writes text into a field of so many columns and returns the column after that. What does not fit is cut off, and marked.
    pub fn cell(&mut self, x: u16, y: u16, width: u16, style: Style, text: &str) -> u16 {
        self.put(x, y, style, &shortened(text, usize::from(width)));
        x.saturating_add(width)
    }

    /// The same at the right end of the field.
    pub fn cell_right(&mut self, x: u16, y: u16, width: u16, style: Style, text: &str) {
        self.put_right(x.saturating_add(width), y, style, &shortened(text, usize::from(width)));
    }

    /// A bar in the last column that says which part of a list is shown; none where all of it is.
    pub fn scroll_bar(&mut self, y: u16, rows: u16, first: usize, all: usize) {
        let area = Rect::new(self.area.x, self.area.y.saturating_add(y), self.area.width, rows).intersection(self.area);
        if all <= usize::from(rows) || area.is_empty() {
            return;
        }
        let bar = Scrollbar::new(ScrollbarOrientation::VerticalRight)
            .begin_symbol(None)
            .end_symbol(None)
            .track_symbol(Some("│"))
            .thumb_symbol("█")
            .track_style(self.theme.faint())
            .thumb_style(self.theme.label());
        let mut state =
            ScrollbarState::new(all - usize::from(rows)).position(first).viewport_content_length(usize::from(rows));
        bar.render(area, self.buffer, &mut state);
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
        self.cell(x, y, FACT_INDENT - 1, label_style, label);
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

/// At most so many columns; that something is cut off is marked.
pub fn shortened(words: &str, room: usize) -> String {
    if words.width() <= room {
        return words.to_owned();
    }
    let mut kept = String::new();
    for letter in words.chars() {
        if kept.width() + letter.width().unwrap_or(0) + 1 > room {
            break;
        }
        kept.push(letter);
    }
    format!("{}…", kept.trim_end())
}

/// The same for what is written; bars and blanks are only cut.
fn fitted(text: &str, room: usize) -> Cow<'_, str> {
    let end = text.trim_end();
    if end.width() <= room || !end.chars().any(char::is_alphanumeric) {
        return Cow::Borrowed(text);
    }
    Cow::Owned(shortened(end, room))
}

/// Texts that were written over others, for tests.
#[cfg(test)]
pub mod collisions {
    use std::cell::RefCell;

    use ratatui::buffer::Buffer;

    thread_local! {
        static FOUND: RefCell<Vec<String>> = const { RefCell::new(Vec::new()) };
    }

    /// Notes down that letters are written over other letters.
    pub fn note(buffer: &Buffer, (x, y): (u16, u16), text: &str) {
        let is_letter = |symbol: &str| symbol.chars().any(char::is_alphanumeric);
        if !is_letter(text) {
            return;
        }
        let end = (x + text.chars().count() as u16).min(buffer.area.right());
        let old: String = (x..end).map(|x| buffer[(x, y)].symbol()).collect();
        if is_letter(&old) {
            FOUND.with_borrow_mut(|found| found.push(format!("row {y}, column {x}: {text:?} over {old:?}")));
        }
    }

    /// What was found since it was asked last.
    pub fn take() -> Vec<String> {
        FOUND.take()
    }
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;

    #[rstest]
    #[case("Clean", 5, "Clean")]
    #[case("Clean", 80, "Clean")]
    #[case("Clean so far: 1 of 45 passes", 14, "Clean so far:…")]
    #[case("Clean so far: 1 of 45 passes", 15, "Clean so far:…")]
    #[case("µµµµµ", 4, "µµµ…")]
    #[case("anything", 0, "…")]
    fn what_is_cut_off_is_marked(#[case] words: &str, #[case] room: usize, #[case] shown: &str) {
        assert_eq!(shortened(words, room), shown);
    }
}
