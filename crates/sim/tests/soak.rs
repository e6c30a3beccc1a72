//! A run that goes on until the memory is as warm as it gets, and says whether warmth matters.

mod common;

use common::{machine, machine_with, ran};
use revisum_diagnose::address::Cell;
use revisum_engine::recipe::{Depth, Recipe};
use revisum_record::outcome::{EndedBy, Judgement};
use revisum_record::run_state::RunState;
use revisum_record::warmth::Says;
use revisum_sim::{FaultKind, FaultSpec};
use revisum_words::result;

fn soaked(for_seconds: Option<u64>) -> Recipe {
    Recipe { soak: true, for_seconds, ..Recipe::with_tests(Depth::Triage, vec!["random".to_owned()]) }
}

fn minutes(state: &RunState) -> u64 {
    state.t_ms / 60_000
}

/// Meteo warms from 29 to 54 °C with a time constant of 3.2 minutes; a cell of it forgets from 46 °C on.
#[test]
fn errors_of_warm_memory_are_told_as_such() {
    let state = ran(&machine("meteo", 1), &soaked(None), 1);
    assert!((12..30).contains(&minutes(&state)), "{} minutes", minutes(&state));
    assert!(state.celsius.unwrap().1 > 53.0);
    assert_eq!(state.warmth.says(), Some(Says::OnlyFrom { celsius: 45 }));
    let words = result::sentence(&Judgement::of(&state, false));
    assert!(words.contains("Errors came only at 45 °C and above"), "{words}");
}

#[test]
fn a_cell_that_always_fails_makes_no_difference() {
    let cell = Cell { rank: 0, bank: 3, row: 0x2b00, column: 9 };
    let stuck = FaultSpec { module: Some("4A770302".into()), ..FaultSpec::plain(FaultKind::StuckAt, cell, 5, 1) };
    let state = ran(&machine_with("meteo", vec![stuck]), &soaked(None), 1);
    assert_eq!(state.warmth.says(), Some(Says::NoDifference { from: 25, to: 55 }));
}

/// Ended by its time while it still became warmer, it is not complete, however many passes were clean.
#[test]
fn time_that_is_up_leaves_it_incomplete() {
    let state = ran(&machine_with("meteo", Vec::new()), &soaked(Some(240)), 1);
    let judgement = Judgement::of(&state, false);
    assert_eq!((judgement.ended_by, judgement.complete), (Some(EndedBy::Time), false));
    assert!(judgement.done.passes > 1);
    assert!(
        !result::headline(&judgement).starts_with("Clean on")
            && result::headline(&judgement).starts_with("Clean so far"),
        "{}",
        result::headline(&judgement)
    );
}

/// Cores that slow down when it is warm are told in the run, and beside the test that made them compute.
#[test]
fn the_clock_stands_beside_the_load() {
    let computing = Recipe { soak: true, ..Recipe::with_tests(Depth::Triage, vec!["computing".to_owned()]) };
    let state = ran(&machine("meteo", 1), &computing, 1);
    let clock = state.tests[0].clock.unwrap();
    assert_eq!((clock.lowest_mhz, clock.highest_mhz), (2600, 3100));
    assert_eq!(state.core_clock.unwrap().highest_mhz, 2600);
    // Memory alone: nobody tells a clock of that machine.
    assert_eq!(ran(&machine("dome-1", 1), &soaked(Some(60)), 1).core_clock, None);
}
