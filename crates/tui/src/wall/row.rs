//! What is said of a machine, for a tile and for a line.

use std::sync::PoisonError;
use std::time::{Duration, Instant};

use revisum_engine::news::Progress;
use revisum_engine::units::{count_text, duration_text, short_count};
use revisum_link::{BenchNow, Refusal, Silence, Standing};
use revisum_record::outcome::{Grade, Judgement};
use revisum_record::run_state::RunState;
use revisum_records::wall_time;
use revisum_words as words;

use super::need::{Need, silent_for};
use crate::kit::run_panel::{large_words, test_words};
use crate::say;

/// Slots that are named.
const MOST_SLOTS: usize = 4;

/// What is said of a machine.
pub struct Said {
    /// The number of its drive.
    pub number: String,
    /// Its name.
    pub machine: String,
    /// What it needs.
    pub need: Need,
    /// How good its run is; nothing before one began.
    pub grade: Option<Grade>,
    /// The outcome to be read from afar, the longest wording first.
    pub large: Vec<String>,
    /// The same in a sentence.
    pub headline: String,
    /// The sentence says no more than what is large.
    pub is_large: bool,
    /// Slots with errors.
    pub slots: String,
    /// The test at hand: only while it runs.
    pub test: String,
    /// When it ends, or what it took.
    pub ends: String,
    /// The stage of its job.
    pub stage: String,
    /// What somebody is to do, or why nothing is heard.
    pub next: String,
    /// When it was heard of last.
    pub heard: String,
    /// Why something is not recorded, there or here.
    pub trouble: Option<String>,
}

impl Said {
    /// Of this machine, now; `wall_ms` is the time here.
    pub fn of(bench: &BenchNow, now: Instant, wall_ms: i64) -> Self {
        let standing = &bench.standing;
        let need = Need::of(bench, now);
        let silent = silent_for(bench, now);
        let mut said = Self {
            number: standing.number.map(|number| number.to_string()).unwrap_or_default(),
            machine: if standing.machine.is_empty() {
                say::wall_unnamed().to_owned()
            } else {
                standing.machine.clone()
            },
            need,
            grade: None,
            large: vec![say::wall_large_ready().to_owned()],
            headline: say::wall_no_run().to_owned(),
            is_large: false,
            slots: String::new(),
            test: String::new(),
            ends: String::new(),
            stage: if standing.stage.is_empty() { String::new() } else { say::wall_stage(&standing.stage) },
            next: match (silent, standing.waits) {
                (Some(silent), _) => say::wall_silent(duration_text(silent.as_secs_f64())),
                (None, true) if !standing.next.is_empty() => say::wall_next(&standing.next),
                (None, true) => say::wall_waits().to_owned(),
                (None, false) => String::new(),
            },
            heard: match heard_before(bench, now).as_secs() {
                0 => say::wall_heard_now().to_owned(),
                seconds => say::wall_heard(duration_text(seconds as f64)),
            },
            trouble: trouble(bench),
        };
        let mut copied_errors = 0;
        if let Some(run) = &bench.run {
            let state = run.lock().unwrap_or_else(PoisonError::into_inner);
            if state.records > 0 {
                let live = state.end.is_none();
                let judgement = Judgement::of(&state, live);
                let slots: Vec<&str> = state.errors.slots.keys().map(String::as_str).take(MOST_SLOTS + 1).collect();
                said.grade = Some(judgement.grade);
                said.large = large_words(&judgement);
                said.headline = words::result::headline(&judgement);
                said.is_large = judgement.grade == Grade::Errors;
                copied_errors = state.errors.words;
                said.slots = slots.join(", ");
                said.test = if live { test_words(&state, &latest(&state, standing)) } else { String::new() };
                said.ends = match (live, standing.ends_in_s) {
                    (true, Some(left)) => {
                        let left = Duration::from_secs(left).saturating_sub(now.saturating_duration_since(bench.said));
                        let zone = wall_time::zone(false);
                        let end = wall_time::format(wall_ms + left.as_millis() as i64, &zone, "%H:%M");
                        say::wall_ends(end)
                    }
                    (true, None) => String::new(),
                    (false, _) => say::took(words::result::took(&judgement)),
                };
            }
        }
        // Records that did not come must not make it better than it is: its own word counts.
        if standing.errors > copied_errors {
            let (count, word) =
                (standing.errors, if standing.errors == 1 { say::big_error() } else { say::big_errors() });
            said.grade = Some(Grade::Errors);
            said.large = vec![format!("{} {word}", count_text(count)), short_count(count, 6)];
            said.headline = said.large[0].clone();
            said.is_large = true;
        }
        said
    }
}

/// Where the run is: what the machine says of it, unless what was recorded here is further.
fn latest(state: &RunState, standing: &Standing) -> Progress {
    let recorded = &state.progress;
    let place = |pass: u32, test: &str, ppm: u32| (pass, state.tests.iter().position(|known| known.name == test), ppm);
    let here = place(recorded.pass, &recorded.test, recorded.test_ppm);
    match &standing.at {
        Some(at) if place(at.pass, &at.test, at.test_ppm) > here => {
            Progress { pass: at.pass, test: at.test.clone(), test_ppm: at.test_ppm, ..Progress::default() }
        }
        _ => recorded.clone(),
    }
}

fn heard_before(bench: &BenchNow, now: Instant) -> Duration {
    let (Silence::Linked(at) | Silence::Broken(at)) = bench.silence;
    now.saturating_duration_since(at)
}

fn trouble(bench: &BenchNow) -> Option<String> {
    let here = bench.refused.map(|why| match why {
        Refusal::Full => say::wall_full().to_owned(),
        _ => say::wall_not_kept().to_owned(),
    });
    here.or_else(|| bench.standing.not_recorded.as_ref().map(say::not_recorded_why))
}

#[cfg(test)]
mod tests {
    use revisum_link::At;
    use revisum_record::run_state::TestState;
    use rstest::rstest;

    use super::*;

    #[rstest]
    #[case::nothing_said(None, (2, "b", 400))]
    #[case::further(Some((2, "b", 900)), (2, "b", 900))]
    #[case::next_test(Some((2, "c", 0)), (2, "c", 0))]
    #[case::next_pass(Some((3, "a", 10)), (3, "a", 10))]
    #[case::said_before_it_was_recorded(Some((2, "b", 100)), (2, "b", 400))]
    #[case::earlier_test(Some((2, "a", 900)), (2, "b", 400))]
    #[case::unknown_test(Some((2, "z", 900)), (2, "b", 400))]
    fn the_latest_word_counts(#[case] said: Option<(u32, &str, u32)>, #[case] expected: (u32, &str, u32)) {
        let test = |name: &str| TestState { name: name.to_owned(), ..TestState::default() };
        let progress = Progress { pass: 2, test: "b".into(), test_ppm: 400, ..Progress::default() };
        let state = RunState { tests: ["a", "b", "c"].map(test).into(), progress, ..RunState::default() };
        let at = said.map(|(pass, test, test_ppm)| At { pass, test: test.into(), test_ppm });
        let latest = latest(&state, &Standing { at, ..Standing::default() });
        assert_eq!((latest.pass, latest.test.as_str(), latest.test_ppm), expected);
    }
}
