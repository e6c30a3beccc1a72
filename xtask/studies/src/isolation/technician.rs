//! Who does what the planner proposes: to the letter, or as people in a hurry do.

use fastrand::Rng;
use revisum_diagnose::isolate::{RunFact, Suspect};

use super::world::{Outfit, module_name, slot_name};

/// Steps that somebody stubborn does otherwise than proposed.
const IGNORES: f64 = 0.5;
/// Of those, steps in which modules are moved at will; in the others everything stays as it is.
const MOVES: f64 = 0.5;
/// Jobs in which two equal modules are taken for each other from the second step on.
const MIXES: f64 = 0.1;
/// Runs with errors that are struck out although they are true.
const STRIKES: f64 = 0.1;

/// Somebody stubborn.
pub struct Technician {
    rng: Rng,
    outfit: Outfit,
    /// Two modules that are taken for each other.
    mixed: Option<(String, String)>,
    steps: usize,
}

impl Technician {
    /// One for a job.
    pub fn new(outfit: &Outfit, seed: u64) -> Self {
        let mut rng = Rng::with_seed(seed ^ 0x7ec4);
        let first = rng.usize(..outfit.modules);
        let other = (first + 1 + rng.usize(..outfit.modules - 1)) % outfit.modules;
        let both = (module_name(outfit, first), module_name(outfit, other));
        Self { mixed: (rng.f64() < MIXES).then_some(both), outfit: outfit.clone(), steps: 0, rng }
    }

    /// What is done instead of the proposed step, as it is recorded. `now` is what was recorded before.
    pub fn does(&mut self, proposed: RunFact, now: &RunFact) -> RunFact {
        self.steps += 1;
        if self.rng.f64() >= IGNORES {
            return proposed;
        }
        let passes = *self.rng.choice([1.0, 2.0, 4.0].iter()).unwrap_or(&4.0);
        let placement = if self.rng.f64() < MOVES { self.at_will() } else { now.placement.clone() };
        let minutes = passes * 10.0 * placement.len() as f64;
        RunFact { settings: now.settings.clone(), ..RunFact::clean(placement, minutes, passes) }
    }

    /// Some modules in some slots.
    fn at_will(&mut self) -> Vec<(String, String)> {
        let mut modules: Vec<usize> = (0..self.outfit.modules).collect();
        let mut slots: Vec<usize> = (0..self.outfit.slots()).collect();
        self.rng.shuffle(&mut modules);
        self.rng.shuffle(&mut slots);
        let count = self.rng.usize(1..=self.outfit.modules);
        let places = slots.iter().zip(&modules).take(count);
        places.map(|(slot, module)| (slot_name(&self.outfit, *slot), module_name(&self.outfit, *module))).collect()
    }

    /// What is really fitted where this is recorded, and the other way round.
    pub fn really(&self, run: RunFact) -> RunFact {
        let swap = |id: String| self.swapped(id);
        let placement = run.placement.into_iter().map(|(slot, id)| (slot, swap(id))).collect();
        let reseat = run.reseat.into_iter().map(swap).collect();
        let reach = run.reach.into_iter().map(|(id, part)| (swap(id), part)).collect();
        RunFact { placement, reseat, reach, ..run }
    }

    /// Whether a run is struck out that should not be.
    pub fn strikes(&mut self, run: &RunFact) -> bool {
        run.failed() && self.rng.f64() < STRIKES
    }

    /// The true answer by the names that modules go by now.
    pub fn by_name(&self, truth: Suspect) -> Suspect {
        let swap = |id| self.swapped(id);
        let pair = |a, b| {
            let (a, b) = (swap(a), swap(b));
            if a < b { (a, b) } else { (b, a) }
        };
        match truth {
            Suspect::Module(id) => Suspect::Module(swap(id)),
            Suspect::Combination(id) => Suspect::Combination(swap(id)),
            Suspect::ModuleAndSlot(id, slot) => Suspect::ModuleAndSlot(swap(id), slot),
            Suspect::Pair(a, b) => {
                let (a, b) = pair(a, b);
                Suspect::Pair(a, b)
            }
            Suspect::TwoModules(a, b) => {
                let (a, b) = pair(a, b);
                Suspect::TwoModules(a, b)
            }
            other => other,
        }
    }

    fn swapped(&self, id: String) -> String {
        match &self.mixed {
            Some((a, b)) if self.steps > 1 && id == *a => b.clone(),
            Some((a, b)) if self.steps > 1 && id == *b => a.clone(),
            _ => id,
        }
    }
}
