//! Journals of runs.

use std::collections::BTreeMap;
use std::fs::DirEntry;
use std::io::{BufRead, Cursor};
use std::path::{Path, PathBuf};

use anyhow::{Context, Result, anyhow};
use jiff::tz::TimeZone;
use revisum_engine::text::cleaned;
use revisum_linux::{JournalFile, Parts, bytes_of_parts, is_being_written, is_part, open_parts};
use revisum_record::journal::{Damage, Entry, Framed, JournalWriter, read_brief, read_journal};
use revisum_record::run_state::{Outcome, RunState};
use serde::Serialize;

use crate::WrongUse;
use crate::wall_time;

const EXTENSION: &str = "journal";
/// Journals looked at in one folder.
const MOST_FILES: usize = 100_000;

/// Whether a run is over.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Standing {
    /// Some program is writing its journal.
    Running,
    /// Ended, or broken off.
    Over(Outcome),
}

impl Standing {
    /// The words on the screen.
    pub fn words(self) -> &'static str {
        match self {
            Self::Running => "running",
            Self::Over(outcome) => outcome.words(),
        }
    }

    /// The word in JSON.
    pub fn word(self) -> String {
        match self {
            Self::Running => "running".to_owned(),
            Self::Over(outcome) => outcome.words().replace(' ', "-"),
        }
    }
}

/// A journal read again.
#[derive(Clone, Debug)]
pub struct Recorded {
    /// Id: the file's name.
    pub id: String,
    /// Its length when it was opened.
    pub bytes: u64,
    /// What its records add up to.
    pub state: RunState,
    /// What could not be read.
    pub damage: Damage,
    /// Whether it is over.
    pub standing: Standing,
}

impl Recorded {
    /// What could not be read or understood, in a sentence or two.
    pub fn trouble(&self) -> Option<String> {
        let all: Vec<String> = self.state.begin.newer().into_iter().chain(self.damage.sentence()).collect();
        (!all.is_empty()).then(|| all.join(" "))
    }
}

/// One line of the list of runs.
#[derive(Clone, Debug, PartialEq, Serialize)]
pub struct RunSummary {
    /// Id.
    pub id: String,
    /// Outcome in a word.
    pub outcome: String,
    /// Start, RFC 3339.
    pub started: String,
    /// Words that read wrong.
    pub errors: u64,
    /// Machine.
    pub machine: String,
    /// Everything in it is simulated.
    pub simulated: bool,
    /// Start in milliseconds since 1970.
    #[serde(skip)]
    pub wall_ms: i64,
    /// What the list is put in order by: the start, but after what was recorded before it.
    #[serde(skip)]
    pub order_ms: i64,
    /// What to search in.
    #[serde(skip)]
    pub text: String,
    /// A sentence about damage, if there is any.
    pub damage: Option<String>,
}

/// Starts a journal for a run that begins now. Returns its id too.
///
/// # Errors
/// When the file cannot be created.
pub fn create_run(folder: &Path, machine: &str, wall_ms: i64) -> Result<(String, JournalWriter)> {
    let name: String = machine.chars().map(|c| if c.is_ascii_alphanumeric() { c } else { '-' }).take(40).collect();
    let base = format!("{}-{name}", wall_time::format(wall_ms, &TimeZone::UTC, "%Y-%m-%d-%H%M%S"));
    for attempt in 1..1000 {
        let id = if attempt == 1 { base.clone() } else { format!("{base}-{attempt}") };
        let path = folder.join(format!("{id}.{EXTENSION}"));
        match JournalFile::create(&path) {
            // The journal itself carries the plain id: the same simulated run gives the same bytes.
            Ok(file) => return Ok((id, JournalWriter::new(Box::new(file), &base))),
            Err(error) if error.kind() == std::io::ErrorKind::AlreadyExists => {}
            Err(error) => {
                return Err(error).with_context(|| {
                    format!("the journal {} cannot be written; choose another folder with --data DIR", path.display())
                });
            }
        }
    }
    Err(anyhow!("a thousand runs began in the same second; wait for the next one"))
}

