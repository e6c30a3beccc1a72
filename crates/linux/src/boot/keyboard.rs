//! The keyboard of the country: tables that lie beside the program, in the form that `loadkeys --bkeymap` writes (kbd): a mark, a byte for each of
//! 256 tables, and for each that is there 128 values of 16 bits, the low byte first.

use std::fs::OpenOptions;
use std::io;
use std::path::Path;

use crate::files;
use crate::sys::console_device::set_key;

const MARK: &[u8] = b"bkeymap";
const TABLES: usize = 256;
const KEYS: usize = 128;
/// Longest file: all tables.
const LONGEST: u64 = (MARK.len() + TABLES + TABLES * KEYS * 2) as u64;

/// What a key means: table, key, value.
type Entry = (u8, u8, u16);

/// Gives a console's keyboard the layout of this name from a folder of layouts.
///
/// # Errors
/// When there is no such layout, or the console does not take it.
pub fn lay_out(folder: &Path, name: &str, console: &str) -> io::Result<()> {
    if name.is_empty() || !name.chars().all(|letter| letter.is_ascii_lowercase() || letter == '-') {
        return Err(io::Error::other(format!("there is no keyboard layout {name:?}")));
    }
    let bytes = files::read(&folder.join(name), LONGEST)?;
    let entries = entries(&bytes).ok_or_else(|| io::Error::other(format!("the keyboard layout {name} is damaged")))?;
    let console = OpenOptions::new().read(true).write(true).open(Path::new("/dev").join(console))?;
    let results: Vec<io::Result<()>> =
        entries.iter().map(|(table, key, value)| set_key(&console, *table, *key, *value)).collect();
    // Single keys that a kernel has no room for are no reason to leave out the rest.
    if results.iter().any(Result::is_ok) { Ok(()) } else { results.into_iter().collect() }
}

fn entries(bytes: &[u8]) -> Option<Vec<Entry>> {
    let rest = bytes.strip_prefix(MARK)?;
    let (there, values) = rest.split_at_checked(TABLES)?;
    let tables: Vec<u8> = (0..=255u8).zip(there).filter(|(_, there)| **there != 0).map(|(table, _)| table).collect();
    if values.len() != tables.len() * KEYS * 2 {
        return None;
    }
    let key = |table: u8| move |(key, value): (u8, &[u8])| (table, key, u16::from_le_bytes([value[0], value[1]]));
    let of = |(table, values): (u8, &[u8])| (0u8..).zip(values.chunks(2)).map(key(table)).collect::<Vec<_>>();
    Some(tables.into_iter().zip(values.chunks(KEYS * 2)).flat_map(of).collect())
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;

    fn file(tables: &[u8], values: usize) -> Vec<u8> {
        let mut bytes = MARK.to_vec();
        bytes.extend((0..=255u8).map(|table| u8::from(tables.contains(&table))));
        bytes.extend((0..values as u16).flat_map(u16::to_le_bytes));
        bytes
    }

    #[test]
    fn tables_are_told_apart() {
        let entries = entries(&file(&[0, 4], 2 * KEYS)).unwrap();
        assert_eq!((entries[0], entries[127]), ((0, 0, 0), (0, 127, 127)));
        assert_eq!((entries[128], entries[255], entries.len()), ((4, 0, 128), (4, 127, 255), 256));
    }

    #[rstest]
    #[case::nothing(Vec::new())]
    #[case::cut(file(&[0], KEYS - 1))]
    #[case::too_long(file(&[0], KEYS + 1))]
    #[case::another_mark(file(&[0], KEYS)[1..].to_vec())]
    fn what_is_damaged_is_refused(#[case] bytes: Vec<u8>) {
        assert_eq!(entries(&bytes), None);
    }

    #[test]
    fn only_a_plain_name_is_looked_for() {
        let error = lay_out(Path::new("/nowhere"), "../etc", "tty1").unwrap_err();
        assert!(error.to_string().contains("no keyboard layout"), "{error}");
    }
}
