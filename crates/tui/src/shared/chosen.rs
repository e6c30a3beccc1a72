//! What to run, as it is chosen.

use revisum_engine::recipe::{Depth, Recipe};

use super::state::Shared;

/// What to run, and what goes with it.
#[derive(Clone, Debug, PartialEq)]
pub struct Chosen {
    /// What to run.
    pub recipe: Recipe,
    /// Tests that the depth would run if there were time.
    pub left_out: Vec<String>,
    /// Minute of the day at which the run shall end.
    pub until: Option<u32>,
    /// A sound at the first error and at the end.
    pub sound: bool,
}

impl Default for Chosen {
    fn default() -> Self {
        Self { recipe: Recipe::of_depth(Depth::Triage), left_out: Vec::new(), until: None, sound: false }
    }
}

impl Chosen {
    /// The depth with its tests on this machine; where and how it runs stays as it was chosen.
    pub fn of_depth(shared: &Shared, depth: Depth) -> Self {
        let now = &shared.chosen;
        let chosen = shared.facts.measured().tests_of(depth, shared.held_bytes());
        let recipe = Recipe {
            memory: now.recipe.memory,
            range: now.recipe.range,
            cores: now.recipe.cores,
            which_cores: now.recipe.which_cores.clone(),
            soak: now.recipe.soak,
            own: now.recipe.own.clone(),
            ..Recipe::with_tests(depth, chosen.tests)
        };
        Self { recipe, left_out: chosen.left_out, until: None, sound: now.sound }
    }
}
