//! A question that Enter says yes to.

use crossterm::event::{KeyCode, KeyEvent};

use crate::kit::canvas::Canvas;
use crate::room::step::{Dialog, Outcome, Step};
use crate::say;
use crate::shared::state::Shared;

/// What is asked, what yes means, and what it does.
#[derive(Debug)]
pub struct Question {
    /// The question.
    pub title: &'static str,
    /// What goes with it.
    pub words: &'static str,
    /// What Enter means.
    pub yes: &'static str,
    /// What any other key means.
    pub no: &'static str,
    /// What Enter does.
    pub step: Step,
}

impl Dialog for Question {
    fn key(&mut self, key: KeyEvent) -> Outcome {
        let said_yes = key.code == KeyCode::Enter;
        Outcome::Closed(if said_yes { std::mem::take(&mut self.step) } else { Vec::new() })
    }

    fn draw(&self, canvas: &mut Canvas<'_>, _shared: &Shared) {
        let theme = canvas.theme;
        canvas.put(2, 1, theme.strong(), self.title);
        let width = canvas.width().saturating_sub(4).min(90);
        let y = 4 + canvas.paragraph(2, 3, width, theme.text(), self.words);
        let x = canvas.put(2, y, theme.attention(), "Enter") + 1;
        let x = canvas.put(x, y, theme.text(), self.yes) + 3;
        let x = canvas.put(x, y, theme.attention(), say::any_other_key()) + 1;
        canvas.put(x, y, theme.text(), self.no);
    }
}
