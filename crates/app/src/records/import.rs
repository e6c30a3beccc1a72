//! Bringing journals from a drive into the records: copied, compared byte by byte with what was copied, what is here already is skipped.

use std::fs::File;
use std::io::{Read as _, Write as _};
use std::path::{Path, PathBuf};
use std::sync::mpsc::{Sender, channel};
use std::sync::{Mutex, MutexGuard, PoisonError};

use anyhow::{Context, Result};
use revisum_core::text::cleaned;
use revisum_linux::is_part;

/// What an import came to.
#[derive(Clone, Debug, Default, PartialEq, Eq, serde::Serialize)]
pub struct Imported {
    /// Journals that were copied.
    pub copied: u64,
    /// Journals that had grown since they were copied first.
    pub grown: u64,
    /// Journals that were here already.
    pub known: u64,
    /// Journals of the same name with other records: kept beside the first under another name.
    pub beside: u64,
    /// What could not be copied, and why.
    pub failed: Vec<String>,
}

/// Files looked at.
const MOST_FILES: usize = 1_000_000;
/// Larger files are no journals.
const LARGEST: u64 = 1 << 30;
/// Folders below each other that are looked into.
const DEEPEST: usize = 4;
/// Failures that are kept one by one.
const MOST_FAILURES: usize = 100;

/// Copies all journals of runs and jobs below `from` into the records; `progress` hears how many of how many are done.
///
/// # Errors
/// When the source cannot be listed at all.
pub fn import(from: &Path, runs: &Path, jobs: &Path, progress: &mut dyn FnMut(usize, usize)) -> Result<Imported> {
    std::fs::read_dir(from).with_context(|| format!("{} cannot be read", from.display()))?;
    let mut files = Vec::new();
    list(from, DEEPEST, &mut files);
    files.sort_by(|a, b| (a.file_name(), a).cmp(&(b.file_name(), b)));
    let of = files.len();
    // Files of one name go to one place: they are taken one after the other.
    let groups = files.chunk_by(|a, b| a.file_name() == b.file_name());
    let (queue, done, (told, hears)) = (Mutex::new(groups), Mutex::new(Imported::default()), channel());
    let work = |told: Sender<()>| {
        while let Some(paths) = next(&queue) {
            for path in paths {
                let folder = if path.extension().is_some_and(|ending| ending == "job") { jobs } else { runs };
                take(path, folder, &done);
                // The one who hears is there until all are done.
                let _ = told.send(());
            }
        }
    };
    std::thread::scope(|scope| {
        for _ in 0..std::thread::available_parallelism().map_or(1, usize::from) {
            let told = told.clone();
            scope.spawn(|| work(told));
        }
        drop(told);
        hears.iter().enumerate().for_each(|(at, ())| progress(at + 1, of));
    });
    let mut done = done.into_inner().unwrap_or_else(PoisonError::into_inner);
    done.failed.sort();
    Ok(done)
}

fn next<I: Iterator>(queue: &Mutex<I>) -> Option<I::Item> {
    locked(queue).next()
}

fn locked<T>(mutex: &Mutex<T>) -> MutexGuard<'_, T> {
    mutex.lock().unwrap_or_else(PoisonError::into_inner)
}

fn take(path: &Path, folder: &Path, done: &Mutex<Imported>) {
    let came_to = one(path, folder);
    let mut done = locked(done);
    match came_to {
        Ok(Some(CameTo::Copied)) => done.copied += 1,
        Ok(Some(CameTo::Beside)) => done.beside += 1,
        Ok(Some(CameTo::Known)) => done.known += 1,
        Ok(Some(CameTo::Grown)) => done.grown += 1,
        Ok(None) => {}
        Err(error) if done.failed.len() < MOST_FAILURES => {
            done.failed.push(cleaned(&format!("{}: {error:#}", path.display()), 300));
        }
        Err(_) => {}
    }
}

/// What became of one file.
enum CameTo {
    Copied,
    Beside,
    Known,
    Grown,
}

fn is_record(path: &Path) -> bool {
    path.extension().is_some_and(|ending| ending == "journal" || ending == "job") || is_part(path)
}

