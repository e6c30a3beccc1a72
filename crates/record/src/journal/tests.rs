//! Journals written, damaged and read again.

use std::io;
use std::sync::{Arc, Mutex};

use proptest::prelude::*;
use rstest::rstest;

use super::line::CRC_MEMBER;
use super::{Begin, Damage, Entry, Following, Held, JournalWriter, Record as _, read_brief, read_journal};
use crate::journal::JournalStore;
use crate::outcome::Judgement;
use crate::run_state::RunState;
use revisum_engine::news::{EndReason, ErrorReport, Progress, TestEnd};
use revisum_engine::sweep::BadWord;
use revisum_engine::sweep::second_look::Kind;
use revisum_engine::tally::Tally;

#[derive(Clone, Default)]
struct Shelf(Arc<Mutex<Vec<u8>>>);

impl JournalStore for Shelf {
    fn append(&mut self, bytes: &[u8]) -> io::Result<()> {
        self.0.lock().unwrap().extend_from_slice(bytes);
        Ok(())
    }
    fn sync(&mut self) -> io::Result<()> {
        Ok(())
    }
}

fn error_report() -> ErrorReport {
    let mut tally = Tally::default();
    let word = BadWord { offset: 24, expected: 0, actual: 1 << 19 };
    tally.add(word, 0x1_0000_0018, "B1", Kind::Recurring, 3);
    ErrorReport { pass: 1, test: "random".into(), tally }
}

fn entries() -> Vec<Entry> {
    let progress = Progress { pass: 1, test: "random".into(), notation: "up(r0,w1)".into(), ..Progress::default() };
    let begin = Begin { machine: "m".into(), wall_ms: 5, ..Begin::default() };
    let end = TestEnd { pass: 1, test: "random".into(), finished: true, errors: 1, ..TestEnd::default() };
    vec![
        Entry::Begin(Box::new(begin)),
        Entry::Held(Held { bytes: 4096, ..Held::default() }),
        Entry::TestEnded(end),
        Entry::PassBegan { pass: 1, seed: u64::MAX },
        Entry::Progress(progress),
        Entry::Planted { pass: 1, test: "random".into(), address: None, caught: true },
        Entry::Errors(Box::new(error_report())),
        Entry::Heat { sensor: "a \"quoted\" one, with \",\"crc\":\" inside".into(), celsius: 41.5 },
        Entry::Ended { reason: EndReason::Completed },
    ]
}

fn written() -> Vec<u8> {
    let shelf = Shelf::default();
    let mut writer = JournalWriter::new(Box::new(shelf.clone()), "j");
    for (at, entry) in (0u64..).zip(entries()) {
        writer.append(at * 10, &entry).unwrap();
    }
    shelf.0.lock().unwrap().clone()
}

/// A line with this body and its right checksum.
fn line_of(body: &str) -> String {
    let crc = crc32c::crc32c(body.as_bytes());
    format!("{}{CRC_MEMBER}{crc:08x}\"}}\n", &body[..body.len() - 1])
}

fn read(bytes: &[u8]) -> (Vec<Entry>, Damage) {
    let mut found = Vec::new();
    let damage = read_journal(&mut &*bytes, |framed| found.push(framed.entry)).unwrap().damage;
    (found, damage)
}

/// The short reading and the full one agree on everything that a list shows.
#[test]
fn a_brief_reading_comes_to_the_same() {
    let bytes = written();
    let (mut full, mut brief) = (RunState::default(), RunState::default());
    let damage = read_journal(&mut &*bytes, |framed| full.apply(&framed)).unwrap();
    assert_eq!(read_brief(&mut &*bytes, |framed| brief.apply(&framed)).unwrap(), damage);
    let shown = |state: &RunState| {
        let tests: Vec<_> = state.tests.iter().map(|test| (test.name.clone(), test.errors, test.passes)).collect();
        (
            state.begin.clone(),
            Judgement::of(state, false).told(),
            state.errors.words,
            state.errors.slots.clone(),
            tests,
            state.held.bytes,
        )
    };
    assert_eq!(shown(&brief), shown(&full));
    assert!(brief.records < full.records, "progress is passed over");
}

#[rstest]
#[case::other_order(r#"{"seq":0,"journal":"j","t_ms":0,"record":"paused"}"#)]
#[case::escaped(r#"{"journal":"\u006a","seq":0,"t_ms":0,"record":"paused"}"#)]
#[case::more_members(r#"{"journal":"j","seq":0,"t_ms":0,"record":"paused","by":"whom"}"#)]
fn lines_of_other_programs_are_read(#[case] body: &str) {
    assert_eq!(read(line_of(body).as_bytes()), (vec![Entry::Paused], Damage::default()));
}

#[test]
fn lines_that_fill_a_sector_are_passed_over() {
    let text = String::from_utf8(written()).unwrap();
    let filled: String = text.lines().map(|line| format!("{line}\n{}", super::filler(line.len() as u64 + 1))).collect();
    assert_eq!(filled.len() as u64 % super::SECTOR, 0);
    assert_eq!(read(filled.as_bytes()), (entries(), Damage::default()));
}

