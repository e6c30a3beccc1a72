//! Making a boot drive: what is offered, and what is not promised while one is written.

use std::sync::atomic::{AtomicBool, Ordering};
use std::sync::{Arc, Mutex, OnceLock};
use std::time::Instant;

use crossterm::event::KeyCode;
use revisum_drive::Drive;
use rstest::rstest;

use super::*;
use crate::room::screen::Room;
use crate::room::step::{Ask, Outcome};
use crate::shared::facts::Facts;
use crate::shared::news::Writing;

fn shared() -> Shared {
    Shared::new(Facts::default(), (128, 40))
}

fn drive(name: &str, refused: Option<&str>) -> Drive {
    Drive { name: name.into(), refused: refused.map(str::to_owned), ..Drive::default() }
}

fn with_drives(writing: bool) -> Jobs {
    let mut jobs = Jobs::default();
    let drives = vec![drive("Korund S16", None), drive("Basalt", Some("it holds this system"))];
    jobs.told(&News::Drives(drives, Some("revisum-boot.img".into())), &shared());
    if writing {
        let writing = Writing {
            name: "Korund S16".into(),
            progress: Mutex::default(),
            begin: Instant::now(),
            give_up: AtomicBool::default(),
            ended: OnceLock::new(),
        };
        jobs.told(&News::Writing(Arc::new(writing)), &shared());
    }
    jobs
}

fn words(jobs: &Jobs) -> Vec<String> {
    jobs.keys(&shared()).into_iter().map(|key| key.words).collect()
}

/// While a drive is being written nothing promises to leave that page.
#[test]
fn nothing_is_promised_while_a_drive_is_written() {
    let mut jobs = with_drives(true);
    let words = words(&jobs);
    assert!(!words.iter().any(|words| words == "back to jobs"), "{words:?}");
    assert!(words.iter().any(|words| words == "give up"), "{words:?}");
    let step = jobs.press(KeyCode::Esc, &shared()).unwrap();
    assert!(matches!(step.as_slice(), [Ask::Say(words)] if words.contains("being written")));
    jobs.entered(&Entry::Plain(View::Jobs), &shared());
    assert!(jobs.drives.is_some(), "it is still shown after looking elsewhere");
    jobs.press(KeyCode::Char('x'), &shared());
    let writing = jobs.drives.as_ref().and_then(|page| page.writing.as_ref());
    assert!(writing.is_some_and(|writing| writing.give_up.load(Ordering::SeqCst)));
}

#[rstest]
#[case::offered(&[], true)]
#[case::refused(&[KeyCode::Down], false)]
fn only_what_may_be_written_is_offered(#[case] keys: &[KeyCode], #[case] offered: bool) {
    let mut jobs = with_drives(false);
    keys.iter().for_each(|code| drop(jobs.press(*code, &shared())));
    assert_eq!(words(&jobs).iter().any(|words| words.starts_with("write it to")), offered);
}

#[rstest]
#[case::its_name("Korund S16", true)]
#[case::another_name("Basalt", false)]
#[case::nothing("", false)]
fn a_drive_is_written_only_by_its_name(#[case] typed: &str, #[case] written: bool) {
    let mut jobs = with_drives(false);
    let step = jobs.press(KeyCode::Enter, &shared()).unwrap();
    let Some(Ask::Show(mut dialog)) = step.into_iter().next() else { panic!("the name is asked for") };
    typed.chars().for_each(|letter| drop(dialog.key(KeyCode::Char(letter).into())));
    let Outcome::Closed(step) = dialog.key(KeyCode::Enter.into()) else { panic!("Enter closes it") };
    assert_eq!(matches!(step.as_slice(), [Ask::Do(Effect::WriteDrive { keep: false, .. })]), written, "{step:?}");
}