/// Reads one journal.
///
/// # Errors
/// When it cannot be opened, or holds no record of a run at all.
pub fn read_run(path: &Path) -> Result<Recorded> {
    read(path, opened(path)?, |source, take| read_journal(source, take))
}

/// Reads a journal as far as the run had come after so many milliseconds.
///
/// # Errors
/// As [`read_run`].
pub fn read_run_until(path: &Path, t_ms: u64) -> Result<Recorded> {
    let mut parts = opened(path)?;
    let mut state = RunState::default();
    let damage = read_journal(&mut *parts.reader, |framed: Framed<Entry>| {
        if framed.t_ms <= t_ms {
            state.apply(&framed);
        }
    })
    .with_context(|| format!("{} cannot be read", path.display()))?;
    Ok(Recorded { id: id_of(path), bytes: parts.bytes, state, damage, standing: Standing::Running })
}

/// Reads of one journal what a list shows of it: not its progress, not its samples. `bytes` are all that is in it, where they were read before.
///
/// # Errors
/// As [`read_run`].
pub(super) fn read_line(path: &Path, bytes: Option<Vec<u8>>) -> Result<Recorded> {
    let parts = match bytes {
        Some(bytes) => Parts { bytes: bytes.len() as u64, reader: Box::new(Cursor::new(bytes)) },
        None => opened(path)?,
    };
    read(path, parts, |source, take| read_brief(source, take))
}

fn opened(path: &Path) -> Result<Parts> {
    open_parts(path).with_context(|| format!("{} cannot be opened", path.display()))
}

