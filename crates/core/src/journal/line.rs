//! A line of a journal: how a record becomes one, and what stands in it.
//!
//! ```text
//! {"journal":"2031-04-12-1316-dome-1","seq":3,"t_ms":1280,"record":"planted",…,"crc":"9f3a60c1"}
//! ```
//!
//! The checksum is CRC-32C (Castagnoli, RFC 3720 appendix B.4) over the line without its `crc` member.

use std::borrow::Cow;
use std::io;

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
    let (journal, rest) = plain(text.strip_prefix("{\"journal\":\"")?)?;
    let (seq, rest) = number(rest.strip_prefix(",\"seq\":")?)?;
    let (t_ms, rest) = number(rest.strip_prefix(",\"t_ms\":")?)?;
    let (record, _) = plain(rest.strip_prefix(",\"record\":\"")?)?;
    Some(Framing { journal: Cow::Borrowed(journal), seq, t_ms, record: Cow::Borrowed(record) })
}

/// A text without escapes up to its quotation mark, and what follows.
fn plain(text: &str) -> Option<(&str, &str)> {
    let (inner, rest) = text.split_once('"')?;
    (!inner.contains('\\')).then_some((inner, rest))
}

fn number(text: &str) -> Option<(u64, &str)> {
    let end = text.find(|c: char| !c.is_ascii_digit())?;
    Some((text[..end].parse().ok()?, &text[end..]))
}

/// Whether a line is only there to fill a sector.
pub(super) fn is_filler(line: &[u8]) -> bool {
    line.iter().all(|byte| *byte == b' ')
}
