//! What is asked from anywhere: why a run broke off, whether a long one is to end, what shall become of a booted machine.

use revisum_engine::units::duration_text;
use revisum_record::journal::{BrokeOff, JobEntry};
use revisum_record::outcome::Judgement;

use crate::booted::Leave;
use crate::dialogs::choice::Choice;
use crate::dialogs::question::Question;
use crate::room::step::{Ask, Step, does};
use crate::shared::effect::Effect;
use crate::shared::state::Shared;

/// A run that was waited for so long is not ended by one key.
const LONG_SECONDS: f64 = 600.0;

/// Ends the run; a long one is asked about.
pub fn stop(shared: &Shared) -> Step {
    let Some(state) = shared.run_state().filter(|_| shared.is_running()) else { return does(Effect::StopRun) };
    let ran = Judgement::of(state, true).times.ran;
    if ran <= LONG_SECONDS {
        return does(Effect::StopRun);
    }
    let stop = format!("Stop after {}; it can be continued later", duration_text(ran));
    let lines = vec![("Keep it running".to_owned(), Vec::new()), (stop, does(Effect::StopRun))];
    Choice::open("Stop this run?", lines, "No run is in progress.")
}

/// Leaves the program, unless a run goes on.
pub fn leave(shared: &Shared) -> Step {
    let booted = shared.facts.booted.is_some();
    if shared.is_running() {
        let mut step = does(Effect::StopRun);
        step.extend(if booted { leave_booted(shared) } else { vec![Ask::Leave(None)] });
        let question = Question {
            title: "A run is in progress.",
            words: "Leaving stops it. What it found so far is recorded and stays in the logs.",
            yes: "stop and leave",
            no: "stay",
            step,
        };
        return vec![Ask::Show(Box::new(question))];
    }
    if booted { leave_booted(shared) } else { vec![Ask::Leave(None)] }
}

/// What shall become of a booted machine.
fn leave_booted(shared: &Shared) -> Step {
    let title = match &shared.kept_now().trouble {
        Some(why) => format!(
            "NOT RECORDED: {why}. What was found is lost when the machine goes off: write it down or take a picture of the screen first. What next?"
        ),
        None => "Everything is written. What next? Afterwards take the drive out, and set the boot order back in the firmware if it was changed.".to_owned(),
    };
    let offered = Leave::ALL.into_iter().filter(|leave| *leave != Leave::Other || shared.can_test_the_rest());
    let lines = offered.map(|leave| (leave.words().to_owned(), vec![Ask::Leave(Some(leave))])).collect();
    Choice::open(title, lines, "There is nothing to leave.")
}

/// Why the last run broke off; nothing where that is known.
pub fn broke_off(shared: &Shared) -> Step {
    let Some((run, sentence)) = &shared.facts.unexplained else { return Vec::new() };
    let title = format!("Run {run} has no end. {sentence} What happened? The answer counts as evidence.");
    let line = |how: &BrokeOff| {
        let entry = JobEntry::BrokeOff { run: run.clone(), how: *how };
        (how.words().to_owned(), does(Effect::Decide(Box::new(entry))))
    };
    Choice::ask(title, BrokeOff::ALL.iter().map(line).collect(), "No run broke off.")
}
