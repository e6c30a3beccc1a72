//! Cells that forget: by temperature, by refresh, and in one of two states only; and what clean passes are worth against the last.

mod common;

use common::ran;
use revisum_diagnose::address::Cell;
use revisum_engine::recipe::{Depth, Recipe};
use revisum_record::warmth::Says;
use revisum_sim::{FaultKind, FaultSpec, Keeps, MachineSpec, SimOptions, TwoStates, shipped, simulated_machine};
use rstest::rstest;

fn forgets() -> FaultSpec {
    let cell = Cell { rank: 0, bank: 3, row: 0x2b00, column: 9 };
    FaultSpec { module: Some("4A770302".into()), ..FaultSpec::plain(FaultKind::Retention, cell, 5, 1) }
}

fn meteo(fault: FaultSpec) -> MachineSpec {
    MachineSpec { faults: vec![fault], ..shipped("meteo").unwrap().unwrap() }
}

fn passes(passes: u32) -> Recipe {
    Recipe { passes: Some(passes), ..Recipe::with_tests(Depth::Triage, vec!["random".to_owned()]) }
}

/// Meteo warms from 29 to 54 °C; the cell keeps its bit for half a second in the cold and for less than the 64 ms of refresh from 46 °C on.
#[test]
fn retention_that_falls_with_temperature_shows_from_a_temperature_on() {
    let keeps = Some(Keeps { seconds: 0.256, celsius: 26.0, halved_by: 10.0 });
    let spec = meteo(FaultSpec { keeps, ..forgets() });
    let state = ran(&simulated_machine(spec, SimOptions::default()), &Recipe { soak: true, ..passes(1) }, 1);
    assert_eq!(state.warmth.says(), Some(Says::OnlyFrom { celsius: 45 }));
}

/// Settings that refresh less often need cells that keep their bits for longer.
#[rstest]
#[case("stock", false)]
#[case("relaxed", true)]
fn retention_that_falls_short_of_refresh_shows_in_those_settings(#[case] setting: &str, #[case] fails: bool) {
    let keeps = Some(Keeps { seconds: 0.128, celsius: 54.0, halved_by: 10.0 });
    let spec = meteo(FaultSpec { keeps, ..forgets() });
    let spec = MachineSpec {
        settings: vec![setting.to_owned()],
        refresh_ms: [("relaxed".to_owned(), 256.0)].into_iter().filter(|(name, _)| name == setting).collect(),
        heat: spec.heat.map(|heat| revisum_sim::Heat { ambient: 54.0, rise: 0.0, ..heat }),
        ..spec
    };
    let state = ran(&simulated_machine(spec, SimOptions::default()), &passes(2), 1);
    assert_eq!(state.errors.words > 0, fails);
}

/// Share of runs that stayed clean over four passes, of a cell that is weak for seven tenths of the time.
fn clean_share(cycle_minutes: f64) -> f64 {
    let runs = 200;
    let clean = (1..=runs).filter(|seed| {
        let two_states = TwoStates { well_minutes: 0.3 * cycle_minutes, weak_minutes: 0.7 * cycle_minutes };
        let spec = meteo(FaultSpec { two_states: Some(two_states), ..forgets() });
        let machine = simulated_machine(spec, SimOptions { seed: *seed, ..SimOptions::default() });
        ran(&machine, &passes(4), *seed).errors.words == 0
    });
    clean.count() as f64 / runs as f64
}

/// Four clean passes are said to rule out what shows in more than 53 % of passes. That holds for what comes by chance from pass to pass; a cell that
/// stays in one state for days is clean as often as it is well.
#[test]
fn clean_passes_rule_out_what_changes_from_pass_to_pass_and_not_what_stays_away_for_days() {
    let (quick, slow) = (clean_share(0.02), clean_share(5000.0));
    println!("clean over four passes: {:.1} % and {:.1} %", quick * 100.0, slow * 100.0);
    assert!(quick <= 0.05, "{quick}");
    assert!((slow - 0.3).abs() < 0.1, "{slow}");
}
