//! The fault models and all their faults on the array.
//!
//! | model | faults | on 4 cells |
//! |---|---|---|
//! | SAF, TF, WDF, RDF, DRDF, IRF | 2 a cell | 8 |
//! | SOF | 1 a cell: writes do nothing, a read returns what the sense amplifier read last, whichever cell that was | 4 |
//! | AF | the four combinations of van de Goor 1991, see [`Decoder`] | 68 |
//! | CFin | 2 an ordered pair | 24 |
//! | CFst, CFid, CFtr, CFwd, CFrd, CFdrd, CFir | 4 an ordered pair | 48 |
//! | CFds | 12 an ordered pair | 144 |
//! | LCF | two CFid on one victim that force opposite values, by two aggressors or by both edges of one | 120 |

use serde::Serialize;

use super::CELLS;

/// A fault model of the literature.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, Serialize)]
pub enum Model {
    /// Stuck-at fault.
    #[serde(rename = "SAF")]
    StuckAt,
    /// Transition fault.
    #[serde(rename = "TF")]
    Transition,
    /// Write disturb fault.
    #[serde(rename = "WDF")]
    WriteDisturb,
    /// Read destructive fault.
    #[serde(rename = "RDF")]
    ReadDestructive,
    /// Deceptive read destructive fault.
    #[serde(rename = "DRDF")]
    DeceptiveReadDestructive,
    /// Incorrect read fault.
    #[serde(rename = "IRF")]
    IncorrectRead,
    /// Stuck-open fault.
    #[serde(rename = "SOF")]
    StuckOpen,
    /// Address decoder fault.
    #[serde(rename = "AF")]
    AddressDecoder,
    /// State coupling fault.
    #[serde(rename = "CFst")]
    CouplingState,
    /// Inversion coupling fault.
    #[serde(rename = "CFin")]
    CouplingInversion,
    /// Idempotent coupling fault.
    #[serde(rename = "CFid")]
    CouplingIdempotent,
    /// Disturb coupling fault.
    #[serde(rename = "CFds")]
    CouplingDisturb,
    /// Transition coupling fault.
    #[serde(rename = "CFtr")]
    CouplingTransition,
    /// Write disturb coupling fault.
    #[serde(rename = "CFwd")]
    CouplingWriteDisturb,
    /// Read destructive coupling fault.
    #[serde(rename = "CFrd")]
    CouplingReadDestructive,
    /// Deceptive read destructive coupling fault.
    #[serde(rename = "CFdrd")]
    CouplingDeceptiveRead,
    /// Incorrect read coupling fault.
    #[serde(rename = "CFir")]
    CouplingIncorrectRead,
    /// Two linked coupling faults.
    #[serde(rename = "LCF")]
    LinkedCoupling,
}

/// What makes a fault show. Values are what cells hold before the operation.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum Trigger {
    /// Nothing: it holds all the time.
    Always,
    /// A write to the victim, from a value to a value.
    VictimWrite(bool, bool),
    /// A read of the victim that holds this value.
    VictimRead(bool),
    /// A write to the aggressor, from a value to a value.
    AggressorWrite(bool, bool),
    /// A read of the aggressor that holds this value.
    AggressorRead(bool),
}

/// What the victim holds afterwards.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum Effect {
    Becomes(bool),
    Flips,
}

/// One fault primitive.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) struct Primitive {
    pub victim: usize,
    /// The aggressor, for couplings.
    pub aggressor: Option<usize>,
    /// What the aggressor has to hold.
    pub aggressor_holds: Option<bool>,
    /// What the victim has to hold.
    pub victim_holds: Option<bool>,
    pub trigger: Trigger,
    pub effect: Effect,
    /// What a read of the victim returns, where that is not what it held.
    pub returns: Option<bool>,
}

/// Address decoder faults: the combinations in which the four elementary faults occur (van de Goor 1991).
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum Decoder {
    /// A: the address reaches no cell and no address reaches the cell; reads return a fixed value.
    None { address: usize, reads: bool },
    /// B: the address reaches no cell (reads as before), another one reaches both cells.
    Taken { address: usize, by: usize, reads: bool },
    /// C: the address reaches the other cell instead of its own.
    Other { address: usize, cell: usize },
    /// D: the address reaches its own cell and the other one; reads return both values joined by and or by or.
    Both { address: usize, cell: usize, or: bool },
}

/// A fault to be tried.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(super) enum Fault {
    Primitives(Vec<Primitive>),
    StuckOpen(usize),
    Decoder(Decoder),
}

const BOTH: [bool; 2] = [false, true];

