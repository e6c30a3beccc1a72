//! Benches on which advice by runs alone went wrong: played by the advice from the first run to the answer.
//!
//! `SEEDS=50 cargo test --release -p revisum-sim --test benches -- --nocapture` plays each fifty times and prints how it went.

mod common;

use std::collections::BTreeSet;

use common::ran;
use revisum_diagnose::address::Locator;
use revisum_diagnose::board::board_of;
use revisum_diagnose::isolate::{
    Case, KnownModule, KnownSlot, RunFact, Signs, Suspect, Verdict, advise, look_of, marks, one_module_pass_minutes,
    reach_of, reached,
};
use revisum_diagnose::machine::Machine;
use revisum_engine::recipe::{Depth, Recipe};
use revisum_record::run_state::RunState;
use revisum_sim::{MachineSpec, SimOptions, simulated_machine};
use rstest::rstest;

const MOST_RUNS: usize = 30;
/// Minutes of a pass over one module, as on a machine with large ones: the simulated ones are small, so that fifty jobs can be played.
const PASS_MINUTES: f64 = 10.0;

/// A run as if its modules were so large that a pass over one takes [`PASS_MINUTES`].
fn slowed(state: &RunState, fact: RunFact) -> RunFact {
    let factor = one_module_pass_minutes(state).map_or(1.0, |minutes| PASS_MINUTES / minutes);
    RunFact {
        minutes: fact.minutes * factor,
        ran_minutes: fact.ran_minutes * factor,
        first_error_minutes: fact.first_error_minutes.map(|minutes| minutes * factor),
        ..fact
    }
}

/// A job on a bench: all of its runs, and what was touched before each.
struct Job {
    machine: Machine,
    states: Vec<RunState>,
    locators: Vec<Locator>,
    reseats: Vec<Vec<String>>,
    /// Settings in force.
    settings: String,
}

impl Job {
    fn case(&self) -> Case {
        let board = board_of(self.machine.firmware.as_ref());
        let offered = self.machine.hands.as_ref().map(|hands| hands.settings()).unwrap_or_default();
        let locators = &self.locators;
        let reach = reached(self.states.iter().zip(locators));
        let runs: Vec<RunFact> = self
            .states
            .iter()
            .zip(locators)
            .zip(&self.reseats)
            .filter_map(|((state, locator), reseat)| {
                let fact = RunFact::of(state, true)?;
                let look = look_of(state, locator).filter(|_| state.has_errors());
                let marks = if state.has_errors() { marks(state, locator, look) } else { Vec::new() };
                let reach = reach.get(&state.id).cloned().unwrap_or_default();
                let signs = Signs { look, ..fact.signs };
                Some(slowed(state, RunFact { reseat: reseat.clone(), marks, reach, signs, ..fact }))
            })
            .collect();
        let modules: BTreeSet<String> = self
            .states
            .iter()
            .flat_map(|state| state.begin.board.known_placement())
            .map(|(_, module)| module)
            .collect();
        Case {
            slots: board.slots.iter().map(KnownSlot::from).collect(),
            modules: modules.into_iter().map(KnownModule::of).collect(),
            settings: if offered.len() > 1 { offered } else { Vec::new() },
            map_known: true,
            reach: reach_of(&runs),
            pass_minutes: PASS_MINUTES,
            runs,
            ..Case::default()
        }
    }

    fn run(&mut self, passes: u32, reseat: Vec<String>) {
        let tests = ["random", "march-c-"].map(str::to_owned).into();
        let recipe = Recipe { passes: Some(passes), ..Recipe::with_tests(Depth::Triage, tests) };
        let board = board_of(self.machine.firmware.as_ref());
        self.locators.push(Locator::new(&board, self.machine.firmware.address_map()));
        let mut state = ran(&self.machine, &recipe, 1);
        state.begin.settings = self.settings.clone();
        state.id = self.states.len().to_string();
        self.states.push(state);
        self.reseats.push(reseat);
    }
}

/// Follows the advice: what was named in the end, and the runs after the first.
fn played(name: &str, seed: u64) -> (Vec<Suspect>, usize) {
    let path = std::path::Path::new(env!("CARGO_MANIFEST_DIR")).join("tests/benches").join(format!("{name}.toml"));
    let spec =
        MachineSpec::parse(&std::fs::read_to_string(path).unwrap()).unwrap_or_else(|error| panic!("{name}: {error}"));
    let machine = simulated_machine(spec, SimOptions { seed, ..SimOptions::default() });
    let settings = machine.hands.as_ref().and_then(|hands| hands.settings().first().cloned()).unwrap_or_default();
    let mut job = Job { machine, states: Vec::new(), locators: Vec::new(), reseats: Vec::new(), settings };
    job.run(4, Vec::new());
    for runs in 0..MOST_RUNS {
        let case = job.case();
        match advise(&case).verdict {
            Verdict::Done { named, .. } => return (named.into_iter().map(|odds| odds.suspect).collect(), runs),
            Verdict::NothingToFind | Verdict::NotWhole => return (Vec::new(), runs),
            Verdict::Open(step) => {
                let hands = job.machine.hands.clone().unwrap();
                let next = step.next;
                if !next.settings.is_empty() {
                    hands.set(&next.settings).unwrap();
                    job.settings = next.settings.clone();
                }
                hands.refit(&next.placement).unwrap();
                if !next.reseat.is_empty() {
                    hands.reseat(&next.reseat).unwrap();
                }
                job.run(next.passes.ceil() as u32, next.reseat);
            }
        }
    }
    (Vec::new(), MOST_RUNS)
}

/// The truth in nineteen of twenty at least, in at most two runs more than an expert makes.
#[rstest]
#[case::two_places("two-places", Suspect::ModuleAndSlot("10B1".into(), "A2".into()), 4)]
#[case::stays("stays", Suspect::Slot("B1".into()), 2)]
#[case::laptop("laptop", Suspect::Module("50A1".into()), 2)]
#[case::socket("socket", Suspect::Channel("B".into()), 4)]
#[case::too_many("too-many", Suspect::TooMany, 4)]
#[case::near_slots("near-slots", Suspect::Position, 2)]
#[case::flood("flood", Suspect::Module("10B1".into()), 2)]
fn the_advice_ends_as_an_expert_does(#[case] name: &str, #[case] truth: Suspect, #[case] expert: usize) {
    let seeds = std::env::var("SEEDS").ok().and_then(|seeds| seeds.parse().ok()).unwrap_or(1u64);
    let (mut right, mut runs, mut most) = (0, 0, 0);
    for seed in 1..=seeds {
        let (named, made) = played(name, seed);
        let good = named.first() == Some(&truth);
        if !good {
            eprintln!("{name} seed {seed}: {named:?} after {made} runs");
        }
        right += u64::from(good);
        runs += made as u64;
        most = most.max(made);
    }
    eprintln!(
        "{name}: {right} of {seeds} right, {:.1} runs, at most {most}, an expert {expert}",
        runs as f64 / seeds as f64
    );
    assert!(right * 20 >= seeds * 19, "{name}: {right} of {seeds}");
    assert!(most <= expert + 2, "{name}: {most} runs, an expert makes {expert}");
}
