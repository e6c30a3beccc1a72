//! Bringing in records from a drive: from which folder.

use std::path::{Path, PathBuf};

use crossterm::event::{KeyCode, KeyEvent};
use tui_input::Input;

use crate::say;
use crate::kit::canvas::Canvas;
use crate::kit::typing::typed;
use crate::room::step::{Ask, Dialog, Outcome, Step, does, says};
use crate::shared::effect::Effect;
use crate::shared::state::Shared;

/// Longest path that is typed.
const LONGEST: usize = 400;

/// A folder that is asked for.
#[derive(Debug)]
struct BringIn {
    /// Typed so far.
    input: Input,
    /// Folders with records on mounted drives.
    found: Vec<PathBuf>,
}

/// Asks for the folder; the first that was found is proposed.
pub fn ask(found: Vec<PathBuf>) -> Step {
    let input = Input::new(found.first().map(|first| first.display().to_string()).unwrap_or_default());
    vec![Ask::Show(Box::new(BringIn { input, found }))]
}

impl Dialog for BringIn {
    fn key(&mut self, key: KeyEvent) -> Outcome {
        match key.code {
            KeyCode::Esc => return Outcome::Closed(Vec::new()),
            KeyCode::Enter if !self.input.value().trim().is_empty() => {
                return Outcome::Closed(does(Effect::BringIn(PathBuf::from(self.input.value().trim()))));
            }
            KeyCode::Enter => return Outcome::Closed(says(say::import_no_folder())),
            KeyCode::Up | KeyCode::Down => self.another(key.code == KeyCode::Up),
            _ => typed(&mut self.input, key, LONGEST),
        }
        Outcome::Open
    }

    fn draw(&self, canvas: &mut Canvas<'_>, _shared: &Shared) {
        let theme = canvas.theme;
        canvas.put(2, 1, theme.strong(), say::import_title());
        let width = canvas.width().saturating_sub(4);
        let told = match self.found.len() {
            0 => {
                say::import_no_drive().to_owned()
            }
            1 => say::import_one().to_owned(),
            several => say::import_several(several),
        };
        let rows = canvas.paragraph(2, 3, width, theme.label(), &told);
        let typed = canvas.paragraph(2, 4 + rows, width, theme.attention(), &format!("{}_", self.input.value()));
        let y = 5 + rows + typed;
        let words = say::import_copied();
        let rows = canvas.paragraph(2, y, width, theme.text(), words);
        canvas.put(2, y + rows + 1, theme.label(), say::import_keys());
    }
}

impl BringIn {
    fn another(&mut self, up: bool) {
        let by = if up { self.found.len().saturating_sub(1) } else { 1 };
        let at = self.found.iter().position(|place| place == Path::new(self.input.value())).map_or(0, |at| at + by);
        if let Some(place) = self.found.get(at % self.found.len().max(1)) {
            self.input = Input::new(place.display().to_string());
        }
    }
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;

    #[rstest]
    #[case::proposed(&["/a", "/b"], &[KeyCode::Enter], Some("/a"))]
    #[case::another(&["/a", "/b"], &[KeyCode::Down, KeyCode::Enter], Some("/b"))]
    #[case::round(&["/a", "/b"], &[KeyCode::Down, KeyCode::Down, KeyCode::Enter], Some("/a"))]
    #[case::back(&["/a", "/b"], &[KeyCode::Up, KeyCode::Enter], Some("/b"))]
    #[case::typed(&[], &[KeyCode::Char('/'), KeyCode::Char('x'), KeyCode::Down, KeyCode::Enter], Some("/x"))]
    #[case::nothing_typed(&[], &[KeyCode::Enter], None)]
    #[case::left(&["/a"], &[KeyCode::Esc, KeyCode::Enter], None)]
    fn a_folder_is_proposed_chosen_or_typed(
        #[case] found: &[&str],
        #[case] keys: &[KeyCode],
        #[case] expected: Option<&str>,
    ) {
        let step = ask(found.iter().map(PathBuf::from).collect());
        let Some(Ask::Show(mut dialog)) = step.into_iter().next() else { panic!("a dialog opens") };
        let closed = keys.iter().find_map(|code| match dialog.key(KeyEvent::from(*code)) {
            Outcome::Open => None,
            Outcome::Closed(step) => Some(step),
        });
        let asked = closed.unwrap_or_default().into_iter().next();
        let path = match asked {
            Some(Ask::Do(Effect::BringIn(path))) => Some(path),
            _ => None,
        };
        assert_eq!(path, expected.map(PathBuf::from));
    }
}
