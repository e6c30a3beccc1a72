//! Framing: how a record becomes a line, and how lines become records again.
//!
//! ```text
//! {"journal":"2031-04-12-1316-dome-1","seq":3,"t_ms":1280,"record":"planted",…,"crc":"9f3a60c1"}
//! ```
//!
//! The checksum is CRC-32C (Castagnoli, RFC 3720 appendix B.4) over the line without its `crc` member.

use std::io::{self, BufRead, Read};

use serde::de::DeserializeOwned;
use serde::{Deserialize, Serialize};

use crate::ports::JournalStore;

/// Longest line that is read as a record, in bytes; anything longer is damage.
const LONGEST_LINE: u64 = 4 << 20;
const CRC_MEMBER: &str = ",\"crc\":\"";

/// A record with its place in the journal.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct Framed<E> {
    /// Id of the journal.
    pub journal: String,
    /// From 0, without gaps.
    pub seq: u64,
    /// Milliseconds since the journal began, by the monotonic clock.
    pub t_ms: u64,
    /// The record.
    #[serde(flatten)]
    pub entry: E,
}

/// What a reader had to leave out.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize)]
pub struct Damage {
    /// The last line was not complete and was cut off.
    pub torn_tail: bool,
    /// Lines whose checksum or form is wrong.
    pub damaged: u64,
    /// Records missing by their numbers.
    pub missing: u64,
    /// Records that a newer program wrote and this one does not know.
    pub unknown: u64,
}

impl Damage {
    /// A sentence about it; nothing when all is well.
    pub fn sentence(&self) -> Option<String> {
        let mut parts = Vec::new();
        if self.torn_tail {
            parts.push("the last record was torn off and is left out".to_owned());
        }
        if self.damaged > 0 {
            parts.push(format!("{} damaged and left out", crate::units::counted(self.damaged, "record")));
        }
        if self.missing > 0 {
            parts.push(format!("{} missing", crate::units::counted(self.missing, "record")));
        }
        if self.unknown > 0 {
            let records = crate::units::counted(self.unknown, "record");
            parts.push(format!("{records} of a newer program not understood"));
        }
        (!parts.is_empty()).then(|| format!("This journal is not whole: {}.", parts.join("; ")))
    }
}

/// One record as a line with its line end.
fn encode<E: Serialize>(framed: &Framed<E>) -> io::Result<String> {
    let body = serde_json::to_string(framed)?;
    let crc = crc32c::crc32c(body.as_bytes());
    Ok(format!("{}{CRC_MEMBER}{crc:08x}\"}}\n", &body[..body.len() - 1]))
}

enum Line<E> {
    Record(Framed<E>),
    Unknown(u64),
    Damaged,
}

fn decode<E: DeserializeOwned>(line: &[u8], journal: Option<&str>) -> Line<E> {
    let Some((body, framing)) = checked(line) else { return Line::Damaged };
    if journal.is_some_and(|journal| journal != framing.journal) {
        return Line::Damaged;
    }
    match serde_json::from_str(&body) {
        Ok(framed) => Line::Record(framed),
        Err(_) => Line::Unknown(framing.seq),
    }
}

#[derive(Deserialize)]
struct Framing {
    journal: String,
    seq: u64,
}

/// The line without its checksum, if the checksum is right.
fn checked(line: &[u8]) -> Option<(String, Framing)> {
    let text = std::str::from_utf8(line).ok()?;
    let at = text.rfind(CRC_MEMBER)?;
    let crc = text[at + CRC_MEMBER.len()..].strip_suffix("\"}")?;
    let body = format!("{}}}", &text[..at]);
    if u32::from_str_radix(crc, 16).ok()? != crc32c::crc32c(body.as_bytes()) {
        return None;
    }
    let framing = serde_json::from_str(&body).ok()?;
    Some((body, framing))
}

/// Reads a journal, record by record, and says what had to be left out. Never invents a record.
///
/// # Errors
/// When the source itself cannot be read.
pub fn read_journal<E: DeserializeOwned>(
    source: &mut dyn BufRead,
    mut take: impl FnMut(Framed<E>),
) -> io::Result<Damage> {
    let mut damage = Damage::default();
    let mut journal: Option<String> = None;
    let mut next_seq = 0;
    // Damaged lines since the last good one: they account for numbers that do not come.
    let mut spoiled = 0;
    loop {
        let mut line = Vec::new();
        if Read::take(&mut *source, LONGEST_LINE).read_until(b'\n', &mut line)? == 0 {
            return Ok(damage);
        }
        let complete = line.pop_if(|last| *last == b'\n').is_some();
        if !complete && line.len() as u64 == LONGEST_LINE {
            skip_line(source)?;
        }
        let seq = match decode(&line, journal.as_deref()) {
            Line::Record(framed) => {
                journal.get_or_insert_with(|| framed.journal.clone());
                let seq = framed.seq;
                // A number that came before is an old copy, not a new fact.
                if seq >= next_seq {
                    take(framed);
                }
                seq
            }
            Line::Unknown(seq) => {
                damage.unknown += 1;
                seq
            }
            Line::Damaged if !complete && source.fill_buf()?.is_empty() => {
                damage.torn_tail = true;
                continue;
            }
            Line::Damaged => {
                damage.damaged += 1;
                spoiled += 1;
                continue;
            }
        };
        damage.missing += seq.saturating_sub(next_seq).saturating_sub(std::mem::take(&mut spoiled));
        next_seq = next_seq.max(seq + 1);
    }
}

