//! A job on a simulated machine: its runs as evidence, and what the advice makes of them.

use std::collections::BTreeMap;

use revisum_diagnose::address::Locator;
use revisum_diagnose::board::board_of;
use revisum_diagnose::isolate::{
    Case, Evidence, Experiment, KnownModule, KnownSlot, Reason, RunFact, Signs, Suspect, Verdict, advise, look_of,
    marks, one_module_pass_minutes, reach_of, reached,
};
use revisum_diagnose::machine::Machine;
use revisum_engine::recipe::Recipe;
use revisum_record::run_state::RunState;

use super::ran;

/// Minutes in which a machine that does not start shows it.
const DARK_MINUTES: f64 = 2.0;

/// A step, and what was put back into its slot before it.
struct Step {
    /// Nothing when the machine did not start.
    state: Option<(RunState, Locator)>,
    placement: Vec<(String, String)>,
    reseat: Vec<String>,
}

/// A job: all of its steps.
pub struct Job {
    pub machine: Machine,
    steps: Vec<Step>,
    /// Settings in force.
    settings: String,
    /// Minutes of a pass over one module, instead of those that it takes.
    slowed: Option<f64>,
    /// Maker and part number of every module that was fitted at some time.
    kits: BTreeMap<String, String>,
}

/// How a job ended.
pub struct Answer {
    pub named: Vec<Suspect>,
    pub reason: Option<Reason>,
    pub steps: usize,
}

impl Job {
    /// `slowed` is how many minutes a pass over one module is said to take: the machines are small, so that many jobs can be played.
    pub fn new(machine: Machine, slowed: Option<f64>) -> Self {
        let settings = machine.hands.as_ref().and_then(|hands| hands.settings().first().cloned()).unwrap_or_default();
        Self { machine, steps: Vec::new(), settings, slowed, kits: BTreeMap::new() }
    }

    /// Makes a step with what is fitted.
    pub fn step(&mut self, recipe: &Recipe, reseat: Vec<String>) {
        let board = board_of(self.machine.firmware.as_ref());
        let starts = self.machine.hands.as_ref().is_none_or(|hands| hands.starts().is_ok());
        let id = self.steps.len().to_string();
        let state = starts.then(|| {
            let mut state = ran(&self.machine, recipe, 1);
            (state.begin.settings, state.id) = (self.settings.clone(), id);
            (state, Locator::new(&board, self.machine.firmware.address_map()))
        });
        let kits = board
            .modules()
            .map(|(slot, module)| (module.identity(&slot.id), format!("{} {}", module.maker, module.part)));
        self.kits.extend(kits);
        self.steps.push(Step { state, placement: board.known_placement(), reseat });
    }

    /// Changes the machine to what is proposed.
    fn refit(&mut self, next: &Experiment) {
        let hands = self.machine.hands.clone().unwrap();
        if !next.settings.is_empty() {
            hands.set(&next.settings).unwrap();
            self.settings.clone_from(&next.settings);
        }
        hands.refit(&next.placement).unwrap();
        if !next.reseat.is_empty() {
            hands.reseat(&next.reseat).unwrap();
        }
    }

    /// Follows nothing but the advice; `first` is how the first run is made, `recipe` how a proposed one is.
    pub fn solve(&mut self, first: &Recipe, recipe: impl Fn(&Experiment) -> Recipe, most: usize) -> Answer {
        self.step(first, Vec::new());
        for steps in 1..=most {
            match advise(&self.case()).verdict {
                Verdict::Done { named, reason } => {
                    let named = named.into_iter().map(|odds| odds.suspect).collect();
                    return Answer { named, reason: Some(reason), steps };
                }
                Verdict::NothingToFind | Verdict::NotWhole => {
                    return Answer { named: Vec::new(), reason: None, steps };
                }
                Verdict::Open(step) => {
                    self.refit(&step.next);
                    self.step(&recipe(&step.next), step.next.reseat.clone());
                }
            }
        }
        Answer { named: Vec::new(), reason: None, steps: most }
    }

    /// The job as evidence.
    pub fn case(&self) -> Case {
        let board = board_of(self.machine.firmware.as_ref());
        let offered = self.machine.hands.as_ref().map(|hands| hands.settings()).unwrap_or_default();
        let ran = self.steps.iter().filter_map(|step| step.state.as_ref());
        let reach = reached(ran.clone().map(|(state, locator)| (state, locator)));
        let runs: Vec<RunFact> = self.steps.iter().filter_map(|step| self.fact(step, &reach)).collect();
        let measured = ran.filter_map(|(state, _)| one_module_pass_minutes(state)).next_back();
        let known =
            |(id, kit): (&String, &String)| KnownModule { kit: Some(kit.clone()), ..KnownModule::of(id.clone()) };
        Case {
            slots: board.slots.iter().map(KnownSlot::from).collect(),
            modules: self.kits.iter().map(known).collect(),
            settings: if offered.len() > 1 { offered } else { Vec::new() },
            map_known: true,
            reach: reach_of(&runs),
            pass_minutes: self.slowed.or(measured).unwrap_or(10.0),
            runs,
            ..Case::default()
        }
    }

    fn fact(&self, step: &Step, reach: &BTreeMap<String, Vec<(String, f64)>>) -> Option<RunFact> {
        let reseat = step.reseat.clone();
        let Some((state, locator)) = &step.state else {
            let dark = RunFact::clean(step.placement.clone(), DARK_MINUTES, 0.0);
            return Some(RunFact { evidence: Evidence::Dark, reseat, settings: self.settings.clone(), ..dark });
        };
        let fact = RunFact::of(state, true)?;
        let look = look_of(state, locator).filter(|_| state.has_errors());
        let marks = if state.has_errors() { marks(state, locator, look) } else { Vec::new() };
        let reach = reach.get(&state.id).cloned().unwrap_or_default();
        let signs = Signs { look, ..fact.signs };
        Some(self.slowed(state, RunFact { reseat, marks, reach, signs, ..fact }))
    }

    /// A run as if its modules were so large that a pass over one takes as long as is said.
    fn slowed(&self, state: &RunState, fact: RunFact) -> RunFact {
        let factor = self.slowed.zip(one_module_pass_minutes(state)).map_or(1.0, |(wanted, minutes)| wanted / minutes);
        RunFact {
            minutes: fact.minutes * factor,
            ran_minutes: fact.ran_minutes * factor,
            first_error_minutes: fact.first_error_minutes.map(|minutes| minutes * factor),
            ..fact
        }
    }
}
