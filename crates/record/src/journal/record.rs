//! What journals hold records of.

use std::io::{self, BufRead};

use super::entry::Entry;
use super::job::JobEntry;
use super::line::{Chain, Framed, Framing, encode};
use super::read::{Following, Reading, Taken, read_records};

/// A kind of record. That a kind brings its own reading and writing, instead of being read by a generic function, has them compiled here, once and
/// optimised, and not in each package that reads a journal, the way it is.
pub trait Record: Sized {
    /// Reads a journal of these; see [`read_journal`].
    ///
    /// # Errors
    /// When the source itself cannot be read.
    fn read(source: &mut dyn BufRead, take: &mut dyn FnMut(Framed<Self>)) -> io::Result<Reading>;

    /// Reads on in a journal of these that grows.
    fn follow(journal: &mut Following, bytes: &[u8], take: &mut dyn FnMut(Framed<Self>));

    /// The line of a journal, with its line end, and its checksum.
    ///
    /// # Errors
    /// When the record has no form as JSON.
    fn line(framed: &Framed<&Self>, chain: Chain) -> io::Result<(String, u32)>;

    /// How often it is written.
    fn weight(&self) -> Weight;
}

/// How often a record is written.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Weight {
    /// Once.
    Once,
    /// Twice, apart from each other.
    Twice,
    /// Twice when it is among the first of its kind in its journal.
    FirstTwice,
}

fn parsed<E: serde::de::DeserializeOwned>(_: &Framing<'_>, text: &str) -> Taken<E> {
    serde_json::from_str(text).map_or(Taken::Unknown, Taken::Record)
}

macro_rules! record {
    ($kind:ty, $weight:expr) => {
        impl Record for $kind {
            fn read(source: &mut dyn BufRead, take: &mut dyn FnMut(Framed<Self>)) -> io::Result<Reading> {
                read_records(source, &parsed, take)
            }

            fn follow(journal: &mut Following, bytes: &[u8], take: &mut dyn FnMut(Framed<Self>)) {
                journal.read_on(bytes, &parsed, take);
            }

            fn line(framed: &Framed<&Self>, chain: Chain) -> io::Result<(String, u32)> {
                encode(framed, chain)
            }

            fn weight(&self) -> Weight {
                $weight(self)
            }
        }
    };
}

record!(Entry, |entry: &Entry| match entry {
    Entry::Begin(_) | Entry::TestEnded(_) | Entry::PassEnded { .. } | Entry::Ended { .. } => Weight::Twice,
    Entry::Errors(_) | Entry::Corrected { .. } | Entry::Uncorrected { .. } | Entry::Miscalculated { .. } =>
        Weight::FirstTwice,
    _ => Weight::Once,
});
// Few, each of them told once by a person.
record!(JobEntry, |_: &JobEntry| Weight::Twice);

/// Reads a journal, record by record, and says what had to be left out. Never invents a record.
///
/// # Errors
/// When the source itself cannot be read.
pub fn read_journal<E: Record>(source: &mut dyn BufRead, mut take: impl FnMut(Framed<E>)) -> io::Result<Reading> {
    E::read(source, &mut take)
}
