//! What is asked from anywhere: why a run broke off, whether a long one is to end, what shall become of a booted machine.

use revisum_engine::units::{bytes_text, duration_text};
use revisum_record::journal::{BrokeOff, JobEntry};
use revisum_record::outcome::Judgement;
use revisum_words::Said as _;

use crate::booted::Leave;
use crate::dialogs::choice::Choice;
use crate::dialogs::question::Question;
use crate::room::step::{Ask, Step, does};
use crate::say;
use crate::shared::effect::Effect;
use crate::shared::state::Shared;

/// Less than this part of the memory is no reason for another start.
const LEAST_REST: f64 = 0.002;
/// A run that was waited for so long is not ended by one key.
const LONG_SECONDS: f64 = 600.0;

/// Ends the run; a long one is asked about.
pub fn stop(shared: &Shared) -> Step {
    let Some(state) = shared.run_state().filter(|_| shared.is_running()) else { return does(Effect::StopRun) };
    let ran = Judgement::of(state, true).times.ran;
    if ran <= LONG_SECONDS {
        return does(Effect::StopRun);
    }
    let stop = say::stop_after(duration_text(ran));
    let lines = vec![(say::keep_running().to_owned(), Vec::new()), (stop, does(Effect::StopRun))];
    Choice::open(say::stop_this_run(), lines, say::no_run_in_progress())
}

/// Leaves the program, unless a run goes on.
pub fn leave(shared: &Shared) -> Step {
    let booted = shared.facts.booted.is_some();
    if shared.is_running() {
        let mut step = does(Effect::StopRun);
        step.extend(if booted { leave_booted(shared) } else { vec![Ask::Leave(None)] });
        let question = Question {
            title: say::run_in_progress(),
            words: say::leaving_stops(),
            yes: say::stop_and_leave(),
            no: say::stay(),
            step,
        };
        return vec![Ask::Show(Box::new(question))];
    }
    if booted { leave_booted(shared) } else { vec![Ask::Leave(None)] }
}

/// What shall become of a booted machine.
fn leave_booted(shared: &Shared) -> Step {
    let title = match &shared.kept_now().trouble {
        Some(why) => say::leave_unrecorded(why),
        None if shared.facts.last_run.is_some() => say::leave_recorded_in(&shared.facts.job),
        None => say::leave_recorded().to_owned(),
    };
    // What is not recorded would be lost with another start.
    let rest = untested(shared).filter(|_| shared.kept_now().trouble.is_none());
    let mut offered: Vec<Leave> =
        Leave::ALL.into_iter().filter(|leave| *leave != Leave::Other || shared.can_test_the_rest()).collect();
    // What is not tested yet is the next sensible step, and comes first.
    offered.sort_by_key(|leave| *leave != Leave::Other || rest.is_none());
    let words = |leave: &Leave| match (leave, &rest) {
        (Leave::Other, Some((bytes, percent))) => say::booted_rest_adds(bytes_text(*bytes), percent),
        _ => leave.words().to_owned(),
    };
    let lines = offered.iter().map(|leave| (words(leave), vec![Ask::Leave(Some(*leave))])).collect();
    Choice::open(title, lines, say::nothing_to_leave())
}

/// Memory that no run of this job finished on, and how much of all that is in percent; nothing where that is too little to matter.
fn untested(shared: &Shared) -> Option<(u64, String)> {
    let (tested, of) = shared.facts.tested_in_job.filter(|(_, of)| *of > 0)?;
    let rest = of.saturating_sub(tested);
    let share = rest as f64 / of as f64;
    (tested > 0 && share >= LEAST_REST).then(|| (rest, format!("{:.1}", share * 100.0)))
}

/// Why the last run broke off; nothing where that is known.
pub fn broke_off(shared: &Shared) -> Step {
    let Some((run, sentence)) = &shared.facts.unexplained else { return Vec::new() };
    let title = say::broke_off_question(run, sentence);
    let line = |how: &BrokeOff| {
        let entry = JobEntry::BrokeOff { run: run.clone(), how: *how };
        (how.said().to_owned(), does(Effect::Decide(Box::new(entry))))
    };
    Choice::ask(title, BrokeOff::ALL.iter().map(line).collect(), say::no_run_broke_off())
}
