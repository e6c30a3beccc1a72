//! Bringing journals from a drive into the records: copied, compared byte by byte with what was copied, what is here already is skipped.

use std::collections::BTreeMap;
use std::ffi::OsStr;
use std::io::{Read as _, Seek as _, Write as _};
use std::path::{Path, PathBuf};
use std::sync::mpsc::sync_channel;

use anyhow::{Context, Result};
use revisum_engine::text::cleaned;
use revisum_linux::{files, is_being_written, is_part};

use super::ledger::{Arrival, Ledger};
use crate::DataDir;
use crate::say;

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

impl Imported {
    /// What was done, and what could not be.
    pub fn words(&self) -> String {
        let mut words = say::import_counts(self.copied, self.grown, self.known);
        if self.beside > 0 {
            words.push_str(&say::import_beside(self.beside));
        }
        for failed in &self.failed {
            words.push_str(&format!("\nnot copied: {failed}"));
        }
        words
    }
}

/// Files looked at.
const MOST_FILES: usize = 1_000_000;
/// Larger files are no journals.
const LARGEST: u64 = 256 << 20;
/// Folders below each other that are looked into.
const DEEPEST: usize = 4;
/// Copies after which the ledger hears of them: waking it for each would take longer than the copying.
const SHARE: usize = 50;
/// Shares of copies that wait for the ledger.
const WAITING: usize = 8;
/// Bytes up to which the ledger takes a journal from here and need not read it again.
const SMALL: usize = 128 << 10;
/// Failures that are kept one by one.
const MOST_FAILURES: usize = 100;

/// Copies all journals of runs and jobs below `from` into the records and takes them into the ledger while the next are copied; `progress` hears
/// how many of how many are done. Where no ledger can be kept they are copied all the same.
///
/// # Errors
/// When the source cannot be listed at all.
pub fn import(data: &DataDir, from: &Path, progress: &mut (dyn FnMut(usize, usize) + Send)) -> Result<Imported> {
    let (runs, jobs) = (data.runs(), data.jobs());
    let Ok(ledger) = Ledger::open(data) else { return copy(from, &runs, &jobs, &mut |_| {}, progress) };
    let (arrived, arrivals) = sync_channel(WAITING);
    std::thread::scope(|scope| {
        let copying = scope.spawn(move || {
            let mut waiting = Vec::new();
            // When the ledger can take no more, nobody listens any longer; whoever opens it next says why.
            let tell = |waiting: &mut Vec<Arrival>| drop(arrived.send(std::mem::take(waiting)));
            let mut hear = |arrival| {
                waiting.push(arrival);
                if waiting.len() == SHARE {
                    tell(&mut waiting);
                }
            };
            let done = copy(from, &runs, &jobs, &mut hear, progress);
            tell(&mut waiting);
            done
        });
        let _ = ledger.take(arrivals.into_iter().flatten());
        copying.join().unwrap_or_else(|_| Err(anyhow::anyhow!("the copying broke off")))
    })
}

/// Copies by one thread: a folder takes only one new file at a time, and a drive is read best from front to back. `arrived` hears of each run of which
/// something is new, after all that there is of it.
fn copy(
    from: &Path,
    runs: &Path,
    jobs: &Path,
    arrived: &mut dyn FnMut(Arrival),
    progress: &mut dyn FnMut(usize, usize),
) -> Result<Imported> {
    std::fs::read_dir(from).with_context(|| say::records_cannot_be_read(from.display().to_string()))?;
    let mut files = Vec::new();
    list(from, DEEPEST, &mut files);
    files.sort_by_cached_key(|path| (path.file_name().map(OsStr::to_owned), path.clone().into_os_string()));
    let (of, mut at) = (files.len(), 0);
    let mut done = Imported::default();
    for paths in files.chunk_by(|a, b| a.file_stem() == b.file_stem()) {
        let mut new = BTreeMap::new();
        for path in paths {
            let is_job = path.extension().is_some_and(|ending| ending == "job");
            let taken = take(path, if is_job { jobs } else { runs }, &mut done);
            if let Some((target, bytes)) = taken.filter(|_| !is_job) {
                let whole = bytes.filter(|bytes| paths.len() == 1 && bytes.len() <= SMALL);
                new.insert(target.with_extension("journal"), whole);
            }
            at += 1;
            progress(at, of);
        }
        new.into_iter().for_each(|(path, bytes)| arrived(Arrival { path, bytes }));
    }
    done.failed.sort();
    Ok(done)
}

