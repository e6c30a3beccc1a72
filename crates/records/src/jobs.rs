//! All jobs of a data directory: finding, naming and listing them. A machine has as many jobs as it came in times.

use std::path::{Path, PathBuf};

use anyhow::{Context, Result};
use revisum_engine::text::cleaned;
use revisum_linux::open_parts;
use revisum_record::fitted::Module;
use revisum_record::journal::{JobEntry, JobState, Link, Stage, read_journal};

use crate::say;

/// Which job of a machine is meant.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Which<'a> {
    /// The one that was begun first.
    First,
    /// The one that was begun last, or the first one where there is none.
    Latest,
    /// One more.
    New,
    /// The one with this id.
    Named(&'a str),
}

/// One line of the list of jobs.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct JobSummary {
    /// Id: the file's name.
    pub id: String,
    /// Machine.
    pub machine: String,
    /// What was told when it came in, in words.
    pub told: String,
    /// Runs.
    pub runs: usize,
    /// What it came to, while it is closed.
    pub closed: Option<String>,
    /// The stage that it came to last.
    pub stage: Option<Stage>,
    /// A step was decided on and not made yet.
    pub planned: bool,
    /// Modules that are known to be good in it.
    pub good: Vec<Module>,
}

/// Most jobs looked at in one folder.
const MOST_JOBS: usize = 10_000;
/// Longest text of a list.
const LONGEST: usize = 400;

/// What the files of a machine's jobs begin with, and what those of its runs hold.
pub(super) fn stem(machine: &str) -> String {
    machine.chars().map(|c| if c.is_ascii_alphanumeric() { c } else { '-' }).take(40).collect()
}

/// The id of the job that is meant.
pub fn id_of(jobs: &Path, machine: &str, which: Which<'_>) -> String {
    let first = stem(machine);
    let nth = |number: u32| if number == 1 { first.clone() } else { format!("{first}.{number}") };
    let exists = |number: &u32| path_of(jobs, &nth(*number)).exists();
    let count = (1..).take_while(exists).count() as u32;
    match which {
        Which::First => first.clone(),
        Which::Latest => nth(count.max(1)),
        Which::New => nth(count + 1),
        Which::Named(id) => id.to_owned(),
    }
}

/// The file of a job.
pub fn path_of(jobs: &Path, id: &str) -> PathBuf {
    jobs.join(format!("{id}.job"))
}

/// The ids of all jobs here, in order.
///
/// # Errors
/// When the folder cannot be read.
pub fn job_ids(jobs: &Path) -> Result<Vec<String>> {
    if !jobs.exists() {
        return Ok(Vec::new());
    }
    let files = std::fs::read_dir(jobs)
        .with_context(|| say::jobs_folder_not_read(jobs.display().to_string()))?
        .flatten()
        .map(|file| file.path())
        .filter(|path| path.extension().is_some_and(|ending| ending == "job"));
    let name = |path: PathBuf| path.file_stem().map(|name| name.to_string_lossy().into_owned());
    let mut ids: Vec<String> = files.take(MOST_JOBS).filter_map(name).collect();
    ids.sort();
    Ok(ids)
}

/// What a job's journal adds up to, and where its next record goes. Damage is noted in it.
///
/// # Errors
/// When it cannot be opened or read.
pub fn read_job(path: &Path) -> Result<(JobState, Link)> {
    let mut state = JobState::default();
    let mut parts = open_parts(path).with_context(|| say::job_not_opened(path.display().to_string()))?;
    let mut reading = read_journal::<JobEntry>(&mut *parts.reader, |framed| state.apply(&framed.entry))
        .with_context(|| say::job_not_read(path.display().to_string()))?;
    reading.damage.unreadable = parts.unreadable.count();
    state.damage = reading.damage;
    Ok((state, reading.link))
}

/// All jobs here; those that cannot be read are left out, the list of logs tells of damage.
pub fn list_jobs(jobs: &Path) -> Vec<JobSummary> {
    let one = |id: String| {
        let (state, _) = read_job(&path_of(jobs, &id)).ok()?;
        let told = state.intake.as_ref().map(|intake| {
            let parts = [&intake.owner, &intake.symptom, &intake.words];
            let parts: Vec<&str> = parts.iter().map(|part| part.trim()).filter(|part| !part.is_empty()).collect();
            cleaned(&parts.join(". "), LONGEST)
        });
        let good = state.modules.iter().filter(|module| state.good.contains(&module.serial)).cloned().collect();
        Some(JobSummary {
            id,
            machine: cleaned(&state.machine, LONGEST),
            told: told.unwrap_or_default(),
            runs: state.runs.len(),
            stage: state.reached.keys().next_back().copied(),
            planned: state.plan.is_some(),
            closed: state.closed.as_deref().map(|answer| cleaned(answer, LONGEST)),
            good,
        })
    };
    job_ids(jobs).unwrap_or_default().into_iter().filter_map(one).collect()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_machine_has_a_job_for_each_time_it_came() {
        let folder = tempfile::tempdir().unwrap();
        let make = |id: &str| std::fs::write(path_of(folder.path(), id), "").unwrap();
        let id = |which| id_of(folder.path(), "front desk", which);
        assert_eq!((id(Which::Latest), id(Which::New)), ("front-desk".into(), "front-desk".into()));
        make("front-desk");
        make("front-desk-2");
        assert_eq!((id(Which::Latest), id(Which::New)), ("front-desk".into(), "front-desk.2".into()));
        make("front-desk.2");
        assert_eq!((id(Which::Latest), id(Which::New)), ("front-desk.2".into(), "front-desk.3".into()));
        assert_eq!(id(Which::Named("front-desk")), "front-desk");
        assert_eq!(job_ids(folder.path()).unwrap(), ["front-desk", "front-desk-2", "front-desk.2"]);
    }
}
