//! Taking journals in: they are taken apart on all cores while one writes what they come to.

use std::collections::BTreeSet;
use std::panic::AssertUnwindSafe;
use std::path::PathBuf;
use std::sync::mpsc::{Receiver, SyncSender, sync_channel};
use std::sync::{Mutex, PoisonError};

use anyhow::{Context, Result, anyhow};
use revisum_engine::text::cleaned;
use revisum_linux::stamp_of_parts;
use revisum_record::outcome::EndedBy;
use revisum_record::run_state::RunState;
use sha2::{Digest as _, Sha256};

use super::Ledger;
use super::base::{Base, Dialect, Value};
use crate::runs::{Recorded, RunSummary, Standing, name_of, read_line, summary};
use crate::say;

/// Journals that a core takes at a time.
const SHARE: usize = 50;
/// Journals written in one transaction.
const BATCH: usize = 2_000;
/// Shares that wait to be written.
const WAITING: usize = BATCH / SHARE;

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
    /// What tells the run from another of its name; nothing where its first record is lost.
    birth: Option<i64>,
    /// How much of it is there to be read: of two copies the one with more counts.
    reach: i64,
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
            write(&*self.base, self.origin, taken)
        })
    }

    /// Lets go of journals that are no longer in the folder.
    pub(super) fn forget(&self, names: &[String]) -> Result<()> {
        let (base, origin) = (&*self.base, self.origin);
        base.whole(&mut || {
            names.iter().try_for_each(|name| {
                let run = held(base, origin, name)?;
                let sql = "DELETE FROM holders WHERE origin = $1 AND name = $2";
                base.change(sql, &[origin.into(), name.into()])?;
                run.map_or(Ok(()), |run| release(base, run))
            })
        })
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
    let damage = &state.damage;
    let lost = [damage.damaged, damage.missing, damage.unknown, damage.displaced, damage.unreadable];
    Line {
        words,
        run,
        birth: birth(state),
        reach: lost.into_iter().fold(recorded.records, u64::saturating_sub).cast_signed(),
        open: recorded.standing == Standing::Running,
        modules: modules.collect(),
    }
}

/// Out of the first record: machine, time, modules. It is the same in every copy of the journal, whichever version reads it.
fn birth(state: &RunState) -> Option<i64> {
    let begin = &state.begin;
    let modules = begin.board.modules().map(|(slot, module)| format!("{}\0{}", slot.id, module.serial));
    let words: Vec<String> = [begin.machine.clone(), begin.wall_ms.to_string()].into_iter().chain(modules).collect();
    (begin.wall_ms != 0).then(|| told_apart(&words))
}

/// A number that other words have another of; never below 0.
pub(super) fn told_apart(words: &[String]) -> i64 {
    let digest = Sha256::digest(words.join("\0"));
    digest.first_chunk().map_or(0, |first| i64::from_be_bytes(*first) & i64::MAX)
}

/// Writes what was taken apart, in one transaction all that is there by then: the next are taken apart meanwhile.
fn write(base: &dyn Base, origin: i64, taken: Receiver<Vec<Taken>>) -> Result<()> {
    while let Ok(mut batch) = taken.recv() {
        // Folders that share a server take hold of runs in the same order, so that none waits for another that waits for it.
        let most = if base.dialect() == Dialect::Shared { SHARE } else { BATCH };
        while batch.len() < most
            && let Ok(more) = taken.try_recv()
        {
            batch.extend(more);
        }
        batch.sort_by(|a, b| a.name.cmp(&b.name));
        base.whole(&mut || batch.iter().try_for_each(|one| put(base, origin, one)))?;
    }
    Ok(())
}

fn put(base: &dyn Base, origin: i64, taken: &Taken) -> Result<()> {
    let run = match &taken.line {
        Ok(line) => Some(
            keep(base, origin, &taken.name, line)
                .with_context(|| say::ledger_not_taken_in(cleaned(&taken.name, 80)))?,
        ),
        Err(_) => None,
    };
    let (why, open) = match &taken.line {
        Ok(line) => (None, line.open),
        Err(why) => (Some(why.as_str()), false),
    };
    let held = held(base, origin, &taken.name)?;
    let sql = "INSERT INTO holders VALUES ($1, $2, $3, $4, $5, $6) ON CONFLICT (origin, name) \
               DO UPDATE SET stamp = excluded.stamp, run = excluded.run, why = excluded.why, open = excluded.open";
    base.change(
        sql,
        &[
            origin.into(),
            (&taken.name).into(),
            taken.stamp.into(),
            run.map_or(Value::Null, Value::Int),
            why.into(),
            open.into(),
        ],
    )?;
    match held {
        // The file of this name was another run before.
        Some(before) if run != Some(before) => release(base, before),
        _ => Ok(()),
    }
}

/// The run that this folder holds under this name.
fn held(base: &dyn Base, origin: i64, name: &str) -> Result<Option<i64>> {
    let row = base.row("SELECT run FROM holders WHERE origin = $1 AND name = $2", &[origin.into(), name.into()])?;
    Ok(row.map(|row| row.maybe_int(0)).transpose()?.flatten())
}