/// Counts what became of a file, and gives its place if it is new there, with all that is in it if all is new.
fn take(path: &Path, folder: &Path, done: &mut Imported) -> Option<(PathBuf, Option<Vec<u8>>)> {
    match one(path, folder) {
        Ok(One { came_to: CameTo::Known, .. }) => done.known += 1,
        Ok(One { came_to, target, bytes }) => {
            match came_to {
                CameTo::Beside => done.beside += 1,
                CameTo::Grown => done.grown += 1,
                _ => done.copied += 1,
            }
            return Some((target, matches!(came_to, CameTo::Copied).then_some(bytes)));
        }
        Err(error) if done.failed.len() < MOST_FAILURES => {
            done.failed.push(cleaned(&format!("{}: {error:#}", path.display()), 300));
        }
        Err(_) => {}
    }
    None
}

struct One {
    came_to: CameTo,
    target: PathBuf,
    bytes: Vec<u8>,
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

fn one(path: &Path, folder: &Path) -> Result<One> {
    let part = |part: Option<&OsStr>| part.map(|part| part.to_string_lossy().into_owned()).unwrap_or_default();
    let (stem, ending) = (part(path.file_stem()), part(path.extension()));
    let bytes = read(path)?;
    for number in 1..100 {
        let name = if number == 1 { format!("{stem}.{ending}") } else { format!("{stem}~{number}.{ending}") };
        let target = folder.join(name);
        let came_to = match std::fs::read(&target) {
            Err(error) if error.kind() == std::io::ErrorKind::NotFound && number == 1 => CameTo::Copied,
            Err(error) if error.kind() == std::io::ErrorKind::NotFound => CameTo::Beside,
            Err(error) => return Err(error.into()),
            // What is here is the same, or has gone on since.
            Ok(here) if here.starts_with(&bytes) => CameTo::Known,
            // To put a file in the place of one that somebody writes would lose what they write.
            Ok(here) if bytes.starts_with(&here) && is_being_written(&target) => {
                anyhow::bail!("it is being written here")
            }
            Ok(here) if bytes.starts_with(&here) => CameTo::Grown,
            Ok(_) => continue,
        };
        if !matches!(came_to, CameTo::Known) {
            write(&target, &bytes)?;
        }
        return Ok(One { came_to, target, bytes });
    }
    anyhow::bail!("a hundred others have its name")
}

fn read(path: &Path) -> Result<Vec<u8>> {
    Ok(files::read(path, LARGEST)?)
}

/// Writes under another name first: a copy that breaks off is no journal.
fn write(target: &Path, bytes: &[u8]) -> Result<()> {
    let mut part = target.as_os_str().to_owned();
    part.push(".part");
    let part = PathBuf::from(part);
    // One that was left lying, or planted, is taken away; never followed.
    let _ = std::fs::remove_file(&part);
    let mut file = files::create_new(&part)?;
    file.write_all(bytes)?;
    file.rewind()?;
    let mut copied = Vec::with_capacity(bytes.len() + 1);
    file.read_to_end(&mut copied)?;
    anyhow::ensure!(copied == bytes, say::import_copy_differs());
    Ok(std::fs::rename(&part, target)?)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn journals_are_copied_once_grow_and_never_overwrite_others() {
        let (drive, shop) = (tempfile::tempdir().unwrap(), tempfile::tempdir().unwrap());
        let data = DataDir::choose(Some(shop.path()), None).unwrap();
        data.prepare().unwrap();
        let (runs, jobs) = (data.runs(), data.jobs());
        let inner = drive.path().join("data/runs");
        std::fs::create_dir_all(&inner).unwrap();
        std::os::unix::fs::symlink(drive.path(), inner.join("round")).unwrap();
        let put = |name: &str, text: &str| std::fs::write(inner.join(name), text).unwrap();
        put("a.journal", "one\n");
        put("b.job", "job\n");
        put("notes.txt", "nothing");
        put("a.journal-2", "more\n");
        let again = || import(&data, drive.path(), &mut |_, _| {}).unwrap();
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
    fn a_journal_that_is_being_written_is_not_replaced() {
        let (drive, shop) = (tempfile::tempdir().unwrap(), tempfile::tempdir().unwrap());
        let data = DataDir::choose(Some(shop.path()), None).unwrap();
        data.prepare().unwrap();
        std::fs::write(drive.path().join("a.job"), "one\ntwo\n").unwrap();
        std::fs::write(data.jobs().join("a.job"), "one\n").unwrap();
        let open = revisum_linux::JournalFile::open_to_append(&data.jobs().join("a.job")).unwrap();
        let again = || import(&data, drive.path(), &mut |_, _| {}).unwrap();
        let done = again();
        assert_eq!(done.grown, 0);
        assert!(done.failed[0].ends_with("a.job: it is being written here"), "{done:?}");
        drop(open);
        assert_eq!(again().grown, 1);
    }

    #[test]
    fn a_folder_that_is_not_there_is_said() {
        let shop = tempfile::tempdir().unwrap();
        let data = DataDir::choose(Some(shop.path()), None).unwrap();
        let error = import(&data, Path::new("/nowhere/at/all"), &mut |_, _| {}).unwrap_err();
        assert!(error.to_string().contains("cannot be read"), "{error:#}");
    }
}
