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
#[derive(Clone, Default)]
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

    /// Takes a line; whether it is sound.
    fn line<E>(
        &mut self,
        line: &[u8],
        parse: &dyn Fn(&Framing<'_>, &str) -> Taken<E>,
        take: &mut dyn FnMut(Framed<E>),
    ) -> bool {
        let sound =
            checked(line).filter(|(_, framing, _)| self.journal.as_ref().is_none_or(|id| *id == framing.journal));
        let Some((text, framing, crc)) = sound else { return false };
        self.journal.get_or_insert_with(|| framing.journal.clone().into_owned());
        if !self.places(&framing, crc) {
            return true;
        }
        match parse(&framing, text) {
            Taken::Record(entry) => {
                let journal = framing.journal.into_owned();
                take(Framed { journal, seq: framing.seq, t_ms: framing.t_ms, entry });
            }
            Taken::Passed => {}
            Taken::Unknown => {
                self.reading.damage.unknown += 1;
                self.reading.damage.opens(framing.t_ms);
            }
        }
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
        if !reader.line(&line, parse, take) {
            if !complete && source.fill_buf()?.is_empty() {
                reader.reading.damage.torn_tail = true;
            } else {
                reader.spoiled();
            }
        }
    }
}

/// What is known of a journal that grows while it is read.
#[derive(Default)]
pub struct Following {
    reader: Reader,
    /// The beginning of a line whose end has not come.
    rest: Vec<u8>,
    /// The line is longer than any record: the rest of it is passed over.
    too_long: bool,
}

impl Following {
    /// What has been read so far. A line that has only begun is no damage yet.
    pub fn reading(&self) -> Reading {
        self.reader.clone().finished()
    }

    /// Reads on with a parser of its own, as [`read_records`].
    pub(super) fn read_on<E>(
        &mut self,
        bytes: &[u8],
        parse: &dyn Fn(&Framing<'_>, &str) -> Taken<E>,
        take: &mut dyn FnMut(Framed<E>),
    ) {
        for piece in bytes.split_inclusive(|byte| *byte == b'\n') {
            let room = LONGEST_LINE.saturating_sub(self.rest.len());
            self.too_long |= piece.len() > room;
            self.rest.extend_from_slice(&piece[..piece.len().min(room)]);
            if piece.last() != Some(&b'\n') {
                continue;
            }
            let mut line = std::mem::take(&mut self.rest);
            line.pop_if(|last| *last == b'\n');
            let sound =
                !std::mem::take(&mut self.too_long) && (is_filler(&line) || self.reader.line(&line, parse, take));
            if !sound {
                self.reader.spoiled();
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
