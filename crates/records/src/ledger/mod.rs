//! The ledger: what all journals of a data directory come to, in SQLite, so that one of fifty thousand is found at once. It holds nothing
//! that the journals do not: it can be thrown away and built again.

mod jobs;
mod life;
mod speeds;
mod take;
#[cfg(test)]
mod tests;
mod trouble;

pub use life::{Life, LifeEnd, LifeLine};
pub use speeds::SpeedFound;
pub(super) use take::Arrival;

use std::collections::BTreeMap;
use std::path::{Path, PathBuf};
use std::time::{SystemTime, UNIX_EPOCH};

use anyhow::{Context, Result};
use revisum_record::outcome::{EndedBy, Grade, Headline};
use rusqlite::types::Type;
use rusqlite::{Connection, OptionalExtension as _, Row, params_from_iter};

use revisum_linux::{files, stamp_of_parts};

use super::job::Job;
use super::jobs::job_ids;
use super::runs::{RunSummary, Standing, is_number, left_out, stamps};
use crate::DataDir;
use crate::say;

/// Changes when the tables do: a ledger of another version is built again.
const VERSION: i64 = 10;
/// The shortest word that the index of three-letter pieces can find.
const PIECE: usize = 3;

const TABLES: &str = "
    DROP TABLE IF EXISTS runs; DROP TABLE IF EXISTS modules; DROP TABLE IF EXISTS bad; DROP TABLE IF EXISTS words; DROP TABLE IF EXISTS folder;
    DROP TABLE IF EXISTS jobs; DROP TABLE IF EXISTS job_runs; DROP TABLE IF EXISTS ends; DROP TABLE IF EXISTS speeds;
    CREATE TABLE runs (nr INTEGER PRIMARY KEY, id TEXT UNIQUE, outcome TEXT, started TEXT, errors INTEGER, machine TEXT, simulated INTEGER,
        wall_ms INTEGER, order_ms INTEGER, text TEXT, damage TEXT, headline TEXT, grade TEXT, ended_by TEXT, corrected INTEGER, slots TEXT, arrangement TEXT,
        depth TEXT, stamp INTEGER, open INTEGER);
    CREATE INDEX newest ON runs (order_ms DESC, length(id) DESC, id DESC);
    CREATE INDEX unended ON runs (open) WHERE open;
    CREATE TABLE modules (serial TEXT, run INTEGER, slot TEXT, errors INTEGER, kind TEXT, mainboard TEXT, PRIMARY KEY (run, serial)) WITHOUT ROWID;
    CREATE INDEX lives ON modules (serial);
    CREATE TABLE bad (name TEXT PRIMARY KEY, why TEXT, stamp INTEGER) WITHOUT ROWID;
    CREATE TABLE folder (changed_ns INTEGER);
    CREATE TABLE jobs (id TEXT PRIMARY KEY, machine TEXT, opened_ms INTEGER, closed TEXT, stamp TEXT, notes TEXT) WITHOUT ROWID;
    CREATE TABLE job_runs (job TEXT, run TEXT, PRIMARY KEY (run, job)) WITHOUT ROWID;
    CREATE TABLE ends (serial TEXT, job TEXT, machine TEXT, end TEXT, PRIMARY KEY (serial, job)) WITHOUT ROWID;
    CREATE TABLE speeds (job TEXT, nr INTEGER, machine TEXT, kind TEXT, wall_ms INTEGER, PRIMARY KEY (job, nr)) WITHOUT ROWID;
    CREATE VIRTUAL TABLE words USING fts5 (text, content = '', contentless_delete = 1, tokenize = 'trigram', detail = 'none');
";

/// An open ledger.
pub struct Ledger {
    base: Connection,
    folder: PathBuf,
    jobs: PathBuf,
}

