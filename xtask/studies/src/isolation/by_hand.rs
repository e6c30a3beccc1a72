//! How people look for the part by hand: one module after the other.

use revisum_diagnose::isolate::{RunFact, Suspect};

use super::world::{World, module_name, slot_name};

/// What a procedure came to.
pub struct Found {
    /// Causes named, best first.
    pub named: Vec<Suspect>,
    /// How likely it says that they are.
    pub stated: Option<f64>,
    /// Runs after the first.
    pub runs: Vec<RunFact>,
}

struct Bench<'a> {
    world: &'a mut World,
    passes: f64,
    runs: Vec<RunFact>,
}

impl Bench<'_> {
    fn fails(&mut self, placement: Vec<(String, String)>, settings: usize) -> bool {
        let minutes = self.passes * self.world.pass_minutes(&placement);
        let clean = RunFact::clean(placement, minutes, self.passes);
        let run = self.world.run(RunFact { settings: self.world.settings[settings].clone(), ..clean });
        self.runs.push(run.clone());
        run.failed()
    }
}

/// Everything as it was again if asked for, then each module alone in the first slot, the bad one named; when all are clean the slots are
/// tried with one module, then stock settings.
pub fn one_by_one(world: &mut World, passes: f64, careful: bool) -> Found {
    let outfit = world.outfit.clone();
    let all: Vec<_> = (0..outfit.modules).map(|at| (slot_name(&outfit, at), module_name(&outfit, at))).collect();
    let mut bench = Bench { world, passes, runs: Vec::new() };
    let named = search(&mut bench, &all, careful);
    Found { named: vec![named], stated: None, runs: bench.runs }
}

fn search(bench: &mut Bench<'_>, all: &[(String, String)], careful: bool) -> Suspect {
    if careful && !bench.fails(all.to_vec(), 0) {
        return Suspect::NoPart;
    }
    let first = all[0].0.clone();
    let mut bad: Vec<String> = Vec::new();
    for (_, module) in all {
        if bench.fails(vec![(first.clone(), module.clone())], 0) {
            bad.push(module.clone());
            if careful && bad.len() == 2 {
                break;
            }
        }
    }
    match &bad[..] {
        [] => {}
        [one] => return Suspect::Module(one.clone()),
        // Modules that all fail in one slot accuse the slot, unless it is another one too.
        several if several.len() == all.len() || careful => {
            let elsewhere = all.get(1).map_or(&first, |(slot, _)| slot).clone();
            let fails = bench.fails(vec![(elsewhere, several[0].clone())], 0);
            return if fails { Suspect::Controller } else { Suspect::Slot(first) };
        }
        several => return Suspect::TwoModules(several[0].clone(), several[1].clone()),
    }
    for (slot, _) in &all[1..] {
        if bench.fails(vec![(slot.clone(), all[0].1.clone())], 0) {
            return Suspect::Slot(slot.clone());
        }
    }
    if !bench.fails(all.to_vec(), 0) {
        return Suspect::NoPart;
    }
    if bench.world.settings.len() > 1 && !bench.fails(all.to_vec(), 1) {
        return Suspect::Settings;
    }
    Suspect::Controller
}
