//! What an effect came to. The workshop tells it; the interface takes it in.

use std::path::PathBuf;
use std::sync::atomic::AtomicBool;
use std::sync::{Arc, Mutex, OnceLock};
use std::time::Instant;

use revisum_diagnose::system_log::SystemLogs;
use revisum_drive::{Drive, Progress};
use revisum_engine::recipe::Recipe;
use revisum_record::speed::SpeedRecord;
use revisum_records::{Imported, JobSummary, Life, Recorded, RunSummary};
use revisum_report::Document;
use revisum_workbench::by_time::TimingStage;
use revisum_workbench::speed_run::SpeedSnapshot;

use super::facts::{Facts, Located};
use super::run::RunView;
use crate::booted::Kept;

/// Something new.
#[derive(Clone, Debug)]
pub enum News {
    /// Machine and job.
    Facts(Box<Facts>),
    /// Another job is open: everything begins anew.
    Opened(Box<Facts>),
    /// Where what happens is recorded.
    Kept(Kept),
    /// All jobs.
    Jobs(Vec<JobSummary>),
    /// A run begins.
    RunBegan,
    /// No run: the machine does not start as it is fitted now.
    Dark,
    /// The run is entered into the job: what it came to, by its record where that says worse than what was seen.
    RunOver(RunView),
    /// Where errors are.
    Located(Option<Arc<Located>>),
    /// Recorded runs.
    Runs(Listed),
    /// A recorded run, and where in its time it is shown: so many milliseconds after its beginning, and its length.
    Recorded(Arc<Recorded>, Option<(u64, u64)>),
    /// Runs side by side.
    Compared(Arc<Compared>),
    /// Everything known of a module, and what it is called.
    Life(Arc<Life>, String),
    /// What systems logged is being read: it is there once this is set.
    SystemLog(Arc<OnceLock<SystemLogs>>),
    /// What they logged is kept in the job.
    SystemLogKept,
    /// Drives that a boot drive could be written to, and the image.
    Drives(Vec<Drive>, Option<String>),
    /// A drive is being written.
    Writing(Arc<Writing>),
    /// Folders with records on mounted drives.
    RecordsFound(Vec<PathBuf>),
    /// Records are on their way from a drive.
    BringingIn(BringingIn),
    /// They are here, or not.
    BroughtIn(Result<Imported, String>),
    /// How far learning from time has come; nothing once it is over.
    ByTime(Option<TimingStage>),
    /// How far a measurement of speed has come; nothing once it is over.
    Speed(Option<SpeedSnapshot>),
    /// What was measured.
    SpeedMeasured(Arc<SpeedRecord>),
    /// What it is set against, and which of those that can be it is.
    SpeedCompared(Option<(usize, Arc<SpeedRecord>)>),
    /// The report as it would be written now.
    Report(Arc<Document>),
    /// Recipe files.
    Recipes(Vec<PathBuf>),
    /// A recipe was read.
    Recipe(Box<Recipe>),
    /// Something to be said.
    Said(String),
}

/// Recorded runs, newest first.
#[derive(Clone, Debug, Default)]
pub struct Listed {
    /// What they were narrowed down by.
    pub find: String,
    /// The runs.
    pub runs: Vec<RunSummary>,
    /// How many there are that the list could show.
    pub count: u64,
    /// Journals that could not be read.
    pub unreadable: Vec<String>,
    /// Why runs of others are missing, where a server keeps the ledger and did not answer.
    pub aside: Option<String>,
}

/// Runs side by side.
#[derive(Clone, Debug)]
pub struct Compared {
    /// The runs, oldest first.
    pub runs: Vec<Recorded>,
    /// Failing cells that they share, in a sentence.
    pub in_common: String,
}

/// Records on their way from a drive.
#[derive(Clone, Debug)]
pub struct BringingIn {
    /// Folder that they come from.
    pub from: PathBuf,
    /// How many of how many were looked at.
    pub progress: Arc<Mutex<(usize, usize)>>,
    /// What it came to, or why it could not be done.
    pub ended: Arc<OnceLock<Result<Imported, String>>>,
}

/// A drive that is being written. The thread that writes tells here how far it has come.
#[derive(Debug)]
pub struct Writing {
    /// Its name.
    pub name: String,
    /// How far.
    pub progress: Mutex<Option<Progress>>,
    /// When it began.
    pub begin: Instant,
    /// It shall be given up.
    pub give_up: AtomicBool,
    /// How it ended: bytes written and seconds, or what went wrong.
    pub ended: OnceLock<Result<(u64, f64), String>>,
}
