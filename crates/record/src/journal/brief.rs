//! Reading a journal only for the line that a list shows of it: what was run on what, how it ended, how many words read wrong where. Taking
//! tens of thousands apart in full would make a list wait for what it does not show.

use std::cell::RefCell;
use std::collections::BTreeMap;
use std::io::{self, BufRead};

use serde::Deserialize;
use serde::de::DeserializeOwned;

use super::Entry;
use super::line::{Framed, Framing, Members};
use super::read::{Reading, Taken, read_records};
use revisum_engine::news::{ErrorReport, TestEnd};
use revisum_engine::tally::Tally;

/// Of a report of errors: how many, and in which slots.
#[derive(Debug, PartialEq, Deserialize)]
struct Counts {
    pass: u32,
    test: String,
    tally: TallyCounts,
}

#[derive(Debug, PartialEq, Deserialize)]
struct TallyCounts {
    words: u64,
    slots: BTreeMap<String, u64>,
}

const SLOTS: &[u8] = br#","slots":"#;

/// Reads a run's journal like [`super::read_journal`], but passes over temperatures and all progress except the latest, and of the wrong words takes only their number
/// and slots. All checksums and numbers are looked at all the same.
///
/// # Errors
/// When the source itself cannot be read.
pub fn read_brief(source: &mut dyn BufRead, mut take: impl FnMut(Framed<Entry>)) -> io::Result<Reading> {
    read_all(source, &mut take)
}

fn read_all(source: &mut dyn BufRead, take: &mut dyn FnMut(Framed<Entry>)) -> io::Result<Reading> {
    let last = RefCell::new(LastProgress::default());
    let parse = |framing: &Framing<'_>, text: &str| {
        last.borrow_mut().note(framing, text);
        brief(framing, text)
    };
    let reading = read_records(source, &parse, take)?;
    if let Some(framed) = last.into_inner().framed() {
        take(framed);
    }
    Ok(reading)
}

/// The latest progress, unless a record came after it that makes it pointless: it tells how far a run without an end had come.
#[derive(Default)]
struct LastProgress {
    text: String,
    t_ms: u64,
}

impl LastProgress {
    fn note(&mut self, framing: &Framing<'_>, text: &str) {
        match &*framing.record {
            "progress" => {
                self.text.clear();
                self.text.push_str(text);
            }
            "heat" | "held-more" | "errors" | "planted" | "corrected" => {}
            _ => self.text.clear(),
        }
        self.t_ms = framing.t_ms;
    }

    fn framed(self) -> Option<Framed<Entry>> {
        let entry = serde_json::from_str(&self.text).ok()?;
        let framing: Framing<'_> = serde_json::from_str(&self.text).ok()?;
        Some(Framed { journal: framing.journal.into_owned(), seq: framing.seq, t_ms: self.t_ms, entry })
    }
}

fn brief(framing: &Framing<'_>, text: &str) -> Taken<Entry> {
    let members = framing.members;
    let entry = match &*framing.record {
        "progress" | "heat" | "held-more" => return Taken::Passed,
        "errors" => read(counts_as_written(members), text).map(|counts| {
            let tally = Tally { words: counts.tally.words, slots: counts.tally.slots, ..Tally::default() };
            Entry::Errors(Box::new(ErrorReport { pass: counts.pass, test: counts.test, tally }))
        }),
        // Without their tag, which costs a copy of all that they hold.
        "begin" => serde_json::from_str(text).map(Entry::Begin),
        "held" => serde_json::from_str(text).map(Entry::Held),
        "test-began" => read(began_as_written(members), text),
        "test-ended" => read(ended_as_written(members), text).map(Entry::TestEnded),
        _ => serde_json::from_str(text),
    };
    entry.map_or(Taken::Unknown, Taken::Record)
}

/// What was read in the order in which this program writes it, else the same from the line as JSON.
fn read<T: DeserializeOwned>(as_written: Option<T>, text: &str) -> serde_json::Result<T> {
    as_written.map_or_else(|| serde_json::from_str(text), Ok)
}

fn began_as_written(mut members: Members<'_>) -> Option<Entry> {
    let pass = members.number(",\"pass\":")?;
    Some(Entry::TestBegan { pass, test: members.text(",\"test\":\"")?.to_owned() })
}

