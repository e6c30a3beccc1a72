//! A journal in several files: `ID.journal`, `ID.journal-2`, `ID.journal-3` …

use std::fs::File;
use std::io::{self, BufRead, BufReader, Read};
use std::path::{Path, PathBuf};

/// More parts than any run leaves.
const MOST_PARTS: u32 = 10_000;

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
    let first = File::open(path)?;
    if !part(path, 2).exists() {
        return Ok(Box::new(BufReader::new(first)));
    }
    let mut all: Box<dyn Read> = Box::new(first);
    for number in 2..MOST_PARTS {
        let Ok(next) = File::open(part(path, number)) else { break };
        all = Box::new(all.chain(next));
    }
    Ok(Box::new(BufReader::new(all)))
}
