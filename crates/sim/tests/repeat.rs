//! A repeat shows again what a run showed, in a fraction of its time, and on a machine that is as warm as it was.

mod common;

use common::{machine, ran};
use revisum_diagnose::repeat::repeat;
use revisum_engine::recipe::{Depth, Recipe};
use revisum_record::outcome::{Judgement, Outcome};
use rstest::rstest;

/// Every test of the catalogue, until the first error.
fn survey() -> Recipe {
    Recipe { stop_after: Some(1), ..Recipe::of_depth(Depth::Survey) }
}

/// Where only warm memory fails the first run has to warm it, and where only computing shows it all other tests come before.
#[rstest]
#[case::warm("meteo")]
#[case::computing("heliostat")]
fn a_repeat_takes_a_tenth_of_the_time(#[case] name: &str) {
    let machine = machine(name, 1);
    let first = ran(&machine, &survey(), 1);
    let found_ms = first.first_error_ms.unwrap();
    let (recipe, of) = repeat(&first).unwrap();
    assert_eq!(recipe.tests.len(), 1, "only the test that showed it");
    assert!(recipe.for_seconds.unwrap() as f64 >= 2.0 * of.first_error_seconds);
    let again = ran(&machine, &recipe, 2);
    let again_ms = again.first_error_ms.unwrap();
    assert!(again_ms * 10 <= found_ms, "first after {found_ms} ms, again after {again_ms} ms");
    println!("{name}: first after {found_ms} ms, again after {again_ms} ms");
}

/// Switched off in between it is cold again: the repeat has the time to warm it.
#[test]
fn a_repeat_warms_a_cold_machine() {
    let first = ran(&machine("meteo", 1), &survey(), 1);
    let (recipe, of) = repeat(&first).unwrap();
    assert!(of.celsius.unwrap() > 45.0, "{of:?}");
    let again = ran(&machine("meteo", 1), &recipe, 2);
    assert_eq!(Judgement::of(&again, false).outcome, Outcome::ErrorsFound);
}

/// With the module that failed out of the machine a repeat finds nothing, and says so.
#[test]
fn what_is_cured_is_not_shown_again() {
    let machine = machine("dome-1", 1);
    let first = ran(&machine, &survey(), 1);
    let (recipe, _) = repeat(&first).unwrap();
    common::refit(&machine, &[("A1", "4A220093")]);
    let again = ran(&machine, &Recipe { range: None, ..recipe }, 2);
    assert_eq!(Judgement::of(&again, false).outcome, Outcome::Clean);
}
