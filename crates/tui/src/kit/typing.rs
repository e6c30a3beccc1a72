//! A line of text that is being typed.

use crossterm::event::{Event, KeyCode, KeyEvent};
use tui_input::Input;
use tui_input::backend::crossterm::EventHandler as _;

/// Takes one key press; the text grows to `longest` letters at most.
pub fn typed(input: &mut Input, key: KeyEvent, longest: usize) {
    if !matches!(key.code, KeyCode::Char(_)) || input.value().chars().count() < longest {
        // What changed is seen from the text itself.
        let _ = input.handle_event(&Event::Key(key));
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_line_grows_to_its_longest_and_can_still_be_taken_back() {
        let mut input = Input::default();
        ['a', 'b', 'c', 'd'].into_iter().for_each(|letter| typed(&mut input, KeyCode::Char(letter).into(), 3));
        assert_eq!(input.value(), "abc");
        typed(&mut input, KeyCode::Backspace.into(), 3);
        assert_eq!(input.value(), "ab");
    }
}
