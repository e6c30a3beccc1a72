//! Jobs in the ledger, and what becomes of their modules.

use std::collections::{BTreeMap, BTreeSet};
use std::os::unix::fs::MetadataExt;
use std::path::Path;

use anyhow::Result;
use revisum_diagnose::isolate::{Case, Disposition, Reason, Verdict, advise, dispositions};
use revisum_engine::text::cleaned;
use rusqlite::{Connection, params};

use super::speeds::like;
use super::{Job, Ledger, job_ids};
use crate::jobs::path_of;

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
        let transaction = self.base.unchecked_transaction()?;
        for id in &ids {
            let stamp = stamp(&path_of(&self.jobs, id));
            if known.get(id) != Some(&stamp) || touched.contains(id) {
                take(&transaction, &self.jobs, &self.folder, id, &stamp)?;
            }
        }
        for gone in known.keys().filter(|id| !ids.contains(id)) {
            remove(&transaction, gone)?;
        }
        transaction.commit()?;
        Ok(())
    }

    fn job_stamps(&self) -> Result<BTreeMap<String, String>> {
        let mut found = self.base.prepare("SELECT id, stamp FROM jobs")?;
        let stamps = found.query_map([], |row| Ok((row.get(0)?, row.get(1)?)))?.collect::<rusqlite::Result<_>>()?;
        Ok(stamps)
    }

    fn jobs_of(&self, runs: &[String]) -> Result<BTreeSet<String>> {
        let mut found = self.base.prepare("SELECT job FROM job_runs WHERE run = ?1")?;
        let mut jobs = BTreeSet::new();
        for run in runs {
            jobs.extend(found.query_map([run], |row| row.get::<_, String>(0))?.collect::<rusqlite::Result<Vec<_>>>()?);
        }
        Ok(jobs)
    }

    /// Jobs in whose notes all of these words stand, in lower letters.
    pub(super) fn jobs_noted(&self, words: &[String]) -> Result<Vec<String>> {
        if words.is_empty() {
            return Ok(Vec::new());
        }
        let holds = vec!["instr(notes, ?) > 0"; words.len()].join(" AND ");
        let mut found = self.base.prepare(&format!("SELECT id FROM jobs WHERE {holds} LIMIT {MOST_NOTED}"))?;
        let ids = found.query_map(rusqlite::params_from_iter(words), |row| row.get(0))?;
        Ok(ids.collect::<rusqlite::Result<_>>()?)
    }

    /// Everything of jobs in a fixed order, for comparing two ledgers.
    #[cfg(test)]
    pub(super) fn jobs_content(&self) -> Vec<String> {
        let all = "SELECT 'job ' || id || machine || opened_ms || ifnull(closed, '') || notes FROM jobs UNION ALL \
                   SELECT 'ran ' || job || run FROM job_runs UNION ALL SELECT 'end ' || serial || job || machine || ifnull(end, '') FROM ends UNION ALL \
                   SELECT 'speed ' || job || nr || machine || kind || wall_ms FROM speeds ORDER BY 1";
        let mut found = self.base.prepare(all).unwrap();
        found.query_map([], |row| row.get(0)).unwrap().map(Result::unwrap).collect()
    }
}

/// Changes when the file does.
fn stamp(path: &Path) -> String {
    let Ok(meta) = std::fs::metadata(path) else { return String::new() };
    format!("{} {}.{} {}.{}", meta.len(), meta.mtime(), meta.mtime_nsec(), meta.ctime(), meta.ctime_nsec())
}

fn take(base: &Connection, jobs: &Path, runs: &Path, id: &str, stamp: &str) -> Result<()> {
    remove(base, id)?;
    // A job that cannot be read says nothing of its modules.
    let Ok(job) = Job::of_id(jobs, runs, id) else { return Ok(()) };
    let state = job.state();
    let closed = state.closed.as_deref().map(|answer| cleaned(answer, LONGEST));
    let machine = cleaned(&state.machine, LONGEST);
    let notes = state.notes.iter().map(|(_, words)| words.to_lowercase()).collect::<Vec<_>>().join(" ");
    base.prepare_cached("INSERT INTO jobs VALUES (?1, ?2, ?3, ?4, ?5, ?6)")?.execute(params![
        id,
        machine,
        state.opened_ms,
        closed,
        stamp,
        notes
    ])?;
    for run in &state.runs {
        base.prepare_cached("INSERT OR IGNORE INTO job_runs VALUES (?1, ?2)")?.execute(params![id, run])?;
    }
    for (nr, speed) in state.speeds.iter().enumerate() {
        base.prepare_cached("INSERT OR REPLACE INTO speeds VALUES (?1, ?2, ?3, ?4, ?5)")?.execute(params![
            id,
            nr as i64,
            machine,
            like(&speed.board),
            speed.wall_ms
        ])?;
    }
    for (serial, end) in ends(&job.case_of_record()) {
        base.prepare_cached("INSERT OR REPLACE INTO ends VALUES (?1, ?2, ?3, ?4)")?.execute(params![
            serial,
            id,
            machine,
            end.map(Disposition::word)
        ])?;
    }
    Ok(())
}

fn remove(base: &Connection, id: &str) -> Result<()> {
    for statement in [
        "DELETE FROM jobs WHERE id = ?1",
        "DELETE FROM job_runs WHERE job = ?1",
        "DELETE FROM ends WHERE job = ?1",
        "DELETE FROM speeds WHERE job = ?1",
    ] {
        base.prepare_cached(statement)?.execute([id])?;
    }
    Ok(())
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
