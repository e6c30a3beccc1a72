//! Something to be said.

use crossterm::event::{KeyCode, KeyEvent};

use crate::kit::canvas::Canvas;
use crate::room::step::{Dialog, Outcome, goes};
use crate::room::view::View;
use crate::say;
use crate::shared::state::Shared;

/// Words that any key closes. The number of a screen leads there as well: whoever presses one meant to go on.
#[derive(Debug)]
pub struct Notice(pub String);

impl Dialog for Notice {
    fn key(&mut self, key: KeyEvent) -> Outcome {
        let view = View::ALL.iter().find(|view| key.code == KeyCode::Char(view.digit()));
        Outcome::Closed(view.map(|view| goes(*view)).unwrap_or_default())
    }

    fn draw(&self, canvas: &mut Canvas<'_>, _shared: &Shared) {
        let theme = canvas.theme;
        let width = canvas.width().saturating_sub(4).min(90);
        let rows = canvas.paragraph(2, 1, width, theme.text(), &self.0);
        canvas.put(2, 2 + rows, theme.label(), say::any_key_closes());
    }
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;
    use crate::room::step::{Ask, Entry};

    #[rstest]
    #[case::number(KeyCode::Char('4'), Some(View::Run))]
    #[case::enter_begins_nothing(KeyCode::Enter, None)]
    #[case::any_other(KeyCode::Char('x'), None)]
    fn what_closes_it(#[case] code: KeyCode, #[case] view: Option<View>) {
        let Outcome::Closed(step) = Notice("words".into()).key(code.into()) else { panic!("any key closes it") };
        let gone = step.iter().find_map(|ask| match ask {
            Ask::Go(Entry::Plain(view)) => Some(*view),
            _ => None,
        });
        assert_eq!((gone, step.len()), (view, usize::from(view.is_some())));
    }
}