impl Model {
    /// All models, single cells first.
    pub const ALL: [Self; 18] = [
        Self::StuckAt,
        Self::Transition,
        Self::WriteDisturb,
        Self::ReadDestructive,
        Self::DeceptiveReadDestructive,
        Self::IncorrectRead,
        Self::StuckOpen,
        Self::AddressDecoder,
        Self::CouplingState,
        Self::CouplingInversion,
        Self::CouplingIdempotent,
        Self::CouplingDisturb,
        Self::CouplingTransition,
        Self::CouplingWriteDisturb,
        Self::CouplingReadDestructive,
        Self::CouplingDeceptiveRead,
        Self::CouplingIncorrectRead,
        Self::LinkedCoupling,
    ];

    /// The abbreviation of the literature.
    pub fn short(self) -> &'static str {
        match self {
            Self::StuckAt => "SAF",
            Self::Transition => "TF",
            Self::WriteDisturb => "WDF",
            Self::ReadDestructive => "RDF",
            Self::DeceptiveReadDestructive => "DRDF",
            Self::IncorrectRead => "IRF",
            Self::StuckOpen => "SOF",
            Self::AddressDecoder => "AF",
            Self::CouplingState => "CFst",
            Self::CouplingInversion => "CFin",
            Self::CouplingIdempotent => "CFid",
            Self::CouplingDisturb => "CFds",
            Self::CouplingTransition => "CFtr",
            Self::CouplingWriteDisturb => "CFwd",
            Self::CouplingReadDestructive => "CFrd",
            Self::CouplingDeceptiveRead => "CFdrd",
            Self::CouplingIncorrectRead => "CFir",
            Self::LinkedCoupling => "LCF",
        }
    }

    /// Whether one cell acts on another.
    pub fn is_of_two_cells(self) -> bool {
        matches!(
            self,
            Self::CouplingState
                | Self::CouplingInversion
                | Self::CouplingIdempotent
                | Self::CouplingDisturb
                | Self::CouplingTransition
                | Self::CouplingWriteDisturb
                | Self::CouplingReadDestructive
                | Self::CouplingDeceptiveRead
                | Self::CouplingIncorrectRead
                | Self::LinkedCoupling
        )
    }

    /// Every fault of the model on the array.
    pub(super) fn faults(self) -> Vec<Fault> {
        match self {
            Self::StuckOpen => (0..CELLS).map(Fault::StuckOpen).collect(),
            Self::AddressDecoder => decoder_faults().into_iter().map(Fault::Decoder).collect(),
            Self::LinkedCoupling => linked(),
            Self::CouplingState => {
                on_pairs(|pair| states(|aggressor, value| pair.while_it_holds(aggressor, Trigger::Always, value, None)))
            }
            Self::CouplingInversion => on_pairs(|pair| {
                let edge = |to: bool| pair.by_access(Trigger::AggressorWrite(!to, to), None, Effect::Flips);
                BOTH.map(edge).into()
            }),
            Self::CouplingIdempotent => on_pairs(|pair| {
                states(|to, value| pair.by_access(Trigger::AggressorWrite(!to, to), None, Effect::Becomes(value)))
            }),
            Self::CouplingDisturb => on_pairs(disturbs),
            single_or_coupled => single_or_coupled.victim_faults(),
        }
    }

    /// Faults of what is done to the victim itself, alone or while an aggressor holds a value.
    fn victim_faults(self) -> Vec<Fault> {
        let alone = |of: fn(bool) -> (Trigger, bool, Option<bool>)| -> Vec<Fault> {
            let faults = (0..CELLS).flat_map(|victim| {
                BOTH.map(|value| {
                    let (trigger, leaves, returns) = of(value);
                    Fault::Primitives(vec![Primitive { victim, ..plain(trigger, leaves, returns) }])
                })
            });
            faults.collect()
        };
        let coupled = |of: fn(bool) -> (Trigger, bool, Option<bool>)| -> Vec<Fault> {
            on_pairs(|pair| {
                states(|aggressor, value| {
                    let (trigger, leaves, returns) = of(value);
                    pair.while_it_holds(aggressor, trigger, leaves, returns)
                })
            })
        };
        match self {
            Self::StuckAt => alone(|value| (Trigger::Always, value, None)),
            Self::Transition => alone(transition),
            Self::WriteDisturb => alone(write_disturb),
            Self::ReadDestructive => alone(read_destructive),
            Self::DeceptiveReadDestructive => alone(deceptive_read),
            Self::IncorrectRead => alone(incorrect_read),
            Self::CouplingTransition => coupled(transition),
            Self::CouplingWriteDisturb => coupled(write_disturb),
            Self::CouplingReadDestructive => coupled(read_destructive),
            Self::CouplingDeceptiveRead => coupled(deceptive_read),
            Self::CouplingIncorrectRead => coupled(incorrect_read),
            _ => Vec::new(),
        }
    }
}

/// ⟨x w x̄ / x / −⟩
fn transition(from: bool) -> (Trigger, bool, Option<bool>) {
    (Trigger::VictimWrite(from, !from), from, None)
}

