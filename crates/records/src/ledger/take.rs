//! Taking journals in: they are taken apart on all cores while one writes what they come to.

use std::collections::BTreeSet;
use std::panic::AssertUnwindSafe;
use std::path::PathBuf;
use std::sync::mpsc::{Receiver, SyncSender, sync_channel};
use std::sync::{Mutex, PoisonError};
use std::time::{Duration, Instant};

use anyhow::{Context, Result, anyhow};
use revisum_engine::text::cleaned;
use revisum_linux::stamp_of_parts;
use revisum_record::outcome::EndedBy;
use rusqlite::{Connection, OptionalExtension as _, params};

use super::Ledger;
use crate::runs::{Recorded, RunSummary, Standing, name_of, read_line, summary};
use crate::say;

/// Journals that a core takes at a time.
const SHARE: usize = 50;
/// Journals written in one transaction.
const BATCH: usize = 2_000;
/// Longest that a transaction waits for more: others that write wait for it.
const LONGEST_WAIT: Duration = Duration::from_secs(1);
/// Shares that wait to be written.
const WAITING: usize = 8;

/// A journal to be taken in.
pub struct Arrival {
    /// Where it is.
    pub path: PathBuf,
    /// All that is in it, where somebody has just read that.
    pub bytes: Option<Vec<u8>>,
}

impl From<PathBuf> for Arrival {
    fn from(path: PathBuf) -> Self {
        Self { path, bytes: None }
    }
}

/// What the ledger keeps of a journal.
struct Taken {
    name: String,
    stamp: i64,
    /// What is in it, or why it cannot be read.
    line: Result<Line, String>,
}

struct Line {
    run: RunSummary,
    /// Each of its words once, for the index: words are looked for one by one.
    words: String,
    /// It is still being written.
    open: bool,
    modules: Vec<ModuleLine>,
}

struct ModuleLine {
    serial: String,
    slot: String,
    errors: u64,
    kind: String,
    mainboard: String,
}

impl Ledger {
    /// Takes in these journals, as they come.
    ///
    /// # Errors
    /// When the ledger cannot be written.
    pub(crate) fn take(&self, arrivals: impl Iterator<Item = Arrival> + Send) -> Result<()> {
        let cores = std::thread::available_parallelism().map_or(1, usize::from);
        let (arrivals, (ready, taken)) = (Mutex::new(arrivals), sync_channel(WAITING));
        std::thread::scope(|scope| {
            for started in 0..cores {
                let (arrivals, ready) = (&arrivals, ready.clone());
                // With one thread it only takes longer.
                let thread = std::thread::Builder::new().spawn_scoped(scope, move || take_apart(arrivals, &ready));
                if started == 0 {
                    thread.context(say::no_thread_to_read())?;
                }
            }
            drop(ready);
            write(&self.base, taken)
        })
    }

    pub(super) fn forget(&self, name: &str) -> Result<()> {
        let transaction = self.base.unchecked_transaction()?;
        remove(&transaction, name)?;
        transaction.commit()?;
        Ok(())
    }
}

fn take_apart(arrivals: &Mutex<impl Iterator<Item = Arrival>>, ready: &SyncSender<Vec<Taken>>) {
    loop {
        let share: Vec<Arrival> =
            arrivals.lock().unwrap_or_else(PoisonError::into_inner).by_ref().take(SHARE).collect();
        if share.is_empty() || ready.send(share.into_iter().map(taken).collect()).is_err() {
            return;
        }
    }
}

fn taken(Arrival { path, bytes }: Arrival) -> Taken {
    let name = name_of(&path);
    // As it was before it was read: what is written meanwhile changes it.
    let stamp = stamp_of_parts(&path).unwrap_or(0).cast_signed();
    // One journal that no reader foresaw must not cost all others.
    let read = std::panic::catch_unwind(AssertUnwindSafe(|| read_line(&path, bytes).map(|recorded| line(&recorded))));
    let line = read.unwrap_or_else(|_| Err(anyhow!("{} cannot be taken apart", path.display())));
    Taken { name, stamp, line: line.map_err(|error| cleaned(&format!("{error:#}"), 300)) }
}

