//! Looking again at a word that read wrong.
//!
//! The result shifts the odds between causes and proves nothing alone: a write that failed leaves wrong data behind as
//! well as a cell that forgot.

use serde::{Deserialize, Serialize};

use super::flush::flush;

/// What a second look found.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, PartialOrd, Ord, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub enum Kind {
    /// Written again, wrong again.
    Recurring,
    /// Stayed wrong until it was written again.
    Stored,
    /// The next reads were right.
    Transient,
    /// Changed from read to read.
    Unsteady,
    /// Beyond the budget: not looked at again.
    NotLooked,
}

/// One word of memory under test, reached past the caches.
pub trait WordAccess {
    /// Reads the word from the memory itself.
    fn read(&mut self) -> u64;
    /// Writes the word through to the memory.
    fn write(&mut self, word: u64);
}

/// How often a suspicious word is read again.
const READS: usize = 4;

/// Reads the word several times, then writes it again and reads once more.
pub fn second_look(word: &mut dyn WordAccess, expected: u64, first_read: u64) -> Kind {
    let reads: [u64; READS] = std::array::from_fn(|_| word.read());
    if reads.iter().all(|read| *read == expected) {
        return Kind::Transient;
    }
    if reads.iter().any(|read| *read != first_read) {
        return Kind::Unsteady;
    }
    word.write(expected);
    if word.read() == expected { Kind::Stored } else { Kind::Recurring }
}

/// A word of this process's memory.
pub struct FlushedWord(*mut u64);

impl FlushedWord {
    /// The word at `ptr`.
    ///
    /// # Safety
    /// `ptr` must stay valid for reads and writes and aligned while this value lives, and nobody else may use the word.
    pub unsafe fn new(ptr: *mut u64) -> Self {
        Self(ptr)
    }
}

impl WordAccess for FlushedWord {
    fn read(&mut self) -> u64 {
        // SAFETY: promised at construction.
        unsafe {
            flush(self.0.cast(), 8, false);
            self.0.read_volatile()
        }
    }

    fn write(&mut self, word: u64) {
        // SAFETY: promised at construction.
        unsafe {
            self.0.write_volatile(word);
            flush(self.0.cast(), 8, false);
        }
    }
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;

    /// Reads come from a script; a write is followed by `after_write`.
    struct Scripted {
        reads: Vec<u64>,
        after_write: u64,
    }

    impl WordAccess for Scripted {
        fn read(&mut self) -> u64 {
            if self.reads.is_empty() { self.after_write } else { self.reads.remove(0) }
        }
        fn write(&mut self, _word: u64) {}
    }

    #[rstest]
    #[case::sticks([1, 1, 1, 1], 1, Kind::Recurring)]
    #[case::was_flipped([1, 1, 1, 1], 0, Kind::Stored)]
    #[case::read_disturbed([0, 0, 0, 0], 0, Kind::Transient)]
    #[case::flickers([1, 0, 1, 1], 1, Kind::Unsteady)]
    #[case::other_than_first([3, 3, 3, 3], 3, Kind::Unsteady)]
    fn kinds(#[case] reads: [u64; 4], #[case] after_write: u64, #[case] kind: Kind) {
        assert_eq!(second_look(&mut Scripted { reads: reads.into(), after_write }, 0, 1), kind);
    }

    #[test]
    fn a_real_word_that_was_flipped_is_stored() {
        let mut word: u64 = 5;
        let ptr = &raw mut word;
        // SAFETY: the word outlives the access and is used only through it.
        let mut access = unsafe { FlushedWord::new(ptr) };
        assert_eq!(second_look(&mut access, 4, 5), Kind::Stored);
        assert_eq!(access.read(), 4);
    }
}
