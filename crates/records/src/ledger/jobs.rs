//! Jobs in the ledger, and what becomes of their modules.

use std::collections::{BTreeMap, BTreeSet};
use std::os::unix::fs::MetadataExt;
use std::path::Path;

use anyhow::Result;
use revisum_diagnose::isolate::{Case, Disposition, Reason, Verdict, advise, dispositions};
use revisum_engine::text::cleaned;

use super::Ledger;
use super::base::{Base, Dialect, Value};
use super::search::within;
use super::speeds::like;
use super::take::told_apart;
use crate::job::Job;
use crate::jobs::{job_ids, path_of};

/// Longest text kept.
const LONGEST: usize = 400;
/// Jobs that are found by their notes at once.
const MOST_NOTED: usize = 500;

impl Ledger {
    /// Takes in jobs that are new, have grown, or whose runs did.
    pub(super) fn refresh_jobs(&self, changed_runs: &[String]) -> Result<()> {
        let known = self.job_stamps()?;
        let ids = job_ids(&self.jobs)?;
        let touched = self.jobs_of(changed_runs)?;
        let here: BTreeMap<&String, String> = ids.iter().map(|id| (id, stamp(&path_of(&self.jobs, id)))).collect();
        let is_fresh = |id: &String, stamp: &String| known.get(id) != Some(stamp) || touched.contains(id);
        // In the order of their names, as everybody takes hold of them.
        let fresh: Vec<(&String, Option<&String>)> =
            here.iter().filter(|(id, stamp)| is_fresh(id, stamp)).map(|(id, stamp)| (*id, Some(stamp))).collect();
        let gone = known.keys().filter(|id| !here.contains_key(id)).map(|id| (id, None));
        let mut changed: Vec<_> = fresh.into_iter().chain(gone).collect();
        changed.sort();
        if changed.is_empty() {
            return Ok(());
        }
        self.base.whole(&mut || {
            changed.iter().try_for_each(|(id, stamp)| match stamp {
                Some(stamp) => self.take_job(id, stamp),
                None => self.forget_job(id),
            })
        })
    }

    fn job_stamps(&self) -> Result<BTreeMap<String, String>> {
        let rows = self.base.rows("SELECT id, stamp FROM job_holders WHERE origin = $1", &[self.origin.into()])?;
        rows.iter().map(|row| Ok((row.text(0)?, row.text(1)?))).collect()
    }

    /// Jobs of this folder that these runs belong to.
    fn jobs_of(&self, runs: &[String]) -> Result<BTreeSet<String>> {
        let sql =
            "SELECT id FROM job_runs JOIN job_holders ON job_holders.job = job_runs.job WHERE origin = $1 AND run";
        let rows = self.rows_of(sql, runs)?;
        Ok(rows.iter().map(|row| row.text(0)).collect::<Result<_, _>>()?)
    }

    /// Runs of jobs in whose notes all of these words stand, in lower letters.
    pub(super) fn runs_noted(&self, words: &[String]) -> Result<Vec<i64>> {
        if words.is_empty() {
            return Ok(Vec::new());
        }
        let (holds, values): (Vec<String>, Vec<Value>) = match self.base.dialect() {
            Dialect::Embedded => (
                (1..=words.len()).map(|at| format!("instr(notes, ${at}) > 0")).collect(),
                words.iter().map(Value::from).collect(),
            ),
            Dialect::Shared => (
                (1..=words.len()).map(|at| format!("notes LIKE ${at}")).collect(),
                words.iter().map(|word| within(word).into()).collect(),
            ),
        };
        let sql = format!(
            "SELECT DISTINCT holders.run FROM (SELECT nr FROM jobs WHERE {} LIMIT {MOST_NOTED}) AS noted \
             JOIN job_holders ON job_holders.job = noted.nr JOIN job_runs ON job_runs.job = noted.nr \
             JOIN holders ON holders.origin = job_holders.origin AND holders.name = job_runs.run WHERE holders.run IS NOT NULL",
            holds.join(" AND ")
        );
        let rows = self.base.rows(&sql, &values)?;
        Ok(rows.iter().map(|row| row.int(0)).collect::<Result<_, _>>()?)
    }