impl Ledger {
    /// Opens the ledger of these records, and takes in what is new there.
    ///
    /// # Errors
    /// When the file cannot be opened or written; the journals can then still be read one by one.
    pub fn open(data: &DataDir) -> Result<Self> {
        let file = data.ledger();
        // It holds serial numbers: it is made for its owner alone before anything is in it.
        let _ = files::open_or_create(&file);
        let base = Connection::open(&file).with_context(|| say::ledger_not_opened(file.display().to_string()))?;
        base.busy_timeout(std::time::Duration::from_secs(5))?;
        base.pragma_update(None, "journal_mode", "WAL")?;
        // What a power cut takes out of it is in the journals.
        base.pragma_update(None, "synchronous", "OFF")?;
        let version: i64 = base.pragma_query_value(None, "user_version", |row| row.get(0))?;
        let mut ledger = Self { base, folder: data.runs(), jobs: data.jobs() };
        if version != VERSION {
            ledger.clear()?;
        }
        ledger.refresh()?;
        Ok(ledger)
    }

    /// Throws everything away and reads all journals again.
    ///
    /// # Errors
    /// When the file cannot be written.
    pub fn rebuild(&mut self) -> Result<()> {
        self.clear()?;
        self.refresh()
    }

    fn clear(&mut self) -> Result<()> {
        self.base.execute_batch(TABLES)?;
        Ok(self.base.pragma_update(None, "user_version", VERSION)?)
    }

    /// Takes in journals that are new or have changed. An unchanged folder costs one look at it.
    ///
    /// # Errors
    /// When the folder cannot be read or the ledger cannot be written.
    pub fn refresh(&mut self) -> Result<()> {
        let changed_ns = changed_ns(&self.folder);
        let known: Option<i64> =
            self.base.query_row("SELECT changed_ns FROM folder", [], |row| row.get(0)).optional()?;
        let (open, folder) = (self.open_runs()?, self.folder.clone());
        let arrival = |name: &String| Arrival::from(folder.join(format!("{name}.journal")));
        if changed_ns.is_some() && known == changed_ns {
            self.take(open.iter().map(arrival))?;
            return self.refresh_jobs(&open);
        }
        let (here, known) = (stamps(&self.folder)?, self.stamps()?);
        let is_fresh = |name: &String, stamp: &u64| known.get(name) != Some(stamp) || open.contains(name);
        let fresh: Vec<&String> =
            here.iter().filter(|(name, stamp)| is_fresh(name, stamp)).map(|(name, _)| name).collect();
        let gone: Vec<&String> = known.keys().filter(|name| !here.contains_key(*name)).collect();
        let changed: Vec<String> = fresh.iter().chain(&gone).map(|name| (*name).clone()).collect();
        self.take(fresh.into_iter().map(arrival))?;
        for id in gone {
            self.forget(id)?;
        }
        self.base.execute("DELETE FROM folder", [])?;
        if let Some(changed_ns) = changed_ns.filter(|changed_ns| is_settled(*changed_ns)) {
            self.base.execute("INSERT INTO folder VALUES (?1)", [changed_ns])?;
        }
        self.refresh_jobs(&changed)
    }

    /// Runs that were being written when they were taken in: they may have grown.
    fn open_runs(&self) -> Result<Vec<String>> {
        let mut found = self.base.prepare("SELECT id FROM runs WHERE open")?;
        let ids = found.query_map([], |row| row.get(0))?.collect::<rusqlite::Result<_>>()?;
        Ok(ids)
    }

    /// Stamps of the journals that were taken in, by name.
    fn stamps(&self) -> Result<BTreeMap<String, u64>> {
        let mut found = self.base.prepare("SELECT id, stamp FROM runs UNION ALL SELECT name, stamp FROM bad")?;
        let pair = |row: &Row<'_>| Ok((row.get(0)?, row.get::<_, i64>(1)? as u64));
        let stamps = found.query_map([], pair)?.collect::<rusqlite::Result<_>>()?;
        Ok(stamps)
    }

