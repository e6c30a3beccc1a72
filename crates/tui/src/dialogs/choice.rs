//! A list to choose one line of.

use crossterm::event::{KeyCode, KeyEvent};

use crate::kit::canvas::Canvas;
use crate::room::step::{Dialog, Outcome, Step, says};
use crate::say;
use crate::shared::state::Shared;

/// A list, and what each of its lines does.
#[derive(Debug)]
pub struct Choice {
    title: String,
    lines: Vec<(String, Step)>,
    /// Nothing while no line is chosen yet.
    chosen: Option<usize>,
}

impl Choice {
    /// The list, opened on its first line; or, where it is empty, why.
    pub fn open(title: impl Into<String>, lines: Vec<(String, Step)>, empty: &str) -> Step {
        Self::opened(title.into(), lines, empty, Some(0))
    }

    /// The same without a chosen line: it is not answered by a key that was pressed out of habit.
    pub fn ask(title: impl Into<String>, lines: Vec<(String, Step)>, empty: &str) -> Step {
        Self::opened(title.into(), lines, empty, None)
    }

    fn opened(title: String, lines: Vec<(String, Step)>, empty: &str, chosen: Option<usize>) -> Step {
        if lines.is_empty() {
            return says(empty);
        }
        vec![crate::room::step::Ask::Show(Box::new(Self { title, lines, chosen }))]
    }
}

impl Dialog for Choice {
    fn key(&mut self, key: KeyEvent) -> Outcome {
        let last = self.lines.len().saturating_sub(1);
        self.chosen = match (key.code, self.chosen) {
            (KeyCode::Esc, _) => return Outcome::Closed(Vec::new()),
            (KeyCode::Enter, Some(at)) => return Outcome::Closed(self.lines.swap_remove(at).1),
            (KeyCode::Up, None) | (KeyCode::End, _) => Some(last),
            (KeyCode::Down, None) | (KeyCode::Home, _) => Some(0),
            (KeyCode::Up, Some(at)) => Some(at.saturating_sub(1)),
            (KeyCode::Down, Some(at)) => Some((at + 1).min(last)),
            (_, chosen) => chosen,
        };
        Outcome::Open
    }

    fn draw(&self, canvas: &mut Canvas<'_>, _shared: &Shared) {
        let theme = canvas.theme;
        let width = canvas.width().saturating_sub(4);
        let top = canvas.paragraph(2, 1, width, theme.strong(), &self.title) + 2;
        let room = usize::from(canvas.height().saturating_sub(top + 2)).max(1);
        let first = self.chosen.map_or(0, |chosen| (chosen + 1).saturating_sub(room));
        for (y, (at, (line, _))) in (top..).zip(self.lines.iter().enumerate().skip(first).take(room)) {
            let here = Some(at) == self.chosen;
            if here {
                canvas.put(2, y, theme.attention(), theme.marks.here);
            }
            canvas.put(4, y, if here { theme.strong() } else { theme.text() }, line);
        }
        let below = top + 1 + self.lines.len().min(room) as u16;
        canvas.put(2, below, theme.label(), say::choice_keys());
    }
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;
    use crate::room::step::Ask;

    fn lines(count: usize) -> Vec<(String, Step)> {
        (0..count).map(|at| (format!("line {at}"), says(at.to_string()))).collect()
    }

    /// What the keys come to; nothing where the list stays open, and an empty word where nothing was chosen.
    fn pressed(step: Step, keys: &[KeyCode]) -> Option<String> {
        let Some(Ask::Show(mut dialog)) = step.into_iter().next() else { return None };
        keys.iter().find_map(|code| match dialog.key((*code).into()) {
            Outcome::Open => None,
            Outcome::Closed(step) => Some(match step.into_iter().next() {
                Some(Ask::Say(words)) => words,
                _ => String::new(),
            }),
        })
    }

    use KeyCode::{Char, Down, End, Enter, Esc, Up};

    #[rstest]
    #[case::first(&[Enter], Some("0"))]
    #[case::second(&[Down, Enter], Some("1"))]
    #[case::ends_hold(&[Down, Down, Down, Down, Enter], Some("2"))]
    #[case::back(&[Down, Up, Up, Enter], Some("0"))]
    #[case::last(&[End, Enter], Some("2"))]
    #[case::closed(&[Down, Esc], Some(""))]
    #[case::other_keys_do_nothing(&[Char('x'), Char('q')], None)]
    fn one_line_is_chosen(#[case] keys: &[KeyCode], #[case] expected: Option<&str>) {
        assert_eq!(pressed(Choice::open("title", lines(3), "empty"), keys).as_deref(), expected);
    }

    #[rstest]
    #[case::habit(&[Enter, Enter], None)]
    #[case::chosen(&[Down, Enter], Some("0"))]
    #[case::from_below(&[Up, Enter], Some("2"))]
    fn a_question_is_not_answered_out_of_habit(#[case] keys: &[KeyCode], #[case] expected: Option<&str>) {
        assert_eq!(pressed(Choice::ask("title", lines(3), "empty"), keys).as_deref(), expected);
    }

    #[test]
    fn an_empty_list_says_why() {
        let step = Choice::open("title", lines(0), "There is nothing.");
        assert!(matches!(step.as_slice(), [Ask::Say(words)] if words == "There is nothing."));
    }
}
