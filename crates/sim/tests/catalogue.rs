//! Every test of the catalogue finds a fault that it is there for; where such a fault exists, one that the cheaper tests
//! before it miss.

mod common;

use common::{entries, folded, machine_with};
use revisum_diagnose::address::Cell;
use revisum_engine::catalog::CATALOG;
use revisum_engine::recipe::{Depth, Recipe};
use revisum_sim::{
    Aggressor, Extent, FaultKind, FaultSpec, MachineSpec, SimOptions, Supply, UnderLoad, shipped, simulated_machine,
};
use rstest::rstest;

const LOW: Cell = Cell { rank: 0, bank: 2, row: 0x1000, column: 0x10 };
const MIDDLE: Cell = Cell { rank: 0, bank: 2, row: 0x1400, column: 0x20 };
const HIGH: Cell = Cell { rank: 0, bank: 2, row: 0x1800, column: 0x1f0 };
/// The word beside the lowest one.
const BESIDE: Cell = Cell { column: 0x11, ..LOW };

fn fault(kind: FaultKind, lane: u8, value: u8) -> FaultSpec {
    FaultSpec { module: Some("C5118801".into()), ..FaultSpec::plain(kind, LOW, lane, value) }
}

fn coupled(kind: FaultKind, victim: Cell, aggressor: Cell, lane: u8, trigger: u8, value: u8) -> FaultSpec {
    let aggressor = Some(Aggressor { cell: aggressor, lane: (lane + 3) % 64, trigger });
    FaultSpec { cell: Some(victim), aggressor, ..fault(kind, lane, value) }
}

fn errors(test: &str, faults: &[FaultSpec]) -> u64 {
    let machine = machine_with("frontdesk", faults.to_vec());
    let recipe = Recipe::with_tests(Depth::Triage, vec![test.to_owned()]);
    folded(&entries(&machine, &recipe, 1)).errors.words
}

fn cheaper(test: &str) -> impl Iterator<Item = &'static str> {
    CATALOG.iter().map(|spec| spec.name.as_ref()).take_while(move |name| *name != test)
}

/// One fault on each of the first lanes: what random words miss on one lane they find on another.
fn on_lanes(make: fn(u8) -> Vec<FaultSpec>) -> Vec<Vec<FaultSpec>> {
    (0..40).map(make).collect()
}

/// Rises of two cells below the victim that undo each other wherever March C− looks; all three on one lane, so that no
/// background sets them against each other.
fn linked(lane: u8) -> Vec<FaultSpec> {
    let by = |cell, value| {
        let aggressor = Some(Aggressor { cell, lane, trigger: 1 });
        FaultSpec { cell: Some(HIGH), aggressor, ..fault(FaultKind::CouplingIdempotent, lane, value) }
    };
    vec![by(LOW, 1), by(MIDDLE, 0)]
}

#[rstest]
#[case::mats_plus("mats-plus", |lane| vec![coupled(FaultKind::CouplingIdempotent, HIGH, LOW, lane, 1, 1)])]
#[case::march_c("march-c-", |lane| vec![coupled(FaultKind::CouplingIdempotent, LOW, HIGH, lane, 0, 1)])]
#[case::lane_groups("lane-groups", |lane| vec![coupled(FaultKind::CouplingState, LOW, LOW, lane, 1, 1)])]
#[case::row_hopping("row-hopping", |lane| vec![FaultSpec { conflict: true, ..fault(FaultKind::IncorrectRead, lane, 1) }])]
#[case::march_lr("march-lr", linked)]
#[case::march_ss("march-ss", |lane| vec![fault(FaultKind::DeceptiveRead, lane, 1)])]
fn what_the_cheaper_ones_miss(#[case] test: &str, #[case] make: fn(u8) -> Vec<FaultSpec>) {
    let missed = on_lanes(make)
        .into_iter()
        .find(|faults| errors(test, faults) > 0 && cheaper(test).all(|cheaper| errors(cheaper, faults) == 0));
    assert!(missed.is_some(), "no such fault found");
}

/// A cell that keeps its bit for ten seconds: longer than any sweep takes here.
#[test]
fn idle_finds_what_forgets_slowly() {
    let slow = |value| FaultSpec { after_seconds: 10.0, ..fault(FaultKind::Retention, 5, value) };
    for value in [0, 1] {
        assert!(errors("idle", &[slow(value)]) > 0);
        for cheaper in cheaper("idle") {
            assert_eq!(errors(cheaper, &[slow(value)]), 0, "{cheaper}");
        }
    }
}

/// A cell that is refreshed while the machine is awake, and not by itself.
#[test]
fn sleep_finds_what_forgets_asleep() {
    let weak = |value| FaultSpec { asleep: true, after_seconds: 10.0, ..fault(FaultKind::Retention, 5, value) };
    for value in [0, 1] {
        assert!(errors("sleep", &[weak(value)]) > 0);
        for cheaper in cheaper("sleep") {
            assert_eq!(errors(cheaper, &[weak(value)]), 0, "{cheaper}");
        }
    }
}

