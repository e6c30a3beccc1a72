//! What is known of a job: slots, modules and runs.

use crate::board::Slot;

/// Which module sits in which slot: `(slot, module)`.
pub type Placement = Vec<(String, String)>;

/// A slot of the mainboard.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct KnownSlot {
    /// Name.
    pub id: String,
    /// Channel, where known; a slot without one counts as a channel of its own.
    pub channel: Option<String>,
    /// Its memory is soldered: it cannot be moved, and is one part with the slot.
    pub soldered: bool,
}

impl From<&Slot> for KnownSlot {
    fn from(slot: &Slot) -> Self {
        Self { id: slot.id.clone(), channel: slot.channel.clone(), soldered: slot.soldered }
    }
}

/// A module of the job.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct KnownModule {
    /// Serial number.
    pub id: String,
}

/// What a run showed.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Evidence {
    /// No error.
    Clean,
    /// Errors, with the one slot that all or nearly all were placed in, if there is one.
    Errors {
        /// Slot named by the address map.
        slot: Option<String>,
    },
}

/// A run as evidence.
#[derive(Clone, Debug, PartialEq)]
pub struct RunFact {
    /// What was fitted.
    pub placement: Placement,
    /// Minutes that it ran.
    pub minutes: f64,
    /// Passes, fractions included.
    pub passes: f64,
    /// What it showed.
    pub evidence: Evidence,
}

impl RunFact {
    /// True when it found errors.
    pub fn failed(&self) -> bool {
        self.evidence != Evidence::Clean
    }
}

/// A job as evidence. `runs[0]` is the first run; the last run is the machine's present state.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Case {
    /// Slots in the mainboard's order.
    pub slots: Vec<KnownSlot>,
    /// All modules at hand, fitted or not.
    pub modules: Vec<KnownModule>,
    /// Runs in order.
    pub runs: Vec<RunFact>,
    /// Minutes of one pass over one module.
    pub pass_minutes: f64,
}

impl Case {
    /// Channels with at least one module.
    pub fn channels(&self, placement: &Placement) -> usize {
        let channel = |slot: &String| {
            let known = self.slots.iter().find(|known| known.id == *slot);
            known.and_then(|known| known.channel.clone()).unwrap_or_else(|| slot.clone())
        };
        placement.iter().map(|(slot, _)| channel(slot)).collect::<std::collections::BTreeSet<_>>().len()
    }

    /// Where a slot comes in the mainboard's order.
    pub fn position(&self, slot: &str) -> Option<usize> {
        self.slots.iter().position(|known| known.id == slot)
    }

    /// Whether this slot's memory is soldered.
    pub fn is_soldered(&self, slot: &str) -> bool {
        self.slots.iter().any(|known| known.id == slot && known.soldered)
    }

    /// The memory that is fitted whatever one does.
    pub fn soldered(&self) -> Placement {
        let first = self.runs.first().map(|run| run.placement.as_slice()).unwrap_or_default();
        first.iter().filter(|(slot, _)| self.is_soldered(slot)).cloned().collect()
    }

    /// Minutes of one pass with this placement: more modules take longer, more channels are faster.
    pub fn pass_minutes(&self, placement: &Placement) -> f64 {
        let channels = self.channels(placement).max(1) as f64;
        self.pass_minutes * placement.len() as f64 / (1.0 + 0.6 * (channels - 1.0))
    }
}

/// A cause that the odds are over.
#[derive(Clone, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub enum Suspect {
    /// The module itself, always or now and then.
    Module(String),
    /// The slot.
    Slot(String),
    /// A loose contact, or an event that will not come again: no part to replace.
    NoPart,
    /// The module fails only beside others, with several channels populated.
    Combination(String),
    /// Each of the two is good, but not together.
    Pair(String, String),
    /// Memory settings, or the controller in the processor or on the mainboard.
    SettingsOrController,
    /// Something that this model does not know.
    Other,
}

/// A fitting to try and how long to run it.
#[derive(Clone, Debug, PartialEq)]
pub struct Experiment {
    /// What goes where.
    pub placement: Placement,
    /// Full passes to run, or until the first error.
    pub passes: u32,
    /// Minutes that this takes on the machine.
    pub minutes: f64,
    /// Minutes of handwork.
    pub hands_minutes: f64,
}
