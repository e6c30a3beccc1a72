//! What to run, as it is chosen.

use revisum_engine::recipe::{Depth, Recipe};
use revisum_engine::units::RangeSet;
use revisum_words::Said as _;

use super::facts::Facts;
use crate::say;

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
    /// It is not the depth as it comes.
    pub changed: bool,
}

impl Default for Chosen {
    fn default() -> Self {
        Self {
            recipe: Recipe::of_depth(Depth::Triage),
            left_out: Vec::new(),
            until: None,
            sound: false,
            changed: false,
        }
    }
}

impl Chosen {
    /// The depth with its tests on this machine; where and how it runs stays as it is chosen here.
    pub fn of_depth(&self, facts: &Facts, depth: Depth) -> Self {
        let chosen = facts.measured().tests_of(depth, self.held_bytes(facts));
        let recipe = Recipe {
            memory: self.recipe.memory,
            range: self.recipe.range,
            cores: self.recipe.cores,
            which_cores: self.recipe.which_cores.clone(),
            soak: self.recipe.soak,
            own: self.recipe.own.clone(),
            ..Recipe::with_tests(depth, chosen.tests)
        };
        let changed = recipe != Recipe::with_tests(depth, recipe.tests.clone());
        Self { recipe, left_out: chosen.left_out, until: None, sound: self.sound, changed }
    }

    /// What is run, in a word or two: `survey`, or `survey, changed`.
    pub fn words(&self) -> String {
        let depth = self.recipe.depth.said();
        if self.changed { say::chosen_changed(depth) } else { depth.to_owned() }
    }

    /// Memory that the recipe would hold on this machine.
    pub fn held_bytes(&self, facts: &Facts) -> u64 {
        let reachable = facts.offer.reachable_bytes;
        let in_range = self.recipe.range.map_or(reachable, |range| {
            let range = RangeSet::from(vec![range]);
            facts.offer.usable.intersection(&range).bytes().min(reachable)
        });
        self.recipe.memory.map_or(in_range, |bytes| bytes.min(in_range))
    }
}
