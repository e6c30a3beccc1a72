//! The journal of a job, and what its runs say about the parts.

use std::collections::BTreeMap;
use std::fs::File;
use std::io::BufReader;
use std::path::{Path, PathBuf};

use anyhow::{Context, Result};
use revisum_core::board::{Before, Board, Module};
use revisum_core::isolate::{Case, KnownModule, KnownSlot, RunFact, one_module_pass_minutes};
use revisum_core::journal::{FORMAT_VERSION, Fitting, Intake, JobEntry, JobState, JournalWriter, read_journal};
use revisum_core::ports::{History, PastRun};
use revisum_core::run_state::Outcome;
use revisum_linux::JournalFile;

use super::runs::{Recorded, Standing, read_run};

/// An open job: its journal and its runs.
pub struct Job {
    state: JobState,
    writer: JournalWriter,
    runs_folder: PathBuf,
    runs: BTreeMap<String, Recorded>,
}

impl Job {
    /// Opens the job of this machine, or begins it.
    ///
    /// # Errors
    /// When its journal cannot be read or written.
    pub fn open(jobs: &Path, runs_folder: &Path, machine: &str, wall_ms: i64) -> Result<Self> {
        let name: String = machine.chars().map(|c| if c.is_ascii_alphanumeric() { c } else { '-' }).take(40).collect();
        let path = jobs.join(format!("{name}.job"));
        let (mut state, mut next_seq) = (JobState::default(), 0);
        if path.exists() {
            let file = File::open(&path).with_context(|| format!("the job {} cannot be opened", path.display()))?;
            // Damage costs the damaged records only; whatever is missing is asked of the machine again.
            read_journal::<JobEntry>(&mut BufReader::new(file), |framed| {
                next_seq = framed.seq + 1;
                state.apply(&framed.entry);
            })
            .with_context(|| format!("the job {} cannot be read", path.display()))?;
        }
        let file = JournalFile::open_to_append(&path).with_context(|| {
            format!("the job {} cannot be written: another Revisum may have it open", path.display())
        })?;
        let writer = JournalWriter::resume(Box::new(file), &name, next_seq);
        let mut job = Self { state, writer, runs_folder: runs_folder.to_owned(), runs: BTreeMap::new() };
        if job.writer.is_empty() {
            job.note(JobEntry::Opened { format: FORMAT_VERSION, machine: machine.to_owned(), wall_ms })?;
        }
        for run in job.state.runs.clone() {
            job.load(&run);
        }
        Ok(job)
    }

    /// What was written down so far.
    pub fn state(&self) -> &JobState {
        &self.state
    }

    /// Runs of the job, oldest first; those whose journals can be read.
    pub fn runs(&self) -> impl DoubleEndedIterator<Item = &Recorded> {
        self.state.runs.iter().filter_map(|id| self.runs.get(id))
    }

    /// Writes down every module that is here and was not known yet.
    ///
    /// # Errors
    /// When the journal cannot be written.
    pub fn see(&mut self, modules: impl IntoIterator<Item = Module>) -> Result<()> {
        for module in modules {
            if !module.serial.is_empty() && !self.state.modules.contains(&module) {
                self.note(JobEntry::Seen { module })?;
            }
        }
        Ok(())
    }

    /// Writes down a new fitting.
    ///
    /// # Errors
    /// When the journal cannot be written.
    pub fn fitted(&mut self, placement: Vec<(String, String)>) -> Result<()> {
        self.note(JobEntry::Fitted { fitting: Fitting { placement } })
    }

    /// Writes down what was asked when the machine came in.
    ///
    /// # Errors
    /// When the journal cannot be written.
    pub fn take_in(&mut self, intake: Intake) -> Result<()> {
        self.note(JobEntry::TakenIn { intake })
    }

    /// Writes down what is there, if it is not as last time.
    ///
    /// # Errors
    /// When the journal cannot be written.
    pub fn look(&mut self, board: &Board, usable_bytes: u64) -> Result<()> {
        let now = Before { board: board.clone(), usable_bytes };
        if self.state.looked.as_ref() == Some(&now) {
            return Ok(());
        }
        self.note(JobEntry::Looked { board: now.board, usable_bytes })
    }

