//! A journal in several files: `ID.journal`, `ID.journal-2`, `ID.journal-3` …

use std::fs::{File, OpenOptions};
use std::io::{self, BufRead, BufReader, Read};
use std::os::unix::fs::OpenOptionsExt;
use std::path::{Path, PathBuf};

/// More parts than any run leaves.
const MOST_PARTS: u32 = 10_000;

/// Bytes read at once: most journals whole.
const AT_ONCE: usize = 32 << 10;

/// Bytes read of one part: more than any has.
const MOST_BYTES: u64 = 256 << 20;

/// The file of a part, from 1.
pub(super) fn part(path: &Path, number: u32) -> PathBuf {
    if number <= 1 {
        return path.to_owned();
    }
    let mut name = path.as_os_str().to_owned();
    name.push(format!("-{number}"));
    PathBuf::from(name)
}

/// Bytes of all parts of a journal together.
pub fn bytes_of_parts(path: &Path) -> u64 {
    let length = |number| std::fs::metadata(part(path, number)).ok().map(|meta| meta.len());
    (1..MOST_PARTS).map_while(length).fold(0, u64::saturating_add)
}

/// Whether this is a further part of a journal, by its name.
pub fn is_part(path: &Path) -> bool {
    let ending = path.extension().and_then(|ending| ending.to_str()).unwrap_or_default();
    let number = ending.strip_prefix("journal-").and_then(|number| number.parse::<u32>().ok());
    number.is_some_and(|number| number > 1)
}

/// A journal opened for reading.
pub struct Parts {
    /// All its parts behind each other.
    pub reader: Box<dyn BufRead>,
    /// Bytes of all of them when they were opened.
    pub bytes: u64,
}

/// Opens all parts of a journal.
///
/// # Errors
/// When the first cannot be opened; further ones that cannot are missing records to the reader.
pub fn open_parts(path: &Path) -> io::Result<Parts> {
    let (first, mut bytes) = open(path)?;
    if !part(path, 2).exists() {
        return Ok(Parts { reader: Box::new(BufReader::with_capacity(AT_ONCE, first)), bytes });
    }
    let mut all: Box<dyn Read> = Box::new(first);
    for number in 2..MOST_PARTS {
        let Ok((next, more)) = open(&part(path, number)) else { break };
        bytes = bytes.saturating_add(more);
        all = Box::new(all.chain(next));
    }
    Ok(Parts { reader: Box::new(BufReader::with_capacity(AT_ONCE, all)), bytes })
}

/// Only files: a pipe would wait for ever, a device might never end.
fn open(path: &Path) -> io::Result<(io::Take<File>, u64)> {
    let file = OpenOptions::new().read(true).custom_flags(libc::O_NONBLOCK).open(path)?;
    let meta = file.metadata()?;
    if !meta.is_file() {
        return Err(io::Error::other("it is not a file"));
    }
    Ok((file.take(MOST_BYTES), meta.len()))
}
