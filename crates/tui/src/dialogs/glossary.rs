//! The terms, a line each, with the chosen one whole.

use crossterm::event::{KeyCode, KeyEvent};
use revisum_words::{Language, Term, Texts, glossary};

use crate::kit::canvas::Canvas;
use crate::kit::table::{self, Column};
use crate::room::step::{Dialog, Outcome};
use crate::say;
use crate::shared::state::{Shared, stepped};

/// Lines that a page key goes.
const PAGE: isize = 10;
/// Rows below the list: the chosen meaning in up to two rows, air, and the keys.
const BELOW: u16 = 5;

/// The glossary.
#[derive(Debug)]
pub struct Glossary {
    terms: Vec<Term>,
    at: usize,
}

impl Glossary {
    /// In this language.
    pub fn new(language: Language) -> Self {
        Self { terms: glossary(Texts::of(language)), at: 0 }
    }
}

impl Dialog for Glossary {
    fn key(&mut self, key: KeyEvent) -> Outcome {
        let by = match key.code {
            KeyCode::Up => -1,
            KeyCode::Down => 1,
            KeyCode::PageUp => -PAGE,
            KeyCode::PageDown => PAGE,
            KeyCode::Home => isize::MIN / 2,
            KeyCode::End => isize::MAX / 2,
            _ => return Outcome::Closed(Vec::new()),
        };
        self.at = stepped(self.at, by, self.terms.len());
        Outcome::Open
    }

    fn draw(&self, canvas: &mut Canvas<'_>, _shared: &Shared) {
        let columns = [Column::fixed(say::glossary_term(), 22), Column::fit(say::glossary_meaning())];
        let theme = canvas.theme;
        let line = |at: usize| {
            let style = if at == self.at { theme.strong() } else { theme.text() };
            vec![(self.terms[at].name.clone(), style), (self.terms[at].meaning.clone(), theme.text())]
        };
        let (width, height) = (canvas.width(), canvas.height());
        let rows = table::draw(
            &mut canvas.part(0, 0, width, height.saturating_sub(BELOW)),
            &columns,
            self.terms.len(),
            Some(self.at),
            &line,
        );
        if let Some(term) = self.terms.get(self.at) {
            canvas.paragraph(
                2,
                rows + 1,
                width.saturating_sub(4),
                theme.strong(),
                &format!("{}: {}", term.name, term.meaning),
            );
        }
        canvas.put(2, rows + 4, theme.label(), say::glossary_keys());
    }
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;

    #[rstest]
    #[case::down(&[KeyCode::Down, KeyCode::Down], Some(2))]
    #[case::up_at_the_top(&[KeyCode::Up], Some(0))]
    #[case::end(&[KeyCode::End, KeyCode::Down], Some(31))]
    #[case::closed(&[KeyCode::Esc], None)]
    fn it_is_gone_through(#[case] keys: &[KeyCode], #[case] expected: Option<usize>) {
        let mut glossary = Glossary::new(Language::EN);
        let open = keys.iter().all(|code| matches!(glossary.key((*code).into()), Outcome::Open));
        assert_eq!(open.then_some(glossary.at), expected);
    }
}
