//! Why a suspect leads: the observations that spoke for it most.

use super::bench::{Bench, BenchRun};
use super::case::{Case, Placement};
use super::cause::Space;
use super::fact::{Evidence, MarkClass, Place};
use super::likelihood::is_placed;
use super::posterior::{Named, compare, summed, take_in};
use super::suspect::Suspect;
use super::witness::About;

/// What was observed.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Observed {
    /// So many runs with these modules in these slots came to this.
    Ran {
        /// Module in each slot that was filled.
        placement: Placement,
        /// Modules that the job knows and that were not fitted.
        without: Vec<String>,
        /// It was fitted as in the run that failed first.
        as_first: bool,
        /// Settings in force, where others than in that run.
        settings: Option<String>,
        /// What came of it.
        came: Came,
        /// Runs.
        times: u32,
    },
    /// A module that had failed failed in another slot.
    Moved {
        /// The module.
        module: String,
        /// By what it was compared.
        class: MarkClass,
        /// The same failed again.
        same: bool,
    },
    /// A slot failed with another module.
    Stayed {
        /// The slot.
        slot: String,
        /// By what it was compared.
        class: MarkClass,
        /// The same failed again.
        same: bool,
    },
}

/// What came of a run.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Came {
    /// No error.
    Clean,
    /// Errors, in these slots; in none where no place is told.
    Errors(Vec<String>),
    /// It did not start.
    Dark,
    /// It started.
    Starts,
}

/// An observation, and how much it spoke for the suspect.
#[derive(Clone, Debug, PartialEq)]
pub struct Because {
    /// What was observed.
    pub observed: Observed,
    /// By how much it raised the natural logarithm of the odds of the suspect against everything else.
    pub weight: f64,
}

/// Less than twice the odds is not worth a word.
const LEAST: f64 = std::f64::consts::LN_2;

/// What spoke most for a suspect, at most so many, the weightiest first; equal observations are taken together.
pub fn because(case: &Case, suspect: &Suspect, most: usize) -> Vec<Because> {
    let bench = Bench::new(case);
    let mut space = Space::new(&bench);
    let mut named = Named::new();
    let mut all: Vec<Because> = Vec::new();
    let mut before = log_odds(&space, suspect);
    for (at, run) in bench.runs.iter().enumerate() {
        let last = at.checked_sub(1).map(|before| &bench.runs[before].fit);
        take_in(&bench, &mut space, &mut named, last, run, at == bench.first);
        let seen = log_odds(&space, suspect);
        add(&mut all, ran(&bench, at, run), seen - before);
        before = seen;
        for relation in run.relations.iter().filter(|_| !run.struck) {
            compare(&bench, &mut space, std::slice::from_ref(relation), &run.fit);
            let seen = log_odds(&space, suspect);
            let (class, same) = (relation.class, relation.same);
            let observed = match relation.about {
                About::Moved(module) => {
                    Observed::Moved { module: bench.modules[usize::from(module)].clone(), class, same }
                }
                About::Stayed(slot) => Observed::Stayed { slot: bench.slots[usize::from(slot)].clone(), class, same },
            };
            add(&mut all, observed, seen - before);
            before = seen;
        }
    }
    all.retain(|one| one.weight >= LEAST);
    all.sort_by(|a, b| b.weight.total_cmp(&a.weight));
    all.truncate(most);
    all
}

fn log_odds(space: &Space, suspect: &Suspect) -> f64 {
    let odds = summed(space);
    let own = odds.iter().find(|odds| odds.suspect == *suspect).map_or(0.0, |odds| odds.probability);
    let own = own.clamp(1e-12, 1.0 - 1e-12);
    (own / (1.0 - own)).ln()
}

fn add(all: &mut Vec<Because>, observed: Observed, weight: f64) {
    let alike = |one: &&mut Because| match (&one.observed, &observed) {
        (
            Observed::Ran { placement: a, settings: set_a, came: came_a, .. },
            Observed::Ran { placement: b, settings: set_b, came: came_b, .. },
        ) => a == b && set_a == set_b && came_a == came_b,
        (a, b) => a == b,
    };
    let Some(known) = all.iter_mut().find(alike) else {
        all.push(Because { observed, weight });
        return;
    };
    known.weight += weight;
    if let Observed::Ran { times, .. } = &mut known.observed {
        *times += 1;
    }
}

