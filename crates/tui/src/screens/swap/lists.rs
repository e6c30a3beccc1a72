//! Lists to choose one line of: other steps, runs to strike out, what else is known.

use revisum_engine::units::duration_text;
use revisum_record::journal::JobEntry;
use revisum_words as words;

use crate::say;
use super::known;
use crate::dialogs::choice::Choice;
use crate::moves::steps;
use crate::room::step::{Ask, Step, does};
use crate::shared::effect::Effect;
use crate::shared::facts::Trial;
use crate::shared::state::Shared;

/// Steps that were not advised first.
pub fn other_steps(shared: &Shared) -> Step {
    let now = shared.facts.board.known_placement();
    let name = |id: &str| shared.facts.name_of(id);
    let alternatives = shared.facts.advice.iter().flat_map(|advice| &advice.alternatives);
    let lines = alternatives.map(|next| {
        let (hands, machine) = (next.hands_minutes, duration_text(next.minutes * 60.0));
        let words = words::card::headline(&shared.facts.case, next, &shared.scene(&now, &name));
        (say::steps_line(words, format!("{:.0}", hands), machine), steps::follow(shared, next))
    });
    let title = say::steps_other();
    Choice::open(title, lines.collect(), say::steps_none())
}

/// Runs to strike out.
pub fn strike(shared: &Shared) -> Step {
    let line = |(at, trial): (usize, &Trial)| {
        let run = trial.run.clone();
        let entry = match trial.struck {
            Some(_) => JobEntry::Restored { run },
            None => JobEntry::Struck { run, reason: "by hand".to_owned() },
        };
        (run_line(shared, at, trial), decides(entry))
    };
    let lines = shared.facts.trials.iter().enumerate().map(line).collect();
    let title = say::exclude_title();
    Choice::open(title, lines, say::exclude_none())
}

fn run_line(shared: &Shared, at: usize, trial: &Trial) -> String {
    let names: Vec<String> =
        trial.placement.iter().map(|(slot, id)| say::module_in_slot(shared.facts.name_of(id), slot)).collect();
    let struck = if trial.struck.is_some() { say::exclude_excluded() } else { "" };
    say::exclude_line(at + 1, words::result::headline_of(&trial.headline), names.join(", "), struck)
}

/// What else is known.
pub fn what_else(shared: &Shared) -> Step {
    let all = known::lines(shared).into_iter();
    let lines = all.map(|line| (line.words, line.entries.into_iter().flat_map(decides).collect())).collect();
    let title = say::known_title();
    let mut step = vec![Ask::Do(Effect::ListJobs)];
    step.extend(Choice::open(title, lines, say::known_no_module()));
    step
}

/// Writes something down.
pub fn decides(entry: JobEntry) -> Step {
    does(Effect::Decide(Box::new(entry)))
}
