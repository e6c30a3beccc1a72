//! A journal in several files: `ID.journal`, `ID.journal-2`, `ID.journal-3` …

use std::fs::{File, OpenOptions};
use std::io::{self, BufRead, BufReader, Read};
use std::os::unix::fs::{MetadataExt, OpenOptionsExt};
use std::path::{Path, PathBuf};
use std::sync::Arc;
use std::sync::atomic::{AtomicU64, Ordering};

/// More parts than any run leaves.
const MOST_PARTS: u32 = 10_000;

/// Parts in a row that may be missing before the journal is taken to be over.
const MOST_ABSENT: u32 = 1;

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

/// Numbers of the parts that are there, from 1. One that is missing among them does not hide those after it.
fn numbers(path: &Path) -> impl Iterator<Item = u32> {
    let there = move |number: &u32| std::fs::symlink_metadata(part(path, *number)).is_ok();
    let mut absent = 0;
    (1..MOST_PARTS)
        .map(move |number| (number, there(&number)))
        .take_while(move |(_, there)| {
            absent = if *there { 0 } else { absent + 1 };
            absent <= MOST_ABSENT
        })
        .filter_map(|(number, there)| there.then_some(number))
}

/// Bytes of all parts of a journal together.
pub fn bytes_of_parts(path: &Path) -> u64 {
    let length = |number| std::fs::metadata(part(path, number)).map_or(0, |meta| meta.len());
    numbers(path).map(length).fold(0, u64::saturating_add)
}

/// Changes when any part of a journal does, even at the same length; nothing when it is not there.
pub fn stamp_of_parts(path: &Path) -> Option<u64> {
    let first = std::fs::metadata(path).ok()?;
    let mut sum = stamp(0, &first);
    for number in numbers(path).filter(|number| *number > 1) {
        sum = std::fs::metadata(part(path, number)).map_or(sum.wrapping_add(1), |meta| stamp(sum, &meta));
    }
    Some(sum)
}

/// The moment of the last change of its data and the one that no program can set.
fn stamp(sum: u64, meta: &std::fs::Metadata) -> u64 {
    let moments = [meta.mtime(), meta.mtime_nsec(), meta.ctime(), meta.ctime_nsec()].map(i64::cast_unsigned);
    let values = [meta.len(), meta.ino()].into_iter().chain(moments);
    // FNV-1a (Fowler, Noll, Vo), over whole numbers.
    values.fold(sum ^ 0xcbf2_9ce4_8422_2325, |sum, value| (sum ^ value).wrapping_mul(0x0000_0100_0000_01b3))
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
    /// Parts that cannot be opened or read to their end; final once the reader has come to its end.
    pub unreadable: Unreadable,
}

/// How many parts of a journal cannot be read.
#[derive(Clone, Debug, Default)]
pub struct Unreadable(Arc<AtomicU64>);

impl Unreadable {
    /// How many until now.
    pub fn count(&self) -> u64 {
        self.0.load(Ordering::Relaxed)
    }

    fn note(&self) {
        self.0.fetch_add(1, Ordering::Relaxed);
    }
}

/// Opens a journal with all its parts.
///
/// # Errors
/// When the first part cannot be opened. Others that cannot are counted.
pub fn open_parts(path: &Path) -> io::Result<Parts> {
    let unreadable = Unreadable::default();
    let (first, bytes) = open(path)?;
    let further = numbers(path).filter(|number| *number > 1).map(|number| part(path, number));
    let chained = Chained {
        now: Some(first),
        further: Box::new(further.collect::<Vec<_>>().into_iter()),
        unreadable: unreadable.clone(),
    };
    let reader: Box<dyn BufRead> = Box::new(BufReader::with_capacity(AT_ONCE, chained));
    let bytes = if part(path, 2).exists() { bytes_of_parts(path) } else { bytes };
    Ok(Parts { reader, bytes, unreadable })
}

/// Parts behind each other, each opened when the one before is over: a run can have more of them than files may be open.
struct Chained {
    now: Option<io::Take<File>>,
    further: Box<dyn Iterator<Item = PathBuf>>,
    unreadable: Unreadable,
}

impl Read for Chained {
    fn read(&mut self, buffer: &mut [u8]) -> io::Result<usize> {
        loop {
            match self.now.as_mut().map(|file| file.read(buffer)) {
                Some(Ok(0)) => self.now = None,
                Some(Err(error)) if error.kind() == io::ErrorKind::Interrupted => {}
                // What stands behind is read all the same: it may tell of errors.
                Some(Err(_)) => {
                    self.unreadable.note();
                    self.now = None;
                }
                Some(read) => return read,
                None => {
                    let Some(next) = self.further.next() else { return Ok(0) };
                    match open(&next) {
                        Ok((file, _)) => self.now = Some(file),
                        Err(_) => self.unreadable.note(),
                    }
                }
            }
        }
    }
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
