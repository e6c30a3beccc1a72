//! The machines of the workshop show their truth and only that, and the advice leads to it.

mod common;

use common::job::{Answer, Job};
use common::{entries, folded, machine, machine_with, refit};
use revisum_diagnose::address::Cell;
use revisum_diagnose::isolate::{Experiment, Reason, Suspect};
use revisum_diagnose::machine::Machine;
use revisum_engine::memory::{LeaseError, LeaseRequest};
use revisum_engine::recipe::{Depth, Recipe};
use revisum_record::journal::Entry;
use revisum_record::outcome::{Judgement, Outcome};
use revisum_record::run_state::RunState;
use revisum_sim::{Extent, FaultKind, FaultSpec, SimOptions, simulated_machine};
use rstest::rstest;

/// Three tests, thirteen sweeps a pass: enough for what is looked at here.
fn short(passes: u32) -> Recipe {
    let tests = ["random", "address-as-data", "march-c-"].map(str::to_owned).into();
    Recipe { passes: Some(passes), ..Recipe::with_tests(Depth::Triage, tests) }
}

/// A run of so many passes, its times taken from the simulated clock.
fn run(machine: &Machine, passes: u32) -> RunState {
    run_of(machine, &short(passes))
}

fn run_of(machine: &Machine, recipe: &Recipe) -> RunState {
    let begin_ns = machine.clock.now_ns();
    let mut state = folded(&entries(machine, recipe, 1));
    state.t_ms = (machine.clock.now_ns() - begin_ns) / 1_000_000;
    state
}

/// Where errors are placed, or nothing when it is clean.
fn seen(machine: &Machine, passes: u32) -> Vec<String> {
    let state = run(machine, passes);
    assert!(matches!(Judgement::of(&state, false).outcome, Outcome::Clean | Outcome::ErrorsFound));
    state.errors.slots.keys().cloned().collect()
}

/// `(machine, fitting, passes, slots with errors)`; an empty fitting is the one found.
#[rstest]
#[case::slot_as_found("spectro", &[], 1, &["B1"])]
#[case::slot_other_module("spectro", &[("B1", "C5710411"), ("A1", "C5710412")], 1, &["B1"])]
#[case::slot_left_empty("spectro", &[("A1", "C5710411"), ("B2", "C5710412")], 1, &[])]
#[case::combination_as_found("stacker", &[], 60, &["B2"])]
#[case::combination_alone("stacker", &[("A1", "4A330054")], 200, &[])]
#[case::combination_in_one_channel("stacker", &[("A1", "4A330054"), ("A2", "4A330051")], 100, &[])]
#[case::combination_two_channels("stacker", &[("A1", "4A330054"), ("B1", "4A330051")], 200, &["A1"])]
#[case::combination_without_it("stacker", &[("A1", "4A330051"), ("B1", "4A330052"), ("C1", "4A330053")], 100, &[])]
#[case::contact_as_found("allsky", &[], 20, &["B1"])]
#[case::kits_together("guide", &[], 40, &["B2"])]
#[case::new_kit_alone("guide", &[("A1", "4A910015"), ("B1", "4A910016")], 100, &[])]
#[case::old_kit_alone("guide", &[("A1", "C5640071"), ("B1", "C5640072")], 100, &[])]
#[case::cold("meteo", &[], 1, &[])]
#[case::warm("meteo", &[], 120, &["M1"])]
#[case::profile_in_force("tracker", &[], 20, &["A2", "B2"])]
#[case::package("radio", &[], 1, &["B1"])]
#[case::package_moved("radio", &[("A1", "4A480032"), ("B1", "4A480031")], 1, &["A1"])]
#[case::package_out("radio", &[("A1", "4A480031")], 1, &[])]
#[case::package_alone("radio", &[("A1", "4A480032")], 1, &["A1"])]
#[case::corrected_only("archive", &[], 10, &[])]
#[case::only_sweeping("heliostat", &[], 20, &[])]
#[case::sound("frontdesk", &[], 100, &[])]
#[case::crowded_but_sound("plates", &[], 100, &[])]
#[case::slow_but_sound("almanac", &[], 100, &[])]
fn each_machine_shows_its_truth_and_only_that(
    #[case] name: &str,
    #[case] fitting: &[(&str, &str)],
    #[case] passes: u32,
    #[case] slots: &[&str],
) {
    let machine = machine(name, 1);
    if !fitting.is_empty() {
        refit(&machine, fitting);
    }
    assert_eq!(seen(&machine, passes), slots);
}

