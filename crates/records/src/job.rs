//! The journal of a job.

mod case;
mod course;
mod declared;

use std::cell::RefCell;
use std::collections::{BTreeMap, VecDeque};
use std::path::{Path, PathBuf};

use anyhow::{Context, Result};
use revisum_diagnose::address::{KnownChannels, KnownHalves, Locator};
use revisum_diagnose::isolate::{Case, Look};
use revisum_diagnose::locate::shown_by;
use revisum_diagnose::locate::{Location, SameCell, locate_run, same_cells, trusted_locator};
use revisum_engine::recipe::Recipe;
use revisum_engine::text::cleaned;
use revisum_linux::{JournalFile, is_being_written};
use revisum_record::fitted::{Before, Board, Module};
use revisum_record::journal::JournalStore;
use revisum_record::journal::{FORMAT_VERSION, Fitting, Intake, JobEntry, JobState, JournalWriter, Link};
use revisum_record::logged::LogEntry;
use revisum_record::outcome::Judgement;
use revisum_record::run_state::RunState;
use revisum_record::speed::SpeedRecord;
use revisum_words::damage;

use crate::WrongUse;
use crate::say;

pub use course::{Course, Station};

use super::jobs::{Which, id_of, job_ids, path_of, read_job};
use super::learned_maps::{all_halves, halves_among, keep_channels};
use super::logged::MOST_KEPT;
use super::runs::{Recorded, Standing, read_run, runs_of_job};
use crate::DataDir;

/// An open job: its journal and its runs.
pub struct Job {
    id: String,
    state: JobState,
    writer: JournalWriter,
    /// What could not be written yet: it counts all the same, and is written when that can be done.
    pending: VecDeque<JobEntry>,
    runs_folder: PathBuf,
    runs: BTreeMap<String, Recorded>,
    /// Runs of the job that cannot be read, and why.
    unread: BTreeMap<String, String>,
    /// What the errors of each run looked like, with its map or without: worked out once.
    looks: RefCell<BTreeMap<(String, bool), Option<Look>>>,
    /// Halves of the addresses that time told, of all arrangements.
    halves: Vec<KnownHalves>,
}

impl Job {
    /// Opens a job of this machine, or begins it.
    ///
    /// # Errors
    /// When its journal cannot be read or written.
    pub fn open(jobs: &Path, runs_folder: &Path, machine: &str, which: Which<'_>, wall_ms: i64) -> Result<Self> {
        let id = id_of(jobs, machine, which);
        let path = path_of(jobs, &id);
        let (state, link) = if path.exists() { read_job(&path)? } else { Default::default() };
        let file =
            JournalFile::open_to_append(&path).with_context(|| say::job_not_written(path.display().to_string()))?;
        let writer = JournalWriter::resume(Box::new(file), &id, link);
        let mut job = Self::over(id, state, writer, runs_folder);
        if job.writer.is_empty() {
            job.note(JobEntry::Opened { format: FORMAT_VERSION, machine: machine.to_owned(), wall_ms })?;
        }
        job.load_all();
        for run in job.missed() {
            job.ran(&run)?;
        }
        Ok(job)
    }

    /// Reads a job without writing to it; by part of its machine's name, or the only one.
    ///
    /// # Errors
    /// When there is none, or several, or it cannot be read.
    pub fn read_only(jobs: &Path, runs_folder: &Path, machine: Option<&str>) -> Result<Self> {
        Self::of_id(jobs, runs_folder, &id_named(jobs, machine)?)
    }

    /// The same to write to.
    ///
    /// # Errors
    /// When there is none, or several, or another program writes to it.
    pub fn named(jobs: &Path, runs_folder: &Path, machine: Option<&str>) -> Result<Self> {
        let id = id_named(jobs, machine)?;
        let (state, _) = read_job(&path_of(jobs, &id))?;
        Self::open(jobs, runs_folder, &state.machine, Which::Named(&id), state.opened_ms)
    }