fn line(recorded: &Recorded) -> Line {
    let state = &recorded.state;
    let mainboard = cleaned(&state.begin.board.mainboard, 80);
    let with_serial = state.begin.board.modules().filter(|(_, module)| !module.serial.is_empty());
    let modules = with_serial.map(|(slot, module)| ModuleLine {
        serial: module.serial.clone(),
        slot: slot.id.clone(),
        errors: state.errors.slots.get(&slot.id).copied().unwrap_or(0),
        kind: cleaned(&format!("{} {}", module.maker, module.part), 80),
        mainboard: mainboard.clone(),
    });
    let run = summary(recorded);
    let id = run.id.to_lowercase();
    let words: BTreeSet<&str> = run.text.split_whitespace().chain([id.as_str()]).collect();
    let words = words.into_iter().collect::<Vec<_>>().join(" ");
    Line { words, run, open: recorded.standing == Standing::Running, modules: modules.collect() }
}

fn write(base: &Connection, taken: Receiver<Vec<Taken>>) -> Result<()> {
    while let Ok(first) = taken.recv() {
        let (transaction, end) = (base.unchecked_transaction()?, Instant::now() + LONGEST_WAIT);
        let mut written = 0;
        let mut next = Some(first);
        while let Some(share) = next {
            share.iter().try_for_each(|one| put(&transaction, one))?;
            written += share.len();
            let left = end.saturating_duration_since(Instant::now());
            next = if written < BATCH { taken.recv_timeout(left).ok() } else { None };
        }
        transaction.commit()?;
    }
    Ok(())
}

fn put(base: &Connection, taken: &Taken) -> Result<()> {
    remove(base, &taken.name)?;
    let Line { run, words, open, modules } = match &taken.line {
        Ok(line) => line,
        Err(why) => {
            base.prepare_cached("INSERT INTO bad VALUES (?1, ?2, ?3)")?.execute(params![
                taken.name,
                why,
                taken.stamp
            ])?;
            return Ok(());
        }
    };
    base.prepare_cached(
        "INSERT INTO runs VALUES (NULL, ?1, ?2, ?3, ?4, ?5, ?6, ?7, ?8, ?9, ?10, ?11, ?12, ?13, ?14, ?15, ?16, ?17, ?18, ?19)",
    )?
    .execute(params![
        taken.name,
        run.outcome.word(),
        run.started,
        run.errors as i64,
        run.machine,
        run.simulated,
        run.wall_ms,
        run.order_ms,
        run.text,
        run.damage,
        serde_json::to_string(&run.headline)?,
        run.grade.word(),
        run.ended_by.map(EndedBy::word),
        run.corrected as i64,
        run.slots,
        run.arrangement,
        run.depth,
        taken.stamp,
        open
    ])
    .with_context(|| say::ledger_not_taken_in(cleaned(&taken.name, 80)))?;
    let nr = base.last_insert_rowid();
    base.prepare_cached("INSERT INTO words (rowid, text) VALUES (?1, ?2)")?.execute(params![nr, words])?;
    for module in modules {
        base.prepare_cached("INSERT OR REPLACE INTO modules VALUES (?1, ?2, ?3, ?4, ?5, ?6)")?.execute(params![
            module.serial,
            nr,
            module.slot,
            module.errors as i64,
            module.kind,
            module.mainboard
        ])?;
    }
    Ok(())
}

fn remove(base: &Connection, name: &str) -> rusqlite::Result<()> {
    base.prepare_cached("DELETE FROM bad WHERE name = ?1")?.execute([name])?;
    // Not by deleting and asking what it was: for that a savepoint is set, at which all words would be written out, one journal at a time.
    let nr =
        base.prepare_cached("SELECT nr FROM runs WHERE id = ?1")?.query_row([name], |row| row.get(0)).optional()?;
    if let Some(nr) = nr as Option<i64> {
        base.prepare_cached("DELETE FROM runs WHERE nr = ?1")?.execute([nr])?;
        base.prepare_cached("DELETE FROM modules WHERE run = ?1")?.execute([nr])?;
        base.prepare_cached("DELETE FROM words WHERE rowid = ?1")?.execute([nr])?;
    }
    Ok(())
}
