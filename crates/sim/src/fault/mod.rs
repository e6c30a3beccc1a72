//! What can be wrong with a part, and when it shows.

mod bit;
mod check;
mod coupling;
mod decoder;
mod disturbance;
mod home;
mod leak;
mod noise;
mod scatter;
mod schedule;
mod supply;

use std::ops::Range;

pub(crate) use home::Conditions;
use revisum_diagnose::address::Cell;
use serde::Deserialize;

pub(crate) use bit::{BitFault, Moment, Sensing};
pub(crate) use coupling::Coupling;
pub(crate) use decoder::Decoder;
pub(crate) use disturbance::Disturbance;
pub(crate) use leak::Climate;
pub use leak::{Keeps, TwoStates};
pub(crate) use noise::Noise;
pub(crate) use scatter::{Loaded, Scatter};
pub use supply::Supply;

/// How a fault behaves. Names as in the literature (van de Goor and Al-Ars, VTS 2000).
#[derive(Clone, Copy, Debug, PartialEq, Eq, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub enum FaultKind {
    /// Always reads `value` (SAF).
    StuckAt,
    /// Cannot change from `value` to the other (TF).
    Transition,
    /// Writing `value` over `value` turns it over (WDF).
    WriteDisturb,
    /// Reading `value` turns it over and returns that (RDF).
    ReadDestructive,
    /// Reading `value` turns it over and still returns `value` (DRDF).
    DeceptiveRead,
    /// Reading `value` returns the other, the cell keeps it (IRF).
    IncorrectRead,
    /// Cannot be reached: writes do nothing, a read returns what was read before it (SOF).
    StuckOpen,
    /// The stored bit turns over by itself now and then; needs `per_hour`.
    Upset,
    /// While warm, a bit that is not `value` decays to it before it is refreshed (data retention fault).
    Retention,
    /// Changing the aggressor to `trigger` sets the bit to `value` (CFid).
    CouplingIdempotent,
    /// Changing the aggressor to `trigger` turns the bit over (CFin).
    CouplingInversion,
    /// While the aggressor holds `trigger` the bit is forced to `value` (CFst).
    CouplingState,
    /// Any read or write of the aggressor turns the bit over while it holds `value` (CFds).
    CouplingDisturb,
    /// The address reaches no word and reads `value` on all lanes (AF).
    DecoderNone,
    /// The address reaches no word, and its word is reached by the aggressor's address as well (AF).
    DecoderTaken,
    /// The address reaches the aggressor's word instead of its own (AF).
    DecoderOther,
    /// The address reaches its own word and the aggressor's; `value` 1 reads them or-ed, 0 and-ed (AF).
    DecoderBoth,
    /// Nobody drives the lanes: each read of each of them is wrong with the given `chance`.
    Noise,
    /// The bit turns over once the aggressor's row was opened `threshold` times without a pause.
    RowDisturb,
    /// The machine does not start.
    NoStart,
}

impl FaultKind {
    /// Whether another cell takes part in changing this one.
    pub fn is_coupling(self) -> bool {
        matches!(self, Self::CouplingIdempotent | Self::CouplingInversion | Self::CouplingState | Self::CouplingDisturb)
    }

    /// Whether addresses go astray.
    pub fn is_decoder(self) -> bool {
        matches!(self, Self::DecoderNone | Self::DecoderTaken | Self::DecoderOther | Self::DecoderBoth)
    }

    /// Whether another cell belongs to it.
    pub(crate) fn has_aggressor(self) -> bool {
        self.is_coupling() || self == Self::RowDisturb || (self.is_decoder() && self != Self::DecoderNone)
    }
}

/// How far a fault reaches from its cell.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub enum Extent {
    /// That word only.
    #[default]
    Word,
    /// Every word of its row in its bank.
    Row,
    /// The same column of every row in its bank.
    Column,
    /// The whole module: noise on all of it, or upsets anywhere in it.
    Module,
}

/// The other cell of a coupling.
#[derive(Clone, Copy, Debug, PartialEq, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Aggressor {
    /// Word inside the same module.
    pub cell: Cell,
    /// Data lane, 0 to 63; decoder faults have none.
    #[serde(default)]
    pub lane: u8,
    /// What it changes to, or holds.
    #[serde(default)]
    pub trigger: u8,
}

/// What the processor does beside the sweeps.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub enum UnderLoad {
    /// Computing on other cores, whatever it draws.
    Computing,
    /// The more the supply sags under the load, the more often; needs `supply`.
    Supply,
}

