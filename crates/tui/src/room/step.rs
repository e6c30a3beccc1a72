//! What a key press comes to: what is asked of the rest of the program. And what stands in front of a screen, because a step can open it and
//! a key in it comes to a step.

use crossterm::event::KeyEvent;

use super::view::View;
use crate::booted::Leave;
use crate::kit::canvas::Canvas;
use crate::shared::chosen::Chosen;
use crate::shared::effect::Effect;
use crate::shared::state::Shared;

/// How a screen is entered.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Entry {
    /// As it is.
    Plain(View),
    /// Every run of a module.
    Life {
        /// Its serial number.
        serial: String,
        /// What it is called.
        name: String,
    },
}

impl Entry {
    /// The screen that it leads to.
    pub fn view(&self) -> View {
        match self {
            Self::Plain(view) => *view,
            Self::Life { .. } => View::Logs,
        }
    }
}

/// One thing that is asked for.
#[derive(Debug)]
pub enum Ask {
    /// Something outside the interface.
    Do(Effect),
    /// Another screen.
    Go(Entry),
    /// Something in front of the screen.
    Show(Box<dyn Dialog>),
    /// Something to be said.
    Say(String),
    /// Another slot chosen.
    Slot(usize),
    /// Something else to run.
    Choose(Box<Chosen>),
    /// Leave the program; on a booted machine with what becomes of it.
    Leave(Option<Leave>),
}

/// Everything that is asked for, in order.
pub type Step = Vec<Ask>;

/// Only something to be said.
pub fn says(words: impl Into<String>) -> Step {
    vec![Ask::Say(words.into())]
}

/// Only something outside the interface.
pub fn does(effect: Effect) -> Step {
    vec![Ask::Do(effect)]
}

/// Only another screen.
pub fn goes(view: View) -> Step {
    vec![Ask::Go(Entry::Plain(view))]
}

/// What a key in a dialog came to.
#[derive(Debug)]
pub enum Outcome {
    /// It stays open.
    Open,
    /// It is over.
    Closed(Step),
}

/// Something in front of a screen that takes all keys.
pub trait Dialog: std::fmt::Debug {
    /// Takes one key press.
    fn key(&mut self, key: KeyEvent) -> Outcome;

    /// Draws it over the body of the screen.
    fn draw(&self, canvas: &mut Canvas<'_>, shared: &Shared);
}