/// ⟨x w x / x̄ / −⟩
fn write_disturb(value: bool) -> (Trigger, bool, Option<bool>) {
    (Trigger::VictimWrite(value, value), !value, None)
}

/// ⟨r x / x̄ / x̄⟩
fn read_destructive(value: bool) -> (Trigger, bool, Option<bool>) {
    (Trigger::VictimRead(value), !value, Some(!value))
}

/// ⟨r x / x̄ / x⟩
fn deceptive_read(value: bool) -> (Trigger, bool, Option<bool>) {
    (Trigger::VictimRead(value), !value, None)
}

/// ⟨r x / x / x̄⟩
fn incorrect_read(value: bool) -> (Trigger, bool, Option<bool>) {
    (Trigger::VictimRead(value), value, Some(!value))
}

fn plain(trigger: Trigger, leaves: bool, returns: Option<bool>) -> Primitive {
    Primitive {
        victim: 0,
        aggressor: None,
        aggressor_holds: None,
        victim_holds: None,
        trigger,
        effect: Effect::Becomes(leaves),
        returns,
    }
}

/// An ordered pair of different cells.
#[derive(Clone, Copy)]
struct Pair {
    aggressor: usize,
    victim: usize,
}

impl Pair {
    fn while_it_holds(self, holds: bool, trigger: Trigger, leaves: bool, returns: Option<bool>) -> Primitive {
        Primitive {
            victim: self.victim,
            aggressor: Some(self.aggressor),
            aggressor_holds: Some(holds),
            ..plain(trigger, leaves, returns)
        }
    }

    fn by_access(self, trigger: Trigger, victim_holds: Option<bool>, effect: Effect) -> Primitive {
        Primitive {
            victim: self.victim,
            aggressor: Some(self.aggressor),
            victim_holds,
            effect,
            ..plain(trigger, false, None)
        }
    }
}

fn pairs() -> impl Iterator<Item = Pair> {
    (0..CELLS).flat_map(|aggressor| {
        (0..CELLS).filter(move |victim| *victim != aggressor).map(move |victim| Pair { aggressor, victim })
    })
}

fn on_pairs(of: impl Fn(Pair) -> Vec<Primitive>) -> Vec<Fault> {
    pairs().flat_map(of).map(|primitive| Fault::Primitives(vec![primitive])).collect()
}

fn states(of: impl Fn(bool, bool) -> Primitive) -> Vec<Primitive> {
    BOTH.into_iter().flat_map(|a| BOTH.map(|b| (a, b))).map(|(a, b)| of(a, b)).collect()
}

fn disturbs(pair: Pair) -> Vec<Primitive> {
    let writes = BOTH.into_iter().flat_map(|from| BOTH.map(|to| Trigger::AggressorWrite(from, to)));
    let accesses: Vec<Trigger> = writes.chain(BOTH.map(Trigger::AggressorRead)).collect();
    let of = |trigger: Trigger| BOTH.map(|holds| pair.by_access(trigger, Some(holds), Effect::Flips));
    accesses.into_iter().flat_map(of).collect()
}

fn decoder_faults() -> Vec<Decoder> {
    let none = (0..CELLS).flat_map(|address| BOTH.map(|reads| Decoder::None { address, reads }));
    let taken =
        pairs().flat_map(|pair| BOTH.map(|reads| Decoder::Taken { address: pair.victim, by: pair.aggressor, reads }));
    let other = pairs().map(|pair| Decoder::Other { address: pair.aggressor, cell: pair.victim });
    let both = pairs().flat_map(|pair| BOTH.map(|or| Decoder::Both { address: pair.aggressor, cell: pair.victim, or }));
    none.chain(taken).chain(other).chain(both).collect()
}

/// Two idempotent couplings on one victim, forcing opposite values.
fn linked() -> Vec<Fault> {
    let idempotent = |aggressor: usize, victim: usize, to: bool, value: bool| {
        let pair = Pair { aggressor, victim };
        pair.by_access(Trigger::AggressorWrite(!to, to), None, Effect::Becomes(value))
    };
    let mut faults = Vec::new();
    for Pair { aggressor, victim } in pairs() {
        for value in BOTH {
            let up = idempotent(aggressor, victim, true, value);
            faults.push(Fault::Primitives(vec![up, idempotent(aggressor, victim, false, !value)]));
        }
        for second in (aggressor + 1..CELLS).filter(|second| *second != victim) {
            for (first_to, second_to) in BOTH.into_iter().flat_map(|a| BOTH.map(|b| (a, b))) {
                for value in BOTH {
                    let first = idempotent(aggressor, victim, first_to, value);
                    faults.push(Fault::Primitives(vec![first, idempotent(second, victim, second_to, !value)]));
                }
            }
        }
    }
    faults
}
