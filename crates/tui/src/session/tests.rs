//! The session without a terminal: keys and pointing in, pictures out.

use std::sync::Arc;

use crossterm::event::{KeyCode, KeyModifiers};
use proptest::prelude::*;
use revisum_diagnose::board::RawFirmware;
use revisum_drive::{Begin, DriveSettings};
use revisum_linux::boot::Entry;
use revisum_words::{Language, speaking};
use rstest::rstest;

use super::*;
use crate::booted::Booted;
use crate::{Demo, demo_session};

fn opened(data: &std::path::Path, machine: Option<&str>) -> Session {
    let demo = Demo { machine: machine.map(str::to_owned), seed: 1, pace: 0.0 };
    demo_session(Some(data), &demo, (100, 30), Arc::new(|| ())).unwrap()
}

fn press(session: &mut Session, code: KeyCode) -> Option<Wish> {
    session.key(KeyEvent::new(code, KeyModifiers::NONE))
}

/// Waits until the picture has these words in it.
fn until(session: &mut Session, words: &str) {
    while !session.text().contains(words) {
        session.published();
        std::thread::yield_now();
    }
}

#[test]
fn it_opens_where_the_work_is_and_leaves_by_a_key() {
    let data = tempfile::tempdir().unwrap();
    let mut session = opened(data.path(), Some("meteo"));
    session.look_at_the_clock();
    assert!(session.text().contains("meteo") && session.text().contains("simulated"), "{}", session.text());
    assert!(!session.is_over());
    press(&mut session, KeyCode::Char('q'));
    assert!(session.is_over());
    assert_eq!(session.close(), (None, None));
}

#[test]
fn a_garbled_screen_is_wiped_on_request_only() {
    let data = tempfile::tempdir().unwrap();
    let mut session = opened(data.path(), Some("meteo"));
    assert_eq!(press(&mut session, KeyCode::Char('3')), None);
    assert_eq!(press(&mut session, KeyCode::Char('g')), Some(Wish::Wipe));
    session.close();
}

#[test]
fn the_picture_has_the_terminals_size_whatever_that_is() {
    let data = tempfile::tempdir().unwrap();
    let mut session = opened(data.path(), Some("meteo"));
    for (width, height) in [(100, 30), (80, 25), (160, 47), (20, 5), (1, 1)] {
        assert_eq!(session.resized(width, height), None);
        let text = session.text();
        assert_eq!(text.lines().count(), usize::from(height));
        assert!(text.lines().all(|line| line.chars().count() <= usize::from(width)), "{text}");
    }
    session.close();
}

/// Results that have nowhere to go are shown and counted, and no screen says that they are written.
#[test]
fn what_is_not_recorded_is_in_sight_and_counts_all_the_same() {
    let data = tempfile::tempdir().unwrap();
    let mut session = opened(data.path(), Some("meteo"));
    assert!(session.text().contains("recorded") && !session.text().contains("NOT RECORDED"), "{}", session.text());
    let before = session.app.shared().facts.trials.len();
    std::fs::remove_dir_all(data.path()).unwrap();
    press(&mut session, KeyCode::Enter);
    while session.app.shared().run.is_none() || session.app.shared().is_running() {
        session.published();
        std::thread::yield_now();
    }
    for view in ['2', '4', '6', '9'] {
        press(&mut session, KeyCode::Char(view));
        assert!(session.text().contains("NOT RECORDED"), "{}", session.text());
    }
    press(&mut session, KeyCode::Char('4'));
    session.app.shared_mut().unattended = true;
    assert!(session.text().contains("NOT RECORDED") && !session.text().contains("0 Jobs"), "{}", session.text());
    session.app.shared_mut().unattended = false;
    assert_eq!(session.app.shared().facts.trials.len(), before + 1, "the run counts as long as it is known");
    let (_, not_kept) = session.close();
    assert!(not_kept.is_some());
}

#[test]
fn a_planned_run_begins_when_its_seconds_are_over_and_not_before() {
    let data = tempfile::tempdir().unwrap();
    let mut session = opened(data.path(), Some("meteo"));
    session.app.shared_mut().begins_in = Some(2);
    session.second();
    assert_eq!((session.app.shared().begins_in, session.app.shared().run.is_some()), (Some(1), false));
    session.second();
    assert_eq!((session.app.shared().begins_in, session.app.shared().run.is_some()), (None, true));
    session.second();
    session.close();
}