/// A fault in a machine file: it belongs to a part, and moves or stays with it.
#[derive(Clone, Debug, PartialEq, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct FaultSpec {
    /// How it behaves.
    pub kind: FaultKind,
    /// Serial number of the module that it belongs to.
    #[serde(default)]
    pub module: Option<String>,
    /// Slot that it belongs to.
    #[serde(default)]
    pub slot: Option<String>,
    /// Channel that it belongs to: every slot of it.
    #[serde(default)]
    pub channel: Option<String>,
    /// Belongs to the mainboard or the processor: every slot.
    #[serde(default)]
    pub mainboard: bool,
    /// Word inside the module; not for faults of a whole module.
    #[serde(default)]
    pub cell: Option<Cell>,
    /// How far it reaches from that word.
    #[serde(default)]
    pub extent: Extent,
    /// The other cell, for couplings and decoder faults.
    #[serde(default)]
    pub aggressor: Option<Aggressor>,
    /// Data lane, 0 to 63.
    #[serde(default)]
    pub lane: Option<u8>,
    /// Instead of a lane: all lanes of this memory package of the module, from 0.
    #[serde(default)]
    pub package: Option<u8>,
    /// 0 or 1, see the kinds.
    #[serde(default)]
    pub value: u8,
    /// Shows only with at least so many channels populated.
    #[serde(default)]
    pub channels: usize,
    /// Shows only with at least so many modules fitted.
    #[serde(default)]
    pub modules: usize,
    /// Shows only while a channel with several slots has its only module in the first of them.
    #[serde(default)]
    pub first_slots: bool,
    /// Shows only while this module is fitted too.
    #[serde(default)]
    pub beside: Option<String>,
    /// Shows only with these settings in force.
    #[serde(default)]
    pub setting: Option<String>,
    /// Shows only under this load.
    #[serde(default)]
    pub load: Option<UnderLoad>,
    /// For retention: forgets only while the machine sleeps and the memory refreshes itself.
    #[serde(default)]
    pub asleep: bool,
    /// Shows only in reads that find another row open in their bank.
    #[serde(default)]
    pub conflict: bool,
    /// Shows only in reads between writes to another rank of its module.
    #[serde(default)]
    pub turns: bool,
    /// How the supply answers to load.
    #[serde(default)]
    pub supply: Option<Supply>,
    /// Upsets in an hour of running; with a `supply` under steady vector work.
    #[serde(default)]
    pub per_hour: f64,
    /// Upsets become more with every hour of running, by this share of what they were at first.
    #[serde(default)]
    pub growth: f64,
    /// For row disturbance: openings of the aggressor's row in one refresh interval until the bit turns over.
    #[serde(default)]
    pub threshold: u32,
    /// For row disturbance: the module's defence watches so many rows of a bank and refreshes their neighbours in time.
    #[serde(default)]
    pub watched: u32,
    /// For noise: chance, 0 to 1, that a read of a lane is wrong.
    #[serde(default = "half")]
    pub chance: f64,
    /// For retention: seconds until the bit decays; refresh keeps it as long as this is below the refresh interval.
    #[serde(default = "refresh_seconds")]
    pub after_seconds: f64,
    /// Shows only from this temperature on, in degrees Celsius.
    #[serde(default)]
    pub warm: Option<f64>,
    /// For retention: seconds by temperature until the bit decays; nothing happens while it is refreshed more often than that.
    #[serde(default)]
    pub keeps: Option<Keeps>,
    /// For retention: forgets only in one of two states.
    #[serde(default)]
    pub two_states: Option<TwoStates>,
    /// Chance, 0 to 1, that moving or re-seating the module cures it.
    #[serde(default)]
    pub touch_cures: f64,
    /// Chance, 0 to 1, that moving or re-seating the module brings it back once it was cured.
    #[serde(default)]
    pub touch_returns: f64,
}

/// Every row is refreshed in this time (JEDEC, 64 ms at normal temperature).
pub(crate) const REFRESH_MS: f64 = 64.0;

fn refresh_seconds() -> f64 {
    REFRESH_MS / 1000.0
}

fn half() -> f64 {
    0.5
}

impl FaultSpec {
    /// A fault of one bit without any condition, not yet of a module or a slot.
    pub fn plain(kind: FaultKind, cell: Cell, lane: u8, value: u8) -> Self {
        Self {
            kind,
            module: None,
            slot: None,
            channel: None,
            mainboard: false,
            cell: Some(cell),
            extent: Extent::Word,
            aggressor: None,
            lane: Some(lane),
            package: None,
            value,
            channels: 0,
            modules: 0,
            first_slots: false,
            beside: None,
            setting: None,
            load: None,
            asleep: false,
            conflict: false,
            turns: false,
            supply: None,
            per_hour: 0.0,
            growth: 0.0,
            threshold: 0,
            watched: 0,
            chance: half(),
            after_seconds: refresh_seconds(),
            warm: None,
            keeps: None,
            two_states: None,
            touch_cures: 0.0,
            touch_returns: 0.0,
        }
    }

    /// Whether it shows up now here, now there.
    pub(crate) fn is_anywhere(&self) -> bool {
        self.extent == Extent::Module
    }

    /// Its lanes, in a module with packages of this width; all where none is given.
    pub(crate) fn lanes(&self, width: u8) -> Range<u8> {
        match (self.lane, self.package) {
            (Some(lane), _) => lane..lane + 1,
            (None, Some(package)) => package.saturating_mul(width)..package.saturating_add(1).saturating_mul(width),
            (None, None) => 0..64,
        }
    }
}
