//! Functions of channels, ranks and banks are learned from time alone, on machines that are drawn; what shows no rows is recognised.
//!
//! `MACHINES=1000 cargo test --release -p revisum-sim --test timing -- --nocapture` draws more and prints how it went.

use revisum_engine::pattern::pass_seed;
use revisum_engine::rows::{Channels, NoChannels, Rejected, RowFunctions, RowTimer as _, Turns, View, channels, learn};
use revisum_engine::units::PhysAddr;
use revisum_sim::{TimingMemory, TimingSpec};
use rstest::rstest;

const GIB: u64 = 1 << 30;
/// A timing of a pair: 300 reads of each word at 200 cycles and 3 GHz.
const SECONDS_EACH: f64 = 600.0 * 200.0 / 3e9;

struct Draw {
    seed: u64,
    drawn: u32,
}

impl Draw {
    fn below(&mut self, limit: u64) -> u64 {
        self.drawn += 1;
        pass_seed(self.seed, self.drawn) % limit
    }
}

/// One to six channels, one or two ranks, eight to thirty-two banks, with or without hashes, and memory above a hole.
fn machine(seed: u64) -> TimingSpec {
    let mut draw = Draw { seed, drawn: 0 };
    let channels = [1u64, 2, 3, 4, 6][draw.below(5) as usize];
    let turns = channels.is_multiple_of(3).then(|| Turns { ways: 3, granule_bits: 8 + draw.below(3) as u32 });
    let linear = match channels {
        2 | 6 => 1,
        4 => 2,
        _ => 0,
    };
    let functions = linear + draw.below(2) as usize + 3 + draw.below(3) as usize;
    let bytes = [4, 8, 16, 32][draw.below(4) as usize] * GIB * if turns.is_some() { 3 } else { 1 };
    let inside = 63 - (bytes / turns.map_or(1, |turns| turns.ways)).leading_zeros();
    let row_from = 17 + draw.below(3) as u32;
    let mut pivots: Vec<u32> = Vec::new();
    while pivots.len() < functions {
        let bit = 6 + draw.below(u64::from(row_from) - 6) as u32;
        if !pivots.contains(&bit) {
            pivots.push(bit);
        }
    }
    let mut mask = |pivot: u32| {
        let hashed = draw.below(4) as usize;
        (0..hashed)
            .fold(1u64 << pivot, |mask, _| mask | 1 << (row_from + draw.below(u64::from(inside - row_from)) as u32))
    };
    let functions: Vec<u64> = pivots.iter().map(|pivot| mask(*pivot)).collect();
    let channels = functions[..linear].to_vec();
    let hole = [0, GIB / 2, GIB, GIB * 3 / 2][draw.below(4) as usize];
    let view = View { offset: hole, from: if hole > 0 { 4 * GIB } else { 0 }, turns };
    TimingSpec {
        view,
        functions,
        row_from,
        bytes,
        open_page: true,
        cycles: 200.0,
        conflict: 70.0,
        sigma: 25.0,
        outliers: 0.03,
        channels,
        taken: 1.0,
        unsteady: 0.04,
    }
}

fn offsets(spec: &TimingSpec) -> Vec<(u64, u64)> {
    // The firmware's memory map tells the hole.
    if spec.view.offset > 0 { vec![(spec.view.from, spec.view.offset)] } else { Vec::new() }
}

/// Pairs of which both kinds are compared.
const COMPARED: usize = 400;

/// Whether two addresses are in the same bank.
fn agree(view: View, functions: &[u64], a: u64, b: u64) -> bool {
    let ((way, a), (other, b)) = (view.of(a), view.of(b));
    way == other && functions.iter().all(|mask| (mask & (a ^ b)).count_ones().is_multiple_of(2))
}

/// Whether what was found says the same of all pairs as the truth, of those in one bank by either and of any: the same can be written in
/// several ways.
fn is_exact(found: &RowFunctions, spec: &TimingSpec) -> bool {
    let memory = TimingMemory::new(spec.clone(), 1);
    let mut draw = Draw { seed: 77, drawn: 0 };
    let mut address = || memory.address(draw.below(memory.lines())).unwrap().0;
    let (mut same, mut wrong) = (0, 0);
    while same < COMPARED {
        let (a, b) = (address(), address());
        let (by_found, by_truth) = (agree(found.view, &found.functions, a, b), agree(spec.view, &spec.functions, a, b));
        same += usize::from(by_found || by_truth);
        wrong += usize::from(by_found != by_truth);
    }
    wrong == 0
}

/// How many are drawn, unless the environment says.
fn machines(usual: u64) -> u64 {
    std::env::var("MACHINES").ok().and_then(|count| count.parse().ok()).unwrap_or(usual)
}

#[test]
fn functions_are_learned_exactly_or_left_open() {
    let machines = machines(40);
    let (mut exact, mut wrong, mut open, mut most) = (0, 0, 0, 0);
    for seed in 1..=machines {
        let spec = machine(seed);
        match learn(&TimingMemory::new(spec.clone(), seed), &offsets(&spec), seed) {
            Ok(found) if is_exact(&found, &spec) => {
                exact += 1;
                most = most.max(found.timings);
            }
            Ok(found) => {
                wrong += 1;
                eprintln!("machine {seed}: {found:x?} instead of {spec:x?}");
            }
            Err(why) => {
                open += 1;
                eprintln!("machine {seed}: {why:?}, {spec:x?}");
            }
        }
    }
    let seconds = most as f64 * SECONDS_EACH;
    eprintln!("{exact} of {machines} exact, {wrong} wrong, {open} open; at most {most} timings, {seconds:.0} s");
    assert!(exact * 100 >= machines * 99 - 99, "{exact} of {machines}");
    assert_eq!(wrong, 0);
    assert!(seconds < 30.0, "{seconds} s");
}

