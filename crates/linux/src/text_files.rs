//! The small text files under `/proc` and `/sys`.

use std::path::{Path, PathBuf};

use revisum_engine::text::cleaned;

/// Longest value worth reading from such a file.
const LONGEST: usize = 200;

/// The file's text without control characters; nothing when it cannot be read.
pub(crate) fn value(path: impl AsRef<Path>) -> Option<String> {
    Some(cleaned(&std::fs::read_to_string(path).ok()?, LONGEST))
}

/// The file's text as a number.
pub(crate) fn number(path: impl AsRef<Path>) -> Option<u64> {
    value(path)?.parse().ok()
}

/// Entries of a folder in a fixed order; none when it cannot be read.
pub(crate) fn entries(path: impl AsRef<Path>) -> Vec<PathBuf> {
    let Ok(folder) = std::fs::read_dir(path) else { return Vec::new() };
    let mut found: Vec<PathBuf> = folder.flatten().map(|entry| entry.path()).collect();
    found.sort();
    found
}
