//! What a run was to do, what it did, and what ended it.

use revisum_engine::news::EndReason;
use revisum_engine::units::ByteRange;
use serde::{Deserialize, Serialize};

use crate::run_state::RunState;

/// Share of a planned time that has to have run for it to count as done: the last look at the clock is not at the very end.
const TIME_DONE: f64 = 0.99;
/// Share of chosen memory that has to be tested for the choice to count as done, in percent.
const MEMORY_DONE_PERCENT: u64 = 90;

/// What was planned.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Planned {
    /// Passes, with those added while it ran; nothing when they are not limited.
    pub passes: Option<u32>,
    /// Seconds of testing, pauses left out; nothing when they are not limited.
    pub seconds: Option<f64>,
    /// It was to go on until the temperature is stable.
    pub soak: bool,
    /// Tests in each pass.
    pub tests: usize,
    /// Only memory in this physical range.
    pub range: Option<ByteRange>,
    /// Bytes that were chosen, by an amount or a range; nothing when it was to be all that can be had.
    pub bytes: Option<u64>,
}

impl Planned {
    /// Of this run.
    pub fn of(state: &RunState) -> Self {
        let Some(recipe) = &state.begin.recipe else { return Self { tests: state.tests.len(), ..Self::default() } };
        let in_range = recipe.range.map(|range| match state.begin.memory.ranges() {
            [] => range.end.saturating_sub(range.start),
            _ => state.begin.memory.intersection(&[range].into_iter().collect()).bytes(),
        });
        Self {
            passes: recipe.passes.map(|passes| passes.saturating_add(state.added_passes)),
            seconds: recipe.for_seconds.map(|seconds| seconds as f64),
            soak: recipe.soak,
            tests: recipe.specs().map_or(state.tests.len(), |specs| specs.len()),
            range: recipe.range,
            bytes: [recipe.memory, in_range].into_iter().flatten().min(),
        }
    }
}

/// What was done, with what earlier parts of a continued run did.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Done {
    /// Passes in which every test finished.
    pub passes: u32,
    /// Share of the pass after those that is done, 0 to 1.
    pub of_next: f64,
    /// Tests that finished at least once.
    pub tests: usize,
    /// Bytes on which every planned test finished.
    pub bytes: u64,
}

impl Done {
    /// Of this run.
    pub fn of(state: &RunState) -> Self {
        let before = state.begin.continues.as_ref();
        let finished_before = |name: &String| before.is_some_and(|part| part.tests.contains(name));
        let finished = state.tests.iter().filter(|test| test.passes > 0 || finished_before(&test.name)).count();
        let own = state.held.bytes.saturating_sub(state.void_bytes);
        let bytes = before.map_or(own, |part| own.min(part.bytes));
        let all = !state.tests.is_empty() && finished == state.tests.len();
        let passes = state.full_passes.saturating_add(before.map_or(0, |part| part.passes));
        let of_next = if state.end.is_none() || state.pass > passes { state.pass_ratio() } else { 0.0 };
        Self { passes, of_next, tests: finished, bytes: if all { bytes } else { 0 } }
    }
}

/// What ended a run.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub enum EndedBy {
    /// All passes were done.
    Plan,
    /// The planned time was up.
    Time,
    /// As many errors were found as the recipe allows.
    ErrorLimit,
    /// Somebody stopped it, by a key or a signal.
    Hand,
    /// The record breaks off: power loss, hang, crash or restart.
    BrokeOff,
}

impl EndedBy {
    /// Of this run; nothing while it is running.
    pub fn of(state: &RunState, live: bool) -> Option<Self> {
        match state.end {
            Some(EndReason::Completed) => Some(Self::Plan),
            Some(EndReason::TimeUp) => Some(Self::Time),
            Some(EndReason::ErrorLimit) => Some(Self::ErrorLimit),
            Some(EndReason::Stopped) => Some(Self::Hand),
            None if live => None,
            None => Some(Self::BrokeOff),
        }
    }

    /// All of them.
    pub const ALL: [Self; 5] = [Self::Plan, Self::Time, Self::ErrorLimit, Self::Hand, Self::BrokeOff];

    /// The one with this [`Self::word`].
    pub fn of_word(word: &str) -> Option<Self> {
        Self::ALL.into_iter().find(|ended| ended.word() == word)
    }

    /// The word in JSON and in the ledger.
    pub fn word(self) -> &'static str {
        match self {
            Self::Plan => "plan",
            Self::Time => "time",
            Self::ErrorLimit => "error-limit",
            Self::Hand => "hand",
            Self::BrokeOff => "broke-off",
        }
    }
}

/// Whether all that was planned was done: at least one full pass, every end that the plan names, on the memory that was chosen, and at least
/// one self-check proved that errors are noticed.
pub(super) fn is_complete(
    state: &RunState,
    planned: &Planned,
    done: &Done,
    ended_by: Option<EndedBy>,
    ran_s: f64,
) -> bool {
    let passes = done.passes >= planned.passes.unwrap_or(1).max(1);
    let time = match (planned.seconds, planned.passes) {
        (Some(seconds), None) => ran_s >= seconds * TIME_DONE,
        // With a number of passes the time is only an upper limit.
        _ => true,
    };
    let ended = match ended_by {
        Some(EndedBy::Plan) => true,
        // With the time up nobody knows whether it would have become warmer.
        Some(EndedBy::Time) => !planned.soak,
        // A run without an end of its own is over when somebody says so.
        Some(EndedBy::Hand) => planned.passes.is_none() && planned.seconds.is_none(),
        Some(EndedBy::ErrorLimit | EndedBy::BrokeOff) | None => false,
    };
    let wanted = planned.bytes.unwrap_or(state.held.bytes);
    let memory = done.bytes > 0 && done.bytes >= wanted / 100 * MEMORY_DONE_PERCENT;
    let before = state.begin.continues.as_ref();
    let caught = state.plants_caught > 0 || before.is_some_and(|part| part.counts.checks_caught > 0);
    passes && time && ended && memory && caught
}