/// Writes what a run comes to, unless another folder holds more of it; its number.
fn keep(base: &dyn Base, origin: i64, name: &str, line: &Line) -> Result<i64> {
    const COLUMNS: &str = "source, reach, outcome, started, errors, machine, simulated, wall_ms, order_ms, text, damage, headline, grade, \
                           ended_by, corrected, slots, arrangement, depth";
    const PLACES: &str = "$3, $4, $5, $6, $7, $8, $9, $10, $11, $12, $13, $14, $15, $16, $17, $18, $19, $20";
    // Where the first record is lost nothing tells two runs of a name apart: each folder's is taken as its own. No birth is below 0.
    let birth = line.birth.unwrap_or(-origin);
    let values = [&[name.into(), birth.into()], &columns(origin, line)?[..]].concat();
    let known = match base.dialect() {
        Dialect::Embedded => "SELECT nr, source, reach FROM runs WHERE id = $1 AND birth = $2",
        Dialect::Shared => "SELECT nr, source, reach FROM runs WHERE id = $1 AND birth = $2 FOR UPDATE",
    };
    loop {
        if let Some(row) = base.row(known, &values[..2])? {
            let (nr, source, reach) = (row.int(0)?, row.int(1)?, row.int(2)?);
            if source == origin || reach < line.reach {
                base.change(
                    &format!("UPDATE runs SET ({COLUMNS}) = ({PLACES}) WHERE id = $1 AND birth = $2"),
                    &values,
                )?;
                forget_rows(base, nr)?;
                keep_rows(base, nr, line)?;
            }
            if source == origin && line.reach < reach {
                // Others may hold what is lost here.
                look_again(base, nr, origin)?;
            }
            return Ok(nr);
        }
        let sql = format!(
            "INSERT INTO runs (id, birth, {COLUMNS}) VALUES ($1, $2, {PLACES}) ON CONFLICT (id, birth) DO NOTHING"
        );
        if let Some(nr) = base.add(&sql, &values)? {
            keep_rows(base, nr, line)?;
            return Ok(nr);
        }
    }
}

fn columns(origin: i64, line: &Line) -> Result<Vec<Value>> {
    let run = &line.run;
    Ok(vec![
        origin.into(),
        line.reach.into(),
        run.outcome.word().into(),
        (&run.started).into(),
        run.errors.cast_signed().into(),
        (&run.machine).into(),
        run.simulated.into(),
        run.wall_ms.into(),
        run.order_ms.into(),
        (&run.text).into(),
        run.damage.as_deref().into(),
        serde_json::to_string(&run.headline)?.into(),
        run.grade.word().into(),
        run.ended_by.map(EndedBy::word).into(),
        run.corrected.cast_signed().into(),
        (&run.slots).into(),
        (&run.arrangement).into(),
        (&run.depth).into(),
    ])
}

/// Writes what hangs on a run.
fn keep_rows(base: &dyn Base, nr: i64, line: &Line) -> Result<()> {
    if base.dialect() == Dialect::Embedded {
        base.change("INSERT INTO words (rowid, text) VALUES ($1, $2)", &[nr.into(), (&line.words).into()])?;
    }
    let sql = "INSERT INTO modules VALUES ($1, $2, $3, $4, $5, $6) ON CONFLICT (run, serial) \
               DO UPDATE SET slot = excluded.slot, errors = excluded.errors, kind = excluded.kind, mainboard = excluded.mainboard";
    for module in &line.modules {
        base.change(
            sql,
            &[
                nr.into(),
                (&module.serial).into(),
                (&module.slot).into(),
                module.errors.cast_signed().into(),
                (&module.kind).into(),
                (&module.mainboard).into(),
            ],
        )?;
    }
    Ok(())
}

fn forget_rows(base: &dyn Base, nr: i64) -> Result<()> {
    base.change("DELETE FROM modules WHERE run = $1", &[nr.into()])?;
    if base.dialect() == Dialect::Embedded {
        base.change("DELETE FROM words WHERE rowid = $1", &[nr.into()])?;
    }
    Ok(())
}

/// A run that this folder no longer holds: it is gone where nobody else does.
fn release(base: &dyn Base, run: i64) -> Result<()> {
    if base.dialect() == Dialect::Shared {
        // Whoever takes hold of it meanwhile is seen by what follows.
        base.row("SELECT nr FROM runs WHERE nr = $1 FOR UPDATE", &[run.into()])?;
    }
    if base.row("SELECT 1 FROM holders WHERE run = $1", &[run.into()])?.is_none() {
        base.change("DELETE FROM runs WHERE nr = $1", &[run.into()])?;
        return forget_rows(base, run);
    }
    let gone = "SELECT 1 FROM runs WHERE nr = $1 AND NOT EXISTS (SELECT 1 FROM holders WHERE run = runs.nr AND origin = source)";
    if base.row(gone, &[run.into()])?.is_some() {
        // What stands there came from a journal that is no longer held.
        base.change("UPDATE runs SET reach = -1 WHERE nr = $1", &[run.into()])?;
        look_again(base, run, 0)?;
    }
    Ok(())
}

/// Lets all others who hold this run take it in anew when they look next.
fn look_again(base: &dyn Base, run: i64, but: i64) -> Result<()> {
    let sql = "UPDATE holders SET open = $1 WHERE run = $2 AND origin <> $3";
    base.change(sql, &[true.into(), run.into(), but.into()]).map(drop)
}
