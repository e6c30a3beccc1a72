//! One entry that a system logged about memory.

use serde::{Deserialize, Serialize};

use revisum_engine::units::PhysAddr;

/// What kind of entry it is, the gravest first.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub enum LogKind {
    /// A memory error that could not be corrected.
    Uncorrected,
    /// The system's own memory check found errors.
    CheckFound,
    /// A page was taken out of use.
    PageRetired,
    /// Memory errors that were corrected.
    Corrected,
    /// The processor reported an error that is not the memory's by its code.
    MachineCheck,
    /// The system stopped with a screen.
    StopScreen,
    /// The system's own memory check found nothing.
    CheckClean,
}

impl LogKind {
    /// Whether it says that memory failed.
    pub fn is_memory_error(self) -> bool {
        matches!(self, Self::Uncorrected | Self::CheckFound | Self::PageRetired | Self::Corrected)
    }
}

/// When something was logged.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
#[serde(default)]
pub struct LogTime {
    /// Milliseconds since 1970, where the log tells date, time and zone.
    pub wall_ms: Option<i64>,
    /// In the log's own words where it does not tell all of these; else empty.
    pub words: String,
}

/// An entry, or several that say the same.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
pub struct LogEntry {
    /// What it is.
    pub kind: LogKind,
    /// How many errors, or how often.
    pub count: u64,
    /// When it was logged first.
    #[serde(default)]
    pub first: LogTime,
    /// When it was logged last.
    #[serde(default)]
    pub last: LogTime,
    /// Physical address, where it is told.
    #[serde(default)]
    pub address: Option<PhysAddr>,
    /// Place in the log's own words; empty when it names none.
    #[serde(default)]
    pub place: String,
    /// Slots that it may be in: one for certain, several possible ones, none when it cannot be placed.
    #[serde(default)]
    pub slots: Vec<String>,
    /// Serial number of the module that sat in the only slot when the entry was kept.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub module: Option<String>,
    /// Which log: a file's name, or the running kernel.
    #[serde(default)]
    pub log: String,
    /// What it says, without control characters.
    #[serde(default)]
    pub text: String,
    /// Who told of it, where several tell of one event; not kept.
    #[serde(skip)]
    pub teller: String,
}

impl LogEntry {
    /// An entry that is counted once.
    pub fn new(kind: LogKind, time: LogTime, text: String) -> Self {
        let (first, last) = (time.clone(), time);
        let (address, place, slots, module) = (None, String::new(), Vec::new(), None);
        let (log, teller) = (String::new(), String::new());
        Self { kind, count: 1, first, last, address, place, slots, module, log, text, teller }
    }

    /// Milliseconds since 1970 when it was logged last, where that is told.
    pub fn wall_ms(&self) -> Option<i64> {
        self.last.wall_ms.or(self.first.wall_ms)
    }
}

/// Whether any of them says that memory failed.
pub fn speaks_of_memory(entries: &[LogEntry]) -> bool {
    entries.iter().any(|entry| entry.kind.is_memory_error())
}

/// The answers of the intake that follow from what was logged.
pub fn tilt_answers(entries: &[LogEntry]) -> impl Iterator<Item = &'static str> {
    let has = |kind| entries.iter().any(|entry| entry.kind == kind);
    let logged = entries.iter().any(|entry| entry.kind.is_memory_error() && entry.kind != LogKind::CheckFound);
    let (found, clean) = (has(LogKind::CheckFound), has(LogKind::CheckClean) && !has(LogKind::CheckFound));
    let answers = [(logged, "log-has-errors"), (found, "check-found-errors"), (clean, "check-was-clean")];
    answers.into_iter().filter(|(holds, _)| *holds).map(|(_, name)| name)
}
