//! The one value that says what a run came to.

use super::coverage::Coverage;
use super::plan::{Done, EndedBy, Planned, is_complete};
use super::word::Outcome;
use crate::carry::{Carried, Repeated};
use crate::confidence::Worth;
use crate::counts::Counts;
use crate::journal::Damage;
use crate::run_state::RunState;
use crate::warmth::Says;
use serde::Serialize;

/// Below this share of the installed memory nothing is ruled out.
const LEAST_SHARE: f64 = 0.01;

/// How good a result is; decides colour and exit code.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize)]
#[serde(rename_all = "kebab-case")]
pub enum Grade {
    /// All that was planned was done, on nearly all installed memory, and nothing was found.
    Clean,
    /// Nothing was found, but on a part of the memory, of the passes or of the time only.
    Reduced,
    /// Running, nothing found yet.
    Open,
    /// Only errors that the hardware corrected.
    Corrected,
    /// Errors.
    Errors,
    /// The self-check failed: nothing of it can be believed.
    Void,
}

/// Seconds, with earlier parts of a continued run.
#[derive(Clone, Copy, Debug, Default, PartialEq)]
pub struct Times {
    /// From the first record to the latest.
    pub elapsed: f64,
    /// In pauses.
    pub paused: f64,
    /// In which nothing ran: the program was stopped or frozen from outside.
    pub stalled: f64,
    /// Elapsed without pauses and without what is `stalled`.
    pub ran: f64,
    /// In full passes; never more than it ran.
    pub in_full_passes: f64,
    /// Sweeping memory, waits of the tests left out.
    pub sweeping: f64,
}

impl Grade {
    /// All of them.
    pub const ALL: [Self; 6] = [Self::Clean, Self::Reduced, Self::Open, Self::Corrected, Self::Errors, Self::Void];

    /// The word in JSON and in the ledger.
    pub fn word(self) -> &'static str {
        match self {
            Self::Clean => "clean",
            Self::Reduced => "reduced",
            Self::Open => "open",
            Self::Corrected => "corrected",
            Self::Errors => "errors",
            Self::Void => "void",
        }
    }

    /// The grade with this [`Self::word`].
    pub fn of_word(word: &str) -> Option<Self> {
        Self::ALL.into_iter().find(|grade| grade.word() == word)
    }
}

/// What a clean run rules out.
#[derive(Clone, Copy, Debug, PartialEq)]
pub enum Claim {
    /// Something was found, or the run cannot be believed: nothing is claimed.
    None,
    /// Nothing was found, but it was too short or on too little memory to rule anything out.
    TooLittle,
    /// With 95 % confidence what so many clean passes in so much time rule out.
    RuledOut(Worth),
}

/// What a run came to.
#[derive(Clone, Debug, PartialEq)]
pub struct Judgement {
    /// In one word.
    pub outcome: Outcome,
    /// How good that is.
    pub grade: Grade,
    /// Whether all that was planned was done.
    pub complete: bool,
    /// What was planned.
    pub planned: Planned,
    /// What was done.
    pub done: Done,
    /// What ended it; nothing while it is running.
    pub ended_by: Option<EndedBy>,
    /// How much of the memory was tested.
    pub coverage: Coverage,
    /// What was counted.
    pub counts: Counts,
    /// How long it took.
    pub times: Times,
    /// What it repeats, when it is to show again what another run showed.
    pub repeats: Option<Repeated>,
    /// Reports of wrong words whose ways of counting did not agree.
    pub miscounted: u32,
    /// The processor computed beside the patterns.
    pub computing: bool,
    /// The test over all memory that swept for the shortest time, and its seconds over all passes; nothing where there was one test, or where earlier parts of the
    /// run are not known so exactly.
    pub least: Option<(String, f64)>,
    /// Single bits that modules correct on the die stay unseen.
    pub corrects_on_die: bool,
    /// Lowest and highest temperature in °C.
    pub celsius: Option<(f64, f64)>,
    /// Seconds that the machine slept between writing and reading.
    pub slept_s: f64,
    /// Whether warmth made a difference to errors, where that can be said.
    pub warmth: Option<Says>,
    /// What is claimed of faults that did not show.
    pub claim: Claim,
    /// Where the hardware counted errors: one place, when it was one.
    pub place: Option<String>,
    /// How many places the hardware named.
    pub places: usize,
    /// What of its record is damaged, missing or not understood.
    pub damage: Damage,
    /// A newer program wrote the record: what it says may mean more than is understood.
    pub newer: bool,
    /// What was running when it broke off: pass, share of it, test.
    pub at: (u32, f64, String),
}

