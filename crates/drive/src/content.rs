//! What is on a drive, by the names in its partition table (UEFI specification, GUID partition table).

use std::io;
use std::ops::Range;

use super::UNFINISHED;

const SECTOR: u64 = 512;
/// Entries looked at, of this length at least.
const MOST_ENTRIES: u64 = 128;
const ENTRY: u64 = 128;
/// Names of a boot drive's partitions.
const BOOT: &str = "REVISUM-BOOT";
const RESULTS: &str = "REVISUM-RESULTS";

/// What it is.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Content {
    /// A boot drive of ours.
    BootDrive {
        /// Where its room for results is, in bytes.
        results: Range<u64>,
    },
    /// One whose writing was not finished.
    Unfinished,
    /// Something else, or nothing.
    Other,
}

/// Looks at the beginning of a drive or an image.
pub fn content_of(read_at: &mut dyn FnMut(&mut [u8], u64) -> io::Result<()>) -> Content {
    let mut first = [0; SECTOR as usize];
    if read_at(&mut first, 0).is_err() {
        return Content::Other;
    }
    if first.starts_with(UNFINISHED) {
        return Content::Unfinished;
    }
    let partitions = partitions(read_at).unwrap_or_default();
    let named = |name: &str| partitions.iter().find(|(known, _)| known == name).map(|(_, range)| range.clone());
    match (named(BOOT), named(RESULTS)) {
        (Some(_), Some(results)) => Content::BootDrive { results },
        _ => Content::Other,
    }
}

/// Where the partition is that machines start from, in bytes.
pub(crate) fn boot_partition(read_at: &mut dyn FnMut(&mut [u8], u64) -> io::Result<()>) -> Option<Range<u64>> {
    partitions(read_at)?.into_iter().find(|(name, _)| name == BOOT).map(|(_, range)| range)
}

/// Names and ranges of all partitions.
fn partitions(read_at: &mut dyn FnMut(&mut [u8], u64) -> io::Result<()>) -> Option<Vec<(String, Range<u64>)>> {
    let mut header = [0; SECTOR as usize];
    read_at(&mut header, SECTOR).ok()?;
    if !header.starts_with(b"EFI PART") {
        return None;
    }
    let number = |at: usize, length: usize| {
        header[at..at + length].iter().rev().fold(0u64, |number, byte| number << 8 | u64::from(*byte))
    };
    let (start, count, size) = (number(72, 8), number(80, 4).min(MOST_ENTRIES), number(84, 4));
    if !(ENTRY..=SECTOR).contains(&size) {
        return None;
    }
    let one = |entry: u64| {
        let mut bytes = [0; ENTRY as usize];
        read_at(&mut bytes, start.checked_mul(SECTOR)?.checked_add(entry * size)?).ok()?;
        let number = |at: usize| u64::from_le_bytes(bytes[at..at + 8].try_into().unwrap_or_default());
        let (first, last) = (number(32), number(40));
        let range = first.checked_mul(SECTOR)?..last.checked_add(1)?.checked_mul(SECTOR)?;
        let letters = bytes[56..128].chunks(2).map(|pair| u16::from_le_bytes([pair[0], pair[1]]));
        let name: Vec<u16> = letters.take_while(|letter| *letter != 0).collect();
        let used = bytes[..16].iter().any(|byte| *byte != 0) && first > 0 && range.start < range.end;
        used.then(|| (String::from_utf16_lossy(&name), range))
    };
    Some((0..count).filter_map(one).collect())
}