type Take<'a> = &'a mut dyn FnMut(Framed<Entry>);
type Reader = fn(&mut dyn BufRead, Take<'_>) -> std::io::Result<Damage>;

fn read(path: &Path, mut parts: Parts, reader: Reader) -> Result<Recorded> {
    let mut state = RunState::default();
    let damage = reader(&mut *parts.reader, &mut |framed| state.absorb(framed))
        .with_context(|| format!("{} cannot be read", path.display()))?;
    if state.records == 0 {
        let why = damage.sentence().unwrap_or_else(|| "It is empty.".to_owned());
        return Err(anyhow!("{} holds no record of a run. {why}", path.display()));
    }
    let standing = match state.end {
        None if is_being_written(path) => Standing::Running,
        _ => Standing::Over(state.outcome(false)),
    };
    Ok(Recorded { id: id_of(path), bytes: parts.bytes, state, damage, standing })
}

fn id_of(path: &Path) -> String {
    cleaned(&name_of(path), 80)
}

/// The name of a journal as its file has it.
pub(super) fn name_of(path: &Path) -> String {
    path.file_stem().map(|stem| stem.to_string_lossy().into_owned()).unwrap_or_default()
}

/// Lists the runs in a folder, newest first, and says which files could not be read.
///
/// # Errors
/// When the folder itself cannot be read; a folder that is not there yet has no runs.
pub fn list_runs(folder: &Path) -> Result<(Vec<RunSummary>, Vec<String>)> {
    let (mut runs, mut unreadable) = (Vec::new(), Vec::new());
    let paths = journals(folder)?;
    unreadable.extend(left_out(paths.len(), folder));
    for path in paths {
        match read_line(&path, None) {
            Ok(recorded) => runs.push(summary(&recorded)),
            Err(error) => unreadable.push(cleaned(&format!("{error:#}"), 300)),
        }
    }
    runs.sort_by(|a, b| b.order_ms.cmp(&a.order_ms).then_with(|| natural(&b.id).cmp(&natural(&a.id))));
    Ok((runs, unreadable))
}

/// Said of a folder of which so many journals were read.
pub(super) fn left_out(read: usize, folder: &Path) -> Option<String> {
    (read >= MOST_FILES)
        .then(|| format!("only {MOST_FILES} journals of {} are read; it may hold more", folder.display()))
}

/// What the recorded runs of a machine have come to, oldest first; journals that cannot be read are no evidence.
///
/// # Errors
/// When the folder itself cannot be read.
pub fn runs_of_machine(folder: &Path, machine: &str) -> Result<Vec<RunState>> {
    let read = journals(folder)?.into_iter().filter_map(|path| read_run(&path).ok());
    let mut runs: Vec<RunState> =
        read.map(|recorded| recorded.state).filter(|state| state.begin.machine == machine).collect();
    runs.sort_by_key(|state| state.begin.order_ms());
    Ok(runs)
}

/// Ids of one second differ in a number at the end: `…-2` comes before `…-10`.
fn natural(id: &str) -> (usize, &str) {
    (id.len(), id)
}

fn entries(folder: &Path) -> Result<Vec<DirEntry>> {
    match std::fs::read_dir(folder) {
        Ok(entries) => Ok(entries.flatten().collect()),
        Err(error) if error.kind() == std::io::ErrorKind::NotFound => Ok(Vec::new()),
        Err(error) => Err(error).with_context(|| format!("the folder {} cannot be read", folder.display())),
    }
}

fn is_journal(path: &Path) -> bool {
    path.extension().is_some_and(|extension| extension == EXTENSION)
}

fn journals(folder: &Path) -> Result<Vec<PathBuf>> {
    let paths = entries(folder)?.into_iter().map(|entry| entry.path());
    let mut paths: Vec<PathBuf> = paths.filter(|path| is_journal(path)).take(MOST_FILES).collect();
    paths.sort();
    Ok(paths)
}

/// Lengths of the journals in a folder, each with all its parts, by name.
///
/// # Errors
/// When the folder cannot be read.
pub(super) fn lengths(folder: &Path) -> Result<BTreeMap<String, u64>> {
    let (mut all, mut several) = (BTreeMap::new(), Vec::new());
    for entry in entries(folder)? {
        let path = entry.path();
        if is_part(&path) || entry.file_type().is_ok_and(|kind| kind.is_symlink()) {
            several.push(path.with_extension(EXTENSION));
        }
        if is_journal(&path) && all.len() < MOST_FILES {
            all.insert(name_of(&path), entry.metadata().map_or(0, |meta| meta.len()));
        }
    }
    for path in several {
        all.entry(name_of(&path)).and_modify(|length| *length = bytes_of_parts(&path));
    }
    Ok(all)
}

pub(super) fn summary(recorded: &Recorded) -> RunSummary {
    let begin = &recorded.state.begin;
    let modules = begin.board.modules().map(|(slot, module)| {
        format!(
            "{} {} {} {} {}",
            slot.id,
            module.serial,
            module.maker,
            module.part,
            module.mark.as_deref().unwrap_or("")
        )
    });
    let tests = recorded.state.tests.iter().map(|test| test.name.clone());
    let words: Vec<String> = modules.chain(tests).collect();
    let machine = cleaned(&begin.machine, 40);
    let text = format!("{} {machine} {} {}", recorded.id, recorded.standing.words(), words.join(" ")).to_lowercase();
    RunSummary {
        id: recorded.id.clone(),
        outcome: recorded.standing.word(),
        started: wall_time::machine_form(begin.wall_ms),
        errors: recorded.state.errors.words,
        machine,
        simulated: begin.simulated,
        wall_ms: begin.wall_ms,
        order_ms: begin.order_ms(),
        text,
        damage: recorded.trouble(),
    }
}

/// The journal that is meant: a file, `last`, an id or the beginning of one.
///
/// # Errors
/// When there is none, or several.
pub fn find_run(folder: &Path, wanted: &str) -> Result<PathBuf> {
    let as_file = Path::new(wanted);
    if as_file.is_file() {
        return Ok(as_file.to_owned());
    }
    if wanted == "last" {
        let newest = list_runs(folder)?.0.into_iter().next();
        let newest = newest.ok_or_else(|| WrongUse("there is no recorded run yet".to_owned()))?;
        return Ok(folder.join(format!("{}.{EXTENSION}", newest.id)));
    }
    let exact = folder.join(format!("{wanted}.{EXTENSION}"));
    if exact.is_file() {
        return Ok(exact);
    }
    let begins = |path: &PathBuf| path.file_stem().is_some_and(|stem| stem.to_string_lossy().starts_with(wanted));
    let mut matching: Vec<PathBuf> = journals(folder)?.into_iter().filter(begins).collect();
    match matching.len() {
        1 => Ok(matching.remove(0)),
        0 => Err(WrongUse(format!("there is no run {wanted:?}. `revisum logs` lists them")).into()),
        several => Err(WrongUse(format!("{several} runs begin with {wanted:?}; give more of the id")).into()),
    }
}

#[cfg(test)]
mod tests {
    use revisum_engine::news::EndReason;
    use revisum_record::journal::Begin;

    use super::*;

    const WALL_MS: i64 = 1_933_766_160_000;

    fn write_run(folder: &Path, ended: bool) -> String {
        let (id, mut writer) = create_run(folder, "dome 1", WALL_MS).unwrap();
        let begin = Begin { machine: "dome 1".into(), wall_ms: WALL_MS, ..Begin::default() };
        writer.append(0, Entry::Begin(Box::new(begin))).unwrap();
        if ended {
            writer.append(5, Entry::Ended { reason: EndReason::Stopped }).unwrap();
        }
        writer.sync().unwrap();
        id
    }

    #[test]
    fn runs_are_listed_newest_first_and_found_by_id_or_its_beginning() {
        let folder = tempfile::tempdir().unwrap();
        let first = write_run(folder.path(), true);
        let second = write_run(folder.path(), false);
        assert_eq!((first.as_str(), second.as_str()), ("2031-04-12-131600-dome-1", "2031-04-12-131600-dome-1-2"));
        std::fs::write(folder.path().join("junk.journal"), b"\x00\xffnot a journal").unwrap();
        let (runs, unreadable) = list_runs(folder.path()).unwrap();
        let seen: Vec<_> = runs.iter().map(|run| (run.id.as_str(), run.outcome.as_str())).collect();
        assert_eq!(seen, [(second.as_str(), "interrupted"), (first.as_str(), "cut-short")]);
        assert_eq!(unreadable.len(), 1);
        assert!(find_run(folder.path(), "last").unwrap().ends_with(format!("{second}.journal")));
        assert!(find_run(folder.path(), &first).unwrap().ends_with(format!("{first}.journal")));
        assert!(find_run(folder.path(), "2031").unwrap_err().to_string().contains("2 runs begin with"));
        assert!(find_run(folder.path(), "2032").unwrap_err().to_string().contains("no run"));
    }

    #[test]
    fn a_journal_that_is_being_written_is_running_not_interrupted() {
        let folder = tempfile::tempdir().unwrap();
        let (id, mut writer) = create_run(folder.path(), "m", WALL_MS).unwrap();
        writer.append(0, Entry::Begin(Box::default())).unwrap();
        let path = folder.path().join(format!("{id}.journal"));
        assert_eq!(read_run(&path).unwrap().standing, Standing::Running);
        drop(writer);
        assert_eq!(read_run(&path).unwrap().standing, Standing::Over(Outcome::Interrupted));
    }

    #[test]
    fn a_folder_with_more_journals_than_are_read_is_said() {
        assert_eq!(left_out(99_999, Path::new("f")), None);
        assert!(left_out(100_000, Path::new("f")).unwrap().starts_with("only 100000 journals of f are read"));
    }

    #[test]
    fn a_folder_that_is_not_there_has_no_runs() {
        assert!(list_runs(Path::new("/nowhere/at/all")).unwrap().0.is_empty());
    }
}
