//! Moving modules by hand.

use crossterm::event::KeyCode;
use revisum_record::fitted::{Board, Module, Slot};
use rstest::rstest;

use super::*;
use crate::room::screen::Room;
use crate::room::step::Outcome;
use crate::shared::facts::Facts;

fn shared(slot: usize, table: &[&str], soldered: bool) -> Shared {
    let module = |serial: &str| Module { serial: serial.into(), ..Module::default() };
    let place = |id: &str, fitted: Option<&str>| Slot { id: id.into(), soldered, module: fitted.map(module), ..Slot::default() };
    let board = Board { slots: vec![place("A1", Some("one")), place("A2", None)], ..Board::default() };
    let table = table.iter().map(|serial| module(serial)).collect();
    Shared { slot, ..Shared::new(Facts { board, table, can_move: true, ..Facts::default() }, (128, 40)) }
}

#[rstest]
#[case::taken_out(shared(0, &[], false), &[], &[])]
#[case::put_in(shared(1, &["two"], false), &[], &[("A1", "one"), ("A2", "two")])]
#[case::another_one(shared(1, &["two", "three"], false), &[KeyCode::Right], &[("A1", "one"), ("A2", "three")])]
fn modules_move(#[case] shared: Shared, #[case] keys: &[KeyCode], #[case] expected: &[(&str, &str)]) {
    let mut swap = Swap::default();
    keys.iter().for_each(|code| drop(swap.press(*code, &shared)));
    let step = swap.press(KeyCode::Char(' '), &shared).unwrap();
    let expected: Vec<(String, String)> = expected.iter().map(|(slot, id)| ((*slot).into(), (*id).into())).collect();
    assert!(matches!(step.as_slice(), [Ask::Do(Effect::Refit(placement))] if *placement == expected), "{step:?}");
}

#[rstest]
#[case::nothing_loose(shared(1, &[], false), "No module is removed")]
#[case::soldered(shared(0, &[], true), "soldered")]
fn what_cannot_be_moved_is_said(#[case] shared: Shared, #[case] words: &str) {
    let step = Swap::default().press(KeyCode::Char(' '), &shared).unwrap();
    assert!(matches!(step.as_slice(), [Ask::Say(said)] if said.contains(words)), "{step:?}");
}

/// A note is kept with when it was written, without control characters; an empty one is not.
#[rstest]
#[case::words("fan\u{1b}[2J rattles", Some("fan"))]
#[case::nothing("  ", None)]
fn notes_are_kept(#[case] typed: &str, #[case] begins: Option<&str>) {
    let shared = shared(0, &[], false);
    let mut step = Swap::default().press(KeyCode::Char('n'), &shared).unwrap();
    let Some(Ask::Show(dialog)) = step.pop() else { panic!("{step:?}") };
    let mut dialog = dialog;
    typed.chars().for_each(|letter| drop(dialog.key(KeyCode::Char(letter).into())));
    let Outcome::Closed(kept) = dialog.key(KeyCode::Enter.into()) else { panic!("still open") };
    let words = kept.iter().find_map(|ask| match ask {
        Ask::Do(Effect::Decide(entry)) => match entry.as_ref() {
            JobEntry::Noted { words, .. } => Some(words.clone()),
            _ => None,
        },
        _ => None,
    });
    assert_eq!(words.is_some(), begins.is_some(), "{kept:?}");
    assert!(words.iter().all(|words| words.starts_with(begins.unwrap()) && !words.chars().any(char::is_control)));
}