#[test]
fn any_key_holds_a_run_that_would_begin_by_itself() {
    let data = tempfile::tempdir().unwrap();
    let mut session = opened(data.path(), Some("meteo"));
    session.app.shared_mut().begins_in = Some(1);
    press(&mut session, KeyCode::Char('2'));
    session.second();
    assert!(session.app.shared().run.is_none());
    session.close();
}

/// A run that found errors in one of two slots; then their channels are found by timing, and their slots by warmth: a key each.
#[test]
fn locate_finds_channels_by_timing_and_their_slots_by_warmth() {
    let data = tempfile::tempdir().unwrap();
    let bench = concat!(env!("CARGO_MANIFEST_DIR"), "/../sim/tests/benches/by-time.toml");
    let mut session = opened(data.path(), Some(bench));
    press(&mut session, KeyCode::Char('3'));
    press(&mut session, KeyCode::Enter);
    until(&mut session, "repeat what failed");
    press(&mut session, KeyCode::Char('5'));
    until(&mut session, "any slot in use is possible");
    press(&mut session, KeyCode::Char('v'));
    until(&mut session, "2 channels found, and their slots");
    press(&mut session, KeyCode::Esc);
    assert!(session.text().contains("same half of the addresses"), "{}", session.text());
    press(&mut session, KeyCode::Char('u'));
    until(&mut session, "DIMM_B1 (…30B1): a single cell");
    session.close();
}

/// A drive that was pulled takes its records with it: the report is made of what is in memory, and says that nothing can be compared.
#[test]
fn a_report_without_its_records_says_so() {
    let data = tempfile::tempdir().unwrap();
    let mut session = opened(data.path(), Some("meteo"));
    press(&mut session, KeyCode::Char('3'));
    press(&mut session, KeyCode::Enter);
    until(&mut session, "took");
    std::fs::remove_dir_all(data.path().join("runs")).unwrap();
    press(&mut session, KeyCode::Char('9'));
    until(&mut session, "write report files");
    let mut text = session.text();
    while !text.contains("has no checksum") {
        press(&mut session, KeyCode::Down);
        let next = session.text();
        assert_ne!(text, next, "the end, and not a word of it");
        text = next;
    }
    assert!(!text.contains("SHA-256"), "{text}");
    session.close();
}

/// What one machine saved opens on another: board, findings, facts and logs are read, nothing is run, and Enter leads on everywhere.
#[test]
fn saved_facts_are_read_and_nothing_is_run() {
    let (data, folder) = (tempfile::tempdir().unwrap(), tempfile::tempdir().unwrap());
    let machine = revisum_workbench::wire::simulated("dome-1", revisum_sim::SimOptions::default()).unwrap();
    let line = "EDAC MC0: 2 CE memory read error on B1 (page:0x1 offset:0x0)";
    let raw = RawFirmware { kernel_log: vec![line.to_owned()], ..machine.firmware.raw() };
    let saved = folder.path().join("west-1");
    revisum_linux::save_folder(&saved, &raw).unwrap();
    let mut session = crate::saved_session(&saved, data.path(), (128, 40), Arc::new(|| ())).unwrap();
    let screen = session.text();
    for words in ["west-1", "saved facts, nothing is kept", "Tarnwerk Holm M2", "4A220093", "2 corrected memory errors"]
    {
        assert!(screen.contains(words), "{words}: {screen}");
    }
    assert!(!screen.contains("complaint") && !screen.contains("not tested"), "{screen}");
    press(&mut session, KeyCode::Enter);
    assert!(session.text().contains("SMBIOS type 17"), "{}", session.text());
    for view in ['0', '1', '3', '4', '5', '6', '8'] {
        press(&mut session, KeyCode::Char(view));
        press(&mut session, KeyCode::Enter);
        while session.is_waiting() {
            session.published();
        }
        assert!(session.app.shared().run.is_none(), "nothing can be run, here from view {view}");
    }
    press(&mut session, KeyCode::Char('2'));
    session.close();
}

