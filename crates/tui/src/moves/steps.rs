//! Doing a step: by the program where it can, otherwise written down, so that the job carries on after the machine was off.

use revisum_diagnose::isolate::Experiment;
use revisum_engine::recipe::Recipe;
use revisum_record::journal::{JobEntry, Plan};

use super::start::{begun, start};
use revisum_workbench::go_on::Start;

use crate::room::step::{Ask, Step};
use crate::say;
use crate::shared::effect::Effect;
use crate::shared::state::{Shared, sorted};

/// A run as long as this ends at its first error: it was waited for long enough.
const LONG_MINUTES: f64 = 30.0;
/// More passes than this are given as time.
const MOST_PASSES: f64 = 8.5;

/// Does the step, as far as a program can, with the recipe that showed the fault.
pub fn follow(shared: &Shared, next: &Experiment) -> Step {
    let recipe = recipe(shared, next.passes, next.minutes);
    follow_with(shared, next, recipe)
}

/// Does the step with this recipe.
pub fn follow_with(shared: &Shared, next: &Experiment, recipe: Recipe) -> Step {
    if !shared.facts.can_move && shared.needs_hands(next) {
        let plan = Plan {
            placement: next.placement.clone(),
            settings: next.settings.clone(),
            reseat: next.reseat.clone(),
            passes: next.passes.ceil().clamp(1.0, 1e6) as u32,
        };
        let words = say::step_written_down();
        return vec![Ask::Say(words.to_owned()), Ask::Do(Effect::Decide(Box::new(JobEntry::Planned { plan })))];
    }
    let mut step = Vec::new();
    if !next.settings.is_empty() && next.settings != shared.facts.settings {
        step.push(Ask::Do(Effect::Set(next.settings.clone())));
    }
    let moves = sorted(&next.placement) != sorted(&shared.facts.board.placement());
    if moves {
        step.push(Ask::Do(Effect::Refit(next.placement.clone())));
    }
    if !next.reseat.is_empty() {
        step.push(Ask::Do(Effect::Reseat(next.reseat.clone())));
    }
    // Whether it starts once modules were moved is seen then.
    step.extend(if moves { begun(Start::new(recipe)) } else { start(shared, recipe) });
    step
}

/// Modules are fitted as it was written down, as a person declares.
pub fn fitted_as_planned(shared: &Shared) -> Step {
    let Some((plan, _)) = &shared.facts.plan else { return Vec::new() };
    vec![Ask::Do(Effect::Refit(plan.placement.clone()))]
}

/// The run of a step that was written down before the machine was switched off.
pub fn begin_planned(shared: &Shared) -> Step {
    let Some((plan, _)) = shared.facts.plan.clone() else { return Vec::new() };
    let minutes = shared.facts.case.pass_minutes(&plan.placement) * f64::from(plan.passes);
    let recipe = recipe(shared, f64::from(plan.passes), minutes);
    let mut step = Vec::new();
    if !plan.reseat.is_empty() {
        step.push(Ask::Do(Effect::Decide(Box::new(JobEntry::Reseated { modules: plan.reseat }))));
    }
    step.extend(start(shared, recipe));
    step
}

/// What showed the fault is repeated, for as long as the step wants it.
fn recipe(shared: &Shared, passes: f64, minutes: f64) -> Recipe {
    let base = shared.facts.failing_recipe.clone().unwrap_or_else(|| shared.chosen.recipe.clone());
    let recipe = Recipe { range: None, memory: None, ..base };
    if passes <= MOST_PASSES {
        return Recipe { passes: Some(passes.ceil().max(1.0) as u32), for_seconds: None, ..recipe };
    }
    let stop_after = if minutes >= LONG_MINUTES { Some(1) } else { recipe.stop_after };
    Recipe { passes: None, for_seconds: Some((minutes * 60.0).ceil() as u64), stop_after, ..recipe }
}
