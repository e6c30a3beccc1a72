//! Journals of runs.

use std::collections::BTreeMap;
use std::fs::DirEntry;
use std::io::{BufRead, Cursor, Read};
use std::path::{Path, PathBuf};

use anyhow::{Context, Result, anyhow};
use jiff::tz::TimeZone;
use revisum_engine::text::cleaned;
use revisum_linux::{JournalFile, Parts, Unreadable, is_being_written, open_parts, stamp_of_parts};
use revisum_record::journal::{Begin, Entry, Framed, JournalStore, JournalWriter, Reading, read_brief, read_journal};
use revisum_record::outcome::{EndedBy, Grade, Headline, Judgement, Outcome};
use revisum_record::run_state::RunState;
use revisum_record::totals::Totals;
use revisum_words::{Language, Said, damage, result, speaking};
use serde::{Serialize, Serializer};

use crate::WrongUse;
use crate::jobs::stem;
use crate::say;
use crate::wall_time;

const EXTENSION: &str = "journal";
/// Journals looked at in one folder.
const MOST_FILES: usize = 100_000;

/// Longest text that a run is found by.
const LONGEST_TEXT: usize = 4000;
/// Longest first record, in bytes.
const LONGEST_BEGIN: u64 = 4 << 20;

/// The word of a run that is not over.
const RUNNING: &str = "running";

/// Whether a run is over.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Standing {
    /// Some program is writing its journal.
    Running,
    /// Ended, or broken off.
    Over(Outcome),
}

impl Said for Standing {
    fn said(&self) -> &'static str {
        match self {
            Self::Running => result::running(),
            Self::Over(outcome) => outcome.said(),
        }
    }
}

impl Standing {
    /// The word in JSON and in the ledger.
    pub fn word(self) -> &'static str {
        match self {
            Self::Running => RUNNING,
            Self::Over(outcome) => outcome.word(),
        }
    }

    /// The standing with this [`Self::word`].
    pub fn of_word(word: &str) -> Option<Self> {
        if word == RUNNING { Some(Self::Running) } else { Outcome::of_word(word).map(Self::Over) }
    }
}

impl Serialize for Standing {
    fn serialize<S: Serializer>(&self, serializer: S) -> Result<S::Ok, S::Error> {
        serializer.serialize_str(self.word())
    }
}

/// A journal read again.
#[derive(Clone, Debug)]
pub struct Recorded {
    /// Id: the file's name.
    pub id: String,
    /// Its length when it was opened.
    pub bytes: u64,
    /// Records in it by their numbers, those that are lost too.
    pub records: u64,
    /// What its records add up to.
    pub state: RunState,
    /// Whether it is over.
    pub standing: Standing,
}

impl Recorded {
    /// Takes what the job wrote down of this run when it was over: records that are missing since then, and what they told.
    pub(super) fn compare(&mut self, (records, totals): (u64, Totals)) {
        let mut damage = self.state.damage.clone();
        damage.missing = damage.missing.saturating_add(records.saturating_sub(self.records));
        self.state.heed(&Reading { damage, totals, ..Reading::default() });
        if let Standing::Over(outcome) = &mut self.standing {
            *outcome = Judgement::of(&self.state, false).outcome;
        }
    }

    /// What it came to.
    pub fn judgement(&self) -> Judgement {
        Judgement::of(&self.state, self.standing == Standing::Running)
    }

    /// What could not be read or understood, in a sentence or two.
    pub fn trouble(&self) -> Option<String> {
        let all: Vec<String> =
            damage::newer(&self.state.begin).into_iter().chain(damage::sentence(&self.state.damage)).collect();
        (!all.is_empty()).then(|| all.join(" "))
    }
}