    fn take_job(&self, id: &str, stamp: &str) -> Result<()> {
        let (base, origin) = (&*self.base, self.origin);
        // A job that cannot be read says nothing of its modules.
        let job = Job::of_id(&self.jobs, &self.folder, id).ok();
        let kept = job.map(|job| self.keep_job(id, &job)).transpose()?;
        // What kept it from being read may pass.
        let stamp = if kept.is_some() { stamp } else { "" };
        let held = held(base, origin, id)?;
        let sql = "INSERT INTO job_holders VALUES ($1, $2, $3, $4) ON CONFLICT (origin, id) \
                   DO UPDATE SET stamp = excluded.stamp, job = excluded.job";
        base.change(sql, &[origin.into(), id.into(), stamp.into(), kept.map_or(Value::Null, Value::Int)])?;
        match held {
            Some(before) if kept != Some(before) => release(base, before),
            _ => Ok(()),
        }
    }

    fn forget_job(&self, id: &str) -> Result<()> {
        let (base, origin) = (&*self.base, self.origin);
        let held = held(base, origin, id)?;
        base.change("DELETE FROM job_holders WHERE origin = $1 AND id = $2", &[origin.into(), id.into()])?;
        held.map_or(Ok(()), |job| release(base, job))
    }

    /// Lets go of all jobs of this folder.
    pub(super) fn forget_jobs(&self) -> Result<()> {
        let ids: Vec<String> = self.job_stamps()?.into_keys().collect();
        self.base.whole(&mut || ids.iter().try_for_each(|id| self.forget_job(id)))
    }

    /// Writes what a job comes to, unless another folder holds more of it; its number.
    fn keep_job(&self, id: &str, job: &Job) -> Result<i64> {
        let (base, origin, state) = (&*self.base, self.origin, job.state());
        let birth = told_apart(&[state.machine.clone(), state.opened_ms.to_string()]);
        let reach = std::fs::metadata(path_of(&self.jobs, id)).map_or(0, |meta| meta.len()).cast_signed();
        let notes = state.notes.iter().map(|(_, words)| words.to_lowercase()).collect::<Vec<_>>().join(" ");
        let closed = state.closed.as_deref().map(|answer| cleaned(answer, LONGEST));
        let values: [Value; 8] = [
            id.into(),
            birth.into(),
            origin.into(),
            reach.into(),
            cleaned(&state.machine, LONGEST).into(),
            state.opened_ms.into(),
            closed.as_deref().into(),
            notes.into(),
        ];
        let known = match base.dialect() {
            Dialect::Embedded => "SELECT nr, source, reach FROM jobs WHERE id = $1 AND birth = $2",
            Dialect::Shared => "SELECT nr, source, reach FROM jobs WHERE id = $1 AND birth = $2 FOR UPDATE",
        };
        loop {
            if let Some(row) = base.row(known, &values[..2])? {
                let nr = row.int(0)?;
                if row.int(1)? == origin || row.int(2)? < reach {
                    let sql = "UPDATE jobs SET (source, reach, machine, opened_ms, closed, notes) = ($3, $4, $5, $6, $7, $8) \
                               WHERE id = $1 AND birth = $2";
                    base.change(sql, &values)?;
                    forget_rows(base, nr)?;
                    keep_rows(base, nr, job)?;
                }
                if row.int(1)? == origin && reach < row.int(2)? {
                    look_again(base, nr)?;
                }
                return Ok(nr);
            }
            let sql = "INSERT INTO jobs (id, birth, source, reach, machine, opened_ms, closed, notes) \
                       VALUES ($1, $2, $3, $4, $5, $6, $7, $8) ON CONFLICT (id, birth) DO NOTHING";
            if let Some(nr) = base.add(sql, &values)? {
                keep_rows(base, nr, job)?;
                return Ok(nr);
            }
        }
    }
}