    /// Takes in again those of these runs that were changed in place, which the folder does not show; whether there were any.
    fn freshen<'a>(&self, ids: impl Iterator<Item = &'a str>) -> Result<bool> {
        let mut known = self.base.prepare_cached("SELECT stamp FROM runs WHERE id = ?1")?;
        let mut stale = Vec::new();
        for id in ids {
            let path = self.folder.join(format!("{id}.journal"));
            let stamp: Option<i64> = known.query_row([id], |row| row.get(0)).optional()?;
            if stamp != stamp_of_parts(&path).map(u64::cast_signed) {
                stale.push((id.to_owned(), path));
            }
        }
        if stale.is_empty() {
            return Ok(false);
        }
        let (ids, paths): (Vec<String>, Vec<PathBuf>) = stale.into_iter().unzip();
        self.take(paths.into_iter().map(Arrival::from))?;
        self.refresh_jobs(&ids)?;
        Ok(true)
    }

    /// Runs with all of these words in their text, newest first, at most `most`; and how many there are.
    ///
    /// # Errors
    /// When the ledger cannot be read.
    pub fn find(&self, text: &str, most: usize) -> Result<(Vec<RunSummary>, u64)> {
        let found = self.find_known(text, most)?;
        match self.freshen(found.0.iter().map(|run| run.id.as_str()))? {
            true => self.find_known(text, most),
            false => Ok(found),
        }
    }

    fn find_known(&self, text: &str, most: usize) -> Result<(Vec<RunSummary>, u64)> {
        let words: Vec<String> = text.to_lowercase().split_whitespace().map(str::to_owned).collect();
        let (long, short): (Vec<&String>, Vec<&String>) = words.iter().partition(|word| word.chars().count() >= PIECE);
        let mut wanted = Vec::new();
        let mut values: Vec<String> = Vec::new();
        if !long.is_empty() {
            let query: Vec<String> = long.iter().flat_map(|word| pieces(word)).collect();
            wanted.push("nr IN (SELECT rowid FROM words WHERE words MATCH ?)".to_owned());
            values.push(query.join(" AND "));
        }
        // The index knows which pieces of three letters occur; that they stand together is looked at in the text.
        for word in short.iter().chain(&long) {
            wanted.push(
                if is_number(word) { "instr(text, ?) > 0" } else { "instr(text || ' ' || lower(id), ?) > 0" }
                    .to_owned(),
            );
            values.push((*word).clone());
        }
        let mut filter = if wanted.is_empty() { String::new() } else { format!("WHERE {}", wanted.join(" AND ")) };
        let noted = self.jobs_noted(&words)?;
        if !noted.is_empty() {
            let marks = vec!["?"; noted.len()].join(", ");
            filter = format!("{filter} OR id IN (SELECT run FROM job_runs WHERE job IN ({marks}))");
            values.extend(noted);
        }
        const COLUMNS: &str = "id, outcome, started, errors, machine, simulated, wall_ms, order_ms, text, damage, headline, grade, ended_by, \
                               corrected, slots, arrangement, depth";
        const NEWEST: &str = "ORDER BY order_ms DESC, length(id) DESC, id DESC";
        let sql = if long.is_empty() {
            // The newest are read first and the rest only counted.
            format!("SELECT {COLUMNS}, (SELECT count(*) FROM runs {filter}) FROM runs {filter} {NEWEST} LIMIT {most}")
        } else {
            // The index is asked once, and of what it finds only the rows that are shown are read whole.
            format!(
                "WITH hit AS MATERIALIZED (SELECT nr, id, order_ms FROM runs {filter}), \
                 top AS MATERIALIZED (SELECT nr FROM hit {NEWEST} LIMIT {most}) \
                 SELECT {COLUMNS}, (SELECT count(*) FROM hit) FROM top JOIN runs USING (nr) {NEWEST}"
            )
        };
        if long.is_empty() {
            values.extend(values.clone());
        }
        let mut count = 0i64;
        let mut found = self.base.prepare(&sql)?;
        let row = |row: &Row<'_>| {
            count = row.get(17)?;
            run_of(row)
        };
        let rows = found.query_map(params_from_iter(values.iter()), row)?.collect::<rusqlite::Result<_>>()?;
        Ok((rows, count as u64))
    }

    /// Journals that could not be read, and why.
    ///
    /// # Errors
    /// When the ledger cannot be read.
    pub fn unreadable(&self) -> Result<Vec<String>> {
        let mut found = self.base.prepare("SELECT why FROM bad ORDER BY name")?;
        let mut all: Vec<String> = found.query_map([], |row| row.get(0))?.collect::<rusqlite::Result<_>>()?;
        let read = "SELECT (SELECT count(*) FROM runs) + (SELECT count(*) FROM bad)";
        let read: i64 = self.base.query_row(read, [], |row| row.get(0))?;
        all.extend(left_out(read as usize, &self.folder));
        Ok(all)
    }

    /// Everything in it in a fixed order, for comparing two.
    #[cfg(test)]
    fn content(&self) -> Vec<String> {
        let (runs, _) = self.find("", usize::MAX >> 2).unwrap();
        let mut all: Vec<String> = runs.iter().map(|run| format!("{run:?}")).collect();
        let mut modules = self
            .base
            .prepare("SELECT serial || id || slot || m.errors || kind FROM modules m JOIN runs ON nr = run ORDER BY 1")
            .unwrap();
        all.extend(modules.query_map([], |row| row.get(0)).unwrap().map(Result::unwrap));
        all.extend(self.unreadable().unwrap());
        all.extend(self.jobs_content());
        all
    }
}