impl Judgement {
    /// Of a run; `live` tells a running one from one whose record simply stops.
    pub fn of(state: &RunState, live: bool) -> Self {
        let (planned, done) = (Planned::of(state), Done::of(state));
        let ended_by = EndedBy::of(state, live);
        let (counts, times) = (counts(state), times(state));
        let coverage = Coverage::of(state, &planned, &done);
        let (newer, only_torn) = (state.begin.newer().is_some(), ended_by.is_none_or(|by| by == EndedBy::BrokeOff));
        // A record that breaks off does so in the middle of a line: that is no damage beyond what breaking off means.
        let whole = !newer && !if only_torn { state.damage.beyond_a_torn_tail() } else { state.damage.any() };
        let complete = whole && is_complete(state, &planned, &done, ended_by, times.ran);
        let outcome = outcome(&counts, ended_by, complete, whole);
        let grade = grade(outcome, &counts, &coverage);
        // An address is no name of a place that can be taken out.
        let named: Vec<&String> = state.hardware.places.iter().filter(|place| !place.starts_with("0x")).collect();
        Self {
            claim: claim(outcome, &done, &times, &coverage),
            repeats: state.begin.repeats.clone(),
            miscounted: state.miscounted,
            computing: computes(state),
            least: least(state),
            corrects_on_die: state.begin.board.moves_half_words(),
            celsius: state.celsius,
            slept_s: state.slept_ms as f64 / 1000.0,
            warmth: state.warmth.says(),
            place: named.first().filter(|_| named.len() == 1).map(|place| (*place).clone()),
            places: named.len(),
            damage: state.damage.clone(),
            newer,
            at: (state.pass, state.pass_ratio(), state.progress.test.clone()),
            outcome,
            grade,
            complete,
            planned,
            done,
            ended_by,
            coverage,
            counts,
            times,
        }
    }

    /// Whether this says less good than another judgement of the same run: what is in memory and what is on record can differ, by a fault of either.
    pub fn is_worse_than(&self, other: &Self) -> bool {
        (self.rank(), self.counts.errors) > (other.rank(), other.counts.errors)
    }

    /// Whether this says what another judgement of the same run says.
    pub fn says_the_same(&self, other: &Self) -> bool {
        self.outcome == other.outcome && self.counts == other.counts
    }

    /// From the best on.
    fn rank(&self) -> u8 {
        match self.outcome {
            Outcome::Clean if self.grade == Grade::Clean => 0,
            Outcome::Clean => 1,
            Outcome::CleanSoFar => 2,
            Outcome::CutShort => 3,
            Outcome::Interrupted => 4,
            Outcome::NotWhole => 5,
            Outcome::ErrorsFound => 6,
            Outcome::CheckingFailed => 7,
        }
    }

    /// Any error, from the sweeps or from the hardware itself.
    pub fn has_errors(&self) -> bool {
        self.counts.any()
    }

    /// What the full passes are worth, had they been clean.
    pub fn worth(&self) -> Worth {
        Worth { passes: self.done.passes, seconds: self.times.in_full_passes }
    }

    /// Whether it ended before its plan in a way that it can go on from.
    pub fn can_go_on(&self) -> bool {
        let ended_early = matches!(self.ended_by, Some(EndedBy::Hand | EndedBy::BrokeOff)) && !self.complete;
        ended_early
            && (self.planned.passes.is_some() || self.planned.seconds.is_some())
            && !matches!(self.outcome, Outcome::CheckingFailed | Outcome::NotWhole)
            && !self.damage.beyond_a_torn_tail()
    }
}

fn counts(state: &RunState) -> Counts {
    state.begin.continues.as_ref().map_or_else(Counts::default, |part| part.counts).plus(state.counts())
}