/// The job that this folder holds under this name.
fn held(base: &dyn Base, origin: i64, id: &str) -> Result<Option<i64>> {
    let row = base.row("SELECT job FROM job_holders WHERE origin = $1 AND id = $2", &[origin.into(), id.into()])?;
    Ok(row.map(|row| row.maybe_int(0)).transpose()?.flatten())
}

/// Changes when the file does.
fn stamp(path: &Path) -> String {
    let Ok(meta) = std::fs::metadata(path) else { return String::new() };
    format!("{} {}.{} {}.{}", meta.len(), meta.mtime(), meta.mtime_nsec(), meta.ctime(), meta.ctime_nsec())
}

/// Writes what hangs on a job.
fn keep_rows(base: &dyn Base, nr: i64, job: &Job) -> Result<()> {
    let state = job.state();
    let machine = cleaned(&state.machine, LONGEST);
    for run in &state.runs {
        base.change(
            "INSERT INTO job_runs VALUES ($1, $2) ON CONFLICT (run, job) DO NOTHING",
            &[nr.into(), run.into()],
        )?;
    }
    for (at, speed) in state.speeds.iter().enumerate() {
        base.change(
            "INSERT INTO speeds VALUES ($1, $2, $3, $4, $5)",
            &[nr.into(), (at as i64).into(), (&machine).into(), like(&speed.board).into(), speed.wall_ms.into()],
        )?;
    }
    let ended =
        "INSERT INTO ends VALUES ($1, $2, $3, $4) ON CONFLICT (serial, job) DO UPDATE SET end_word = excluded.end_word";
    for (serial, end) in ends(&job.case_of_record()) {
        let end = end.map(Disposition::word);
        base.change(ended, &[serial.into(), nr.into(), (&machine).into(), end.into()])?;
    }
    Ok(())
}

fn forget_rows(base: &dyn Base, nr: i64) -> Result<()> {
    for statement in
        ["DELETE FROM job_runs WHERE job = $1", "DELETE FROM ends WHERE job = $1", "DELETE FROM speeds WHERE job = $1"]
    {
        base.change(statement, &[nr.into()])?;
    }
    Ok(())
}

/// A job that this folder no longer holds: it is gone where nobody else does. Where it stands as it was in this folder, others take it in anew.
fn release(base: &dyn Base, job: i64) -> Result<()> {
    if base.dialect() == Dialect::Shared {
        // Whoever takes hold of it meanwhile is seen by what follows.
        base.row("SELECT nr FROM jobs WHERE nr = $1 FOR UPDATE", &[job.into()])?;
    }
    if base.row("SELECT 1 FROM job_holders WHERE job = $1", &[job.into()])?.is_none() {
        base.change("DELETE FROM jobs WHERE nr = $1", &[job.into()])?;
        return forget_rows(base, job);
    }
    let gone = "SELECT 1 FROM jobs WHERE nr = $1 AND NOT EXISTS (SELECT 1 FROM job_holders WHERE job = jobs.nr AND origin = source)";
    if base.row(gone, &[job.into()])?.is_some() {
        base.change("UPDATE jobs SET reach = -1 WHERE nr = $1", &[job.into()])?;
        look_again(base, job)?;
    }
    Ok(())
}

/// Lets all who hold this job take it in anew when they look next.
fn look_again(base: &dyn Base, job: i64) -> Result<()> {
    base.change("UPDATE job_holders SET stamp = $1 WHERE job = $2", &["".into(), job.into()]).map(drop)
}

/// What becomes of each module by what a case knows; nothing while that is not decided.
fn ends(case: &Case) -> Vec<(String, Option<Disposition>)> {
    let of_all = |end| case.modules.iter().map(|module| (module.id.clone(), end)).collect();
    if case.runs.is_empty() && !case.record_damaged {
        return of_all(Some(Disposition::Untested));
    }
    let ends = match advise(case).verdict {
        Verdict::Done { named, reason } => dispositions(case, &named, reason),
        Verdict::NothingToFind => dispositions(case, &[], Reason::Confident),
        _ => return of_all(None),
    };
    ends.into_iter().map(|(serial, end)| (serial, Some(end))).collect()
}