fn skip_line(source: &mut dyn BufRead) -> io::Result<()> {
    loop {
        let buffer = source.fill_buf()?;
        let Some(end) = buffer.iter().position(|byte| *byte == b'\n') else {
            let length = buffer.len();
            if length == 0 {
                return Ok(());
            }
            source.consume(length);
            continue;
        };
        source.consume(end + 1);
        return Ok(());
    }
}

/// Numbers records and appends them to a store.
pub struct JournalWriter {
    store: Box<dyn JournalStore>,
    journal: String,
    seq: u64,
}

impl JournalWriter {
    /// A new journal with this id.
    pub fn new(store: Box<dyn JournalStore>, journal: &str) -> Self {
        Self::resume(store, journal, 0)
    }

    /// A journal that already holds `next_seq` records.
    pub fn resume(store: Box<dyn JournalStore>, journal: &str, next_seq: u64) -> Self {
        Self { store, journal: journal.to_owned(), seq: next_seq }
    }

    /// Appends one record. It survives a power loss only after [`Self::sync`]. Gives back the record as framed.
    ///
    /// # Errors
    /// When the store cannot take it; the number is then used again.
    pub fn append<E: Serialize>(&mut self, t_ms: u64, entry: E) -> io::Result<Framed<E>> {
        let framed = Framed { journal: self.journal.clone(), seq: self.seq, t_ms, entry };
        self.store.append(encode(&framed)?.as_bytes())?;
        self.seq += 1;
        Ok(framed)
    }

    /// Returns once everything appended survives a power loss.
    ///
    /// # Errors
    /// When the store cannot promise that.
    pub fn sync(&mut self) -> io::Result<()> {
        self.store.sync()
    }

    /// Id of the journal.
    pub fn id(&self) -> &str {
        &self.journal
    }

    /// Records written.
    pub fn len(&self) -> u64 {
        self.seq
    }

    /// True before the first record.
    pub fn is_empty(&self) -> bool {
        self.seq == 0
    }
}

#[cfg(test)]
mod tests {
    use std::sync::{Arc, Mutex};

    use proptest::prelude::*;
    use rstest::rstest;

    use super::*;
    use crate::journal::{EndReason, Entry, ErrorReport, Progress};
    use crate::sweep::BadWord;
    use crate::sweep::second_look::Kind;
    use crate::tally::Tally;

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
        let progress =
            Progress { pass: 1, test: "march-c-".into(), notation: "up(r0,w1)".into(), ..Progress::default() };
        vec![
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
            writer.append(at * 10, entry).unwrap();
        }
        shelf.0.lock().unwrap().clone()
    }

    fn read(bytes: &[u8]) -> (Vec<Entry>, Damage) {
        let mut found = Vec::new();
        let damage = read_journal(&mut &*bytes, |framed| found.push(framed.entry)).unwrap();
        (found, damage)
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
    #[case::rubbish_between(|lines: &mut Vec<String>| lines.insert(2, "\u{1b}[2J{{{{".into()), 6, (1, 0))]
    #[case::a_line_gone(|lines: &mut Vec<String>| { lines.remove(2); }, 5, (0, 1))]
    #[case::a_line_twice(|lines: &mut Vec<String>| { let line = lines[1].clone(); lines.insert(3, line); }, 6, (0, 0))]
    #[case::a_line_changed(|lines: &mut Vec<String>| lines[2] = lines[2].replace("true", "false"), 5, (1, 0))]
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
            assert!(damage.sentence().is_some());
        }
    }

    #[test]
    fn records_of_a_newer_program_are_counted_not_guessed() {
        let body = r#"{"journal":"j","seq":0,"t_ms":0,"record":"telepathy"}"#;
        let crc = crc32c::crc32c(body.as_bytes());
        let line = format!("{}{CRC_MEMBER}{crc:08x}\"}}\n", &body[..body.len() - 1]);
        let (found, damage) = read(line.as_bytes());
        assert_eq!((found.len(), damage.unknown), (0, 1));
    }

    #[test]
    fn another_journals_record_is_not_taken() {
        let mut bytes = written();
        let other = String::from_utf8(bytes.clone()).unwrap().replace("\"journal\":\"j\"", "\"journal\":\"k\"");
        bytes.extend(other.as_bytes());
        assert_eq!(read(&bytes).0.len(), 6);
    }

    proptest! {
        #[test]
        fn no_flipped_bit_goes_unnoticed(at in 0usize..1200, bit in 0u8..8) {
            let whole = written();
            let mut spoiled = whole.clone();
            let at = at % spoiled.len();
            spoiled[at] ^= 1 << bit;
            let (found, damage) = read(&spoiled);
            prop_assert!(found.iter().all(|entry| entries().contains(entry)));
            prop_assert!(found.len() == 6 || damage != Damage::default());
        }

        #[test]
        fn any_bytes_are_read_without_panic(bytes in prop::collection::vec(any::<u8>(), 0..500)) {
            prop_assert!(read(&bytes).0.is_empty());
        }
    }
}