#[rstest]
#[case('0', "Jobs")]
#[case('1', "Intake")]
#[case('2', "Board")]
#[case('3', "Recipe")]
#[case('4', "Run")]
#[case('5', "Locate")]
#[case('6', "Swap")]
#[case('7', "Speed")]
#[case('8', "Logs")]
#[case('9', "Report")]
fn every_view_is_one_digit_away_at_every_size(#[case] digit: char, #[case] name: &str) {
    let data = tempfile::tempdir().unwrap();
    let mut session = opened(data.path(), Some("meteo"));
    press(&mut session, KeyCode::Char(digit));
    for size in [(160, 47), (128, 40), (100, 30), (80, 25)] {
        session.resized(size.0, size.1);
        let text = session.text();
        assert!(
            text.contains(name),
            "{name} at {size:?}:
{text}"
        );
        assert!(
            text.contains("? keys"),
            "{name} at {size:?} shows no keys:
{text}"
        );
    }
    session.close();
}

/// Where a text is on the screen.
fn place(session: &Session, words: &str) -> (u16, u16) {
    let text = session.text();
    let mut rows = (0u16..).zip(text.lines());
    let found = rows.find_map(|(y, line)| Some((line[..line.find(words)?].chars().count() as u16, y)));
    found.unwrap_or_else(|| panic!("{words:?} is not on the screen:\n{text}"))
}

/// Whatever keys reach can be pointed at: tabs, slots, lines of a list, keys of the footer.
#[test]
fn what_is_seen_can_be_pointed_at() {
    let data = tempfile::tempdir().unwrap();
    let mut session = opened(data.path(), Some("dome-1"));
    session.resized(128, 40);
    let point = |session: &mut Session, words: &str| {
        let (x, y) = place(session, words);
        session.pointed(x + 1, y);
        session.text()
    };
    assert!(point(&mut session, "B1  ").contains("▶ B1"));
    assert!(point(&mut session, "3 Recipe").contains("march C−"));
    assert!(point(&mut session, "overnight").contains("▶ · overnight"));
    assert!(point(&mut session, "overnight").contains("● overnight"), "pointed at again it is chosen");
    assert!(point(&mut session, "8 Logs").contains("started"));
    let opened = point(&mut session, "24 memory errors");
    assert!(opened.contains("log of"), "{opened}");
    assert!(point(&mut session, "Enter back").contains("started"));
    assert!(point(&mut session, "? keys").contains("Keys in Logs"));
    session.pointed(0, 39);
    session.close();
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 12, ..ProptestConfig::default() })]

    /// Whatever is pressed, in whatever order: there is a picture after each key, and it can be left.
    #[test]
    fn keys_of_any_kind_do_no_harm(keys in proptest::collection::vec(0usize..KEYS.len(), 1..60)) {
        let data = tempfile::tempdir().unwrap();
        // One of the keys changes the language: of this thread only.
        speaking(Language::EN, || {
            let mut session = opened(data.path(), Some("meteo"));
            for at in keys {
                press(&mut session, KEYS[at]);
                session.published();
                session.second();
                prop_assert_eq!(session.text().lines().count(), 30);
            }
            session.end();
            prop_assert!(session.is_over());
            session.close();
            Ok(())
        })?;
    }
}

/// All but those that leave.
const KEYS: [KeyCode; 44] = [
    KeyCode::Enter,
    KeyCode::Esc,
    KeyCode::Up,
    KeyCode::Down,
    KeyCode::Left,
    KeyCode::Right,
    KeyCode::Tab,
    KeyCode::Home,
    KeyCode::End,
    KeyCode::PageUp,
    KeyCode::PageDown,
    KeyCode::Backspace,
    KeyCode::Char(' '),
    KeyCode::Char('0'),
    KeyCode::Char('1'),
    KeyCode::Char('2'),
    KeyCode::Char('3'),
    KeyCode::Char('4'),
    KeyCode::Char('5'),
    KeyCode::Char('6'),
    KeyCode::Char('7'),
    KeyCode::Char('8'),
    KeyCode::Char('9'),
    KeyCode::Char('a'),
    KeyCode::Char('b'),
    KeyCode::Char('c'),
    KeyCode::Char('d'),
    KeyCode::Char('f'),
    KeyCode::Char('g'),
    KeyCode::Char('h'),
    KeyCode::Char('i'),
    KeyCode::Char('l'),
    KeyCode::Char('m'),
    KeyCode::Char('n'),
    KeyCode::Char('p'),
    KeyCode::Char('r'),
    KeyCode::Char('s'),
    KeyCode::Char('t'),
    KeyCode::Char('u'),
    KeyCode::Char('w'),
    KeyCode::Char('x'),
    KeyCode::Char('?'),
    KeyCode::Char('/'),
    KeyCode::Char('+'),
];

