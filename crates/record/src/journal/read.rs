//! Reading records: whole ones in their order, and what had to be left out.

use std::io::{self, BufRead};

use serde::de::DeserializeOwned;

use super::damage::Damage;
use super::line::{Framed, Framing, checked, is_filler};

/// Longest line that is read as a record, in bytes; anything longer is damage.
const LONGEST_LINE: usize = 4 << 20;

/// What a record is to its reader.
pub(super) enum Taken<E> {
    Record(E),
    /// Known, and not needed.
    Passed,
    Unknown,
}

enum Line<E> {
    Record(Framed<E>),
    Passed(u64),
    Unknown(u64),
    Damaged,
}

fn decode<E>(line: &[u8], journal: Option<&str>, parse: impl Fn(&Framing<'_>, &str) -> Taken<E>) -> Line<E> {
    let Some((text, framing)) = checked(line) else { return Line::Damaged };
    if journal.is_some_and(|journal| journal != framing.journal) {
        return Line::Damaged;
    }
    match parse(&framing, text) {
        Taken::Record(entry) => {
            Line::Record(Framed { journal: framing.journal.into_owned(), seq: framing.seq, t_ms: framing.t_ms, entry })
        }
        Taken::Passed => Line::Passed(framing.seq),
        Taken::Unknown => Line::Unknown(framing.seq),
    }
}

/// Reads a journal, record by record, and says what had to be left out. Never invents a record.
///
/// # Errors
/// When the source itself cannot be read.
pub fn read_journal<E: DeserializeOwned>(source: &mut dyn BufRead, take: impl FnMut(Framed<E>)) -> io::Result<Damage> {
    let parse = |_: &Framing<'_>, text: &str| serde_json::from_str(text).map_or(Taken::Unknown, Taken::Record);
    read_records(source, parse, take)
}

/// Reads with a parser of its own, which is given the framing and the whole line.
pub(super) fn read_records<E>(
    source: &mut dyn BufRead,
    parse: impl Fn(&Framing<'_>, &str) -> Taken<E>,
    mut take: impl FnMut(Framed<E>),
) -> io::Result<Damage> {
    let mut damage = Damage::default();
    let mut journal: Option<String> = None;
    let mut next_seq = 0;
    // Damaged lines since the last good one: they account for numbers that do not come.
    let mut spoiled = 0;
    let mut line = Vec::new();
    loop {
        line.clear();
        fill_line(source, &mut line)?;
        if line.is_empty() {
            return Ok(damage);
        }
        let complete = line.pop_if(|last| *last == b'\n').is_some();
        if is_filler(&line) {
            continue;
        }
        if !complete && line.len() == LONGEST_LINE {
            skip_line(source)?;
        }
        let seq = match decode(&line, journal.as_deref(), &parse) {
            Line::Record(framed) => {
                if journal.is_none() {
                    journal = Some(framed.journal.clone());
                }
                let seq = framed.seq;
                // A number that came before is an old copy, not a new fact.
                if seq >= next_seq {
                    take(framed);
                }
                seq
            }
            Line::Passed(seq) => seq,
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
        next_seq = next_seq.max(seq.saturating_add(1));
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
