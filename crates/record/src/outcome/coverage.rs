//! How much of the installed memory was tested, and why the rest was not.

use super::plan::{Done, Planned};
use crate::run_state::RunState;

/// From this share of installed memory a clean run is called clean without a reduction, in percent.
const WHOLE_PERCENT: u128 = 90;

/// Why memory was left out.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Reason {
    /// Not every planned test finished on it.
    Unfinished,
    /// Its pages moved while it was being tested.
    Moved,
    /// Taken out after the hardware reported an uncorrectable error in it.
    TakenOut,
    /// The technician chose an amount or a range.
    Chosen,
    /// The firmware keeps it for itself and for devices.
    Firmware,
    /// The running system and this program use it.
    System,
}

impl Reason {
    /// The word in JSON.
    pub fn word(self) -> &'static str {
        match self {
            Self::Unfinished => "unfinished",
            Self::Moved => "moved",
            Self::TakenOut => "taken-out",
            Self::Chosen => "chosen",
            Self::Firmware => "firmware",
            Self::System => "running-system",
        }
    }
}

/// A part that was left out.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct LeftOut {
    /// Bytes.
    pub bytes: u64,
    /// Why.
    pub reason: Reason,
}

/// Memory by what became of it. What is tested and what was left out add up to what is installed.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Coverage {
    /// Installed by the account of the modules; nothing when that is unknown.
    pub installed: Option<u64>,
    /// Bytes that the firmware hands to an operating system; nothing when that is unknown.
    pub reachable: Option<u64>,
    /// Bytes that were chosen; nothing when it was all that can be had.
    pub chosen: Option<u64>,
    /// Bytes on which every planned test finished.
    pub tested: u64,
    /// Why the rest was not, the largest part first.
    pub left_out: Vec<LeftOut>,
}

impl Coverage {
    /// Of this run.
    pub(super) fn of(state: &RunState, planned: &Planned, done: &Done) -> Self {
        let reachable = Some(state.begin.usable_bytes).filter(|bytes| *bytes > 0);
        let installed = state.begin.fitted_bytes.filter(|bytes| *bytes > 0);
        let whole = installed.or(reachable).unwrap_or(state.held.bytes);
        let tested = done.bytes.min(whole);
        let mut rest = whole - tested;
        let mut left_out = Vec::new();
        let mut take = |bytes: u64, reason: Reason| {
            let bytes = bytes.min(rest);
            rest -= bytes;
            if bytes > 0 {
                left_out.push(LeftOut { bytes, reason });
            }
        };
        let taken_out = state.taken_out_bytes.min(state.void_bytes);
        take(taken_out, Reason::TakenOut);
        take(state.void_bytes - taken_out, Reason::Moved);
        if done.bytes == 0 {
            take(state.held.bytes.saturating_sub(state.void_bytes), Reason::Unfinished);
        }
        let given = reachable.unwrap_or(whole).min(whole);
        if let Some(chosen) = planned.bytes {
            take(given.saturating_sub(chosen.max(state.held.bytes)), Reason::Chosen);
        }
        take(whole - given, Reason::Firmware);
        take(u64::MAX, Reason::System);
        left_out.sort_by_key(|part| std::cmp::Reverse(part.bytes));
        Self { installed, reachable, chosen: planned.bytes, tested, left_out }
    }

    /// What the share is of: what is installed, else what the firmware gives; nothing when neither is known.
    pub fn whole(&self) -> Option<u64> {
        self.installed.or(self.reachable)
    }

    /// The tested share of the installed memory, 0 to 1; nothing when what is installed is unknown.
    pub fn share(&self) -> Option<f64> {
        self.whole().map(|whole| (self.tested as f64 / whole as f64).clamp(0.0, 1.0))
    }

    /// Whether enough of the installed memory was tested to leave the rest out of the headline.
    pub fn is_whole(&self) -> bool {
        self.whole().is_some_and(|whole| u128::from(self.tested) * 100 >= u128::from(whole) * WHOLE_PERCENT)
    }
}
