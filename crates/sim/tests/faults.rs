//! Faults in simulated memory are detected by the engine exactly where the grade of the test says so.

mod common;

use common::{entries, folded, machine_with};
use revisum_diagnose::address::{Cell, Locator};
use revisum_engine::catalog::{CATALOG, find_test};
use revisum_engine::grade::{Model, grade};
use revisum_engine::recipe::{Depth, Recipe};
use revisum_record::run_state::RunState;
use revisum_sim::{Aggressor, Extent, FaultKind, FaultSpec, MachineSpec, SimOptions, shipped, simulated_machine};
use rstest::rstest;

const LOW: Cell = Cell { rank: 0, bank: 2, row: 0x1000, column: 0x10 };
const HIGH: Cell = Cell { rank: 0, bank: 2, row: 0x1800, column: 0x3f0 };

fn fault(kind: FaultKind, value: u8) -> FaultSpec {
    FaultSpec { module: Some("C5118801".into()), ..FaultSpec::plain(kind, LOW, 5, value) }
}

fn run(test: &str, fault: FaultSpec) -> RunState {
    let machine = machine_with("frontdesk", vec![fault]);
    let recipe = Recipe { tests: vec![test.into()], ..Recipe::of_depth(Depth::Triage) };
    folded(&entries(&machine, &recipe, 1))
}

fn graded(model: Model) -> f64 {
    let grades = grade(&find_test("march-c-").unwrap().march()).unwrap();
    grades.into_iter().find(|(graded, _)| *graded == model).unwrap().1.share
}

#[rstest]
#[case(FaultKind::StuckAt, Model::StuckAt)]
#[case(FaultKind::Transition, Model::Transition)]
#[case(FaultKind::WriteDisturb, Model::WriteDisturb)]
#[case(FaultKind::ReadDestructive, Model::ReadDestructive)]
#[case(FaultKind::DeceptiveRead, Model::DeceptiveReadDestructive)]
#[case(FaultKind::IncorrectRead, Model::IncorrectRead)]
fn single_cells(#[case] kind: FaultKind, #[case] model: Model) {
    let share = graded(model);
    assert!(share == 0.0 || share == 1.0, "march C− finds all or none of these");
    // A grade counts what is found whatever the memory holds at first; simulated memory holds zeros at first, which by
    // luck shows one of two write disturb faults.
    let found = (0..=1).filter(|value| run("march-c-", fault(kind, *value)).errors.words > 0).count();
    assert_eq!(found == 2, share == 1.0, "{found} of 2 found");
}

#[rstest]
#[case(FaultKind::CouplingIdempotent, Model::CouplingIdempotent)]
#[case(FaultKind::CouplingInversion, Model::CouplingInversion)]
#[case(FaultKind::CouplingState, Model::CouplingState)]
fn couplings(#[case] kind: FaultKind, #[case] model: Model) {
    assert_eq!(graded(model), 1.0);
    for (victim, aggressor) in [(LOW, HIGH), (HIGH, LOW)] {
        for (trigger, value) in [(0, 0), (0, 1), (1, 0), (1, 1)] {
            let aggressor = Some(Aggressor { cell: aggressor, lane: 61, trigger });
            let fault = FaultSpec { cell: Some(victim), aggressor, ..fault(kind, value) };
            let state = run("march-c-", fault);
            assert!(state.errors.words > 0, "trigger {trigger}, value {value}, victim {victim:?}");
            let lanes: Vec<u8> = state.errors.lanes.wrong().map(|(lane, ..)| lane).collect();
            assert_eq!(lanes, [5], "only the victim is wrong");
        }
    }
}

/// The four decoder faults and the open cell, as the grade has them: March C− finds every decoder fault, and no open cell;
/// a test that reads what it has just written in the same element finds that.
#[rstest]
#[case(FaultKind::DecoderNone, "march-c-", true)]
#[case(FaultKind::DecoderTaken, "march-c-", true)]
#[case(FaultKind::DecoderOther, "march-c-", true)]
#[case(FaultKind::DecoderBoth, "march-c-", true)]
#[case(FaultKind::DecoderOther, "address-as-data", true)]
#[case(FaultKind::StuckOpen, "march-c-", false)]
fn decoder_and_open(#[case] kind: FaultKind, #[case] test: &str, #[case] found: bool) {
    for (victim, aggressor) in [(LOW, HIGH), (HIGH, LOW)] {
        for value in [0, 1] {
            let other = Aggressor { cell: aggressor, lane: 0, trigger: 0 };
            let needs = !matches!(kind, FaultKind::DecoderNone | FaultKind::StuckOpen);
            let lane = if kind == FaultKind::StuckOpen { Some(5) } else { None };
            let fault = FaultSpec { cell: Some(victim), lane, aggressor: needs.then_some(other), ..fault(kind, value) };
            assert_eq!(run(test, fault).errors.words > 0, found, "{kind:?} {value} {victim:?}");
        }
    }
}

