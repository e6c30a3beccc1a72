//! Doing a step: by the program where it can, otherwise written down, so that the job carries on after the machine was off.

use revisum_diagnose::isolate::Experiment;
use revisum_engine::recipe::Recipe;
use revisum_record::journal::{JobEntry, Plan};

use super::effect::Effect;
use super::state::{App, Overlay, sorted};
use super::update::start;

/// A run as long as this ends at its first error: it was waited for long enough.
const LONG_MINUTES: f64 = 30.0;
/// More passes than this are given as time.
const MOST_PASSES: f64 = 8.5;

/// Does the step, as far as a program can, with the recipe that showed the fault.
pub fn follow(app: &mut App, next: &Experiment) -> Vec<Effect> {
    let recipe = recipe(app, next.passes, next.minutes);
    follow_with(app, next, recipe)
}

/// Does the step with this recipe.
pub fn follow_with(app: &mut App, next: &Experiment, recipe: Recipe) -> Vec<Effect> {
    if !app.facts.can_move && app.needs_hands(next) {
        let plan = Plan {
            placement: next.placement.clone(),
            settings: next.settings.clone(),
            reseat: next.reseat.clone(),
            passes: next.passes.ceil().clamp(1.0, 1e6) as u32,
        };
        let words = "This step is written down. Switch the machine off and do it; when Revisum starts again it looks at what is \
                     fitted, compares it with this step, and carries on.";
        app.overlay = Some(Overlay::Notice(words.to_owned()));
        return vec![Effect::Decide(Box::new(JobEntry::Planned { plan }))];
    }
    let mut effects = Vec::new();
    if !next.settings.is_empty() && next.settings != app.facts.settings {
        effects.push(Effect::Set(next.settings.clone()));
    }
    if sorted(&next.placement) != sorted(&app.facts.board.placement()) {
        effects.push(Effect::Refit(next.placement.clone()));
    }
    if !next.reseat.is_empty() {
        effects.push(Effect::Reseat(next.reseat.clone()));
    }
    effects.extend(start(app, recipe));
    effects
}

/// The run of a step that was written down before the machine was switched off.
pub fn begin_planned(app: &mut App) -> Vec<Effect> {
    let Some((plan, _)) = app.facts.plan.clone() else { return Vec::new() };
    let minutes = app.facts.case.pass_minutes(&plan.placement) * f64::from(plan.passes);
    let recipe = recipe(app, f64::from(plan.passes), minutes);
    let mut effects = Vec::new();
    if !plan.reseat.is_empty() {
        effects.push(Effect::Decide(Box::new(JobEntry::Reseated { modules: plan.reseat })));
    }
    effects.extend(start(app, recipe));
    effects
}

/// What showed the fault is repeated, for as long as the step wants it.
fn recipe(app: &App, passes: f64, minutes: f64) -> Recipe {
    let base = app.facts.failing_recipe.clone().unwrap_or_else(|| app.recipe.clone());
    let recipe = Recipe { range: None, memory: None, ..base };
    if passes <= MOST_PASSES {
        return Recipe { passes: Some(passes.ceil().max(1.0) as u32), for_seconds: None, ..recipe };
    }
    let stop_after = if minutes >= LONG_MINUTES { Some(1) } else { recipe.stop_after };
    Recipe { passes: None, for_seconds: Some((minutes * 60.0).ceil() as u64), stop_after, ..recipe }
}
