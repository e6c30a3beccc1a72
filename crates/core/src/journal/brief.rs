//! Reading a journal only for the line that a list shows of it: what was run on what, how it ended, how many words read wrong where. Taking
//! tens of thousands apart in full would make a list wait for what it does not show.

use std::collections::BTreeMap;
use std::io::{self, BufRead};

use serde::Deserialize;

use super::damage::Damage;
use super::line::{Framed, Framing};
use super::read::{Taken, read_records};
use super::{Entry, ErrorReport};
use crate::tally::Tally;

/// Of a report of errors: how many, and in which slots.
#[derive(Deserialize)]
struct Counts {
    pass: u32,
    test: String,
    tally: TallyCounts,
}

#[derive(Deserialize)]
struct TallyCounts {
    words: u64,
    slots: BTreeMap<String, u64>,
}

/// Reads a run's journal like [`super::read_journal`], but passes over progress and temperatures, and of the wrong words takes only their number
/// and slots. All checksums and numbers are looked at all the same.
///
/// # Errors
/// When the source itself cannot be read.
pub fn read_brief(source: &mut dyn BufRead, take: impl FnMut(Framed<Entry>)) -> io::Result<Damage> {
    read_records(source, brief, take)
}

fn brief(framing: &Framing<'_>, text: &str) -> Taken<Entry> {
    let entry = match &*framing.record {
        "progress" | "heat" | "held-more" => return Taken::Passed,
        "errors" => serde_json::from_str(text).map(|counts: Counts| {
            let tally = Tally { words: counts.tally.words, slots: counts.tally.slots, ..Tally::default() };
            Entry::Errors(Box::new(ErrorReport { pass: counts.pass, test: counts.test, tally }))
        }),
        // Without their tag, which costs a copy of all that they hold.
        "begin" => serde_json::from_str(text).map(Entry::Begin),
        "held" => serde_json::from_str(text).map(Entry::Held),
        "test-ended" => serde_json::from_str(text).map(Entry::TestEnded),
        _ => serde_json::from_str(text),
    };
    entry.map_or(Taken::Unknown, Taken::Record)
}
