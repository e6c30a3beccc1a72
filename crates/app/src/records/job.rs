//! The journal of a job, and what its runs say about the parts.

use std::collections::BTreeMap;
use std::fs::File;
use std::io::BufReader;
use std::path::{Path, PathBuf};

use anyhow::{Context, Result};
use revisum_core::board::{Before, Board, Module};
use revisum_core::isolate::{
    Case, Evidence, KnownModule, KnownSlot, Move, Priors, RunFact, moves, one_module_pass_minutes, tilt,
};
use revisum_core::journal::{FORMAT_VERSION, Fitting, Intake, JobEntry, JobState, JournalWriter, Step, read_journal};
use revisum_core::locate::trusted_map;
use revisum_core::ports::{History, JournalStore, PastRun};
use revisum_core::recipe::Recipe;
use revisum_core::run_state::{Outcome, RunState};
use revisum_linux::JournalFile;

use crate::exit::WrongUse;

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

    /// Reads a job without writing to it; by part of its machine's name, or the only one.
    ///
    /// # Errors
    /// When there is none, or several, or it cannot be read.
    pub fn read_only(jobs: &Path, runs_folder: &Path, machine: Option<&str>) -> Result<Self> {
        if !jobs.exists() {
            let words = format!("there are no jobs in {} yet; --data DIR looks elsewhere", jobs.display());
            return Err(WrongUse(words).into());
        }
        let mut found: Vec<PathBuf> = std::fs::read_dir(jobs)
            .with_context(|| format!("the folder of jobs {} cannot be read", jobs.display()))?
            .flatten()
            .map(|file| file.path())
            .filter(|path| path.extension().is_some_and(|ending| ending == "job"))
            .collect();
        found.sort();
        let names =
            |path: &PathBuf| path.file_stem().map(|name| name.to_string_lossy().into_owned()).unwrap_or_default();
        let all: Vec<String> = found.iter().map(names).collect();
        found.retain(|path| machine.is_none_or(|wanted| names(path).contains(wanted)));
        if let Some(exact) = found.iter().position(|path| Some(names(path).as_str()) == machine) {
            found = vec![found.swap_remove(exact)];
        }
        let [path] = &found[..] else {
            let asked = machine.map_or_else(String::new, |wanted| format!(" with {wanted} in its name"));
            let which = if found.is_empty() { "no job" } else { "more than one job" };
            return Err(WrongUse(format!("there is {which}{asked}; jobs here: {}", all.join(", "))).into());
        };
        let file = File::open(path).with_context(|| format!("the job {} cannot be opened", path.display()))?;
        let mut state = JobState::default();
        read_journal::<JobEntry>(&mut BufReader::new(file), |framed| state.apply(&framed.entry))
            .with_context(|| format!("the job {} cannot be read", path.display()))?;
        let writer = JournalWriter::resume(Box::new(NoStore), &names(path), 0);
        let mut job = Self { state, writer, runs_folder: runs_folder.to_owned(), runs: BTreeMap::new() };
        for run in job.state.runs.clone() {
            job.load(&run);
        }
        Ok(job)
    }

    /// The job as evidence by what is on record alone: the machine itself is not looked at.
    pub fn case_of_record(&self) -> Case {
        let board = self.state.looked.as_ref().map(|looked| looked.board.clone()).unwrap_or_default();
        let last = self.runs().next_back().map(|run| run.state.begin.settings.clone());
        let settings = self.state.settings.clone().or(last).unwrap_or_default();
        let mut seen: Vec<String> =
            self.states().map(|run| run.begin.settings.clone()).chain([settings.clone()]).collect();
        seen.dedup();
        seen.retain(|settings| !settings.is_empty());
        seen.sort_by_key(|settings| settings == "stock");
        seen.dedup();
        self.case(&board, &settings, &seen)
    }

    /// What was written down so far.
    pub fn state(&self) -> &JobState {
        &self.state
    }

    /// Runs of the job, oldest first; those whose journals can be read.
    pub fn runs(&self) -> impl DoubleEndedIterator<Item = &Recorded> {
        self.state.runs.iter().filter_map(|id| self.runs.get(id))
    }

    /// What each of these runs came to.
    pub fn states(&self) -> impl DoubleEndedIterator<Item = &RunState> + Clone {
        self.state.runs.iter().filter_map(|id| self.runs.get(id)).map(|run| &run.state)
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

    /// The job as evidence for the odds, with the machine as it is fitted and set now.
    pub fn case(&self, board: &Board, settings: &str, offered: &[String]) -> Case {
        let pass_minutes = self.runs().filter_map(|run| one_module_pass_minutes(&run.state)).next_back();
        let mut modules: Vec<String> = self.state.modules.iter().map(|module| module.serial.clone()).collect();
        modules.extend(board.modules().map(|(slot, module)| module.identity(&slot.id)));
        modules.retain(|id| !id.is_empty());
        modules.sort();
        modules.dedup();
        let known = |id: String| KnownModule { known_good: self.state.good.contains(&id), ..KnownModule::of(id) };
        let runs: Vec<RunFact> = self.facts().into_iter().map(|(_, fact)| fact).collect();
        let priors = Priors::default();
        let picked = self.state.intake.as_ref().map(|intake| &intake.picked);
        Case {
            slots: board.slots.iter().map(KnownSlot::from).collect(),
            modules: modules.into_iter().map(known).collect(),
            settings: if offered.len() > 1 { offered.to_vec() } else { Vec::new() },
            map_known: self.places_errors(),
            present: (!runs.is_empty()).then(|| (board.known_placement(), settings.to_owned())),
            runs,
            pass_minutes: pass_minutes.unwrap_or(10.0),
            tilt: picked.map(|picked| tilt(picked, &priors)).unwrap_or_default(),
            priors,
        }
    }

    /// What each run of a case of this job moved most, by its id.
    pub fn moves(&self, case: &Case) -> BTreeMap<String, Move> {
        let ids = self.facts().into_iter().map(|(id, _)| id);
        ids.zip(moves(case)).filter_map(|(id, moved)| Some((id, moved?))).collect()
    }

    /// The recipe of the run that failed first: a retest repeats what showed the fault.
    pub fn failing_recipe(&self) -> Option<Recipe> {
        let mut failed = self.runs().filter(|run| run.state.has_errors() && !self.state.struck.contains_key(&run.id));
        failed.next()?.state.begin.recipe.clone()
    }

    /// Whether errors can be placed in slots: by an address map that nothing contradicts, or by error counters.
    fn places_errors(&self) -> bool {
        let by_map = |run: &RunState| run.begin.map.is_some() && trusted_map(run, self.states()).is_ok();
        self.states().any(|run| !run.hardware.places.is_empty() || by_map(run))
    }

    /// What happened, as evidence, in its order.
    fn facts(&self) -> Vec<(String, RunFact)> {
        let mut facts = Vec::new();
        let mut reseat = Vec::new();
        for step in &self.state.steps {
            let fact = match step {
                Step::Reseated(modules) => {
                    reseat.extend(modules.iter().cloned());
                    None
                }
                Step::Dark(fitting) => {
                    let clean = RunFact::clean(fitting.placement.clone(), DARK_MINUTES, 0.0);
                    Some((String::new(), RunFact { evidence: Evidence::Dark, ..clean }))
                }
                Step::Ran(id) => self.fact(id).map(|fact| (id.clone(), fact)),
            };
            facts.extend(fact.map(|(id, fact)| (id, RunFact { reseat: std::mem::take(&mut reseat), ..fact })));
        }
        facts
    }

    fn fact(&self, id: &str) -> Option<RunFact> {
        let run = self.runs.get(id).filter(|run| run.standing != Standing::Running)?;
        let fact = RunFact::of(&run.state, trusted_map(&run.state, self.states()).is_ok())?;
        Some(RunFact { struck: self.state.struck.contains_key(id), ..fact })
    }

    /// Writes down what the technician decided.
    ///
    /// # Errors
    /// When the journal cannot be written.
    pub fn decide(&mut self, entry: JobEntry) -> Result<()> {
        self.note(entry)
    }
}

/// Where nothing is written.
struct NoStore;

impl JournalStore for NoStore {
    fn append(&mut self, _: &[u8]) -> std::io::Result<()> {
        Err(std::io::Error::other("the job was opened to be read only"))
    }

    fn sync(&mut self) -> std::io::Result<()> {
        Ok(())
    }
}

/// Minutes after which it is plain that a machine does not start.
const DARK_MINUTES: f64 = 2.0;

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
