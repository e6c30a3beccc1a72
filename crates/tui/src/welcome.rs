//! The first screen of a booted machine, while drivers are loaded and the drive is looked for: what the machine is, what is being done, and the keys
//! that were pressed already. None of them is lost.

use crossterm::event::{KeyCode, KeyEvent};
use revisum_diagnose::board::SystemFacts;
use revisum_engine::units::bytes_text;

use crate::booted::Booted;
use crate::kit::big_words;
use crate::kit::canvas::Canvas;
use crate::say;

/// Keys that are kept: more than anybody presses in these seconds.
const MOST_KEYS: usize = 64;

/// How far the start of a booted machine is.
#[derive(Clone, Debug, PartialEq)]
pub enum Starting {
    /// Drivers are being loaded.
    Drivers,
    /// The drive with room for results is being looked for.
    Drive,
    /// All is there.
    Ready(Box<Booted>),
    /// All is there, and the drive says that the screen is on another console.
    Elsewhere,
}

/// What the first screen shows.
#[derive(Debug, Default)]
pub struct Welcome {
    machine: String,
    processor: String,
    memory_bytes: u64,
    looking: bool,
    opening: bool,
    seconds: u64,
    keys: Vec<KeyEvent>,
}

impl Welcome {
    /// On this machine, with so much memory.
    pub fn on(facts: &SystemFacts, memory_bytes: u64) -> Self {
        Self { machine: facts.machine.clone(), processor: facts.processor.clone(), memory_bytes, ..Self::default() }
    }

    /// How far it is, and for how many seconds.
    pub fn told(&mut self, starting: &Starting, seconds: u64) {
        self.looking = !matches!(starting, Starting::Drivers);
        self.seconds = seconds;
    }

    /// All is there, and the board is being read.
    pub fn opens(&mut self) {
        self.opening = true;
    }

    /// A key that was pressed.
    pub fn key(&mut self, key: KeyEvent) {
        if self.keys.len() < MOST_KEYS {
            self.keys.push(key);
        }
    }

    /// The keys that were pressed, for the screen that comes next.
    pub fn keys(self) -> Vec<KeyEvent> {
        self.keys
    }

    /// Draws it over all of the screen.
    pub fn draw(&self, canvas: &mut Canvas<'_>) {
        let theme = canvas.theme;
        (0..canvas.height()).for_each(|y| canvas.fill_row(y, theme.ground()));
        let width = canvas.width().saturating_sub(4);
        big_words::draw(&mut canvas.part(2, 1, width, big_words::ROWS), &[say::welcome_word()], theme.attention());
        let mut y = 2 + big_words::ROWS;
        for (style, words) in [
            (theme.strong(), self.machine.clone()),
            (theme.text(), self.processor.clone()),
            (theme.text(), say::welcome_memory(bytes_text(self.memory_bytes))),
        ] {
            if !words.is_empty() {
                canvas.put(2, y, style, &words);
                y += 1;
            }
        }
        y += 1;
        let marks = &theme.marks;
        let (drivers, drive, then) = match (self.looking, self.opening) {
            (_, true) => (marks.passed, marks.passed, marks.here),
            (true, false) => (marks.passed, marks.here, marks.open),
            (false, false) => (marks.here, marks.open, marks.open),
        };
        let looking = if self.looking && !self.opening && self.seconds > 0 {
            say::welcome_drive_for(self.seconds)
        } else {
            say::welcome_drive().to_owned()
        };
        for (mark, words) in [(drivers, say::welcome_drivers()), (drive, looking.as_str()), (then, say::welcome_then())]
        {
            let after = canvas.put(2, y, theme.attention(), mark);
            canvas.put(after + 1, y, theme.text(), words);
            y += 1;
        }
        y += 1;
        let words = if self.keys.is_empty() {
            say::welcome_keys().to_owned()
        } else {
            say::welcome_pressed(self.keys.iter().map(|key| name_of(key.code)).collect::<Vec<_>>().join(" "))
        };
        canvas.paragraph(2, y, width, theme.label(), &words);
    }
}

/// A key as its cap says it.
fn name_of(code: KeyCode) -> String {
    match code {
        KeyCode::Char(' ') => say::key_space().to_owned(),
        KeyCode::Char(letter) => letter.to_string(),
        other => format!("{other}"),
    }
}

/// Keys in what was typed on a serial line while its size was asked for; what steers the cursor is left out.
pub fn keys_in(typed: &[u8]) -> Vec<KeyEvent> {
    let text = String::from_utf8_lossy(typed);
    let mut keys = Vec::new();
    let mut letters = text.chars().peekable();
    while let Some(letter) = letters.next() {
        match letter {
            '\r' | '\n' => keys.push(KeyCode::Enter.into()),
            '\x1b' if letters.peek() == Some(&'[') => {
                letters.find(|letter| letter.is_ascii_alphabetic() || *letter == '~');
            }
            '\x1b' => keys.push(KeyCode::Esc.into()),
            letter if !letter.is_control() => keys.push(KeyCode::Char(letter).into()),
            _ => {}
        }
    }
    keys
}

#[cfg(test)]
mod tests {
    use ratatui::buffer::Buffer;
    use ratatui::layout::Rect;
    use rstest::rstest;

    use super::*;
    use crate::kit::theme::Theme;

    fn drawn(welcome: &Welcome, (width, height): (u16, u16)) -> String {
        let area = Rect::new(0, 0, width, height);
        let (mut buffer, theme) = (Buffer::empty(area), Theme::full());
        welcome.draw(&mut Canvas::new(&mut buffer, area, &theme));
        let row = |y: u16| (0..width).map(|x| buffer[(x, y)].symbol()).collect::<String>().trim_end().to_owned();
        (0..height).map(row).collect::<Vec<_>>().join("\n")
    }

    fn facts() -> SystemFacts {
        SystemFacts { machine: "Bench 4".into(), processor: "Core 12".into(), ..Default::default() }
    }

    #[rstest]
    #[case((80, 25))]
    #[case((128, 48))]
    #[case((60, 18))]
    fn it_says_what_is_being_done_and_which_keys_wait(#[case] size: (u16, u16)) {
        let mut welcome = Welcome::on(&facts(), 8 << 30);
        let first = drawn(&welcome, size);
        assert!(first.contains("Bench 4") && first.contains("8 GiB") && first.contains("▶ loading drivers"), "{first}");
        welcome.told(&Starting::Drive, 3);
        welcome.key(KeyCode::Enter.into());
        welcome.key(KeyCode::Char('2').into());
        let then = drawn(&welcome, size);
        assert!(then.contains("✓ loading drivers") && then.contains("3 s"), "{then}");
        assert!(then.contains("Enter 2"), "{then}");
        welcome.opens();
        let last = drawn(&welcome, size);
        assert!(
            last.contains("▶ then the board") && last.contains("✓ looking for the drive") && last.contains("Enter 2"),
            "{last}"
        );
        assert_eq!(welcome.keys(), [KeyCode::Enter.into(), KeyCode::Char('2').into()]);
    }

    #[test]
    fn what_was_typed_on_a_line_becomes_keys() {
        assert_eq!(
            keys_in(b"2\r\x1b[A\x1bx"),
            [KeyCode::Char('2').into(), KeyCode::Enter.into(), KeyCode::Esc.into(), KeyCode::Char('x').into()]
        );
        assert_eq!(keys_in(b""), []);
    }
}
