//! Steps of load find what loses bits when the supply sags, and far sooner than computing alone.

mod common;

use common::{machine_with, ran};
use revisum_engine::recipe::{Depth, Recipe};
use revisum_sim::{
    Extent, FaultKind, FaultSpec, MachineSpec, SimOptions, Supply, UnderLoad, shipped, simulated_machine,
};
use rstest::rstest;

/// A slot whose supply rings at another period than heliostat's.
fn ringing() -> FaultSpec {
    FaultSpec {
        slot: Some("DIMM 1".into()),
        cell: None,
        lane: None,
        extent: Extent::Module,
        load: Some(UnderLoad::Supply),
        supply: Some(Supply { period_us: 2000.0, quality: 2.0, margin: 0.3 }),
        per_hour: 6000.0,
        ..FaultSpec::plain(FaultKind::Upset, Default::default(), 0, 0)
    }
}

/// Median milliseconds to the first error of a test by itself.
fn median_ms(name: &str, test: &str) -> u64 {
    let recipe = Recipe {
        passes: None,
        for_seconds: Some(3600),
        stop_after: Some(1),
        ..Recipe::with_tests(Depth::Survey, vec![test.to_owned()])
    };
    let mut times: Vec<u64> = (1..=21)
        .map(|seed| {
            let machine = match name {
                "ringing" => MachineSpec { faults: vec![ringing()], ..shipped("frontdesk").unwrap().unwrap() },
                name => shipped(name).unwrap().unwrap(),
            };
            let machine = simulated_machine(machine, SimOptions { seed, ..SimOptions::default() });
            ran(&machine, &recipe, seed).first_error_ms.unwrap_or(u64::MAX)
        })
        .collect();
    times.sort_unstable();
    times[times.len() / 2]
}

#[rstest]
#[case("heliostat")]
#[case("ringing")]
fn steps_of_load_find_it_five_times_as_soon(#[case] name: &str) {
    let (before, after) = (median_ms(name, "computing"), median_ms(name, "load-steps"));
    println!("{name}: computing {before} ms, load in steps {after} ms");
    assert!(before >= 5 * after, "{before} {after}");
}

/// What does not compute does not find it at all.
#[test]
fn sweeping_alone_does_not_find_it() {
    let recipe = Recipe { passes: Some(5), ..Recipe::with_tests(Depth::Triage, vec!["random".to_owned()]) };
    assert_eq!(ran(&machine_with("frontdesk", vec![ringing()]), &recipe, 1).errors.words, 0);
}
