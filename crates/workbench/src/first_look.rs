//! A look at memory that the program itself is about to use, before it does: what fails stays out of use, and the first run counts it.

use std::sync::Arc;

use revisum_diagnose::address::Locator;
use revisum_diagnose::machine::Machine;
use revisum_engine::estimate::Rates;
use revisum_engine::memory::{LeaseError, LeaseRequest, Memory, MemorySource};
use revisum_engine::news::{ErrorReport, News};
use revisum_engine::places::Places;
use revisum_engine::recipe::{Depth, Recipe};
use revisum_engine::run::{Control, RunSetup, StartAt, run};
use revisum_engine::tally::Tally;
use revisum_engine::units::MIB;
use revisum_record::fitted::Board;

/// What the program takes for itself, at most.
const MOST: u64 = 64 * MIB;
/// Where there is less than that, one part in so many is looked at.
const SHARE: u64 = 2;
/// Each cell is written and read with both values, in both directions: van de Goor, "Testing Semiconductor Memories", 1991.
const TEST: &str = "march-c-";
/// Bytes a second for how far it is; nobody sees that.
const RATE: f64 = 5e9;

/// Looks, and returns how many words read wrong. Where no memory can be had for that, none was seen to fail.
pub fn first_look(machine: &Machine, cores: usize) -> u64 {
    let Some(memory) = memory_for_itself(machine.memory.as_ref()) else { return 0 };
    let bytes = memory.layout().bytes();
    let recipe = Recipe::with_tests(Depth::Triage, vec![TEST.to_owned()]);
    let mut found = Tally::default();
    let setup = RunSetup {
        memory: memory.as_ref(),
        clock: machine.clock.as_ref(),
        counters: machine.counters.as_ref(),
        sensors: machine.sensors.as_ref(),
        sleeper: machine.sleeper.as_ref(),
        places: &Locator::new(&Board::default(), None),
        recipe: &recipe,
        seed: 0,
        workers: &(0..cores.max(1)).collect::<Vec<_>>(),
        rates: Rates::uniform(RATE),
        // All of it may lie in a cache: each element is followed by writing back.
        cache_bytes: bytes,
        half_words: false,
        control: &Control::default(),
        from: &StartAt::default(),
    };
    // A test of the catalogue can always be run.
    let _ = run(&setup, &mut |news| {
        if let News::Errors(report) = news {
            found.merge(&report.tally, usize::MAX);
        }
    });
    machine.own_memory.found(&found);
    found.words
}

fn memory_for_itself(source: &dyn MemorySource) -> Option<Arc<dyn Memory>> {
    let take = |bytes: u64| {
        let request = LeaseRequest { bytes: Some(bytes), of_system: true, ..LeaseRequest::default() };
        source.lease(&request, &|_, _| true)
    };
    match take(MOST) {
        Err(LeaseError::TooMuch { reachable, .. }) if reachable >= SHARE * MIB => {
            take(reachable / SHARE / MIB * MIB).ok()
        }
        taken => taken.ok(),
    }
}

/// What was found then, for the record of the first run; nothing when there was nothing, or another run has it. Where addresses belong is known by now.
pub(crate) fn found_before(machine: &Machine, places: &dyn Places) -> Option<ErrorReport> {
    let mut tally = machine.own_memory.take()?;
    for sample in &mut tally.samples {
        (sample.slots, sample.certainty) = places.slots_of(sample.address);
    }
    let mut slots: Vec<&Vec<String>> = tally.samples.iter().map(|sample| &sample.slots).collect();
    slots.dedup();
    // Not all of the words are kept one by one: only where those that are agree it is known where all belong.
    if let [slots] = slots[..] {
        tally.slots = [(slots.join(" "), tally.words)].into();
    }
    Some(ErrorReport { pass: 1, test: TEST.to_owned(), tally })
}

#[cfg(test)]
mod tests {
    use revisum_engine::sweep::second_look::Kind;
    use revisum_record::outcome::{Judgement, Outcome};
    use revisum_records::{DataDir, read_run};
    use revisum_sim::SimOptions;
    use rstest::rstest;

    use super::*;
    use crate::go_on::Start;
    use crate::rates::{Measured, Rated};
    use crate::runner::{Order, start};

    /// What was found is counted by one run, with the slot that it lies in by what is known of addresses then.
    #[rstest]
    #[case::bad("radio", true)]
    #[case::good("frontdesk", false)]
    fn what_the_first_look_finds_is_counted_once(#[case] name: &str, #[case] bad: bool) {
        let machine = crate::wire::simulated(name, SimOptions { pace: 0.0, ..SimOptions::default() }).unwrap();
        let words = first_look(&machine, 2);
        assert_eq!(words > 0, bad);
        let board = revisum_diagnose::board::board_of(machine.firmware.as_ref());
        let locator = Locator::new(&board, machine.firmware.address_map());
        let report = found_before(&machine, &locator);
        assert_eq!(report.as_ref().map_or(0, |report| report.tally.words), words);
        if let Some(report) = report {
            let of_slots: u64 = report.tally.slots.values().sum();
            assert_eq!((of_slots, report.tally.samples.is_empty()), (words, false));
            assert!(report.tally.samples.iter().all(|sample| !sample.slots.is_empty()), "{report:?}");
        }
        assert_eq!(found_before(&machine, &locator), None);
    }

    /// A run over memory that is right is not clean when the memory for the program itself was not; the next run is.
    #[test]
    fn a_run_is_no_better_than_what_was_found_before_it() {
        let folder = tempfile::tempdir().unwrap();
        let data = DataDir::choose(Some(folder.path()), None).unwrap();
        data.prepare().unwrap();
        let machine = crate::wire::simulated("frontdesk", SimOptions { pace: 0.0, ..SimOptions::default() }).unwrap();
        let machine = Arc::new(machine);
        let mut found = Tally::default();
        found.add_words(3, "", Kind::NotLooked, 0);
        machine.own_memory.found(&found);
        let run = || {
            let rated = Rated::default();
            rated.get_or_init(|| Measured::of(&machine, None));
            let recipe = Recipe::with_tests(Depth::Triage, vec!["random".to_owned()]);
            let order = Order {
                machine: machine.clone(),
                board: revisum_diagnose::board::board_of(machine.firmware.as_ref()),
                what: Start::new(recipe),
                seed: 7,
                rated,
                data: data.clone(),
                job: "frontdesk".to_owned(),
            };
            let id = start(order, || ()).wait().unwrap();
            read_run(&data.runs().join(format!("{id}.journal"))).unwrap().state
        };
        let (first, second) = (run(), run());
        assert_eq!((first.errors.words, Judgement::of(&first, false).outcome), (3, Outcome::ErrorsFound));
        assert_eq!((second.errors.words, Judgement::of(&second, false).outcome), (0, Outcome::Clean));
    }
}
