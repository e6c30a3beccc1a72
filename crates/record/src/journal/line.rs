//! A line of a journal: how a record becomes one, and what stands in it.
//!
//! ```text
//! {"journal":"2031-04-12-1316-dome-1","seq":3,"t_ms":1280,"prev":"41d0e77b","sum":[1,0,0,0,0,0,0],"record":"planted",…,"crc":"9f3a60c1"}
//! ```
//!
//! The checksum is CRC-32C (Castagnoli, RFC 3720 appendix B.4) over the line without its `crc` member. `prev` is the checksum of the record before, and
//! so chains the two; `sum` has the totals so far, where they are not all zero. Journals of format 1 have neither.

use std::borrow::Cow;
use std::io;
use std::str::FromStr;

use serde::{Deserialize, Serialize};

use crate::totals::Totals;

pub(super) const CRC_MEMBER: &str = ",\"crc\":\"";
/// Bytes from the checksum's member to the end of the line: it is always written with eight digits.
const CRC_BYTES: usize = CRC_MEMBER.len() + 8 + 2;

/// A record with its place in the journal.
#[derive(Clone, Debug, PartialEq, Serialize)]
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

/// What a record carries of those before it.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub struct Chain {
    /// Checksum of the record before.
    pub prev: Option<u32>,
    /// Totals so far, this record included.
    pub totals: Totals,
}

#[derive(Serialize)]
struct Written<'a, E> {
    journal: &'a str,
    seq: u64,
    t_ms: u64,
    #[serde(skip_serializing_if = "Option::is_none")]
    prev: Option<String>,
    #[serde(skip_serializing_if = "Totals::is_none")]
    sum: Totals,
    #[serde(flatten)]
    entry: &'a E,
}

/// One record as a line with its line end, and its checksum.
pub(super) fn encode<E: Serialize>(framed: &Framed<E>, chain: Chain) -> io::Result<(String, u32)> {
    let Framed { journal, seq, t_ms, entry } = framed;
    let prev = chain.prev.map(|crc| format!("{crc:08x}"));
    let written = Written { journal, seq: *seq, t_ms: *t_ms, prev, sum: chain.totals, entry };
    let mut line = serde_json::to_string(&written)?;
    let crc = crc32c::crc32c(line.as_bytes());
    line.pop();
    line.push_str(&format!("{CRC_MEMBER}{crc:08x}\"}}\n"));
    Ok((line, crc))
}

/// What stands before the record itself.
#[derive(Deserialize)]
pub(super) struct Framing<'a> {
    #[serde(borrow)]
    pub journal: Cow<'a, str>,
    pub seq: u64,
    pub t_ms: u64,
    /// Checksum of the record before, in eight digits.
    #[serde(borrow, default)]
    pub prev: Option<Cow<'a, str>>,
    /// Totals so far.
    #[serde(default)]
    pub sum: Totals,
    /// Kind of record.
    #[serde(borrow, default)]
    pub record: Cow<'a, str>,
    /// What follows the kind in a line as this program writes it; nothing in any other.
    #[serde(skip)]
    pub members: Members<'a>,
}

impl Framing<'_> {
    /// Checksum of the record before; one that is none is nobody's.
    pub fn prev_crc(&self) -> Option<u64> {
        self.prev.as_ref().map(|crc| u32::from_str_radix(crc, 16).map_or(u64::MAX, u64::from))
    }
}

/// The line, its framing and its checksum, if that is right.
pub(super) fn checked(line: &[u8]) -> Option<(&str, Framing<'_>, u32)> {
    let text = std::str::from_utf8(line).ok()?;
    let (body, end) = text.split_at_checked(text.len().checked_sub(CRC_BYTES)?)?;
    let crc = end.strip_prefix(CRC_MEMBER)?.strip_suffix("\"}")?;
    // As it is written, in small letters: a digit that was turned into a capital is damage too.
    if !crc.bytes().all(|digit| matches!(digit, b'0'..=b'9' | b'a'..=b'f')) {
        return None;
    }
    let told = u32::from_str_radix(crc, 16).ok()?;
    if told != crc32c::crc32c_append(crc32c::crc32c(body.as_bytes()), b"}") {
        return None;
    }
    let framing = written_order(text).or_else(|| serde_json::from_str(text).ok())?;
    Some((text, framing, told))
}

/// The framing as this program writes it. Taking a line apart as JSON only for it costs more than all the rest of a search.
fn written_order(text: &str) -> Option<Framing<'_>> {
    let mut members = Members(text.strip_prefix('{')?);
    let journal = members.text("\"journal\":\"")?;
    let (seq, t_ms) = (members.number(",\"seq\":")?, members.number(",\"t_ms\":")?);
    let prev = members.if_there(",\"prev\":\"", Members::text)?.map(Cow::Borrowed);
    let sum = members.if_there(",\"sum\":[", |members, before| members.numbers(before))?.unwrap_or([0; 7]);
    let record = members.text(",\"record\":\"")?;
    let (journal, record, sum) = (Cow::Borrowed(journal), Cow::Borrowed(record), Totals::from(sum));
    Some(Framing { journal, seq, t_ms, prev, sum, record, members })
}

/// Members of a line, read one after the other in the order in which this program writes them. Each is asked for by all that stands before its value.
#[derive(Clone, Copy, Default)]
pub(super) struct Members<'a>(pub &'a str);

impl<'a> Members<'a> {
    /// A text without escapes; `before` ends in its quotation mark.
    pub fn text(&mut self, before: &str) -> Option<&'a str> {
        let rest = self.0.strip_prefix(before)?;
        let end = memchr::memchr2(b'"', b'\\', rest.as_bytes())?;
        self.0 = rest[end..].strip_prefix('"')?;
        Some(&rest[..end])
    }

    /// A member that may be left out: nothing inside when it is, nothing at all when it is there and not as expected.
    fn if_there<T>(&mut self, before: &str, take: impl Fn(&mut Self, &str) -> Option<T>) -> Option<Option<T>> {
        if self.0.starts_with(before) { take(self, before).map(Some) } else { Some(None) }
    }

    /// A list of seven whole numbers; `before` ends in its bracket.
    fn numbers(&mut self, before: &str) -> Option<[u64; 7]> {
        let (list, rest) = self.0.strip_prefix(before)?.split_once(']')?;
        let mut numbers = list.split(',').map(|number| number.parse().ok());
        let found = std::array::from_fn(|_| numbers.next().flatten());
        if numbers.next().is_some() || found.contains(&None) {
            return None;
        }
        self.0 = rest;
        Some(found.map(Option::unwrap_or_default))
    }

    /// A whole number that is not below zero.
    pub fn number<T: FromStr>(&mut self, before: &str) -> Option<T> {
        let rest = self.0.strip_prefix(before)?;
        let end = rest.bytes().position(|byte| !byte.is_ascii_digit())?;
        self.0 = &rest[end..];
        self.0.starts_with([',', '}']).then(|| rest[..end].parse().ok())?
    }

    /// `true` or `false`.
    pub fn flag(&mut self, before: &str) -> Option<bool> {
        let rest = self.0.strip_prefix(before)?;
        let (flag, rest) = match rest.strip_prefix("true") {
            Some(rest) => (true, rest),
            None => (false, rest.strip_prefix("false")?),
        };
        self.0 = rest;
        Some(flag)
    }
}

/// Whether a line is only there to fill a sector.
pub(super) fn is_filler(line: &[u8]) -> bool {
    line.iter().all(|byte| *byte == b' ')
}