#[test]
fn a_newer_program_is_said() {
    let newer = Begin { format: super::FORMAT_VERSION + 1, ..Begin::default() };
    assert_eq!(newer.newer(), Some(super::FORMAT_VERSION + 1));
    assert_eq!(Begin { format: super::FORMAT_VERSION, ..Begin::default() }.newer(), None);
}

#[test]
fn what_was_written_is_read() {
    assert_eq!(read(&written()), (entries(), Damage::default()));
}

#[test]
fn a_tail_torn_at_any_byte_costs_only_the_torn_record() {
    let whole = written();
    for length in 0..whole.len() {
        let (found, damage) = read(&whole[..length]);
        let complete = whole[..length].iter().filter(|byte| **byte == b'\n').count();
        // A line that lacks only its line end is still whole.
        assert!(found.len() == complete || (found.len() == complete + 1 && !damage.torn_tail), "{length}");
        assert_eq!(found, entries()[..found.len()]);
        assert_eq!((damage.damaged, damage.missing, damage.unknown), (0, 0, 0));
    }
}

#[rstest]
#[case::rubbish_between(|lines: &mut Vec<String>| lines.insert(2, "\u{1b}[2J{{{{".into()), 9, (1, 0))]
#[case::a_line_gone(|lines: &mut Vec<String>| { lines.remove(2); }, 8, (0, 1))]
#[case::a_line_twice(|lines: &mut Vec<String>| { let line = lines[1].clone(); lines.insert(3, line); }, 9, (0, 0))]
#[case::a_line_changed(|lines: &mut Vec<String>| lines[5] = lines[5].replace("true", "false"), 8, (1, 0))]
fn damage_in_the_middle_is_said(
    #[case] spoil: fn(&mut Vec<String>),
    #[case] kept: usize,
    #[case] damaged_missing: (u64, u64),
) {
    let mut lines: Vec<String> = String::from_utf8(written()).unwrap().lines().map(str::to_owned).collect();
    spoil(&mut lines);
    let (found, damage) = read((lines.join("\n") + "\n").as_bytes());
    assert_eq!(found.len(), kept);
    if damaged_missing.0 == 0 {
        assert_eq!(damage.damaged, 0);
        assert_eq!(damage.missing, damaged_missing.1);
    } else {
        assert_eq!(damage.damaged, damaged_missing.0);
        assert!(damage.any());
    }
}

#[test]
fn records_of_a_newer_program_are_counted_not_guessed() {
    let body = r#"{"journal":"j","seq":0,"t_ms":0,"record":"telepathy"}"#;
    let (found, damage) = read(line_of(body).as_bytes());
    assert_eq!((found.len(), damage.unknown), (0, 1));
}

#[test]
fn another_journals_record_is_not_taken() {
    let mut bytes = written();
    let other = String::from_utf8(bytes.clone()).unwrap().replace("\"journal\":\"j\"", "\"journal\":\"k\"");
    bytes.extend(other.as_bytes());
    assert_eq!(read(&bytes).0.len(), entries().len());
}

proptest! {
    #[test]
    fn no_flipped_bit_goes_unnoticed(at in 0usize..3000, bit in 0u8..8) {
        let whole = written();
        let mut spoiled = whole.clone();
        let at = at % spoiled.len();
        spoiled[at] ^= 1 << bit;
        let (found, damage) = read(&spoiled);
        prop_assert!(found.iter().all(|entry| entries().contains(entry)));
        prop_assert!(found.len() == entries().len() || damage != Damage::default());
    }

    /// However it is cut, and whatever became of one byte: what grows comes to the same as what is whole.
    #[test]
    fn a_journal_that_grows_is_read_as_a_whole_one(at in 0usize..3000, bit in 0u8..8, cuts in prop::collection::vec(0usize..3000, 0..6)) {
        let mut bytes = written();
        let at = at % bytes.len();
        bytes[at] ^= 1 << bit;
        bytes.push(b'\n');
        let mut whole = Vec::new();
        let reading = read_journal::<Entry>(&mut bytes.as_slice(), |framed| whole.push(framed)).unwrap();
        let mut cuts: Vec<usize> = cuts.into_iter().map(|cut| cut % bytes.len()).collect();
        cuts.extend([0, bytes.len()]);
        cuts.sort_unstable();
        let (mut journal, mut grown) = (Following::default(), Vec::new());
        for cut in cuts.windows(2) {
            Entry::follow(&mut journal, &bytes[cut[0]..cut[1]], &mut |framed| grown.push(framed));
        }
        prop_assert_eq!(grown, whole);
        prop_assert_eq!(journal.reading(), reading);
    }

    #[test]
    fn any_bytes_are_read_without_panic(bytes in prop::collection::vec(any::<u8>(), 0..500)) {
        prop_assert!(read(&bytes).0.is_empty());
    }
}
