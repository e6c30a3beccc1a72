//! A line of text to be typed.

use crossterm::event::{KeyCode, KeyEvent};
use ratatui::style::Style;
use tui_input::Input;

use crate::kit::canvas::Canvas;
use crate::kit::theme::Theme;
use crate::kit::typing::typed;
use crate::room::step::{Dialog, Outcome, Step};
use crate::shared::state::Shared;

/// What becomes of the text.
type Kept = Box<dyn Fn(&str) -> Step>;

/// A line that is typed, what it is for, and what becomes of it.
pub struct Line {
    /// What it is for.
    pub title: String,
    /// How serious that is.
    pub style: fn(&Theme) -> Style,
    /// What should be known before.
    pub words: Vec<String>,
    /// What stands before the text.
    pub label: &'static str,
    /// What is typed.
    pub input: Input,
    /// Longest text.
    pub longest: usize,
    /// What Enter and Esc do.
    pub keys: &'static str,
    /// What Enter makes of it.
    pub kept: Kept,
}

impl std::fmt::Debug for Line {
    fn fmt(&self, formatter: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        formatter.debug_struct("Line").field("title", &self.title).field("typed", &self.input.value()).finish()
    }
}

impl Dialog for Line {
    fn key(&mut self, key: KeyEvent) -> Outcome {
        match key.code {
            KeyCode::Esc => return Outcome::Closed(Vec::new()),
            KeyCode::Enter => return Outcome::Closed((self.kept)(self.input.value())),
            _ => typed(&mut self.input, key, self.longest),
        }
        Outcome::Open
    }

    fn draw(&self, canvas: &mut Canvas<'_>, _shared: &Shared) {
        let theme = canvas.theme;
        let width = canvas.width().saturating_sub(4);
        let mut y = 2 + canvas.paragraph(2, 1, width, (self.style)(theme), &self.title);
        for words in &self.words {
            y += canvas.paragraph(2, y, width, theme.label(), words);
        }
        y += u16::from(!self.words.is_empty());
        let text = format!("{}{}_", self.label, self.input.value());
        y += canvas.paragraph(2, y, width, theme.attention(), &text);
        canvas.put(2, y + 1, theme.label(), self.keys);
    }
}