/// Exchanging modules does not help, and each alone fails too: only the settings do.
#[rstest]
#[case("profile", &[], true)]
#[case("profile", &[("A2", "4A771202"), ("B2", "4A771201")], true)]
#[case("profile", &[("A2", "4A771201")], true)]
#[case("profile", &[("B1", "4A771202")], true)]
#[case("stock", &[], false)]
#[case("stock", &[("A2", "4A771202")], false)]
fn the_profile_is_at_fault(#[case] setting: &str, #[case] fitting: &[(&str, &str)], #[case] errors: bool) {
    let machine = machine("tracker", 1);
    if !fitting.is_empty() {
        refit(&machine, fitting);
    }
    machine.hands.as_ref().unwrap().set(setting).unwrap();
    assert_eq!(!seen(&machine, 40).is_empty(), errors);
    let speed = revisum_diagnose::board::board_of(machine.firmware.as_ref()).modules().next().unwrap().1.speed;
    assert_eq!(speed, Some(if errors { 3600 } else { 3200 }));
}

/// Only while cores compute; modules may be moved as one likes.
#[rstest]
#[case("random", &[], false)]
#[case("load-steps", &[], true)]
#[case("load-steps", &[("A1", "C5830552"), ("B1", "C5830551")], true)]
#[case("load-steps", &[("B1", "C5830551")], true)]
fn only_computing_shows_it(#[case] test: &str, #[case] fitting: &[(&str, &str)], #[case] errors: bool) {
    let machine = machine("heliostat", 1);
    if !fitting.is_empty() {
        refit(&machine, fitting);
    }
    let recipe = Recipe { passes: Some(20), ..Recipe::with_tests(Depth::Triage, vec![test.to_owned()]) };
    assert_eq!(run_of(&machine, &recipe).errors.words > 0, errors);
}

/// Corrected errors never read wrong, are counted where they arise, become more, and go with the module.
#[rstest]
#[case(&[], Some("B1"))]
#[case(&[("A1", "0E904403"), ("B1", "0E904401")], Some("A1"))]
#[case(&[("A1", "0E904401"), ("B1", "0E904404")], None)]
fn check_bits_correct_and_count(#[case] fitting: &[(&str, &str)], #[case] slot: Option<&str>) {
    let machine = machine("archive", 1);
    if !fitting.is_empty() {
        refit(&machine, fitting);
    }
    let corrected = |state: &RunState| (state.hardware.corrected, state.hardware.places.clone());
    let (first, places) = corrected(&run(&machine, 3));
    assert_eq!(places, slot.map(str::to_owned).into_iter().collect::<Vec<_>>());
    machine.clock.sleep(std::time::Duration::from_secs(20 * 3600));
    let later = run(&machine, 3);
    assert_eq!(later.errors.words, 0);
    assert_eq!(
        Judgement::of(&later, false).outcome,
        if slot.is_some() { Outcome::ErrorsFound } else { Outcome::Clean }
    );
    assert!(slot.is_none() || later.hardware.corrected > 2 * first, "{first}, then {}", later.hardware.corrected);
}

/// All eight lanes of the package are wrong in half of the reads, and nothing else.
#[test]
fn a_dead_package_is_noise_on_its_lanes() {
    let state = run(&machine("radio", 1), 1);
    let module_words = 8u64 << 30 >> 3;
    let reads = 9.0;
    let lanes: Vec<(u8, f64)> = state
        .errors
        .lanes
        .wrong()
        .map(|(lane, up, down)| (lane, (up + down) as f64 / module_words as f64 / reads))
        .collect();
    assert_eq!(lanes.iter().map(|(lane, _)| *lane).collect::<Vec<_>>(), (16..24).collect::<Vec<_>>());
    // A little less than half: the running system holds some of the module.
    assert!(lanes.iter().all(|(_, share)| (0.48..0.5).contains(share)), "{lanes:?}");
    assert_eq!(state.errors.places.total(), state.errors.words);
}

/// A machine that does not start says so instead of being tested.
#[test]
fn some_fittings_do_not_start() {
    let refused = FaultSpec {
        module: Some("4A480032".into()),
        slot: None,
        beside: Some("4A480031".into()),
        ..FaultSpec::plain(FaultKind::NoStart, Cell::default(), 0, 0)
    };
    let machine = machine_with("radio", vec![refused]);
    let lease = || machine.memory.lease(&LeaseRequest::default(), &|_, _| true);
    assert!(matches!(lease(), Err(LeaseError::DoesNotStart(_))));
    refit(&machine, &[("A1", "4A480032")]);
    assert!(lease().is_ok());
    machine.hands.as_ref().unwrap().refit(&[]).unwrap();
    assert!(matches!(lease(), Err(LeaseError::DoesNotStart(_))));
}

#[test]
fn soldered_memory_stays() {
    let machine = machine("allsky", 1);
    let board = revisum_diagnose::board::board_of(machine.firmware.as_ref());
    assert_eq!(board.slots.iter().map(|slot| slot.soldered).collect::<Vec<_>>(), [true, false]);
    let reason = machine.hands.as_ref().unwrap().refit(&[("B1".into(), "C5550908".into())]).unwrap_err();
    assert!(reason.contains("soldered"), "{reason}");
}

