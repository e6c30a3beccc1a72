//! A finding: something about what is fitted that is not as it should be, or that has to be known before a test.

use serde::Serialize;

use super::EventSource;
use super::fact::Fact;
use crate::speed::SpeedSign;

/// How much it matters.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Serialize)]
#[serde(rename_all = "kebab-case")]
pub enum Weight {
    /// Memory is missing or fails.
    Wrong,
    /// It works, but not as it could, or not for long.
    Doubtful,
    /// Good to know before a test.
    Note,
}

/// One finding.
#[derive(Clone, Debug, PartialEq)]
pub struct Finding {
    /// How much it matters.
    pub weight: Weight,
    /// What was found.
    pub what: Found,
}

/// Memory errors that were counted or logged.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub struct ErrorCounts {
    /// Corrected.
    pub corrected: u64,
    /// Not corrected.
    pub uncorrected: u64,
}

/// What became of a slot since the last start.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct SlotChange {
    /// Slot.
    pub slot: String,
    /// Module that was in it; nothing when it was empty.
    pub was: Option<String>,
    /// Module that is in it; nothing when it is empty.
    pub is: Option<String>,
}

/// Slots that run at the same speed, in MT/s, and what their modules are made for.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct SlotsAt {
    /// Slots.
    pub slots: Vec<String>,
    /// Speed in force.
    pub speed: u32,
    /// Rated or base speed.
    pub made_for: u32,
}

/// A module to another slot.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct ModuleMove {
    /// Slot that it is in.
    pub from: String,
    /// Free slot.
    pub to: String,
}

/// Why fitted memory is not handed over, as likely as can be told.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum MissingWhy {
    /// The firmware's tables leave it out too: it does not use a module.
    NotMapped,
    /// The map reserves it right behind the memory below 4 GiB: for graphics, or for the firmware itself.
    Reserved,
    /// Nothing lies above 4 GiB: the firmware does not move memory there.
    NothingHigh,
    /// It is not known.
    Unknown,
}

/// What modules can differ in.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Trait {
    /// Maker.
    Maker,
    /// Size.
    Size,
    /// Number of ranks.
    Ranks,
    /// Base or rated speed.
    Speed,
}

/// What was found.
#[derive(Clone, Debug, PartialEq)]
pub enum Found {
    /// The hardware counted errors since the start.
    Counted {
        /// How many.
        errors: ErrorCounts,
        /// Slots, or what the counter calls its place.
        places: Vec<String>,
    },
    /// Errors were logged.
    Logged {
        /// By whom.
        sources: Vec<EventSource>,
        /// How many.
        errors: ErrorCounts,
        /// Possible slots of each place, or what the log calls it; none where no entry names one.
        places: Vec<Vec<String>>,
    },
    /// The firmware hands over much less than is installed; bytes.
    MissingMemory {
        /// Installed.
        installed: u64,
        /// Handed over.
        given: u64,
        /// What is the likely reason.
        why: MissingWhy,
    },
    /// With the same modules the firmware handed over more last time; bytes.
    LessThanBefore {
        /// Last time.
        was: u64,
        /// Now.
        is: u64,
    },
    /// Slots do not hold what they held last time.
    Changed(Vec<SlotChange>),
    /// The SPD of these slots does not match its checksum.
    DamagedSpd(Vec<String>),
    /// Modules share a channel while another is empty.
    Crowded {
        /// The channel.
        channel: String,
        /// A free slot of each empty channel.
        free: Vec<String>,
        /// Channels that the processor has.
        of: usize,
    },
    /// Channels of one processor hold more or less than others.
    Unbalanced {
        /// Channels with what they hold, in bytes.
        channels: Vec<(String, u64)>,
        /// The move that makes them more equal, where there is one.
        better: Option<ModuleMove>,
    },
    /// Not all channels are used.
    IdleChannels {
        /// Used ones.
        used: usize,
        /// Of so many.
        of: usize,
    },
    /// Modules differ.
    Mixed(Vec<Trait>),
    /// Modules run below their rated speed.
    BelowRating(Vec<SlotsAt>),
    /// Modules run above their base speed: a profile is on.
    ProfileOn(Vec<SlotsAt>),
    /// Modules run above their base speed at a speed that none of their profiles has.
    OffProfile(Vec<SlotsAt>),
    /// The firmware is old.
    OldFirmware {
        /// Whole years.
        years: u32,
        /// Its date, as in ISO 8601.
        date: String,
    },
    /// Memory is encrypted.
    Encrypted,
    /// Sources disagree.
    Disputed(Vec<Fact>),
    /// These slots' modules state no serial number.
    NoSerials {
        /// Slots.
        slots: Vec<String>,
        /// Several modules, and none of them states one.
        all: bool,
    },
    /// These slots' modules state the same one.
    SameSerials(Vec<String>),
    /// No SPD could be read.
    NoSpd,
    /// A virtual machine.
    Guest,
    /// No table reports what is installed.
    NoTables,
    /// The memory map is hidden.
    HiddenAddresses {
        /// Facts that were saved on some machine do not hold it.
        saved: bool,
    },
    /// What a measurement of speed shows.
    Speed(SpeedSign),
}
