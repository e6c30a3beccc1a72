//! Bringing journals from a drive into the records: copied, compared byte by byte with what was copied, what is here already is skipped.

use std::fs::File;
use std::io::{Read as _, Write as _};
use std::path::{Path, PathBuf};

use anyhow::{Context, Result};
use revisum_core::text::cleaned;

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
    files.sort();
    let mut done = Imported::default();
    for (at, path) in files.iter().enumerate() {
        let folder = if path.extension().is_some_and(|ending| ending == "job") { jobs } else { runs };
        if let Err(error) = one(path, folder, &mut done) {
            let why = cleaned(&format!("{}: {error:#}", path.display()), 300);
            if done.failed.len() < MOST_FAILURES {
                done.failed.push(why);
            }
        }
        progress(at + 1, files.len());
    }
    Ok(done)
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
        } else if kind.is_file() && path.extension().is_some_and(|ending| ending == "journal" || ending == "job") {
            into.push(path);
        }
    }
}

fn one(path: &Path, folder: &Path, done: &mut Imported) -> Result<()> {
    let (Some(stem), Some(ending)) = (path.file_stem(), path.extension()) else { return Ok(()) };
    let (stem, ending) = (stem.to_string_lossy(), ending.to_string_lossy());
    let bytes = read(path)?;
    for number in 1..100 {
        let name = if number == 1 { format!("{stem}.{ending}") } else { format!("{stem}~{number}.{ending}") };
        let target = folder.join(name);
        match std::fs::read(&target) {
            Err(error) if error.kind() == std::io::ErrorKind::NotFound => {
                write(&target, &bytes)?;
                done.copied += u64::from(number == 1);
                done.beside += u64::from(number > 1);
                return Ok(());
            }
            Err(error) => return Err(error.into()),
            // What is here is the same, or has gone on since.
            Ok(here) if here.starts_with(&bytes) => {
                done.known += 1;
                return Ok(());
            }
            Ok(here) if bytes.starts_with(&here) => {
                write(&target, &bytes)?;
                done.grown += 1;
                return Ok(());
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
    let part = target.with_extension("part");
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
        let again = || import(drive.path(), &runs, &jobs, &mut |_, _| {}).unwrap();
        assert_eq!(again(), Imported { copied: 2, ..Imported::default() });
        assert_eq!(again(), Imported { known: 2, ..Imported::default() });
        put("a.journal", "one\ntwo\n");
        assert_eq!(again(), Imported { grown: 1, known: 1, ..Imported::default() });
        put("a.journal", "other\n");
        assert_eq!(again(), Imported { beside: 1, known: 1, ..Imported::default() });
        assert_eq!(again(), Imported { known: 2, ..Imported::default() });
        assert_eq!(std::fs::read_to_string(runs.join("a.journal")).unwrap(), "one\ntwo\n");
        assert_eq!(std::fs::read_to_string(runs.join("a~2.journal")).unwrap(), "other\n");
        assert!(jobs.join("b.job").is_file());
    }

    #[test]
    fn a_folder_that_is_not_there_is_said() {
        let none = Path::new("/nowhere/at/all");
        assert!(import(none, none, none, &mut |_, _| {}).unwrap_err().to_string().contains("cannot be read"));
    }
}