fn ran(bench: &Bench<'_>, at: usize, run: &BenchRun) -> Observed {
    let fact = &bench.case.runs[at];
    let came = match &fact.evidence {
        Evidence::Clean => Came::Clean,
        Evidence::Dark => Came::Dark,
        Evidence::Starts => Came::Starts,
        Evidence::Errors(_) if !is_placed(bench, &run.fit) => Came::Errors(Vec::new()),
        Evidence::Errors(Place::Slot(slot)) => Came::Errors(vec![slot.clone()]),
        Evidence::Errors(Place::Several(slots)) => Came::Errors(slots.clone()),
        Evidence::Errors(_) => Came::Errors(Vec::new()),
    };
    let slots = run.fit.module_in.iter().zip(&bench.slots);
    let placement =
        slots.filter_map(|(module, slot)| Some((slot.clone(), bench.modules[usize::from((*module)?)].clone())));
    // A known-good one was not fitted because it came later.
    let spare = |module: &usize| bench.known_good[*module];
    let missing = (0..bench.modules.len()).filter(|module| run.fit.slot_of[*module].is_none() && !spare(module));
    let first = &bench.runs[bench.first].fit;
    let set = |at: usize| bench.case.runs[at].settings.as_str();
    let other = run.fit.setting != first.setting && !set(at).is_empty();
    Observed::Ran {
        placement: placement.collect(),
        without: missing.map(|module| bench.modules[module].clone()).collect(),
        as_first: run.fit.module_in == first.module_in,
        settings: other.then(|| set(at).to_owned()),
        came,
        times: 1,
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::isolate::{KnownModule, Mark, RunFact};

    fn placed(places: &[(&str, &str)]) -> Vec<(String, String)> {
        places.iter().map(|(slot, module)| ((*slot).to_owned(), (*module).to_owned())).collect()
    }

    fn failed(places: &[(&str, &str)], cell: &str, slot: &str) -> RunFact {
        let mark = Mark { slot: slot.into(), class: MarkClass::Cells, id: cell.into() };
        let clean = RunFact::clean(placed(places), 40.0, 4.0);
        RunFact { evidence: Evidence::Errors(Place::Unknown), marks: vec![mark], ..clean }
    }

    fn of(runs: Vec<RunFact>, suspect: &Suspect) -> Vec<Because> {
        let case = Case { modules: ["green", "red"].map(KnownModule::of).into(), runs, ..Case::default() };
        because(&case, suspect, 3)
    }

    #[test]
    fn the_same_cells_in_another_slot_are_said() {
        let runs = vec![failed(&[("A1", "red")], "7", "A1"), failed(&[("B1", "red")], "7", "B1")];
        let all = of(runs, &Suspect::Module("red".into()));
        let moved = Observed::Moved { module: "red".into(), class: MarkClass::Cells, same: true };
        assert!(all.iter().any(|one| one.observed == moved), "{all:?}");
        assert!(all.windows(2).all(|two| two[0].weight >= two[1].weight));
    }

    #[test]
    fn equal_runs_count_together_and_a_struck_one_says_nothing() {
        let both = [("A1", "green"), ("B1", "red")];
        let errors = RunFact { marks: Vec::new(), ..failed(&both, "", "") };
        let clean = RunFact::clean(placed(&[("A1", "green")]), 40.0, 4.0);
        let struck = RunFact { struck: true, ..failed(&[("A1", "green")], "9", "A1") };
        let all = of(vec![errors, clean.clone(), clean, struck], &Suspect::Module("red".into()));
        let (placement, without) = (placed(&[("A1", "green")]), vec!["red".to_owned()]);
        let clean = Observed::Ran { placement, without, as_first: false, settings: None, came: Came::Clean, times: 2 };
        assert!(all.iter().any(|one| one.observed == clean), "{all:?}");
        let struck =
            |one: &Because| matches!(&one.observed, Observed::Ran { as_first: false, came: Came::Errors(_), .. });
        assert!(!all.iter().any(struck), "{all:?}");
    }

    #[test]
    fn what_speaks_against_a_suspect_is_no_reason_for_it() {
        let runs = vec![failed(&[("A1", "red")], "7", "A1"), failed(&[("B1", "red")], "7", "B1")];
        assert_eq!(of(runs, &Suspect::Slot("A1".into())), [], "the module took its cells along");
    }
}