    /// Reads the job with this id without writing to it.
    ///
    /// # Errors
    /// When it cannot be read.
    pub fn of_id(jobs: &Path, runs_folder: &Path, id: &str) -> Result<Self> {
        let (state, _) = read_job(&path_of(jobs, id))?;
        let writer = JournalWriter::resume(Box::new(NoStore), id, Link::default());
        let mut job = Self::over(id.to_owned(), state, writer, runs_folder);
        job.load_all();
        for run in job.missed() {
            job.state.apply(&JobEntry::Ran { run: run.clone() });
            job.load(&run);
        }
        Ok(job)
    }

    fn load_all(&mut self) {
        for run in self.state.runs.clone() {
            self.load(&run);
        }
    }

    /// Runs that say that they belong to this job, of which it was not told: the power went, or what it was told is lost.
    fn missed(&self) -> Vec<String> {
        let found = runs_of_job(&self.runs_folder, &self.state.machine, &self.id, &self.state.runs);
        found.into_iter().filter(|run| !is_being_written(&self.journal_of(run))).collect()
    }

    fn over(id: String, state: JobState, writer: JournalWriter, runs_folder: &Path) -> Self {
        let (runs, unread, looks, pending) = Default::default();
        let halves = runs_folder.parent().map(all_halves).unwrap_or_default();
        Self { id, state, writer, pending, runs_folder: runs_folder.to_owned(), runs, unread, looks, halves }
    }

    /// Looks again what time told of how addresses fall into halves: it holds for runs that were made before, too.
    pub fn learn_halves(&mut self) {
        self.halves = self.runs_folder.parent().map(all_halves).unwrap_or_default();
        for run in self.runs.values_mut() {
            tell_halves(&self.halves, &mut run.state);
        }
    }

    /// What of the job's own record and of its runs is damaged, missing or cannot be read, a sentence each.
    pub fn troubles(&self) -> Vec<String> {
        let own = damage::sentence(&self.state.damage).map(say::job_itself);
        let of_run = |id: &String| {
            let name = cleaned(id, 80);
            match (self.unread.get(id), self.runs.get(id)) {
                (Some(why), _) => Some(say::job_of_run(name, why)),
                (None, Some(run)) => run.trouble().map(|trouble| say::job_of_run(name, trouble)),
                (None, None) => None,
            }
        };
        own.into_iter().chain(self.state.runs.iter().filter_map(of_run)).collect()
    }

