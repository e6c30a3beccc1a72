//! Journals on a disk.

mod file;
mod medium;
mod parts;

pub use file::{JournalFile, is_being_written};
pub use parts::{is_part, open_parts};
