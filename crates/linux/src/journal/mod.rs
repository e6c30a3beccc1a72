//! Journals on a disk.

mod file;
mod medium;
mod parts;

pub use file::{JournalFile, is_being_written};
pub(crate) use medium::{FileMedium, Medium};
pub use parts::{Parts, Unreadable, bytes_of_parts, is_part, open_parts, stamp_of_parts};