fn times(state: &RunState) -> Times {
    let before = state.begin.continues.as_ref();
    let of_before = |ms: fn(&Carried) -> u64| before.map_or(0, ms);
    let elapsed = state.t_ms.saturating_add(of_before(|part| part.elapsed_ms));
    let paused = state.all_paused_ms().saturating_add(of_before(|part| part.paused_ms)).min(elapsed);
    let stalled = state.stalled_ms.saturating_add(of_before(|part| part.stalled_ms)).min(elapsed - paused);
    let ran = (elapsed - paused - stalled) as f64 / 1000.0;
    let passes = state.full_pass_seconds + before.map_or(0.0, |part| part.pass_seconds);
    let swept = state.tests.iter().fold(0u64, |all, test| all.saturating_add(test.all_sweep_ns()));
    Times {
        elapsed: elapsed as f64 / 1000.0,
        paused: paused as f64 / 1000.0,
        stalled: stalled as f64 / 1000.0,
        ran,
        in_full_passes: if passes.is_finite() { passes.clamp(0.0, ran) } else { 0.0 },
        sweeping: (swept as f64 / 1e9 + of_before(|part| part.sweep_ms) as f64 / 1000.0).min(ran),
    }
}

fn outcome(counts: &Counts, ended_by: Option<EndedBy>, complete: bool, whole: bool) -> Outcome {
    match ended_by {
        _ if counts.any() => Outcome::ErrorsFound,
        _ if counts.checks_missed > 0 => Outcome::CheckingFailed,
        _ if !whole => Outcome::NotWhole,
        None => Outcome::CleanSoFar,
        Some(EndedBy::BrokeOff) => Outcome::Interrupted,
        Some(_) if complete => Outcome::Clean,
        Some(_) => Outcome::CutShort,
    }
}

fn grade(outcome: Outcome, counts: &Counts, coverage: &Coverage) -> Grade {
    match outcome {
        Outcome::CleanSoFar => Grade::Open,
        Outcome::Clean if coverage.is_whole() => Grade::Clean,
        Outcome::Clean | Outcome::CutShort | Outcome::Interrupted | Outcome::NotWhole => Grade::Reduced,
        Outcome::ErrorsFound if counts.only_corrected() => Grade::Corrected,
        Outcome::ErrorsFound => Grade::Errors,
        Outcome::CheckingFailed => Grade::Void,
    }
}

fn claim(outcome: Outcome, done: &Done, times: &Times, coverage: &Coverage) -> Claim {
    if matches!(outcome, Outcome::ErrorsFound | Outcome::CheckingFailed) {
        return Claim::None;
    }
    if outcome == Outcome::NotWhole {
        return Claim::TooLittle;
    }
    let worth = Worth { passes: done.passes, seconds: times.in_full_passes };
    let enough = done.bytes > 0 && coverage.share().is_none_or(|share| share >= LEAST_SHARE);
    if enough && worth.rules_out() { Claim::RuledOut(worth) } else { Claim::TooLittle }
}

fn least(state: &RunState) -> Option<(String, f64)> {
    // The address lines are few words: what they are good for is said with the test.
    let over_memory = state.tests.iter().filter(|test| test.bytes_swept > 0);
    let swept: Vec<(String, f64)> =
        over_memory.map(|test| (test.name.clone(), test.all_sweep_ns() as f64 / 1e9)).collect();
    let known = swept.len() > 1 && state.begin.continues.is_none();
    swept.into_iter().filter(|_| known).min_by(|a, b| a.1.total_cmp(&b.1))
}

/// Whether a test that computes finished.
fn computes(state: &RunState) -> bool {
    let specs = state.begin.recipe.as_ref().and_then(|recipe| recipe.specs().ok()).unwrap_or_default();
    let ran = |name: &str| state.tests.iter().any(|test| test.name == name && test.passes > 0);
    let before =
        |name: &str| state.begin.continues.as_ref().is_some_and(|part| part.tests.iter().any(|test| test == name));
    specs.iter().any(|spec| spec.computes() && (ran(&spec.name) || before(&spec.name)))
}