#[test]
fn a_touch_cures_the_contact_about_as_often_as_the_file_says() {
    let cured = (0..100u64).filter(|seed| {
        let machine = machine("allsky", *seed);
        refit(&machine, &[("A1", "C5550907")]);
        refit(&machine, &[("A1", "C5550907"), ("B1", "C5550908")]);
        seen(&machine, 20).is_empty()
    });
    // Out and in again are two touches: 0.9 · 0.98 + 0.1 · 0.9 = 0.972 of 100, within five standard deviations.
    let cured = cured.count();
    assert!((88..=100).contains(&cured), "{cured} of 100");
}

/// Over 1 000 seeds the number of wrong words follows the rate. Each pass of the random test has two windows from a write to
/// the read behind it, a sweep long each; a word reads wrong when an odd number of upsets falls into one, which for a
/// Poisson number with mean λ has the chance (1 − e^(−2λ)) / 2.
#[test]
fn upsets_come_at_their_rate() {
    let (mut wrong, mut sweeps, mut seconds) = (0u64, 0.0, 0.0);
    let mut spec = revisum_sim::shipped("allsky").unwrap().unwrap();
    (spec.faults[0].extent, spec.faults[0].cell) =
        (Extent::Word, Some(Cell { rank: 0, bank: 3, row: 0x0900, column: 0x80 }));
    for seed in 0..1000 {
        let machine = simulated_machine(spec.clone(), SimOptions { seed, ..SimOptions::default() });
        let recipe = Recipe { passes: Some(3), ..Recipe::with_tests(Depth::Triage, vec!["random".into()]) };
        let begin_ns = machine.clock.now_ns();
        wrong += folded(&entries(&machine, &recipe, seed)).errors.words;
        seconds += (machine.clock.now_ns() - begin_ns) as f64 / 1e9;
        sweeps += 12.0;
    }
    let upsets_a_sweep = 1200.0 / 3600.0 * seconds / sweeps;
    let chance = (1.0 - (-2.0 * upsets_a_sweep).exp()) / 2.0;
    let windows = sweeps / 2.0;
    let (expected, room) = (windows * chance, 5.0 * (windows * chance * (1.0 - chance)).sqrt());
    assert!((wrong as f64 - expected).abs() < room, "{wrong} words, {expected:.0} ± {room:.0} expected");
}

/// Follows nothing but the advice, from the first run to the answer.
fn solve(name: &str, seed: u64) -> Answer {
    let proposed = |next: &Experiment| {
        let short = next.passes <= 8.5;
        let passes = short.then_some(next.passes.ceil() as u32);
        let for_seconds = (!short).then_some((next.minutes * 60.0) as u64);
        let stop_after = for_seconds.map(|_| 1);
        Recipe { passes, for_seconds, stop_after, ..Recipe::of_depth(Depth::Triage) }
    };
    let first = Recipe { passes: Some(4), ..Recipe::of_depth(Depth::Triage) };
    Job::new(machine(name, seed), None).solve(&first, proposed, 40)
}

#[rstest]
#[case("dome-1", Suspect::Module("4A220094".into()))]
#[case("spectro", Suspect::Slot("B1".into()))]
#[case("radio", Suspect::Module("4A480032".into()))]
#[case("allsky", Suspect::NoPart)]
#[case("tracker", Suspect::Settings)]
#[case("stacker", Suspect::Combination("4A330054".into()))]
#[case("guide", Suspect::Pair("4A910016".into(), "C5640072".into()))]
fn the_advice_leads_to_the_truth(#[case] name: &str, #[case] truth: Suspect) {
    for seed in 1..=2 {
        let Answer { named, reason, steps } = solve(name, seed);
        println!("{name} seed {seed}: {named:?} {reason:?} after {steps} runs");
        assert_eq!(
            (named.first(), reason),
            (Some(&truth), Some(Reason::Confident)),
            "seed {seed} after {steps} runs: {named:?}"
        );
    }
}

/// The temperature stands in the journal beside the errors, so that heat can be ruled in.
#[test]
fn a_cell_that_forgets_when_warm_fails_only_then() {
    let machine = machine("meteo", 1);
    let recipe = short(120);
    let mut celsius = 0.0;
    let mut first = None;
    for entry in entries(&machine, &recipe, 1) {
        match entry {
            Entry::Heat { celsius: now, .. } => celsius = now,
            Entry::Errors(_) => first = first.or(Some(celsius)),
            _ => {}
        }
    }
    let first = first.expect("it gets warm enough");
    assert!((44.9..47.1).contains(&first), "first error at {first} degrees, told in whole steps");
    assert!(celsius > first);
}

#[test]
fn where_nothing_is_wrong_nothing_is_named() {
    let Answer { named, reason, steps } = solve("frontdesk", 1);
    assert_eq!((named, reason, steps), (Vec::new(), None, 1));
}