    /// Whether something of the job's own record or of its runs that count is lost: then no clean run is a clean job.
    fn is_damaged(&self) -> bool {
        let counts = |id: &&String| !self.state.struck.contains_key(*id);
        let run_is = |id: &String| {
            let lost = |run: &Recorded| run.judgement().damage.any() || run.judgement().newer;
            self.unread.contains_key(id)
                || self.runs.get(id).is_some_and(|run| run.standing != Standing::Running && lost(run))
        };
        self.state.damage.any() || self.state.runs.iter().filter(counts).any(run_is)
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

    /// Its id: the name of its file.
    pub fn id(&self) -> &str {
        &self.id
    }

    /// Whether the machine has no later job than this.
    pub fn is_latest(&self, jobs: &Path) -> bool {
        id_of(jobs, &self.state.machine, Which::Latest) == self.id
    }

    /// The file of a run.
    pub fn journal_of(&self, run: &str) -> PathBuf {
        self.runs_folder.join(format!("{run}.journal"))
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

    /// Writes down how fast memory is.
    ///
    /// # Errors
    /// When the journal cannot be written.
    pub fn measured(&mut self, speed: SpeedRecord) -> Result<()> {
        self.note(JobEntry::SpeedMeasured { speed: Box::new(speed) })
    }

    /// Writes down that a run was made.
    ///
    /// # Errors
    /// When the journal cannot be written.
    pub fn ran(&mut self, run: &str) -> Result<()> {
        self.note(JobEntry::Ran { run: run.to_owned() })?;
        self.load(run);
        self.keep_channels();
        self.seal(run)
    }

    /// Keeps what its runs showed of the slots of their mainboard, for other machines that have one of the same kind.
    fn keep_channels(&self) {
        let Some((root, run)) = self.runs_folder.parent().zip(self.states().next_back()) else { return };
        let known = KnownChannels::new(&run.begin.board, &shown_by(self.states(), &run.begin));
        // This job has it in its own runs, wherever it could be written.
        let _ = known.zip(DataDir::choose(Some(root), None).ok()).map(|(known, data)| keep_channels(&data, &known));
    }

    /// Reads a run's journal again, after it has grown.
    pub fn load(&mut self, run: &str) {
        match read_run(&self.journal_of(run)) {
            Ok(mut recorded) => {
                if let Some(sealed) = self.state.sealed.get(run) {
                    recorded.compare(*sealed);
                }
                self.unread.remove(run);
                self.looks.get_mut().retain(|(id, _), _| id != run);
                tell_halves(&self.halves, &mut recorded.state);
                self.runs.insert(run.to_owned(), recorded);
            }
            // What was read of it before stays: it cannot have become better.
            Err(error) => {
                self.unread.insert(run.to_owned(), cleaned(&format!("{error:#}"), 300));
            }
        }
    }

    /// Writes down what a run had come to when it was over.
    fn seal(&mut self, run: &str) -> Result<()> {
        let known = self.runs.get(run).filter(|run| run.standing != Standing::Running);
        let Some((records, totals)) = known.map(|run| (run.records, run.state.totals())) else { return Ok(()) };
        if self.state.sealed.get(run) == Some(&(records, totals)) {
            return Ok(());
        }
        self.note(JobEntry::Sealed { run: run.to_owned(), records, totals })
    }

    fn note(&mut self, entry: JobEntry) -> Result<()> {
        self.state.apply(&entry);
        self.pending.push_back(entry);
        self.write_pending()
    }

    /// Writes what could not be written before.
    ///
    /// # Errors
    /// When it still cannot be.
    pub fn write_pending(&mut self) -> Result<()> {
        let words = say::job_entry_not_kept();
        while let Some(entry) = self.pending.front() {
            self.writer.append(0, entry).and_then(|()| self.writer.sync()).context(words)?;
            self.pending.pop_front();
        }
        Ok(())
    }

    /// Whether something waits to be written.
    pub fn is_unkept(&self) -> bool {
        !self.pending.is_empty()
    }

    /// Takes what a run came to that could not be recorded: it counts as long as the job is open.
    pub fn remember(&mut self, state: &RunState) {
        let standing = Standing::Over(Judgement::of(state, false).outcome);
        let recorded = Recorded { id: state.id.clone(), bytes: 0, records: 0, state: state.clone(), standing };
        self.state.apply(&JobEntry::Ran { run: state.id.clone() });
        self.unread.remove(&state.id);
        self.looks.get_mut().retain(|(id, _), _| *id != state.id);
        self.runs.insert(state.id.clone(), recorded);
    }

    /// The module with this serial number, if it was ever seen here.
    pub fn module(&self, serial: &str) -> Option<&Module> {
        self.state.modules.iter().find(|module| module.serial == serial)
    }

    /// A module by what it is known by, and the slot where one without a serial number sits.
    pub fn module_of(&self, id: &str) -> Option<(&str, &Module)> {
        if let Some(known) = self.module(id) {
            return Some(("", known));
        }
        let seen =
            self.state.looked.iter().map(|looked| &looked.board).chain(self.states().map(|run| &run.begin.board));
        let fitted =
            |board: &'_ Board| board.modules().find(|(slot, module)| module.identity(&slot.id) == id).is_some();
        let board = seen.into_iter().find(|board| fitted(board))?;
        let found = board.modules().find(|(slot, module)| module.identity(&slot.id) == id);
        found.map(|(slot, module)| (slot.id.as_str(), module))
    }

    /// What to call a module.
    pub fn name_of(&self, serial: &str) -> String {
        let Some((slot, known)) = self.module_of(serial) else { return serial.to_owned() };
        if !slot.is_empty() {
            let mark = self.mark_of(slot, known);
            return mark.unwrap_or_else(|| say::module_in(Module { mark: None, ..known.clone() }.name(), slot));
        }
        Module { mark: self.mark_of("", known), ..known.clone() }.name()
    }

    /// The recipe of the run that failed first: a retest repeats what showed the fault.
    pub fn failing_recipe(&self) -> Option<Recipe> {
        let mut failed = self.runs().filter(|run| run.state.has_errors() && !self.state.struck.contains_key(&run.id));
        failed.next()?.state.begin.recipe.clone()
    }

    /// Where the errors of the run with the most of them were, with its map as far as that is trusted.
    pub fn located(&self) -> Option<(&Recorded, Location)> {
        let counting = self.runs().filter(|run| !self.state.struck.contains_key(&run.id));
        let run = counting.filter(|run| run.state.errors.words > 0).max_by_key(|run| run.state.errors.words)?;
        let location = locate_run(&run.state, &trusted_locator(&run.state, self.states()), &run.state.begin.board);
        Some((run, location))
    }

    /// The latest run that broke off and of which nobody has said yet why: the question waits until it is answered.
    pub fn unexplained(&self) -> Option<&Recorded> {
        let open = |run: &&Recorded| {
            let answered = self.state.broke_off.contains_key(&run.id) || self.state.struck.contains_key(&run.id);
            run.standing != Standing::Running && run.state.end.is_none() && !answered
        };
        self.runs().rev().find(open)
    }

    /// Cells that failed in several runs.
    pub fn same_cells(&self) -> Vec<SameCell> {
        let failed: Vec<&RunState> = self.states().filter(|run| run.has_errors()).collect();
        let locators: Vec<Locator> = failed.iter().map(|run| trusted_locator(run, self.states())).collect();
        same_cells(failed.into_iter().zip(&locators))
    }

    /// Writes down what the machine's own system logged, the newest of it, where it is not written down already.
    ///
    /// # Errors
    /// When the journal cannot be written.
    pub fn keep_logged(&mut self, entries: &[LogEntry]) -> Result<()> {
        let entries = entries[..entries.len().min(MOST_KEPT)].to_vec();
        if entries == self.state.logged {
            return Ok(());
        }
        self.note(JobEntry::SystemLogged { entries })
    }

    /// Writes down what the technician decided.
    ///
    /// # Errors
    /// When the journal cannot be written.
    pub fn decide(&mut self, entry: JobEntry) -> Result<()> {
        self.note(entry)
    }
}

/// What time told later holds for a run of the same arrangement too.
fn tell_halves(known: &[KnownHalves], run: &mut RunState) {
    if run.begin.halves.is_none() {
        run.begin.halves = halves_among(known, &run.begin);
    }
}

impl Drop for Job {
    fn drop(&mut self) {
        // Copies of the latest records; each record itself is kept already.
        let _ = self.writer.finish();
    }
}

/// The job with this in its name, or the only one.
fn id_named(jobs: &Path, machine: Option<&str>) -> Result<String> {
    if !jobs.exists() {
        let words = say::job_none_yet(jobs.display().to_string());
        return Err(WrongUse(words).into());
    }
    let all = job_ids(jobs)?;
    let exact = all.iter().find(|id| Some(id.as_str()) == machine);
    let holding = |id: &&String| machine.is_none_or(|wanted| id.contains(wanted));
    let found: Vec<&String> = exact.map_or_else(|| all.iter().filter(holding).collect(), |id| vec![id]);
    let [id] = found[..] else {
        let asked = machine.map_or_else(String::new, say::job_with_name);
        let which = if found.is_empty() { say::job_which_none() } else { say::job_which_several() };
        return Err(WrongUse(say::job_there_is(which, asked, all.join(", "))).into());
    };
    Ok(id.clone())
}

/// Where nothing is written.
struct NoStore;

impl JournalStore for NoStore {
    fn append(&mut self, _: &[u8]) -> std::io::Result<()> {
        Err(std::io::Error::other(say::job_read_only()))
    }

    fn sync(&mut self) -> std::io::Result<()> {
        Ok(())
    }
}