/// Journals below a folder. Links are not followed, so that none leads round in a circle.
fn list(folder: &Path, deep: usize, into: &mut Vec<PathBuf>) {
    let Ok(entries) = std::fs::read_dir(folder) else { return };
    for entry in entries.flatten() {
        if into.len() >= MOST_FILES {
            return;
        }
        let Ok(kind) = entry.file_type() else { continue };
        let path = entry.path();
        if kind.is_dir() && deep > 0 {
            list(&path, deep - 1, into);
        } else if kind.is_file() && is_record(&path) {
            into.push(path);
        }
    }
}

fn one(path: &Path, folder: &Path) -> Result<Option<CameTo>> {
    let (Some(stem), Some(ending)) = (path.file_stem(), path.extension()) else { return Ok(None) };
    let (stem, ending) = (stem.to_string_lossy(), ending.to_string_lossy());
    let bytes = read(path)?;
    for number in 1..100 {
        let name = if number == 1 { format!("{stem}.{ending}") } else { format!("{stem}~{number}.{ending}") };
        let target = folder.join(name);
        match std::fs::read(&target) {
            Err(error) if error.kind() == std::io::ErrorKind::NotFound => {
                write(&target, &bytes)?;
                return Ok(Some(if number == 1 { CameTo::Copied } else { CameTo::Beside }));
            }
            Err(error) => return Err(error.into()),
            // What is here is the same, or has gone on since.
            Ok(here) if here.starts_with(&bytes) => return Ok(Some(CameTo::Known)),
            Ok(here) if bytes.starts_with(&here) => {
                write(&target, &bytes)?;
                return Ok(Some(CameTo::Grown));
            }
            Ok(_) => {}
        }
    }
    anyhow::bail!("a hundred others have its name")
}

fn read(path: &Path) -> Result<Vec<u8>> {
    let mut bytes = Vec::new();
    File::open(path)?.take(LARGEST + 1).read_to_end(&mut bytes)?;
    anyhow::ensure!(bytes.len() as u64 <= LARGEST, "it is larger than any journal");
    Ok(bytes)
}

/// Writes under another name first: a copy that breaks off is no journal.
fn write(target: &Path, bytes: &[u8]) -> Result<()> {
    let mut part = target.as_os_str().to_owned();
    part.push(".part");
    let part = PathBuf::from(part);
    File::create(&part)?.write_all(bytes)?;
    anyhow::ensure!(std::fs::read(&part)? == bytes, "the copy is not what was copied");
    Ok(std::fs::rename(&part, target)?)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn journals_are_copied_once_grow_and_never_overwrite_others() {
        let (drive, shop) = (tempfile::tempdir().unwrap(), tempfile::tempdir().unwrap());
        let (runs, jobs) = (shop.path().join("runs"), shop.path().join("jobs"));
        [&runs, &jobs].iter().for_each(|folder| std::fs::create_dir(folder).unwrap());
        let inner = drive.path().join("data/runs");
        std::fs::create_dir_all(&inner).unwrap();
        std::os::unix::fs::symlink(drive.path(), inner.join("round")).unwrap();
        let put = |name: &str, text: &str| std::fs::write(inner.join(name), text).unwrap();
        put("a.journal", "one\n");
        put("b.job", "job\n");
        put("notes.txt", "nothing");
        put("a.journal-2", "more\n");
        let again = || import(drive.path(), &runs, &jobs, &mut |_, _| {}).unwrap();
        assert_eq!(again(), Imported { copied: 3, ..Imported::default() });
        assert_eq!(again(), Imported { known: 3, ..Imported::default() });
        put("a.journal", "one\ntwo\n");
        assert_eq!(again(), Imported { grown: 1, known: 2, ..Imported::default() });
        put("a.journal", "other\n");
        assert_eq!(again(), Imported { beside: 1, known: 2, ..Imported::default() });
        assert_eq!(again(), Imported { known: 3, ..Imported::default() });
        assert_eq!(std::fs::read_to_string(runs.join("a.journal")).unwrap(), "one\ntwo\n");
        assert_eq!(std::fs::read_to_string(runs.join("a~2.journal")).unwrap(), "other\n");
        assert!(jobs.join("b.job").is_file() && runs.join("a.journal-2").is_file());
    }

    #[test]
    fn a_folder_that_is_not_there_is_said() {
        let none = Path::new("/nowhere/at/all");
        assert!(import(none, none, none, &mut |_, _| {}).unwrap_err().to_string().contains("cannot be read"));
    }
}