/// One line of the list of runs.
#[derive(Clone, Debug, PartialEq, Serialize)]
pub struct RunSummary {
    /// Id.
    pub id: String,
    /// Whether it is over, and how it came out.
    pub outcome: Standing,
    /// The result, part by part, with any reduction. Other programs get it as a line in English.
    #[serde(serialize_with = "in_english")]
    pub headline: Headline,
    /// How good the result is.
    pub grade: Grade,
    /// What ended it; nothing while it is running.
    pub ended_by: Option<EndedBy>,
    /// Start, RFC 3339.
    pub started: String,
    /// Words that read wrong.
    pub errors: u64,
    /// Errors that the hardware corrected.
    pub corrected: u64,
    /// Slots in which errors were placed, with blanks between them; several joined where it is one of them. Empty where none were.
    pub slots: String,
    /// Which module was in which slot: `A1 red dot, B1 …0094`.
    pub arrangement: String,
    /// Depth; empty where the record does not say.
    pub depth: String,
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
    /// What to search in, besides the id.
    #[serde(skip)]
    pub text: String,
    /// A sentence about damage, in the language that was spoken when the record was read; nothing when it is whole.
    pub damage: Option<String>,
    /// In whose records its journal is, where it is not in these.
    pub elsewhere: Option<String>,
}

fn in_english<S: Serializer>(headline: &Headline, serializer: S) -> Result<S::Ok, S::Error> {
    serializer.serialize_str(&speaking(Language::EN, || result::headline_of(headline)))
}

