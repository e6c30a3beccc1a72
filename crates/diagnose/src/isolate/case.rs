//! What is known of a job: slots, modules, settings and runs.

use std::collections::BTreeSet;

use super::fact::RunFact;
use super::priors::Priors;
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
    /// Modules that were sold together have the same; nothing where that is not known.
    pub kit: Option<String>,
}

impl KnownModule {
    /// A module of which nothing is known.
    pub fn of(id: impl Into<String>) -> Self {
        Self { id: id.into(), ..Self::default() }
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
    /// Slots of two channels of which each address belongs to one, while nothing tells to which: errors are placed in a half. Only without a
    /// map.
    pub halves: Option<[Vec<String>; 2]>,
    /// The first of these slots are those of half 0: an arrangement showed it.
    pub halves_named: bool,
    /// Runs with one module, or error counters, confirmed the map.
    pub map_proven: bool,
    /// Part of a module's failing cells that a run reaches, by module: alone, and with others. All of them where nothing is said.
    pub reach: Vec<(String, [f64; 2])>,
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
            halves: None,
            halves_named: false,
            map_proven: false,
            reach: Vec::new(),
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

    /// The channel of a slot; a slot of which it is not known is a channel of its own.
    pub fn channel_of<'a>(&'a self, slot: &'a str) -> &'a str {
        let known = self.slots.iter().find(|known| known.id == slot);
        known.and_then(|known| known.channel.as_deref()).unwrap_or(slot)
    }

    /// Channels with at least one module.
    pub fn channels(&self, placement: &Placement) -> usize {
        placement.iter().map(|(slot, _)| self.channel_of(slot)).collect::<BTreeSet<_>>().len()
    }

    /// Whether a channel holds two modules.
    pub fn is_crowded(&self, placement: &Placement) -> bool {
        self.channels(placement) < placement.len()
    }

    /// Whether as many modules are fitted as in the run that is to be explained.
    pub fn is_as_many(&self, placement: &Placement) -> bool {
        self.first_failure().is_some_and(|first| placement.len() >= first.placement.len())
    }

    /// Slots that hold the only module of their channel.
    pub fn singles<'a>(&'a self, placement: &'a Placement) -> BTreeSet<&'a str> {
        let alone = |slot: &str| {
            let channel = self.channel_of(slot);
            placement.iter().filter(|(other, _)| self.channel_of(other) == channel).count() == 1
        };
        placement.iter().map(|(slot, _)| slot.as_str()).filter(|slot| alone(slot)).collect()
    }

    /// Kits that the modules come from, as far as they are known.
    pub fn kits(&self, placement: &Placement) -> usize {
        let kit = |id: &String| self.modules.iter().find(|module| module.id == *id)?.kit.as_deref();
        placement.iter().filter_map(|(_, module)| kit(module)).collect::<BTreeSet<_>>().len()
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
