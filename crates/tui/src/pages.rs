//! Pages that open in front of a list: a module's life, what systems logged, drives that are being made.

use std::path::PathBuf;
use std::sync::atomic::AtomicBool;
use std::sync::{Arc, Mutex, OnceLock};
use std::time::Instant;

use revisum_diagnose::system_log::SystemLogs;
use revisum_drive::Drive;
use revisum_drive::Progress;
use revisum_record::speed::SpeedRecord;

use super::state::Facts;
use revisum_records::{Imported, Life, SpeedFound};
use revisum_workbench::speed_run::SpeedSnapshot;

/// Measuring speed.
#[derive(Clone, Debug, Default)]
pub struct SpeedPage {
    /// A measurement that is going on.
    pub now: Option<SpeedSnapshot>,
    /// What was measured last in this sitting.
    pub record: Option<Arc<SpeedRecord>>,
    /// The chart shown; nothing for the first one, or on a small screen for the figures alone.
    pub chart: Option<SpeedChart>,
    /// Measurements to compare with.
    pub candidates: Vec<SpeedFound>,
    /// The one compared with, and which of them it is.
    pub compared: Option<(usize, Arc<SpeedRecord>)>,
}

impl SpeedPage {
    /// What is shown: what is being measured, was measured, or was measured last in this job.
    pub fn shown<'a>(&'a self, facts: &'a Facts) -> Option<&'a SpeedRecord> {
        let now = self.now.as_ref().map(|now| &now.record);
        now.or(self.record.as_ref())
            .or(facts.speed.as_ref())
            .map(Arc::as_ref)
            .filter(|record| !record.points.is_empty())
    }

    /// Whether it is going on.
    pub fn is_measuring(&self) -> bool {
        self.now.is_some()
    }
}

/// Charts of a measurement.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum SpeedChart {
    /// Bandwidth over the working set, all cores.
    AllCores,
    /// Bandwidth over the working set, one core.
    OneCore,
    /// Latency over the working set.
    Latency,
    /// Bandwidth by width.
    Widths,
    /// Time of a load by distance.
    Strides,
}

impl SpeedChart {
    /// In the order in which they follow each other.
    pub const ALL: [Self; 5] = [Self::AllCores, Self::OneCore, Self::Latency, Self::Widths, Self::Strides];
}

/// Everything known of a module.
#[derive(Clone, Debug)]
pub struct LifePage {
    /// What.
    pub life: Arc<Life>,
    /// What it is called.
    pub name: String,
    /// Chosen run, the newest first.
    pub at: usize,
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

/// What systems logged about memory.
#[derive(Clone, Debug, Default)]
pub struct SystemLogPage {
    /// Entries; nothing while logs are still being read.
    pub logs: Arc<OnceLock<SystemLogs>>,
    /// Chosen entry.
    pub at: usize,
    /// They are kept in the job.
    pub kept: bool,
}

impl SystemLogPage {
    /// How many entries there are.
    pub fn count(&self) -> usize {
        self.logs.get().map_or(0, |logs| logs.entries.len())
    }
}

/// Drives that the boot drive could be written to.
#[derive(Clone, Debug, Default)]
pub struct DrivePage {
    /// What there is, or why that is not known.
    pub drives: Vec<Drive>,
    /// The image that would be written.
    pub image: Option<String>,
    /// Chosen drive.
    pub at: usize,
    /// The results on a boot drive stay.
    pub keep: bool,
    /// A drive that is being written, or was.
    pub writing: Option<Arc<Writing>>,
}

/// A drive that is being written. The thread that writes tells here how far it has come.
#[derive(Debug)]
pub struct Writing {
    /// Its name.
    pub name: String,
    /// How far.
    pub progress: Mutex<Option<Progress>>,
    /// Seconds since it began.
    pub begin: Instant,
    /// It shall be given up.
    pub give_up: AtomicBool,
    /// How it ended: bytes written and seconds, or what went wrong.
    pub ended: OnceLock<Result<(u64, f64), String>>,
}
