//! A line of a journal: how a record becomes one, and what stands in it.
//!
//! ```text
//! {"journal":"2031-04-12-1316-dome-1","seq":3,"t_ms":1280,"record":"planted",…,"crc":"9f3a60c1"}
//! ```
//!
//! The checksum is CRC-32C (Castagnoli, RFC 3720 appendix B.4) over the line without its `crc` member.

use std::borrow::Cow;
use std::io;
use std::str::FromStr;

use serde::{Deserialize, Serialize};

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

/// One record as a line with its line end.
pub(super) fn encode<E: Serialize>(framed: &Framed<E>) -> io::Result<String> {
    let mut line = serde_json::to_string(framed)?;
    let crc = crc32c::crc32c(line.as_bytes());
    line.pop();
    line.push_str(&format!("{CRC_MEMBER}{crc:08x}\"}}\n"));
    Ok(line)
}

/// What stands before the record itself.
#[derive(Deserialize)]
pub(super) struct Framing<'a> {
    #[serde(borrow)]
    pub journal: Cow<'a, str>,
    pub seq: u64,
    pub t_ms: u64,
    /// Kind of record.
    #[serde(borrow, default)]
    pub record: Cow<'a, str>,
    /// What follows the kind in a line as this program writes it; nothing in any other.
    #[serde(skip)]
    pub members: Members<'a>,
}

/// The line and its framing, if the checksum is right.
pub(super) fn checked(line: &[u8]) -> Option<(&str, Framing<'_>)> {
    let text = std::str::from_utf8(line).ok()?;
    let (body, end) = text.split_at_checked(text.len().checked_sub(CRC_BYTES)?)?;
    let crc = end.strip_prefix(CRC_MEMBER)?.strip_suffix("\"}")?;
    let told = u32::from_str_radix(crc, 16).ok()?;
    if told != crc32c::crc32c_append(crc32c::crc32c(body.as_bytes()), b"}") {
        return None;
    }
    let framing = written_order(text).or_else(|| serde_json::from_str(text).ok())?;
    Some((text, framing))
}

/// The framing as this program writes it. Taking a line apart as JSON only for it costs more than all the rest of a search.
fn written_order(text: &str) -> Option<Framing<'_>> {
    let mut members = Members(text.strip_prefix('{')?);
    let journal = members.text("\"journal\":\"")?;
    let (seq, t_ms) = (members.number(",\"seq\":")?, members.number(",\"t_ms\":")?);
    let record = members.text(",\"record\":\"")?;
    Some(Framing { journal: Cow::Borrowed(journal), seq, t_ms, record: Cow::Borrowed(record), members })
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
