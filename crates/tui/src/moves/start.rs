//! Beginning a run.

use revisum_engine::recipe::{Depth, Recipe};
use revisum_words::refused;
use revisum_workbench::go_on::Start;

use crate::room::step::{Ask, Entry, Step, says};
use crate::room::view::View;
use crate::say;
use crate::shared::effect::Effect;
use crate::shared::state::Shared;

/// Begins what is chosen.
pub fn chosen(shared: &Shared) -> Step {
    start(shared, shared.chosen.recipe.clone())
}

/// Begins a run of a depth as it comes.
pub fn depth(shared: &Shared, depth: Depth) -> Step {
    let chosen = shared.chosen.of_depth(&shared.facts, depth);
    let recipe = chosen.recipe.clone();
    [vec![Ask::Choose(Box::new(chosen))], start(shared, recipe)].into_iter().flatten().collect()
}

/// Begins a run, unless something speaks against it.
pub fn start(shared: &Shared, recipe: Recipe) -> Step {
    begin(shared, Start::new(recipe))
}

/// Why nothing can be run or measured: the machine is not here.
pub fn not_here(shared: &Shared) -> Option<&'static str> {
    match (shared.facts.saved, shared.facts.elsewhere) {
        (true, _) => Some(say::runs_not_of_saved()),
        (false, true) => Some(say::runs_elsewhere()),
        (false, false) => None,
    }
}

/// Begins a run, goes on with one, or repeats one, unless something speaks against it.
pub fn begin(shared: &Shared, what: Start) -> Step {
    if let Some(why) = not_here(shared) {
        return says(why);
    }
    if let Some(sign) = &shared.facts.dark {
        return says(say::does_not_start_six(sign));
    }
    if let Err(error) = what.recipe.specs() {
        return says(say::cannot_be_run(refused::recipe(&error)));
    }
    begun(what)
}

/// Begins a run of which nothing is known to speak against it.
pub fn begun(what: Start) -> Step {
    vec![Ask::Go(Entry::Plain(View::Run)), Ask::Do(Effect::StartRun(Box::new(what)))]
}
