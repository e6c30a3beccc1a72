//! Bringing in records from a drive: from which folder.

use std::path::{Path, PathBuf};

use crossterm::event::{KeyCode, KeyEvent};
use tui_input::Input;

use super::effect::Effect;
use super::state::{App, Overlay};
use super::typing::typed;

/// Longest path that is typed.
const LONGEST: usize = 400;

/// Looks for drives, unless records are on their way already.
pub fn open(app: &mut App) -> Vec<Effect> {
    match &app.bringing_in {
        None => vec![Effect::FindRecords],
        Some(now) => {
            let words =
                format!("Records are being brought in from {}. It says so when they are here.", now.from.display());
            app.overlay = Some(Overlay::Notice(words));
            Vec::new()
        }
    }
}

/// Asks for the folder; the first that was found is proposed.
pub fn ask(app: &mut App, found: Vec<PathBuf>) {
    let input = Input::new(found.first().map(|first| first.display().to_string()).unwrap_or_default());
    app.overlay = Some(Overlay::BringIn { input, found });
}

/// Takes one key press.
pub fn key(app: &mut App, key: KeyEvent, mut input: Input, found: Vec<PathBuf>) -> Vec<Effect> {
    match key.code {
        KeyCode::Esc => return Vec::new(),
        KeyCode::Enter if !input.value().trim().is_empty() => {
            return vec![Effect::BringIn(PathBuf::from(input.value().trim()))];
        }
        KeyCode::Up | KeyCode::Down => {
            let by = if key.code == KeyCode::Up { found.len().saturating_sub(1) } else { 1 };
            let at = found.iter().position(|place| place == Path::new(input.value())).map_or(0, |at| at + by);
            if let Some(place) = found.get(at % found.len().max(1)) {
                input = Input::new(place.display().to_string());
            }
        }
        _ => typed(&mut input, key, LONGEST),
    }
    app.overlay = Some(Overlay::BringIn { input, found });
    Vec::new()
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;
    use crate::state::Facts;

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
        let mut app = App::new(Facts::default(), (80, 25));
        ask(&mut app, found.iter().map(PathBuf::from).collect());
        let mut effects = Vec::new();
        for code in keys {
            let Some(Overlay::BringIn { input, found }) = app.overlay.take() else { break };
            effects = key(&mut app, KeyEvent::from(*code), input, found);
        }
        let expected: Vec<Effect> = expected.map(|path| Effect::BringIn(path.into())).into_iter().collect();
        assert_eq!(effects, expected);
    }
}