/// Starts a journal for a run that begins now. Returns its id too.
///
/// # Errors
/// When the file cannot be created.
pub fn create_run(folder: &Path, machine: &str, wall_ms: i64) -> Result<(String, JournalWriter)> {
    let name = stem(machine);
    let base = format!("{}-{name}", wall_time::format(wall_ms, &TimeZone::UTC, "%Y-%m-%d-%H%M%S"));
    for attempt in 1..1000 {
        let id = if attempt == 1 { base.clone() } else { format!("{base}-{attempt}") };
        let path = folder.join(format!("{id}.{EXTENSION}"));
        match JournalFile::create(&path) {
            // The journal itself carries the plain id: the same simulated run gives the same bytes.
            Ok(file) => return Ok((id, JournalWriter::new(Box::new(file), &base))),
            Err(error) if error.kind() == std::io::ErrorKind::AlreadyExists => {}
            // A full or missing drive is told with every record that it refuses; the run is made all the same.
            Err(error) if is_of_the_drive(&error) => {
                return Ok((id, JournalWriter::new(Box::new(LateFile { path, file: None }), &base)));
            }
            Err(error) => {
                return Err(error).with_context(|| say::run_journal_not_written(path.display().to_string()));
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
    let reading = read_journal(&mut *parts.reader, |framed: Framed<Entry>| {
        if framed.t_ms <= t_ms {
            state.apply(&framed);
        }
    })
    .with_context(|| say::records_cannot_be_read(path.display().to_string()))?;
    let records = reading.link.next_seq;
    // Totals of later records say nothing of this moment.
    state.damage = with_parts(reading, &parts).damage;
    Ok(Recorded { id: id_of(path), bytes: parts.bytes, records, state, standing: Standing::Running })
}

/// Reads of one journal what a list shows of it: not its progress, not its samples. `bytes` are all that is in it, where they were read before.
///
/// # Errors
/// As [`read_run`].
pub(super) fn read_line(path: &Path, bytes: Option<Vec<u8>>) -> Result<Recorded> {
    let parts = match bytes {
        Some(bytes) => {
            Parts { bytes: bytes.len() as u64, reader: Box::new(Cursor::new(bytes)), unreadable: Unreadable::default() }
        }
        None => opened(path)?,
    };
    read(path, parts, |source, take| read_brief(source, take))
}

fn opened(path: &Path) -> Result<Parts> {
    open_parts(path).with_context(|| say::run_not_opened(path.display().to_string()))
}

type Take<'a> = &'a mut dyn FnMut(Framed<Entry>);
type Reader = fn(&mut dyn BufRead, Take<'_>) -> std::io::Result<Reading>;

fn read(path: &Path, mut parts: Parts, reader: Reader) -> Result<Recorded> {
    let mut state = RunState::default();
    let reading = reader(&mut *parts.reader, &mut |framed| state.absorb(framed))
        .with_context(|| say::records_cannot_be_read(path.display().to_string()))?;
    let reading = with_parts(reading, &parts);
    state.heed(&reading);
    if state.records == 0 {
        let why = damage::sentence(&reading.damage).unwrap_or_else(|| say::run_empty().to_owned());
        return Err(anyhow!("{} holds no record of a run. {why}", path.display()));
    }
    let standing = match state.end {
        None if is_being_written(path) => Standing::Running,
        _ => Standing::Over(Judgement::of(&state, false).outcome),
    };
    Ok(Recorded { id: id_of(path), bytes: parts.bytes, records: reading.link.next_seq, state, standing })
}

/// Parts that cannot be read are damage too.
fn with_parts(mut reading: Reading, parts: &Parts) -> Reading {
    reading.damage.unreadable = parts.unreadable.count();
    reading
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
    (read >= MOST_FILES).then(|| say::run_only_so_many(MOST_FILES, folder.display().to_string()))
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
        Err(error) => Err(error).with_context(|| say::run_folder_not_read(folder.display().to_string())),
    }
}

fn is_journal(path: &Path) -> bool {
    path.extension().is_some_and(|extension| extension == EXTENSION)
}

pub(crate) fn journals(folder: &Path) -> Result<Vec<PathBuf>> {
    let paths = entries(folder)?.into_iter().map(|entry| entry.path());
    let mut paths: Vec<PathBuf> = paths.filter(|path| is_journal(path)).take(MOST_FILES).collect();
    paths.sort();
    Ok(paths)
}

/// What changes with each journal in a folder, all its parts too, by name.
///
/// # Errors
/// When the folder cannot be read.
pub(super) fn stamps(folder: &Path) -> Result<BTreeMap<String, u64>> {
    let paths = entries(folder)?.into_iter().map(|entry| entry.path());
    let journals = paths.filter(|path| is_journal(path)).take(MOST_FILES);
    Ok(journals.filter_map(|path| Some((name_of(&path), stamp_of_parts(&path)?))).collect())
}

/// Slots in which errors were placed: by the words that read wrong, else by the hardware's own counters.
fn slots_of(state: &RunState, judgement: &Judgement) -> String {
    match state.errors.slots.is_empty() {
        true => judgement.place.clone().unwrap_or_default(),
        false => {
            let either = |joined: &String| state.begin.board.slots_in(joined).join(say::slots_or());
            state.errors.slots.keys().map(either).collect::<Vec<_>>().join(", ")
        }
    }
}

fn arrangement(begin: &Begin) -> String {
    let modules = begin.board.modules().map(|(slot, module)| format!("{} {}", slot.id, module.name()));
    modules.collect::<Vec<_>>().join(", ")
}

impl RunSummary {
    /// Whether it has this word, in lower letters. A number without hyphens is not looked for in the date of the id: every run has some.
    pub(super) fn has(&self, word: &str) -> bool {
        self.text.contains(word) || (!is_number(word) && self.id.to_lowercase().contains(word))
    }
}

/// Whether a word has digits only.
pub(super) fn is_number(word: &str) -> bool {
    word.bytes().all(|byte| byte.is_ascii_digit())
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
    let judgement = recorded.judgement();
    let headline = judgement.told();
    // What a run came to is found by its words in any language.
    let in_words =
        |language| speaking(language, || format!("{} {}", recorded.standing.said(), result::headline_of(&headline)));
    let results = Language::all().map(in_words).collect::<Vec<_>>().join(" ");
    let text = cleaned(&format!("{machine} {results} {}", words.join(" ")), LONGEST_TEXT).to_lowercase();
    RunSummary {
        id: recorded.id.clone(),
        outcome: recorded.standing,
        headline,
        grade: judgement.grade,
        ended_by: judgement.ended_by,
        started: wall_time::machine_form(begin.wall_ms),
        errors: recorded.state.errors.words,
        corrected: judgement.counts.corrected,
        slots: cleaned(&slots_of(&recorded.state, &judgement), 120),
        arrangement: cleaned(&arrangement(begin), 200),
        depth: begin.recipe.as_ref().map_or("", |recipe| recipe.depth.word()).to_owned(),
        machine,
        simulated: begin.simulated,
        wall_ms: begin.wall_ms,
        order_ms: begin.order_ms(),
        text,
        damage: recorded.trouble(),
        elsewhere: None,
    }
}

/// Runs of a machine in a folder that say that they belong to this job, and are not among those that it knows, in the order of their names. They broke off
/// before the job was told of them, or the job's own record lost that.
pub(super) fn runs_of_job(folder: &Path, machine: &str, job: &str, known: &[String]) -> Vec<String> {
    let stem = stem(machine);
    let of_it = |path: &PathBuf| {
        let name = name_of(path);
        name.contains(&stem) && !known.contains(&name) && begin_of(path).is_some_and(|begin| begin.job == job)
    };
    journals(folder).unwrap_or_default().into_iter().filter(of_it).map(|path| name_of(&path)).collect()
}

/// How a journal begins; nothing where that cannot be read, or where an older program wrote it, which named the machine in the place of the job.
fn begin_of(path: &Path) -> Option<Begin> {
    let mut first = Vec::new();
    open_parts(path).ok()?.reader.take(LONGEST_BEGIN).read_until(b'\n', &mut first).ok()?;
    let mut found = None;
    read_journal(&mut first.as_slice(), |framed| {
        if let Entry::Begin(begin) = framed.entry {
            found = Some(*begin);
        }
    })
    .ok()?;
    found.filter(|begin| begin.format > 1)
}

/// A journal whose file cannot be made yet: it is tried with every record.
struct LateFile {
    path: PathBuf,
    file: Option<JournalFile>,
}

impl LateFile {
    fn file(&mut self) -> std::io::Result<&mut JournalFile> {
        match &mut self.file {
            Some(file) => Ok(file),
            none => Ok(none.insert(JournalFile::create(&self.path)?)),
        }
    }
}

impl JournalStore for LateFile {
    fn append(&mut self, bytes: &[u8]) -> std::io::Result<()> {
        self.file()?.append(bytes)
    }

    fn sync(&mut self) -> std::io::Result<()> {
        self.file()?.sync()
    }
}

/// Whether it is the drive that refuses, and may take it later.
fn is_of_the_drive(error: &std::io::Error) -> bool {
    use std::io::ErrorKind;
    matches!(
        error.kind(),
        ErrorKind::StorageFull
            | ErrorKind::QuotaExceeded
            | ErrorKind::ReadOnlyFilesystem
            | ErrorKind::NotFound
            | ErrorKind::NotADirectory
    ) || matches!(error.raw_os_error(), Some(EIO | ENODEV | ENXIO))
}

/// Errors of a drive that was pulled out, or fails.
const EIO: i32 = 5;
const ENXIO: i32 = 6;
const ENODEV: i32 = 19;

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
        let newest = newest.ok_or_else(|| WrongUse(say::run_none_yet().to_owned()))?;
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
        0 => Err(WrongUse(say::run_no_such(format!("{:?}", wanted))).into()),
        several => Err(WrongUse(say::run_ambiguous(several, format!("{:?}", wanted))).into()),
    }
}

#[cfg(test)]
mod tests {
    use revisum_engine::news::EndReason;

    use super::*;

    const WALL_MS: i64 = 1_933_766_160_000;

    fn write_run(folder: &Path, ended: bool) -> String {
        let (id, mut writer) = create_run(folder, "dome 1", WALL_MS).unwrap();
        let begin = Begin { machine: "dome 1".into(), wall_ms: WALL_MS, ..Begin::default() };
        writer.append(0, &Entry::Begin(Box::new(begin))).unwrap();
        if ended {
            writer.append(5, &Entry::Ended { reason: EndReason::Stopped }).unwrap();
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
        let seen: Vec<_> = runs.iter().map(|run| (run.id.as_str(), run.outcome.word())).collect();
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
        writer.append(0, &Entry::Begin(Box::default())).unwrap();
        let path = folder.path().join(format!("{id}.journal"));
        assert_eq!(read_run(&path).unwrap().standing, Standing::Running);
        drop(writer);
        assert_eq!(read_run(&path).unwrap().standing, Standing::Over(Outcome::Interrupted));
    }

    #[test]
    fn a_folder_with_more_journals_than_are_read_is_said() {
        assert_eq!(left_out(99_999, Path::new("f")), None);
        assert!(left_out(100_000, Path::new("f")).unwrap().starts_with("only 100 000 journals of f are read"));
    }

    #[test]
    fn a_folder_that_is_not_there_has_no_runs() {
        assert!(list_runs(Path::new("/nowhere/at/all")).unwrap().0.is_empty());
    }
}
