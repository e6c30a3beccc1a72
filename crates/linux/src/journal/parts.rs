//! A journal in several files: `ID.journal`, `ID.journal-2`, `ID.journal-3` …

use std::fs::{File, OpenOptions};
use std::io::{self, BufRead, BufReader, Read};
use std::os::unix::fs::OpenOptionsExt;
use std::path::{Path, PathBuf};

/// More parts than any run leaves.
const MOST_PARTS: u32 = 10_000;

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

/// Whether this is a further part of a journal, by its name.
pub fn is_part(path: &Path) -> bool {
    let ending = path.extension().and_then(|ending| ending.to_str()).unwrap_or_default();
    let number = ending.strip_prefix("journal-").and_then(|number| number.parse::<u32>().ok());
    number.is_some_and(|number| number > 1)
}

/// All parts of a journal behind each other.
///
/// # Errors
/// When the first cannot be opened; further ones that cannot are missing records to the reader.
pub fn open_parts(path: &Path) -> io::Result<Box<dyn BufRead>> {
    let first = open(path)?;
    if !part(path, 2).exists() {
        return Ok(Box::new(BufReader::new(first)));
    }
    let mut all: Box<dyn Read> = Box::new(first);
    for number in 2..MOST_PARTS {
        let Ok(next) = open(&part(path, number)) else { break };
        all = Box::new(all.chain(next));
    }
    Ok(Box::new(BufReader::new(all)))
}

/// Only files: a pipe would wait for ever, a device might never end.
fn open(path: &Path) -> io::Result<io::Take<File>> {
    let file = OpenOptions::new().read(true).custom_flags(libc::O_NONBLOCK).open(path)?;
    if !file.metadata()?.is_file() {
        return Err(io::Error::other("it is not a file"));
    }
    Ok(file.take(MOST_BYTES))
}
