//! What is in front: the list of runs, or a page that was opened over it.

use std::sync::{Arc, OnceLock};

use revisum_diagnose::system_log::SystemLogs;
use revisum_records::{Life, Recorded};

use crate::shared::news::Compared;

/// A page.
#[derive(Debug, Default)]
pub enum Page {
    /// The list of runs.
    #[default]
    List,
    /// A recorded run.
    Run(Box<RunPage>),
    /// Runs side by side.
    Compared(Arc<Compared>),
    /// Everything known of a module.
    Life(LifePage),
    /// What the machine's own systems logged.
    SystemLog(SystemLogPage),
}

/// A recorded run.
#[derive(Debug)]
pub struct RunPage {
    /// The run.
    pub run: Arc<Recorded>,
    /// How it was so many milliseconds after its beginning, instead of at its end; and its length.
    pub at: Option<(u64, u64)>,
    /// The moment that was asked for last, in milliseconds: keys come faster than records are read.
    pub asked: Option<u64>,
    /// The page that it was opened from.
    pub before: Page,
}

/// Everything known of a module.
#[derive(Debug)]
pub struct LifePage {
    /// What.
    pub life: Arc<Life>,
    /// What it is called.
    pub name: String,
    /// Chosen run, the newest first.
    pub at: usize,
}

/// What systems logged about memory.
#[derive(Debug)]
pub struct SystemLogPage {
    /// Entries; nothing while logs are still being read.
    pub logs: Arc<OnceLock<SystemLogs>>,
    /// Chosen entry.
    pub at: usize,
    /// They are kept in the job.
    pub kept: bool,
}

impl SystemLogPage {
    /// Whether there is something that is not kept yet.
    pub fn is_to_keep(&self) -> bool {
        self.count() > 0 && !self.kept
    }

    /// How many entries there are.
    pub fn count(&self) -> usize {
        self.logs.get().map_or(0, |logs| logs.entries.len())
    }
}