/// Whatever draws current shows the first, only what draws most of it the second.
#[rstest]
#[case::computing("computing", UnderLoad::Computing, None)]
#[case::load_steps("load-steps", UnderLoad::Supply, Some(Supply { period_us: 200.0, quality: 3.0, margin: 0.5 }))]
fn load_finds_what_fails_under_load(#[case] test: &str, #[case] load: UnderLoad, #[case] supply: Option<Supply>) {
    let upset = FaultSpec {
        module: None,
        mainboard: true,
        cell: None,
        lane: None,
        extent: Extent::Module,
        load: Some(load),
        supply,
        per_hour: 200_000.0,
        ..fault(FaultKind::Upset, 0, 0)
    };
    assert!(errors(test, std::slice::from_ref(&upset)) > 0);
    for cheaper in cheaper(test) {
        assert_eq!(errors(cheaper, std::slice::from_ref(&upset)), 0, "{cheaper}");
    }
}

/// On a small memory the rows that are tried are soon all of them.
#[test]
fn row_disturbance_finds_a_row_that_disturbs() {
    let near = |row, lane| Aggressor { cell: Cell { rank: 0, bank: 2, row, column: 0 }, lane, trigger: 0 };
    let victim = |threshold| FaultSpec {
        cell: Some(Cell { rank: 0, bank: 2, row: 20, column: 9 }),
        aggressor: Some(near(19, 0)),
        threshold,
        ..fault(FaultKind::RowDisturb, 5, 0)
    };
    let errors = |test: &str, threshold| {
        let spec = MachineSpec {
            faults: vec![victim(threshold)],
            held_by_system: 0,
            ..shipped("frontdesk").unwrap().unwrap()
        };
        let machine = simulated_machine(spec, SimOptions::default());
        let tests = vec![test.to_owned()];
        let recipe = Recipe { passes: Some(60), memory: Some(16 << 20), ..Recipe::with_tests(Depth::Triage, tests) };
        folded(&entries(&machine, &recipe, 1)).errors.words
    };
    assert!(errors("row-disturbance", 50_000) > 0);
    assert_eq!(errors("row-disturbance", 2_000_000), 0, "beyond what the test opens rows for");
    assert_eq!(errors("random", 1), 0, "no sweep opens a row often");
}

/// Where no fault model of the simulation tells it from cheaper tests, a test at least finds what it is there for.
#[rstest]
#[case("random", vec![fault(FaultKind::StuckAt, 5, 1)])]
#[case("address-as-data", vec![FaultSpec { lane: None, ..coupled(FaultKind::DecoderOther, LOW, HIGH, 0, 0, 0) }])]
#[case("stripes", vec![coupled(FaultKind::CouplingState, LOW, BESIDE, 5, 1, 1)])]
#[case("crosstalk", vec![coupled(FaultKind::CouplingState, LOW, LOW, 5, 1, 1)])]
#[case("copies", vec![fault(FaultKind::StuckAt, 5, 0)])]
#[case("walking", vec![coupled(FaultKind::CouplingState, LOW, LOW, 5, 1, 0)])]
fn each_finds_its_own(#[case] test: &str, #[case] faults: Vec<FaultSpec>) {
    let machine = machine_with("frontdesk", faults);
    // Walking and crosstalk come to every lane within eight passes, copies to every word within a few.
    let recipe = Recipe { passes: Some(8), ..Recipe::with_tests(Depth::Triage, vec![test.to_owned()]) };
    assert!(folded(&entries(&machine, &recipe, 1)).errors.words > 0);
}

/// Two words whose addresses differ in one bit, and that one bit is not decoded.
#[test]
fn address_lines_find_a_line_that_does_nothing() {
    let spec = shipped("frontdesk").unwrap().unwrap();
    let broken = |column: u32| FaultSpec {
        cell: Some(Cell { column, ..LOW }),
        lane: None,
        aggressor: Some(Aggressor { cell: Cell { column: column ^ 1, ..LOW }, lane: 0, trigger: 0 }),
        ..fault(FaultKind::DecoderOther, 0, 0)
    };
    // The whole column line of a few rows: wherever a base address falls, its neighbour is one of them.
    let rows = (0..16).flat_map(|row| (0..16).map(move |bank| (row, bank)));
    let faults: Vec<FaultSpec> = rows
        .flat_map(|(row, bank)| {
            (0..512).map(move |pair| {
                let cell = |column| Cell { rank: 0, bank, row: row + 4, column };
                FaultSpec {
                    cell: Some(cell(2 * pair + 1)),
                    aggressor: Some(Aggressor { cell: cell(2 * pair), lane: 0, trigger: 0 }),
                    ..broken(0)
                }
            })
        })
        .collect();
    let machine = simulated_machine(MachineSpec { faults, held_by_system: 0, ..spec }, SimOptions::default());
    let recipe =
        Recipe { memory: Some(1 << 20), ..Recipe::with_tests(Depth::Triage, vec!["address-lines".to_owned()]) };
    assert!(folded(&entries(&machine, &recipe, 1)).errors.words > 0);
}

#[test]
fn every_test_of_the_catalogue_is_looked_at_here() {
    let here = include_str!("catalogue.rs");
    for test in CATALOG.iter() {
        assert!(here.contains(&format!("\"{}\"", test.name)), "{}", test.name);
    }
}