/// Pieces of three letters that cover a word, each in quotation marks so that it is taken as it is. More of them would find the same.
fn pieces(word: &str) -> Vec<String> {
    let letters: Vec<char> = word.chars().collect();
    let piece = |three: &[char]| format!("\"{}\"", three.iter().collect::<String>().replace('"', "\"\""));
    let last = letters.windows(PIECE).next_back().filter(|_| !letters.len().is_multiple_of(PIECE));
    letters.chunks_exact(PIECE).chain(last).map(piece).collect()
}

fn changed_ns(folder: &Path) -> Option<i64> {
    let changed = std::fs::metadata(folder).ok()?.modified().ok()?;
    i64::try_from(changed.duration_since(UNIX_EPOCH).ok()?.as_nanos()).ok()
}

/// Whether a change is so long ago that another one would have another time: file systems of drives count in steps of two seconds.
fn is_settled(changed_ns: i64) -> bool {
    const STEP_NS: u128 = 3_000_000_000;
    let now = SystemTime::now().duration_since(UNIX_EPOCH).map_or(0, |now| now.as_nanos());
    now.abs_diff(u128::try_from(changed_ns).unwrap_or(0)) > STEP_NS
}

fn run_of(row: &Row<'_>) -> rusqlite::Result<RunSummary> {
    let word = |at: usize| row.get::<_, String>(at);
    Ok(RunSummary {
        id: row.get(0)?,
        outcome: Standing::of_word(&word(1)?).ok_or_else(|| unknown(1, "outcome"))?,
        started: row.get(2)?,
        errors: row.get::<_, i64>(3)? as u64,
        machine: row.get(4)?,
        simulated: row.get(5)?,
        wall_ms: row.get(6)?,
        order_ms: row.get(7)?,
        text: row.get(8)?,
        damage: row.get(9)?,
        headline: headline_of(row, 10)?,
        grade: Grade::of_word(&word(11)?).ok_or_else(|| unknown(11, "grade"))?,
        ended_by: row
            .get::<_, Option<String>>(12)?
            .map(|word| EndedBy::of_word(&word).ok_or_else(|| unknown(12, "end")))
            .transpose()?,
        corrected: row.get::<_, i64>(13)? as u64,
        slots: row.get(14)?,
        arrangement: row.get(15)?,
        depth: row.get(16)?,
    })
}

fn headline_of(row: &Row<'_>, column: usize) -> rusqlite::Result<Headline> {
    let text: String = row.get(column)?;
    serde_json::from_str(&text).map_err(|_| unknown(column, "headline"))
}

/// A word that no program of this version writes: the ledger is damaged and is built again.
fn unknown(column: usize, what: &str) -> rusqlite::Error {
    rusqlite::Error::FromSqlConversionFailure(column, Type::Text, format!("unknown {what}").into())
}
