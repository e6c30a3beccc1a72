//! A ledger that cannot be used: it holds nothing that the records do not, so a damaged one is made anew; and why there is none is said in words.

use anyhow::{Error, Result, anyhow};
use rusqlite::ErrorCode;

use super::Ledger;
use super::base::Unreadable;
use crate::DataDir;
use crate::say;

impl Ledger {
    /// What `work` with a ledger gives; where the file turns out to be damaged, once more with a new one, and where a server broke off, once more
    /// with the ledger that there is then.
    ///
    /// # Errors
    /// With why there is no ledger, in words.
    pub fn repaired<T>(data: &DataDir, work: impl Fn() -> Result<T>) -> Result<T> {
        let again = |error: Error| {
            if is_of_a_server(data, &error) || (is_damaged(&error) && remove(data)) { work() } else { Err(error) }
        };
        work().or_else(again).map_err(|error| in_words(data, error))
    }
}

/// Takes the file away; whether it is gone.
fn remove(data: &DataDir) -> bool {
    let file = data.ledger();
    for ending in ["-wal", "-shm"] {
        let mut beside = file.clone().into_os_string();
        beside.push(ending);
        // They are there only while it is open.
        let _ = std::fs::remove_file(beside);
    }
    std::fs::remove_file(file).is_ok()
}

fn cause(error: &Error) -> Option<&rusqlite::Error> {
    error.chain().find_map(|cause| cause.downcast_ref())
}

/// Whether it happened with a server, and not with the file.
fn is_of_a_server(data: &DataDir, error: &Error) -> bool {
    data.ledger_place().exists() && cause(error).is_none()
}

/// Whether something is wrong with the file itself, and not with where it lies.
fn is_damaged(error: &Error) -> bool {
    let elsewhere = [
        ErrorCode::CannotOpen,
        ErrorCode::ReadOnly,
        ErrorCode::DatabaseBusy,
        ErrorCode::DatabaseLocked,
        ErrorCode::DiskFull,
        ErrorCode::PermissionDenied,
        ErrorCode::OutOfMemory,
    ];
    let of_the_file = |base: &rusqlite::Error| base.sqlite_error_code().is_none_or(|code| !elsewhere.contains(&code));
    is_unreadable(error) || cause(error).is_some_and(of_the_file)
}

/// Whether a row holds what no program of this version writes.
fn is_unreadable(error: &Error) -> bool {
    error.chain().any(|cause| cause.is::<Unreadable>())
}

fn in_words(data: &DataDir, error: Error) -> Error {
    if is_of_a_server(data, &error) {
        return error.context(say::ledger_server_failed());
    }
    let why = match cause(&error).map(rusqlite::Error::sqlite_error_code) {
        None if is_unreadable(&error) => say::ledger_damaged(),
        None => return error,
        Some(Some(ErrorCode::CannotOpen | ErrorCode::ReadOnly | ErrorCode::PermissionDenied)) => {
            say::ledger_not_written()
        }
        Some(Some(ErrorCode::DatabaseBusy | ErrorCode::DatabaseLocked)) => say::ledger_held(),
        Some(Some(ErrorCode::DiskFull)) => say::ledger_full(),
        Some(_) => say::ledger_damaged(),
    };
    anyhow!("the ledger {} {why}", data.ledger().display())
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;
    use crate::find_runs;

    #[rstest]
    #[case::rubbish(
        b"rubbish that is no ledger at all, and long enough to be looked at as one: 0123456789 0123456789 0123456789"
    )]
    #[case::empty(b"")]
    fn a_damaged_ledger_is_made_anew(#[case] bytes: &[u8]) {
        let folder = tempfile::tempdir().unwrap();
        let data = DataDir::choose(Some(folder.path()), None).unwrap();
        data.prepare().unwrap();
        std::fs::write(data.ledger(), bytes).unwrap();
        let found = find_runs(&data, "", 10).unwrap();
        assert_eq!((found.count, found.without_ledger), (0, None));
    }

    /// A column of another kind than was written: what a flipped byte leaves.
    #[test]
    fn a_row_of_something_else_is_made_anew_too() {
        let folder = tempfile::tempdir().unwrap();
        let data = DataDir::choose(Some(folder.path()), None).unwrap();
        data.prepare().unwrap();
        drop(Ledger::open(&data).unwrap());
        let base = rusqlite::Connection::open(data.ledger()).unwrap();
        base.execute(
            "INSERT INTO runs (id, birth, source, reach, outcome, errors) VALUES (x'ff', 0, 0, 0, 7, 'many')",
            [],
        )
        .unwrap();
        drop(base);
        let found = find_runs(&data, "", 10).unwrap();
        assert_eq!((found.count, found.without_ledger), (0, None));
    }

    #[test]
    fn a_ledger_that_cannot_lie_there_is_told_in_words() {
        let folder = tempfile::tempdir().unwrap();
        let data = DataDir::choose(Some(folder.path()), None).unwrap();
        data.prepare().unwrap();
        std::fs::create_dir(data.ledger()).unwrap();
        let why = find_runs(&data, "", 10).unwrap().without_ledger.unwrap();
        assert!(why.ends_with("ledger.sqlite cannot be written"), "{why}");
    }
}