    /// Writes down what the technician calls a module; an empty name takes the mark off.
    ///
    /// # Errors
    /// When the journal cannot be written.
    pub fn mark(&mut self, module: &str, mark: &str) -> Result<()> {
        self.note(JobEntry::Marked { module: module.to_owned(), mark: mark.to_owned() })
    }

    /// What the technician calls this module.
    pub fn mark_of(&self, slot: &str, module: &Module) -> Option<String> {
        match self.state.marks.get(&module.identity(slot)) {
            Some(mark) => Some(mark.clone()).filter(|mark| !mark.is_empty()),
            None if module.serial.is_empty() => None,
            None => self.module(&module.serial).and_then(|known| known.mark.clone()),
        }
    }

    /// Writes down which settings were put in force.
    ///
    /// # Errors
    /// When the journal cannot be written.
    pub fn set(&mut self, settings: &str) -> Result<()> {
        self.note(JobEntry::Set { settings: settings.to_owned() })
    }

    /// Writes down that the machine does not start as it is fitted.
    ///
    /// # Errors
    /// When the journal cannot be written.
    pub fn did_not_start(&mut self, sign: String) -> Result<()> {
        self.note(JobEntry::DidNotStart { sign })
    }

    /// Writes down that a run was made.
    ///
    /// # Errors
    /// When the journal cannot be written.
    pub fn ran(&mut self, run: &str) -> Result<()> {
        self.note(JobEntry::Ran { run: run.to_owned() })?;
        self.load(run);
        Ok(())
    }

    /// Reads a run's journal again, after it has grown.
    pub fn load(&mut self, run: &str) {
        // A journal that cannot be read is not evidence; the list of logs says what is wrong with it.
        if let Ok(recorded) = read_run(&self.runs_folder.join(format!("{run}.journal"))) {
            self.runs.insert(run.to_owned(), recorded);
        }
    }

    fn note(&mut self, entry: JobEntry) -> Result<()> {
        self.writer
            .append(0, entry.clone())
            .and_then(|_| self.writer.sync())
            .context("the job's journal cannot be written; what was entered is not kept")?;
        self.state.apply(&entry);
        Ok(())
    }

    /// The module with this serial number, if it was ever seen here.
    pub fn module(&self, serial: &str) -> Option<&Module> {
        self.state.modules.iter().find(|module| module.serial == serial)
    }

    /// What to call a module.
    pub fn name_of(&self, serial: &str) -> String {
        let Some(known) = self.module(serial) else { return serial.to_owned() };
        Module { mark: self.mark_of("", known), ..known.clone() }.name()
    }

    /// The job as evidence for the odds.
    pub fn case(&self, board: &Board) -> Case {
        let runs: Vec<RunFact> = self
            .runs()
            .filter(|run| run.standing != Standing::Running)
            .filter_map(|run| RunFact::of(&run.state))
            .collect();
        let pass_minutes = self.runs().filter_map(|run| one_module_pass_minutes(&run.state)).next_back();
        let fitted = board.modules().map(|(_, module)| module.serial.clone());
        let mut modules: Vec<String> =
            self.state.modules.iter().map(|module| module.serial.clone()).chain(fitted).collect();
        modules.retain(|serial| !serial.is_empty());
        modules.sort();
        modules.dedup();
        Case {
            slots: board.slots.iter().map(KnownSlot::from).collect(),
            modules: modules.into_iter().map(|id| KnownModule { id }).collect(),
            runs,
            pass_minutes: pass_minutes.unwrap_or(10.0),
        }
    }
}

impl History for Job {
    fn of_module(&self, serial: &str) -> Vec<PastRun> {
        let of_run = |run: &Recorded| {
            let (slot, _) = run.state.begin.board.modules().find(|(_, module)| module.serial == serial)?;
            let outcome = match run.standing {
                Standing::Running => Outcome::CleanSoFar,
                Standing::Over(outcome) => outcome,
            };
            let here = |(slots, words): (&String, &u64)| {
                if slots.split(' ').any(|named| named == slot.id) { *words } else { 0 }
            };
            Some(PastRun {
                run: run.id.clone(),
                machine: run.state.begin.machine.clone(),
                slot: slot.id.clone(),
                outcome,
                errors: run.state.errors.slots.iter().map(here).sum(),
            })
        };
        self.runs().filter_map(of_run).collect()
    }
}
