//! Benches on which advice by runs alone went wrong: played by the advice from the first run to the answer.
//!
//! `SEEDS=50 cargo test --release -p revisum-sim --test benches -- --nocapture` plays each fifty times and prints how it went.

mod common;

use common::job::{Answer, Job};
use revisum_diagnose::isolate::{Experiment, Suspect};
use revisum_engine::recipe::{Depth, Recipe};
use revisum_sim::{MachineSpec, SimOptions, simulated_machine};
use rstest::rstest;

const MOST_RUNS: usize = 30;
/// Minutes of a pass over one module, as on a machine with large ones: the simulated ones are small, so that fifty jobs can be played.
const PASS_MINUTES: f64 = 10.0;

fn recipe(passes: u32) -> Recipe {
    let tests = ["random", "march-c-"].map(str::to_owned).into();
    Recipe { passes: Some(passes), ..Recipe::with_tests(Depth::Triage, tests) }
}

/// Follows the advice: what was named in the end, and the runs after the first.
fn played(name: &str, seed: u64) -> (Vec<Suspect>, usize) {
    let path = std::path::Path::new(env!("CARGO_MANIFEST_DIR")).join("tests/benches").join(format!("{name}.toml"));
    let spec =
        MachineSpec::parse(&std::fs::read_to_string(path).unwrap()).unwrap_or_else(|error| panic!("{name}: {error}"));
    let machine = simulated_machine(spec, SimOptions { seed, ..SimOptions::default() });
    let proposed = |next: &Experiment| recipe(next.passes.ceil() as u32);
    let Answer { named, steps, .. } = Job::new(machine, Some(PASS_MINUTES)).solve(&recipe(4), proposed, MOST_RUNS);
    (named, steps - 1)
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
