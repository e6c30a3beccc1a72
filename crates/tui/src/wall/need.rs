//! What a machine needs, the most urgent last.

use std::sync::PoisonError;
use std::time::{Duration, Instant};

use revisum_link::{BenchNow, Silence};

/// Without a word for so long it is silent.
pub const SILENT_AFTER: Duration = Duration::from_secs(4);

/// What a machine needs.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub enum Need {
    /// Nothing: it is at work.
    Nothing,
    /// Nothing yet: it is at work and has found errors.
    Errors,
    /// Somebody may look where it is: it has said nothing for seconds.
    Silent,
    /// Hands: the next step is somebody's.
    Hands,
    /// The same, and it has found errors.
    HandsAfterErrors,
}

impl Need {
    /// What this machine needs now.
    pub fn of(bench: &BenchNow, now: Instant) -> Self {
        let errors =
            bench.run.as_ref().is_some_and(|run| run.lock().unwrap_or_else(PoisonError::into_inner).has_errors());
        let errors = errors || bench.standing.errors > 0;
        match (silent_for(bench, now), bench.standing.waits, errors) {
            (Some(_), ..) => Self::Silent,
            (None, true, true) => Self::HandsAfterErrors,
            (None, true, false) => Self::Hands,
            (None, false, true) => Self::Errors,
            (None, false, false) => Self::Nothing,
        }
    }

    /// Whether somebody is to be called.
    pub fn calls(self) -> bool {
        self != Self::Nothing
    }
}

/// For how long nothing was heard of it, where that is long.
pub fn silent_for(bench: &BenchNow, now: Instant) -> Option<Duration> {
    let (Silence::Linked(at) | Silence::Broken(at)) = bench.silence;
    let since = now.saturating_duration_since(at);
    (since >= SILENT_AFTER).then_some(since)
}

/// The place on the wall: the most urgent first, then by number and name.
pub fn order(bench: &BenchNow, now: Instant) -> (std::cmp::Reverse<Need>, u16, String, String) {
    let number = bench.standing.number.unwrap_or(u16::MAX);
    (std::cmp::Reverse(Need::of(bench, now)), number, bench.standing.machine.clone(), bench.id.clone())
}