#[rstest]
#[case::rows_are_closed(TimingSpec { open_page: false, ..machine(3) })]
#[case::a_conflict_drowns_in_noise(TimingSpec { conflict: 4.0, sigma: 60.0, ..machine(3) })]
fn what_shows_no_rows_is_recognised(#[case] spec: TimingSpec) {
    for seed in 1..=20 {
        assert_eq!(learn(&TimingMemory::new(spec.clone(), seed), &[], seed).unwrap_err(), Rejected::NoRows);
    }
}

/// A hole that nobody told is none that functions explain.
#[test]
fn an_unknown_hole_is_left_open_or_told_from_low_memory() {
    let spec = TimingSpec { view: View { offset: 3 << 28, from: 4 * GIB, turns: None }, ..machine(4) };
    let found = learn(&TimingMemory::new(spec.clone(), 1), &[], 1);
    assert!(found.as_ref().map_or(true, |found| !is_exact(found, &spec)), "{found:?}");
}

/// Steps that lead to another row of the same bank do, and the others stay in the row.
#[test]
fn rows_are_found_where_they_are() {
    for seed in 1..=8 {
        let spec = machine(seed);
        let Ok(found) = learn(&TimingMemory::new(spec.clone(), seed), &offsets(&spec), seed) else { continue };
        let is_row = |difference: &u64| difference >> spec.row_from != 0;
        assert!(found.other_row.iter().all(is_row), "{seed}: {found:x?}");
        assert!(!found.same_row.iter().any(is_row), "{seed}: {found:x?}");
        assert!(!found.other_row.is_empty());
    }
}

/// Channels that are learned from bandwidth, with functions that were learned from time before.
#[test]
fn channels_are_learned_exactly_or_left_open() {
    let machines = machines(40);
    // Three ways that take turns can be counted by several granules: those are told or left open.
    let (mut exact, mut wrong, mut open, mut in_turns) = (0, 0, 0, [0, 0]);
    for seed in 1..=machines {
        let spec = machine(seed);
        let memory = TimingMemory::new(spec.clone(), seed);
        let Ok(rows) = learn(&memory, &offsets(&spec), seed) else { continue };
        match channels(&memory, &rows, seed) {
            Ok(found) if tells_channels(&found, &spec) => match spec.view.turns {
                Some(_) => in_turns[0] += 1,
                None => exact += 1,
            },
            Err(NoChannels::Open) if spec.view.turns.is_some() => in_turns[1] += 1,
            Ok(found) => {
                wrong += 1;
                eprintln!("machine {seed}: {found:x?} instead of {spec:x?}");
            }
            Err(NoChannels::NoneShow) if spec.channels.is_empty() && spec.view.turns.is_none() => exact += 1,
            Err(why) => {
                open += 1;
                eprintln!("machine {seed}: {why:?}, {spec:x?}");
            }
        }
    }
    let [told, left] = in_turns;
    eprintln!("{exact} exact, {wrong} wrong, {open} open; in turns {told} exact, {left} open");
    assert!(exact > 0 && exact * 100 >= (exact + open) * 99, "{exact}, {open}");
    assert_eq!(wrong, 0);
    assert!(told > left * 4, "{told}, {left}");
}

/// Whether two addresses are told to be in one channel if and only if they are.
fn tells_channels(found: &Channels, spec: &TimingSpec) -> bool {
    let memory = TimingMemory::new(spec.clone(), 1);
    let mut draw = Draw { seed: 78, drawn: 0 };
    let mut address = || memory.address(draw.below(memory.lines())).unwrap();
    let truly = |address: PhysAddr| {
        let (way, inside) = spec.view.of(address.0);
        (way, spec.channels.iter().map(|mask| (mask & inside).count_ones() % 2).collect::<Vec<_>>())
    };
    let count = spec.view.turns.map_or(1, |turns| turns.ways) << spec.channels.len();
    found.count() == count
        && (0..COMPARED).all(|_| {
            let (a, b) = (address(), address());
            (found.of(a) == found.of(b)) == (truly(a) == truly(b))
        })
}

/// One core may not fill a channel, and noise may drown what a channel lacks: then nothing is claimed.
#[rstest]
#[case::no_core_fills_a_channel(0.4, 0.04)]
#[case::nearly(0.62, 0.04)]
#[case::too_unsteady(1.0, 0.35)]
fn channels_that_do_not_show_are_not_claimed(#[case] taken: f64, #[case] unsteady: f64) {
    for seed in 1..=12 {
        let spec = TimingSpec { taken, unsteady, ..machine(seed) };
        let memory = TimingMemory::new(spec.clone(), seed);
        let Ok(rows) = learn(&memory, &offsets(&spec), seed) else { continue };
        let found = channels(&memory, &rows, seed);
        assert!(found.as_ref().map_or(true, |found| tells_channels(found, &spec)), "{seed}: {found:?}");
    }
}
