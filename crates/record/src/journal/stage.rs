//! How far a job is, and what a person confirmed of its end.

use serde::{Deserialize, Serialize};

/// A stage of a job, in its order. A job in which memory failed goes by found, ordered, fitted and proved; one in which it did not by what was
/// ruled out and what else is suspect.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub enum Stage {
    /// The machine came in.
    Complaint,
    /// Memory failed in a run.
    Shown,
    /// It ran clean so far.
    NotShown,
    /// The part is named, or nothing further tells.
    Found,
    /// What goes in its place is settled.
    Ordered,
    /// What stays is in its slots.
    Fitted,
    /// It ran clean so, as long as the evidence asks for.
    Proved,
    /// Runs as deep as the complaint asks for were clean.
    RuledOut,
    /// What to look at next was read.
    Suspects,
    /// The machine is as its owner uses it.
    Restored,
    /// It went back to its owner.
    HandedOver,
}

/// Something at the end of a job that no program can see: a person confirms it.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub enum Tick {
    /// A part was ordered.
    Ordered,
    /// Nothing goes in place of what was taken out.
    NothingOrdered,
    /// The part arrived.
    Arrived,
    /// What to look at next was read.
    SuspectsRead,
    /// Modules of other jobs went back.
    Returned,
    /// The settings are as they shall stay.
    Settings,
    /// Files that bad memory may have damaged were checked.
    FilesChecked,
    /// The owner was told to keep a backup.
    BackupTold,
    /// The computer starts from its own disk again.
    BootOrder,
    /// The boot drive is out.
    DriveOut,
}