fn ended_as_written(mut members: Members<'_>) -> Option<TestEnd> {
    Some(TestEnd {
        pass: members.number(",\"pass\":")?,
        test: members.text(",\"test\":\"")?.to_owned(),
        finished: members.flag(",\"finished\":")?,
        errors: members.number(",\"errors\":")?,
        bytes_swept: members.number(",\"bytes_swept\":")?,
        sweep_ns: members.number(",\"sweep_ns\":")?,
    })
}

/// Samples come after the counts and are most of the line: they are not looked at. A quotation mark inside of a text has a backslash before it, so the
/// name of the slots cannot be found inside of one.
fn counts_as_written(mut members: Members<'_>) -> Option<Counts> {
    let pass = members.number(",\"pass\":")?;
    let test = members.text(",\"test\":\"")?.to_owned();
    let words = members.number(",\"tally\":{\"words\":")?;
    let rest = members.0;
    let slots = &rest[memchr::memmem::find(rest.as_bytes(), SLOTS)? + SLOTS.len()..];
    let slots = serde_json::Deserializer::from_str(slots).into_iter().next()?.ok()?;
    Some(Counts { pass, test, tally: TallyCounts { words, slots } })
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::super::line::{Chain, checked, encode};
    use super::*;
    use crate::totals::Totals;

    const WRITTEN: &str = r#","pass":2,"test":"march-lr","tally":{"words":3,"lanes":[[19,1,0]],"places":{"shift":12,"counts":[[4,3]]},"slots":{"A1":2,"A1 B\"1":1},"kinds":{},"cores":[],"samples":[{"slots":["C1"]}]},"crc":"00000000"}"#;
    const TURNED: &str = r#","tally":{"samples":[],"slots":{"A1":2},"words":3},"test":"own \"x\"","pass":2}"#;
    const ESCAPED: &str = r#","pass":2,"test":"a\u0062","tally":{"words":3,"slots":{}}}"#;
    const SLOTS_IN_A_NAME: &str = r#","pass":2,"test":",\"slots\":{","tally":{"words":3,"slots":{}}}"#;

    #[rstest]
    #[case(WRITTEN, true)]
    #[case(TURNED, false)]
    #[case(ESCAPED, false)]
    #[case(SLOTS_IN_A_NAME, false)]
    fn counts_are_the_same_however_they_were_written(#[case] members: &str, #[case] fast: bool) {
        let text = format!(r#"{{"record":"errors"{members}"#);
        let as_written = counts_as_written(Members(members));
        assert_eq!(as_written.is_some(), fast);
        assert_eq!(read(as_written, &text).unwrap(), serde_json::from_str::<Counts>(&text).unwrap());
    }

    #[rstest]
    #[case::no_slots(r#","pass":2,"test":"a","tally":{"words":3,"lanes":[]}}"#)]
    #[case::pass_too_large(r#","pass":5000000000,"test":"a","tally":{"words":3,"slots":{}}}"#)]
    #[case::words_below_zero(r#","pass":2,"test":"a","tally":{"words":-3,"slots":{}}}"#)]
    #[case::words_in_parts(r#","pass":2,"test":"a","tally":{"words":3.5,"slots":{}}}"#)]
    fn counts_that_are_none_are_refused(#[case] members: &str) {
        let text = format!(r#"{{"record":"errors"{members}"#);
        assert!(read(counts_as_written(Members(members)), &text).is_err());
    }

    /// Whatever this program writes takes the short way and comes to what was written.
    #[test]
    fn tests_as_written_are_read_the_short_way() {
        let end =
            TestEnd { pass: 2, test: "own: ü".into(), finished: true, errors: u64::MAX, bytes_swept: 9, sweep_ns: 7 };
        let entries = [Entry::TestBegan { pass: 2, test: "random".into() }, Entry::TestEnded(end)];
        for entry in entries {
            let framed = Framed { journal: "j".into(), seq: 0, t_ms: 0, entry: entry.clone() };
            let totals = Totals { errors: 1, ..Totals::default() };
            let (line, _) = encode(&framed, Chain { prev: Some(7), totals }).unwrap();
            let (_, framing, _) = checked(line.trim_end().as_bytes()).unwrap();
            assert_eq!((framing.prev_crc(), framing.sum), (Some(7), totals));
            let ended = ended_as_written(framing.members).map(Entry::TestEnded);
            assert_eq!(ended.or_else(|| began_as_written(framing.members)), Some(entry));
        }
    }
}
