//! What lies below 1 MiB goes back where it was when a test is over: the code that wakes processors after sleep is somewhere in it.
//! A run in which the machine sleeps leaves that memory alone. A program that dies meanwhile leaves test patterns there.

use std::io;

use revisum_engine::sweep::second_look::WordAccess as _;
use revisum_engine::units::ByteRange;

use crate::sys::mapping::Mapping;
use crate::window::{LOW, physical};

/// Bytes of a word.
const WORD: usize = 8;

/// Words below 1 MiB as they were; dropped, it writes them back.
#[derive(Default)]
pub(crate) struct LowMemory(Vec<(Mapping, Vec<u64>)>);

impl LowMemory {
    /// Keeps those of these ranges that lie there.
    ///
    /// # Errors
    /// When one cannot be mapped.
    pub fn keep(ranges: impl Iterator<Item = ByteRange>) -> io::Result<Self> {
        let low = ranges.filter(|range| range.end <= LOW.end);
        low.map(|range| physical(range).map(|mapping| kept(mapping, range.len() as usize)))
            .collect::<io::Result<_>>()
            .map(Self)
    }
}

fn kept(mapping: Mapping, len: usize) -> (Mapping, Vec<u64>) {
    let words = (0..len / WORD).map(|at| mapping.word(at * WORD).read()).collect();
    (mapping, words)
}

impl Drop for LowMemory {
    fn drop(&mut self) {
        for (mapping, words) in &self.0 {
            words.iter().enumerate().for_each(|(at, word)| mapping.word(at * WORD).write(*word));
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_was_there_is_there_again() {
        let file = tempfile::tempfile().unwrap();
        file.set_len(4096).unwrap();
        let map = || Mapping::of_device(&file, 0, 4096).unwrap();
        let value = |at: usize| at as u64 * 0x0101;
        let other = map();
        (0..512).for_each(|at| other.word(at * WORD).write(value(at)));
        let low = LowMemory(vec![kept(map(), 4096)]);
        (0..512).for_each(|at| other.word(at * WORD).write(!0));
        drop(low);
        assert!((0..512).all(|at| other.word(at * WORD).read() == value(at)));
    }
}