/// What stands between the cells and the processor: check bits and the die's own correction hide single bits, the one
/// counted, the other not; scrambling changes what the cells hold, and complements survive it.
#[rstest]
#[case::plain(false, false, false, 1, Some(3), 0)]
#[case::check_bits(true, false, false, 1, Some(0), 3)]
#[case::on_die(false, true, false, 1, Some(0), 0)]
#[case::both_see_two_bits(true, true, false, 2, Some(3), 0)]
#[case::scrambled(false, false, true, 1, None, 0)]
fn between_cells_and_processor(
    #[case] ecc: bool,
    #[case] on_die: bool,
    #[case] scrambled: bool,
    #[case] lanes: u8,
    #[case] words: Option<u64>,
    #[case] corrected: u64,
) {
    let mut spec = shipped("frontdesk").unwrap().unwrap();
    (spec.ecc, spec.scrambled) = (ecc, scrambled);
    spec.modules[0].on_die = on_die;
    spec.faults = (0..lanes).map(|lane| FaultSpec { lane: Some(lane), ..fault(FaultKind::StuckAt, 1) }).collect();
    let machine = simulated_machine(spec, SimOptions::default());
    let recipe = Recipe { tests: vec!["march-c-".into()], ..Recipe::of_depth(Depth::Triage) };
    let state = folded(&entries(&machine, &recipe, 1));
    match words {
        Some(words) => assert_eq!(state.errors.words, words),
        // The cell reads wrong where the scrambled bit should be 0: three times, or the other two of five reads.
        None => assert!([2, 3].contains(&state.errors.words)),
    }
    assert_eq!(state.hardware.corrected > 0, corrected > 0);
}

/// Leaving sound words out changes nothing: a small array executed word by word says the same, clean or faulty.
#[rstest]
#[case(None)]
#[case(Some(FaultKind::StuckAt))]
#[case(Some(FaultKind::CouplingInversion))]
fn every_word_executed_says_the_same(#[case] kind: Option<FaultKind>) {
    // The first words after the first MiB, which two channels share; bank bits are hashed with row bits.
    let near = |column| Cell { rank: 0, bank: 4, row: 4, column };
    let fault = kind.map(|kind| {
        let aggressor = kind.is_coupling().then_some(Aggressor { cell: near(0x31), lane: 7, trigger: 1 });
        FaultSpec { cell: Some(near(0x20)), aggressor, ..fault(kind, 1) }
    });
    let seen = |every_word| {
        let spec = MachineSpec {
            faults: fault.clone().into_iter().collect(),
            held_by_system: 0,
            ..shipped("frontdesk").unwrap().unwrap()
        };
        let machine = simulated_machine(spec, SimOptions { every_word, ..SimOptions::default() });
        let recipe = Recipe { memory: Some(64 << 10), ..Recipe::of_depth(Depth::Triage) };
        folded(&entries(&machine, &recipe, 1)).errors
    };
    let (all, few) = (seen(true), seen(false));
    assert_eq!(all, few);
    assert_eq!(all.words > 0, kind.is_some());
}

/// Simulated memory without a fault stays clean under every test, and so does a fault whose condition does not hold.
#[test]
fn nothing_is_found_where_nothing_is() {
    let absent = FaultSpec { channels: 3, ..fault(FaultKind::StuckAt, 1) };
    for test in CATALOG.iter() {
        assert_eq!(run(&test.name, absent.clone()).errors.words, 0, "{}", test.name);
    }
}

#[rstest]
#[case(Extent::Row, 1024)]
#[case(Extent::Column, 1 << 15)]
fn a_row_or_a_column_fails_as_a_whole_and_nothing_else(#[case] extent: Extent, #[case] words: u64) {
    let stuck = FaultSpec { extent, ..fault(FaultKind::StuckAt, 1) };
    let machine = machine_with("frontdesk", vec![stuck.clone()]);
    let state = run("march-c-", stuck);
    let held_back = match extent {
        // The first rows lie in what the running system holds.
        Extent::Column => state.errors.words / 3,
        _ => words,
    };
    assert_eq!(state.errors.words, 3 * held_back, "each word is read as 0 three times");
    assert!(held_back <= words && held_back > words * 9 / 10);
    let board = revisum_diagnose::board::board_of(machine.firmware.as_ref());
    let locator = Locator::new(&board, machine.firmware.address_map());
    for sample in &state.errors.samples {
        let cell = locator.attribute(sample.address).cell.unwrap();
        assert_eq!(cell.bank, LOW.bank);
        match extent {
            Extent::Row => assert_eq!(cell.row, LOW.row),
            _ => assert_eq!(cell.column, LOW.column),
        }
    }
}
