//! Reading records: whole ones in their order, and what had to be left out.

use std::collections::BTreeMap;
use std::io::{self, BufRead};

use super::damage::Damage;
use super::line::{Framed, Framing, checked, is_filler};
use super::write::Link;
use crate::totals::Totals;

/// Longest line that is read as a record, in bytes; anything longer is damage.
const LONGEST_LINE: usize = 4 << 20;

/// What a record is to its reader.
pub(super) enum Taken<E> {
    Record(E),
    /// Known, and not needed.
    Passed,
    Unknown,
}

/// What reading a journal came to, beside its records.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Reading {
    /// What had to be left out.
    pub damage: Damage,
    /// The worst that any sound record told of all before it.
    pub totals: Totals,
    /// Where the next record goes.
    pub link: Link,
}

/// What is known of the records so far.
#[derive(Default)]
struct Reader {
    reading: Reading,
    journal: Option<String>,
    /// Numbers that did not come yet, from and up to.
    gaps: BTreeMap<u64, u64>,
    /// Moment of the latest sound record.
    t_ms: u64,
}

impl Reader {
    /// Whether a record is a new one; notes what is wrong with its place.
    fn places(&mut self, framing: &Framing<'_>, crc: u32) -> bool {
        let Reading { damage, totals, link } = &mut self.reading;
        *totals = totals.worst(framing.sum);
        let seq = framing.seq;
        if seq < link.next_seq {
            // Written twice, and the first one is lost; else a copy of what is known.
            let new = fills(&mut self.gaps, seq);
            damage.displaced += u64::from(new);
            return new;
        }
        let follows = framing.prev_crc().is_none_or(|prev| link.crc.is_some_and(|crc| u64::from(crc) == prev));
        if seq > link.next_seq {
            self.gaps.insert(link.next_seq, seq);
            damage.opens(self.t_ms);
        } else if !follows {
            damage.displaced += 1;
            damage.opens(self.t_ms);
        }
        damage.closes(framing.t_ms);
        self.t_ms = self.t_ms.max(framing.t_ms);
        *link = Link { next_seq: seq.saturating_add(1), crc: Some(crc) };
        true
    }

    fn spoiled(&mut self) {
        self.reading.damage.damaged += 1;
        self.reading.damage.opens(self.t_ms);
    }

    fn finished(mut self) -> Reading {
        let absent = self.gaps.iter().fold(0u64, |all, (from, to)| all.saturating_add(to - from));
        // A damaged line accounts for a number that did not come.
        self.reading.damage.missing = absent.saturating_sub(self.reading.damage.damaged);
        self.reading
    }
}

/// Takes a number out of those that did not come.
fn fills(gaps: &mut BTreeMap<u64, u64>, seq: u64) -> bool {
    let Some((&from, &to)) = gaps.range(..=seq).next_back().filter(|(_, to)| seq < **to) else { return false };
    gaps.remove(&from);
    if from < seq {
        gaps.insert(from, seq);
    }
    if seq + 1 < to {
        gaps.insert(seq + 1, to);
    }
    true
}

/// Reads with a parser of its own, which is given the framing and the whole line.
pub(super) fn read_records<E>(
    source: &mut dyn BufRead,
    parse: &dyn Fn(&Framing<'_>, &str) -> Taken<E>,
    take: &mut dyn FnMut(Framed<E>),
) -> io::Result<Reading> {
    let mut reader = Reader::default();
    let mut line = Vec::new();
    loop {
        line.clear();
        fill_line(source, &mut line)?;
        if line.is_empty() {
            return Ok(reader.finished());
        }
        let complete = line.pop_if(|last| *last == b'\n').is_some();
        if is_filler(&line) {
            continue;
        }
        if !complete && line.len() == LONGEST_LINE {
            skip_line(source)?;
        }
        let sound =
            checked(&line).filter(|(_, framing, _)| reader.journal.as_ref().is_none_or(|id| *id == framing.journal));
        let Some((text, framing, crc)) = sound else {
            if !complete && source.fill_buf()?.is_empty() {
                reader.reading.damage.torn_tail = true;
            } else {
                reader.spoiled();
            }
            continue;
        };
        reader.journal.get_or_insert_with(|| framing.journal.clone().into_owned());
        if !reader.places(&framing, crc) {
            continue;
        }
        match parse(&framing, text) {
            Taken::Record(entry) => {
                let journal = framing.journal.into_owned();
                take(Framed { journal, seq: framing.seq, t_ms: framing.t_ms, entry });
            }
            Taken::Passed => {}
            Taken::Unknown => {
                reader.reading.damage.unknown += 1;
                reader.reading.damage.opens(framing.t_ms);
            }
        }
    }
}

/// Reads on until a line ends, or is longer than any record.
fn fill_line(source: &mut dyn BufRead, line: &mut Vec<u8>) -> io::Result<()> {
    while line.len() < LONGEST_LINE {
        let buffer = match source.fill_buf() {
            Err(error) if error.kind() == io::ErrorKind::Interrupted => continue,
            buffer => buffer?,
        };
        let there = &buffer[..buffer.len().min(LONGEST_LINE - line.len())];
        let end = memchr::memchr(b'\n', there);
        let taken = end.map_or(there.len(), |end| end + 1);
        line.extend_from_slice(&there[..taken]);
        source.consume(taken);
        if taken == 0 || end.is_some() {
            break;
        }
    }
    Ok(())
}

fn skip_line(source: &mut dyn BufRead) -> io::Result<()> {
    loop {
        let buffer = source.fill_buf()?;
        let Some(end) = memchr::memchr(b'\n', buffer) else {
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
