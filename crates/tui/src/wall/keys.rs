//! Keys on their way to a machine.

use crossterm::event::{KeyCode, KeyEvent, KeyModifiers};
use revisum_link::Key;

/// Keys that have a name, on both sides.
const NAMED: [(KeyCode, Key); 14] = [
    (KeyCode::Enter, Key::Enter),
    (KeyCode::Esc, Key::Esc),
    (KeyCode::Backspace, Key::Backspace),
    (KeyCode::Tab, Key::Tab),
    (KeyCode::BackTab, Key::BackTab),
    (KeyCode::Up, Key::Up),
    (KeyCode::Down, Key::Down),
    (KeyCode::Left, Key::Left),
    (KeyCode::Right, Key::Right),
    (KeyCode::PageUp, Key::PageUp),
    (KeyCode::PageDown, Key::PageDown),
    (KeyCode::Home, Key::Home),
    (KeyCode::End, Key::End),
    (KeyCode::Delete, Key::Delete),
];

/// A key that was pressed here, for the other side; nothing for keys that no screen takes.
pub fn order_of(key: KeyEvent) -> Option<Key> {
    match key.code {
        KeyCode::Char(letter) if key.modifiers.contains(KeyModifiers::CONTROL) => Some(Key::Ctrl(letter)),
        KeyCode::Char(letter) => Some(Key::Char(letter)),
        code => NAMED.iter().find(|(known, _)| *known == code).map(|(_, key)| *key),
    }
}

/// A key that was pressed on the other side. Control characters are no letters.
pub fn pressed(key: Key) -> Option<KeyEvent> {
    let event = match key {
        Key::Char(letter) => KeyEvent::new(KeyCode::Char(letter), KeyModifiers::NONE),
        Key::Ctrl(letter) => KeyEvent::new(KeyCode::Char(letter), KeyModifiers::CONTROL),
        named => NAMED.iter().find(|(_, known)| *known == named).map(|(code, _)| KeyEvent::from(*code))?,
    };
    let is_letter = !matches!(event.code, KeyCode::Char(letter) if letter.is_control());
    is_letter.then_some(event)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn every_key_arrives_as_it_was_pressed() {
        let letters = ['a', 'ä', ' '].map(|letter| KeyEvent::new(KeyCode::Char(letter), KeyModifiers::NONE));
        let control = KeyEvent::new(KeyCode::Char('c'), KeyModifiers::CONTROL);
        let named = NAMED.iter().map(|(code, _)| KeyEvent::from(*code));
        for key in letters.into_iter().chain([control]).chain(named) {
            assert_eq!(order_of(key).and_then(pressed), Some(key));
        }
        assert_eq!(order_of(KeyCode::F(5).into()), None);
        assert_eq!(pressed(Key::Char('\u{1b}')), None);
    }
}
