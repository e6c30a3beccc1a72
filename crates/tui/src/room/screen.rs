//! A screen, and the same without its own kinds of messages so that all of them are in one list.

use crossterm::event::{KeyCode, KeyEvent};

use super::command::{Command, Key};
use super::step::{Entry, Step};
use crate::kit::board_strip::Strip;
use crate::kit::canvas::Canvas;
use crate::shared::effect::Effect;
use crate::shared::news::News;
use crate::shared::state::Shared;

/// A screen holds its own state. Nobody else changes it.
pub trait Screen {
    /// What its keys say to it.
    type Message: Clone;

    /// What it is for, in the list of actions.
    fn purpose() -> &'static str;

    /// What can be done here and now, the most important first. Enter is the next sensible step; Esc is one step back where there is one.
    fn commands(&self, shared: &Shared) -> Vec<Command<Self::Message>>;

    /// Does what a key asks for.
    fn update(&mut self, message: Self::Message, shared: &Shared) -> Step;

    /// It comes to the front.
    fn entered(&mut self, _entry: &Entry, _shared: &Shared) -> Step {
        Vec::new()
    }

    /// Hears what an effect came to, in front or not.
    fn told(&mut self, _news: &News, _shared: &Shared) -> Step {
        Vec::new()
    }

    /// What is asked for whenever a run has something new while this is in front.
    fn follows(&self) -> Option<Effect> {
        None
    }

    /// Takes a key while text is typed into the screen; nothing while none is.
    fn typed(&mut self, _key: KeyEvent, _shared: &Shared) -> Option<Step> {
        None
    }

    /// A line of it was pointed at.
    fn pointed(&mut self, _at: usize, _shared: &Shared) -> Step {
        Vec::new()
    }

    /// Whether it takes all of the screen, without header, board and footer.
    fn fills(&self, _shared: &Shared) -> bool {
        false
    }

    /// The board above it.
    fn strip<'a>(&'a self, shared: &'a Shared) -> Strip<'a> {
        Strip::of(shared)
    }

    /// Draws it.
    fn draw(&self, canvas: &mut Canvas<'_>, shared: &Shared);
}

/// Any screen.
pub trait Room {
    /// What it is for.
    fn purpose(&self) -> &'static str;
    /// Its keys here and now.
    fn keys(&self, shared: &Shared) -> Vec<Key>;
    /// A key is pressed; nothing where it means nothing here.
    fn press(&mut self, code: KeyCode, shared: &Shared) -> Option<Step>;
    /// See [`Screen::entered`].
    fn enter(&mut self, entry: &Entry, shared: &Shared) -> Step;
    /// See [`Screen::told`].
    fn hear(&mut self, news: &News, shared: &Shared) -> Step;
    /// See [`Screen::follows`].
    fn wants(&self) -> Option<Effect>;
    /// See [`Screen::typed`].
    fn takes(&mut self, key: KeyEvent, shared: &Shared) -> Option<Step>;
    /// See [`Screen::pointed`].
    fn point(&mut self, at: usize, shared: &Shared) -> Step;
    /// See [`Screen::fills`].
    fn is_whole(&self, shared: &Shared) -> bool;
    /// See [`Screen::strip`].
    fn board<'a>(&'a self, shared: &'a Shared) -> Strip<'a>;
    /// See [`Screen::draw`].
    fn paint(&self, canvas: &mut Canvas<'_>, shared: &Shared);
}

impl<S: Screen> Room for S {
    fn purpose(&self) -> &'static str {
        S::purpose()
    }
    fn keys(&self, shared: &Shared) -> Vec<Key> {
        self.commands(shared).iter().map(Key::from).collect()
    }
    fn press(&mut self, code: KeyCode, shared: &Shared) -> Option<Step> {
        let all = self.commands(shared).into_iter().flat_map(|command| command.keys);
        let (_, message) = all.into_iter().find(|(known, _)| *known == code)?;
        Some(self.update(message, shared))
    }
    fn enter(&mut self, entry: &Entry, shared: &Shared) -> Step {
        self.entered(entry, shared)
    }
    fn hear(&mut self, news: &News, shared: &Shared) -> Step {
        self.told(news, shared)
    }
    fn wants(&self) -> Option<Effect> {
        self.follows()
    }
    fn takes(&mut self, key: KeyEvent, shared: &Shared) -> Option<Step> {
        self.typed(key, shared)
    }
    fn point(&mut self, at: usize, shared: &Shared) -> Step {
        self.pointed(at, shared)
    }
    fn is_whole(&self, shared: &Shared) -> bool {
        self.fills(shared)
    }
    fn board<'a>(&'a self, shared: &'a Shared) -> Strip<'a> {
        self.strip(shared)
    }
    fn paint(&self, canvas: &mut Canvas<'_>, shared: &Shared) {
        self.draw(canvas, shared);
    }
}