#[test]
fn the_system_can_end_it() {
    let data = tempfile::tempdir().unwrap();
    let mut session = opened(data.path(), None);
    assert_eq!(session.end(), None);
    assert!(session.is_over());
}

fn booted(begin: Begin, results: Option<&std::path::Path>, chained: bool) -> Booted {
    Booted {
        entry: if chained { Entry::High } else { Entry::Low },
        chained,
        results: results.map(std::path::Path::to_owned),
        doubt: None,
        not_kept: results.is_none().then(|| "there is no drive".to_owned()),
        died: None,
        by_memory: false,
        settings: DriveSettings { begin, number: Some(7), ..DriveSettings::default() },
        troubles: Vec::new(),
    }
}

/// On a slow machine questions are open all the time; a drive that is plugged in then takes what was found all the same.
#[test]
fn a_late_drive_is_not_kept_waiting_by_other_questions() {
    let (data, drive) = (tempfile::tempdir().unwrap(), tempfile::tempdir().unwrap());
    let demo = Demo { machine: Some("frontdesk".into()), seed: 1, pace: 0.0 };
    let (mut workshop, first) = crate::demonstration(Some(data.path()), &demo).unwrap();
    workshop.was_booted(booted(Begin::Key, None, false)).unwrap();
    let there = drive.path().to_owned();
    workshop.looks_for_drive(Box::new(move || Some(there.clone())));
    let mut session = Session::here(workshop, first, (100, 30), Arc::new(|| ()));
    assert!(session.text().contains("NOT RECORDED"), "{}", session.text());
    session.sent.push_back(Sent::now(&Effect::Follow));
    session.second();
    assert!(!session.text().contains("NOT RECORDED"), "{}", session.text());
    assert!(std::fs::read_dir(drive.path().join("revisum/jobs")).unwrap().next().is_some());
    session.close();
}

/// A machine that was booted and that nobody touches: depths of the runs that begin, until it is left or the longest has begun.
fn left_alone(begin: Begin, chained: bool) -> (Vec<Depth>, Option<Leave>) {
    let data = tempfile::tempdir().unwrap();
    let demo = Demo { machine: Some("frontdesk".into()), seed: 1, pace: 0.0 };
    let (mut workshop, first) = crate::demonstration(Some(data.path()), &demo).unwrap();
    workshop.was_booted(booted(begin, Some(data.path()), chained)).unwrap();
    let mut session = Session::here(workshop, first, (100, 30), Arc::new(|| ()));
    assert!(session.text().contains(" 7 "), "{}", session.text());
    let mut depths: Vec<Depth> = Vec::new();
    for _ in 0..12 {
        session.second();
    }
    while !session.is_over() && session.app.shared().run.is_some() {
        let depth = session.app.shared().run_state().and_then(|run| Some(run.begin.recipe.as_ref()?.depth));
        depths.extend(depth.filter(|depth| depths.last() != Some(depth)));
        if depths.last() == Some(&Depth::Overnight) {
            press(&mut session, KeyCode::Char('x'));
            break;
        }
        session.published();
        std::thread::yield_now();
    }
    (depths, session.close().0)
}

/// From a first look through a survey to the rest of the memory, and then the night; where a key is waited for nothing begins.
#[rstest]
#[case::the_usual_start(Begin::AtOnce, false, &[Depth::Triage, Depth::Survey], Some(Leave::Other))]
#[case::the_second_start(Begin::Countdown, true, &[Depth::Triage, Depth::Survey, Depth::Overnight], None)]
#[case::a_key_is_waited_for(Begin::Key, false, &[], None)]
fn left_alone_it_does_one_thing_after_the_other(
    #[case] begin: Begin,
    #[case] chained: bool,
    #[case] depths: &[Depth],
    #[case] leave: Option<Leave>,
) {
    assert_eq!(left_alone(begin, chained), (depths.to_vec(), leave));
}
