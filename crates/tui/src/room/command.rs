//! A key and what it does. Footer, help, the list of actions and the keys themselves come from the same commands.

use crossterm::event::KeyCode;

/// One thing that can be done here and now.
#[derive(Clone, Debug)]
pub struct Command<M> {
    /// The keys, each with what it says to the screen; several where a list or a value is stepped.
    pub keys: Vec<(KeyCode, M)>,
    /// The keys as people read them.
    pub name: &'static str,
    /// What it does, in words for this place and moment.
    pub words: String,
    /// Whether the footer shows it, where there is room.
    pub footer: bool,
}

/// Steps of a page in a list.
const PAGE: isize = 10;
/// Further than any list is long.
const END: isize = 1 << 40;

impl<M> Command<M> {
    /// One key.
    pub fn one(key: KeyCode, name: &'static str, message: M, words: impl Into<String>) -> Self {
        Self { keys: vec![(key, message)], name, words: words.into(), footer: true }
    }

    /// A letter.
    pub fn letter(letter: char, name: &'static str, message: M, words: impl Into<String>) -> Self {
        Self::one(KeyCode::Char(letter), name, message, words)
    }

    /// The next sensible step.
    pub fn enter(message: M, words: impl Into<String>) -> Self {
        Self::one(KeyCode::Enter, "Enter", message, words)
    }

    /// One step back.
    pub fn back(message: M, words: impl Into<String>) -> Self {
        Self::one(KeyCode::Esc, "Esc", message, words)
    }

    /// Up and down in a list, by pages, and to its ends.
    pub fn list(message: impl Fn(isize) -> M, words: impl Into<String>) -> Self {
        let steps = [
            (KeyCode::Up, -1),
            (KeyCode::Down, 1),
            (KeyCode::PageUp, -PAGE),
            (KeyCode::PageDown, PAGE),
            (KeyCode::Home, -END),
            (KeyCode::End, END),
        ];
        let keys = steps.into_iter().map(|(key, by)| (key, message(by))).collect();
        Self { keys, name: "↑↓", words: words.into(), footer: true }
    }

    /// Left and right.
    pub fn sides(message: impl Fn(isize) -> M, words: impl Into<String>) -> Self {
        let keys = vec![(KeyCode::Left, message(-1)), (KeyCode::Right, message(1))];
        Self { keys, name: "←→", words: words.into(), footer: true }
    }

    /// Not in the footer: the help shows it.
    pub fn aside(self) -> Self {
        Self { footer: false, ..self }
    }

    /// In the footer only where this holds.
    pub fn in_footer(self, holds: bool) -> Self {
        Self { footer: holds, ..self }
    }
}

/// A command as it is shown: without what it says to the screen.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Key {
    /// The keys.
    pub codes: Vec<KeyCode>,
    /// As people read them.
    pub name: &'static str,
    /// What it does.
    pub words: String,
    /// Whether the footer shows it.
    pub footer: bool,
}

impl<M> From<&Command<M>> for Key {
    fn from(command: &Command<M>) -> Self {
        Self {
            codes: command.keys.iter().map(|(code, _)| *code).collect(),
            name: command.name,
            words: command.words.clone(),
            footer: command.footer,
        }
    }
}
