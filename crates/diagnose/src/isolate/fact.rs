//! A run as evidence.

use super::case::Placement;
use super::priors::Priors;
use super::signs::Signs;

/// So many wrong words do not come from one event.
pub(super) const FLOOD: u64 = 1_000_000;

/// Where errors were placed while several modules were fitted.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub enum Place {
    /// Nothing is told.
    #[default]
    Unknown,
    /// Over several slots, without a number for each.
    Spread,
    /// All or nearly all in one slot.
    Slot(String),
    /// All or nearly all in this half of the addresses, 0 or 1.
    Half(u8),
    /// A good part of them in each of these slots.
    Several(Vec<String>),
}

/// What a run showed.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Evidence {
    /// No error.
    Clean,
    /// Errors, and where an address map placed them.
    Errors(Place),
    /// The machine did not start.
    Dark,
    /// It started; nothing was run.
    Starts,
}

/// What kinds of work a run had.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub enum Load {
    /// Patterns and computing both.
    #[default]
    Both,
    /// Patterns only: little is said of a fault that shows under computing only.
    Patterns,
    /// Computing only.
    Computing,
}

/// What failed, as something that can be known again in another run.
#[derive(Clone, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub struct Mark {
    /// Slot in which it failed.
    pub slot: String,
    /// Cells inside the module, or data lines.
    pub class: MarkClass,
    /// Which of them; equal in two runs when the same failed again.
    pub id: String,
}

/// By what a failure is known again.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub enum MarkClass {
    /// Cells, rows, columns, banks: places inside a module.
    Cells,
    /// Data lines and address lines: places on the way to it as well.
    Lines,
}

/// A run as evidence.
#[derive(Clone, Debug, PartialEq)]
pub struct RunFact {
    /// What was fitted.
    pub placement: Placement,
    /// Settings in force; empty for the first ones of the case.
    pub settings: String,
    /// Modules that were taken out and put back into the same slot before it.
    pub reseat: Vec<String>,
    /// Minutes that it was meant to run, or ran when it was clean.
    pub minutes: f64,
    /// Passes that it was meant to run, fractions included.
    pub passes: f64,
    /// Minutes that it really ran.
    pub ran_minutes: f64,
    /// What it showed.
    pub evidence: Evidence,
    /// Struck out by hand: it happened, so it touched modules, but it proves nothing.
    pub struck: bool,
    /// What kinds of work it had.
    pub load: Load,
    /// What else it told.
    pub signs: Signs,
    /// Chance that what failed came from something else: high where an owner only saw the complaint again.
    pub doubt: f64,
    /// Minutes to the first error, where known.
    pub first_error_minutes: Option<f64>,
    /// Errors came again after the first, in a later pass or without end: true; in one pass of several only: false.
    pub steady: Option<bool>,
    /// What failed, where it is known by cell or line.
    pub marks: Vec<Mark>,
    /// By module: the part of its cells that this run reached, or of those that are known to fail, 0 to 1. All of them where nothing is said.
    pub reach: Vec<(String, f64)>,
}

impl RunFact {
    /// True when it found errors, or did not even start.
    pub fn failed(&self) -> bool {
        !matches!(self.evidence, Evidence::Clean | Evidence::Starts)
    }

    /// The same time as use by the machine's owner: it says less an hour, computing is its load, and a complaint that comes back may come
    /// from something else.
    #[must_use]
    pub fn by_owner(self, priors: &Priors) -> Self {
        let runs = &priors.runs;
        Self {
            minutes: self.minutes * runs.owner_hour,
            passes: self.passes * runs.owner_hour,
            doubt: if self.failed() { runs.owner_doubt } else { 0.0 },
            load: Load::Computing,
            ..self
        }
    }

    /// The same run, told to have ended because the machine hung or started again by itself: that may come from something else too.
    #[must_use]
    pub fn broken_off(self, priors: &Priors) -> Self {
        match self.evidence {
            Evidence::Clean => {
                Self { evidence: Evidence::Errors(Place::Unknown), doubt: priors.runs.broke_off_doubt, ..self }
            }
            _ => self,
        }
    }

    /// The slot that stood out.
    pub fn slot(&self) -> Option<&str> {
        match &self.evidence {
            Evidence::Errors(Place::Slot(slot)) => Some(slot),
            _ => None,
        }
    }

    /// The module in a slot.
    pub fn module_in(&self, slot: &str) -> Option<&str> {
        self.placement.iter().find(|(used, _)| used == slot).map(|(_, module)| module.as_str())
    }

    /// The slot of a module.
    pub fn slot_of(&self, module: &str) -> Option<&str> {
        self.placement.iter().find(|(_, fitted)| fitted == module).map(|(slot, _)| slot.as_str())
    }

    /// A clean run of the first settings.
    pub fn clean(placement: Placement, minutes: f64, passes: f64) -> Self {
        Self {
            placement,
            settings: String::new(),
            reseat: Vec::new(),
            minutes,
            passes,
            ran_minutes: minutes,
            evidence: Evidence::Clean,
            struck: false,
            load: Load::Both,
            signs: Signs::default(),
            doubt: 0.0,
            first_error_minutes: None,
            steady: None,
            marks: Vec::new(),
            reach: Vec::new(),
        }
    }
}
