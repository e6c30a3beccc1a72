//! What is known of a job: slots, modules, settings and runs.

use std::collections::BTreeSet;

use super::priors::Priors;
use super::signs::Signs;
use super::tilt::Tilt;
use revisum_record::fitted::Slot;

/// Which module sits in which slot: `(slot, module)`.
pub type Placement = Vec<(String, String)>;

/// A slot of the mainboard.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
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
#[derive(Clone, Debug, Default, PartialEq)]
pub struct KnownModule {
    /// Serial number.
    pub id: String,
    /// It is known to be good.
    pub known_good: bool,
    /// How much more suspect it is than others by what is known of it already: 1 says nothing.
    pub weight: Option<f64>,
    /// How it did in another machine, where it was tried: true when it ran clean there.
    pub elsewhere: Option<bool>,
}

impl KnownModule {
    /// A module of which nothing is known.
    pub fn of(id: impl Into<String>) -> Self {
        Self { id: id.into(), ..Self::default() }
    }
}

/// Where errors were placed while several modules were fitted.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub enum Place {
    /// Nothing is told.
    #[default]
    Unknown,
    /// Over several slots.
    Spread,
    /// All or nearly all in one slot.
    Slot(String),
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
}

impl RunFact {
    /// True when it found errors, or did not even start.
    pub fn failed(&self) -> bool {
        self.evidence != Evidence::Clean
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
        }
    }
}

/// A job as evidence. What failed first is what is to be explained; the last run is the machine's present state unless it says otherwise.
#[derive(Clone, Debug, PartialEq)]
pub struct Case {
    /// Slots in the mainboard's order.
    pub slots: Vec<KnownSlot>,
    /// All modules at hand, fitted or not.
    pub modules: Vec<KnownModule>,
    /// Settings that can be put in force, the ones that the machine came with first and stock last; one or none when there is no choice.
    pub settings: Vec<String>,
    /// An address map places errors in slots.
    pub map_known: bool,
    /// Runs in order.
    pub runs: Vec<RunFact>,
    /// How the machine is fitted and set now, where that is not as in the last run.
    pub present: Option<(Placement, String)>,
    /// Minutes of one pass over one module.
    pub pass_minutes: f64,
    /// What was told when the machine came in makes some causes likelier or less likely.
    pub tilt: Tilt,
    /// Sets of slots that the mainboard does not start with when just these are filled.
    pub refused: Vec<BTreeSet<String>>,
    /// Slots that the mainboard wants filled whatever else is.
    pub needed: Vec<String>,
    /// Some of what was recorded is lost: what would have spoken against a part may be among it.
    pub record_damaged: bool,
    /// Weights, rates and costs.
    pub priors: Priors,
}

impl Default for Case {
    fn default() -> Self {
        Self {
            slots: Vec::new(),
            modules: Vec::new(),
            settings: Vec::new(),
            map_known: false,
            runs: Vec::new(),
            present: None,
            pass_minutes: 10.0,
            tilt: Tilt::default(),
            refused: Vec::new(),
            needed: Vec::new(),
            record_damaged: false,
            priors: Priors::default(),
        }
    }
}

impl Case {
    /// Whether the mainboard starts with these slots filled, as far as somebody said so.
    pub fn takes<'a>(&self, filled: impl Iterator<Item = &'a str>) -> bool {
        let filled: BTreeSet<&str> = filled.collect();
        let refused = |set: &BTreeSet<String>| set.iter().map(String::as_str).eq(filled.iter().copied());
        !self.refused.iter().any(refused) && self.needed.iter().all(|slot| filled.contains(slot.as_str()))
    }

    /// Channels with at least one module.
    pub fn channels(&self, placement: &Placement) -> usize {
        let channel = |slot: &String| {
            let known = self.slots.iter().find(|known| known.id == *slot);
            known.and_then(|known| known.channel.clone()).unwrap_or_else(|| slot.clone())
        };
        placement.iter().map(|(slot, _)| channel(slot)).collect::<BTreeSet<_>>().len()
    }

    /// The run that is to be explained: the first that failed and was not struck out, else the first of all.
    pub fn first_failure(&self) -> Option<&RunFact> {
        self.runs.iter().find(|run| run.failed() && !run.struck).or(self.runs.first())
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
        let first = self.first_failure().map(|run| run.placement.as_slice()).unwrap_or_default();
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
    /// The module is good, but not for this mainboard or its firmware.
    Unfit(String),
    /// The slot.
    Slot(String),
    /// A loose contact, or an event that will not come again: no part to replace.
    NoPart,
    /// The module fails only beside others, with several channels populated.
    Combination(String),
    /// Each of the two is good, but not together; in the order of their names.
    Pair(String, String),
    /// Settings that are too fast.
    Settings,
    /// Memory controller, mainboard or processor.
    Controller,
    /// Two bad modules, in the order of their names.
    TwoModules(String, String),
    /// A bad module and a bad slot.
    ModuleAndSlot(String, String),
    /// Something that this model does not know.
    Other,
}

impl Suspect {
    /// Modules that it blames.
    pub fn modules(&self) -> Vec<&str> {
        match self {
            Self::Module(module) | Self::Unfit(module) | Self::Combination(module) | Self::ModuleAndSlot(module, _) => {
                vec![module]
            }
            Self::Pair(a, b) | Self::TwoModules(a, b) => vec![a, b],
            _ => Vec::new(),
        }
    }

    /// The slot that it blames.
    pub fn slot(&self) -> Option<&str> {
        match self {
            Self::Slot(slot) | Self::ModuleAndSlot(_, slot) => Some(slot),
            _ => None,
        }
    }
}

/// A fitting to try and how long to run it.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Experiment {
    /// What goes where.
    pub placement: Placement,
    /// Settings to put in force; empty when there is no choice.
    pub settings: String,
    /// Modules to take out and put back where they are.
    pub reseat: Vec<String>,
    /// Minutes of running, or until the first error.
    pub minutes: f64,
    /// Passes that fit into them.
    pub passes: f64,
    /// Minutes of handwork.
    pub hands_minutes: f64,
}
