//! Something to be said.

use crossterm::event::KeyEvent;

use crate::kit::canvas::Canvas;
use crate::room::step::{Dialog, Outcome};
use crate::shared::state::Shared;

/// Words that any key closes.
#[derive(Debug)]
pub struct Notice(pub String);

impl Dialog for Notice {
    fn key(&mut self, _key: KeyEvent) -> Outcome {
        Outcome::Closed(Vec::new())
    }

    fn draw(&self, canvas: &mut Canvas<'_>, _shared: &Shared) {
        let theme = canvas.theme;
        let width = canvas.width().saturating_sub(4).min(90);
        let rows = canvas.paragraph(2, 1, width, theme.text(), &self.0);
        canvas.put(2, 2 + rows, theme.label(), "Any key closes this.");
    }
}
