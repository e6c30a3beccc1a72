//! Running a simulated machine without the application.
#![allow(dead_code)]

pub mod job;

use revisum_diagnose::address::{AddressMap, Locator};
use revisum_diagnose::machine::Machine;
use revisum_engine::estimate::Rates;
use revisum_engine::memory::LeaseRequest;
use revisum_engine::recipe::Recipe;
use revisum_engine::run::{Control, RunSetup, StartAt, expected, run};
use revisum_record::journal::{Begin, Entry, Framed, Held};
use revisum_record::run_state::RunState;
use revisum_sim::{FaultSpec, MachineSpec, SimOptions, shipped, simulated_machine};

/// A machine that comes with the program.
pub fn machine(name: &str, seed: u64) -> Machine {
    simulated_machine(shipped(name).unwrap().unwrap(), SimOptions { seed, ..SimOptions::default() })
}

/// A shipped machine with other faults.
pub fn machine_with(name: &str, faults: Vec<FaultSpec>) -> Machine {
    let spec = MachineSpec { faults, ..shipped(name).unwrap().unwrap() };
    simulated_machine(spec, SimOptions::default())
}

/// Everything that the engine tells of a run.
pub fn entries(machine: &Machine, recipe: &Recipe, seed: u64) -> Vec<Entry> {
    timed(machine, recipe, seed).into_iter().map(|(_, entry)| entry).collect()
}

/// The same, each with the milliseconds of the machine's clock since the run began.
pub fn timed(machine: &Machine, recipe: &Recipe, seed: u64) -> Vec<(u64, Entry)> {
    timed_by(machine, recipe, seed, machine.firmware.address_map())
}

/// The same where no more is known of addresses than this.
pub fn timed_by(machine: &Machine, recipe: &Recipe, seed: u64, map: Option<AddressMap>) -> Vec<(u64, Entry)> {
    let begin_ns = machine.clock.now_ns();
    let memory = machine
        .memory
        .lease(&LeaseRequest { bytes: recipe.memory, range: recipe.range, ..LeaseRequest::default() }, &|_, _| true)
        .unwrap();
    let board = revisum_diagnose::board::board_of(machine.firmware.as_ref());
    let facts = machine.firmware.facts();
    let locator = Locator::new(&board, map);
    let rates = Rates::uniform(1e10);
    let setup = RunSetup {
        memory: memory.as_ref(),
        clock: machine.clock.as_ref(),
        counters: machine.counters.as_ref(),
        sensors: machine.sensors.as_ref(),
        sleeper: machine.sleeper.as_ref(),
        places: &locator,
        recipe,
        seed,
        workers: &(0..facts.cores).collect::<Vec<_>>(),
        rates,
        cache_bytes: facts.cache_bytes,
        half_words: board.moves_half_words(),
        control: &Control::default(),
        from: &StartAt::default(),
    };
    let held = Held {
        bytes: memory.layout().bytes(),
        ranges: memory.layout().ranges_of(0..memory.layout().bytes()),
        addresses_known: memory.layout().addresses_known(),
        expected: expected(&recipe.specs().unwrap(), recipe, &rates, memory.layout().bytes(), facts.cores),
        ..Held::default()
    };
    let begin = Begin { recipe: Some(recipe.clone()), board, seed, ..Begin::default() };
    let mut all = vec![(0, Entry::Begin(Box::new(begin))), (0, Entry::Held(held))];
    run(&setup, &mut |entry| all.push(((machine.clock.now_ns() - begin_ns) / 1_000_000, entry.into()))).unwrap();
    all
}

/// What entries add up to, a second of simulated time each apart.
pub fn folded(entries: &[Entry]) -> RunState {
    let mut state = RunState::default();
    for (seq, entry) in (0u64..).zip(entries) {
        state.apply(&Framed { journal: "j".into(), seq, t_ms: seq, entry: entry.clone() });
    }
    state
}

/// What a run adds up to by the machine's own clock.
pub fn ran(machine: &Machine, recipe: &Recipe, seed: u64) -> RunState {
    let mut state = RunState::default();
    for (seq, (t_ms, entry)) in (0u64..).zip(timed(machine, recipe, seed)) {
        state.apply(&Framed { journal: "j".into(), seq, t_ms, entry });
    }
    state
}

/// Moves modules.
pub fn refit(machine: &Machine, placement: &[(&str, &str)]) {
    let placement: Vec<_> = placement.iter().map(|(slot, serial)| ((*slot).to_owned(), (*serial).to_owned())).collect();
    machine.hands.as_ref().unwrap().refit(&placement).unwrap();
}
