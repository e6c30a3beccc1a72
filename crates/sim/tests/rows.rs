//! Row hopping opens another row at every step, whatever the address map, and finds what only shows then; so do copies with the ranks of a module.

mod common;

use std::collections::BTreeMap;

use common::{machine, machine_with, ran, timed_by};
use revisum_diagnose::address::Cell;
use revisum_engine::catalog::CATALOG;
use revisum_engine::march::Op;
use revisum_engine::news::RowChoice;
use revisum_engine::path::{HOP_BLOCK, Path, copy_shift};
use revisum_engine::pattern::WordRule;
use revisum_engine::pattern::pass_seed;
use revisum_engine::recipe::{Depth, Recipe};
use revisum_engine::sweep::ElementWork;
use revisum_engine::units::{MIB, PhysAddr};
use revisum_record::journal::Entry;
use revisum_sim::{FaultKind, FaultSpec, MachineSpec, SimOptions, shipped, simulated_machine};
use rstest::rstest;

/// Share of the lines of a block, visited in this order, that find another row open in their bank. `place` names bank and row.
fn opens<B: Ord>(place: impl Fn(u64) -> (B, u64), start: u64, bytes: u64, order: impl Fn(u64) -> u64) -> f64 {
    let mut lines: Vec<u64> = (0..bytes / 64).map(|line| line * 64).collect();
    lines.sort_by_key(|offset| order(*offset));
    let (mut open, mut opened) = (BTreeMap::new(), 0u64);
    for offset in &lines {
        let (bank, row) = place(start + offset);
        if open.insert(bank, row) != Some(row) {
            opened += 1;
        }
    }
    opened as f64 / lines.len() as f64
}

/// Hopping, going straight on, and hopping as it once was: sixteen places 256 KiB apart, in 4 MiB.
fn shares<B: Ord>(place: impl Fn(u64) -> (B, u64), start: u64) -> [f64; 3] {
    let work = hopping();
    let hops = opens(&place, start, HOP_BLOCK, |offset| work.visited(offset, HOP_BLOCK));
    let straight = opens(&place, start, HOP_BLOCK, |offset| offset);
    [hops, straight, opens(&place, start, 4 * MIB, |offset| offset % (256 << 10) / 64 * 16 + offset / (256 << 10))]
}

fn told(name: &str, [hops, straight, before]: [f64; 3]) {
    let [hops, straight, before] = [hops, straight, before].map(|share| share * 100.0);
    println!("{name}: hopping {hops:.1} %, straight on {straight:.1} %, 256 KiB apart {before:.1} %");
}

/// Address bits whose parity is a bit of the bank's number, and the lowest bit of the row: published for computers with two channels (Pessl,
/// Gruss, Maurice, Schwarz, Mangard, USENIX Security 2016).
#[rstest]
#[case::ddr3("DDR3, one module a channel", vec![vec![14, 17], vec![15, 18], vec![16, 19], vec![7, 8, 9, 12, 13, 18, 19]], 17)]
#[case::ddr3_two("DDR3, two ranks", vec![vec![14, 18], vec![15, 19], vec![16, 20], vec![17, 21], vec![7, 8, 9, 12, 13, 18, 19]], 18)]
#[case::ddr4("DDR4, two ranks", vec![vec![7, 14], vec![15, 19], vec![16, 20], vec![17, 21], vec![18, 22], vec![8, 9, 12, 13, 18, 19]], 18)]
fn hops_open_rows_on_published_maps(#[case] name: &str, #[case] functions: Vec<Vec<u32>>, #[case] row: u32) {
    let parity = |at: u64, bits: &[u32]| bits.iter().fold(0, |sum, bit| sum ^ (at >> bit & 1));
    let place = |at: u64| (functions.iter().map(|bits| parity(at, bits)).collect::<Vec<u64>>(), at >> row);
    for start in [256 * MIB, 1040 * MIB] {
        let shares = shares(place, start);
        told(name, shares);
        assert!(shares[0] >= 0.6 && shares[1] < 0.1, "{name}: {shares:?}");
    }
}

fn hopping() -> ElementWork {
    let ops = vec![Op::Read { inverse: false }];
    ElementWork { rule: WordRule::Constant(0), down: false, ops, path: Path::RowHopping, moved: 0 }
}

#[rstest]
#[case("frontdesk")]
#[case("meteo")]
#[case("heliostat")]
#[case("stacker")]
#[case("archive")]
#[case("dome-1")]
fn every_step_opens_another_row(#[case] name: &str) {
    let machine = simulated_machine(shipped(name).unwrap().unwrap(), SimOptions::default());
    let map = machine.firmware.address_map().unwrap();
    let place = |at: u64| {
        let placed = map.locate(PhysAddr(at)).expect("memory is there");
        ((placed.slot, placed.cell.rank, placed.cell.bank), u64::from(placed.cell.row))
    };
    for start in [256 * MIB, 1040 * MIB] {
        let shares = shares(place, start);
        told(name, shares);
        assert!(shares[0] >= 0.95 && shares[1] < 0.1, "{name}: {shares:?}");
    }
}

/// A cell that is sensed wrongly when its row was opened only just before, anywhere in the first module of frontdesk.
fn weak(number: u32) -> FaultSpec {
    let below = |draw, limit| (pass_seed(u64::from(number) << 8, draw) % limit) as u32;
    let cell = Cell { rank: 0, bank: below(1, 16), row: below(2, 16384) + 8192, column: below(3, 1024) };
    let value = (number % 2) as u8;
    FaultSpec {
        module: None,
        slot: Some("DIMM 1".into()),
        conflict: true,
        ..FaultSpec::plain(FaultKind::IncorrectRead, cell, 7, value)
    }
}

/// Milliseconds to the first error in one pass of a test; nothing when it finds none.
fn found_ms(test: &str, number: u32) -> Option<u64> {
    let recipe = Recipe { stop_after: Some(1), ..Recipe::with_tests(Depth::Triage, vec![test.to_owned()]) };
    ran(&machine_with("frontdesk", vec![weak(number)]), &recipe, 1).first_error_ms
}

#[test]
fn hopping_finds_what_shows_only_when_rows_are_opened() {
    let tests = CATALOG.iter().filter(|test| test.is_march() && !test.on_request && test.name != "idle");
    for test in tests {
        let mut found: Vec<Option<u64>> = (0..40).map(|number| found_ms(&test.name, number)).collect();
        found.sort_by_key(|ms| ms.unwrap_or(u64::MAX));
        let (count, median) = (found.iter().flatten().count(), found[found.len() / 2]);
        println!("{}: {count} of 40, median of the time to the first error {median:?} ms", test.name);
        match test.name.as_ref() {
            "row-hopping" => assert!(count >= 38),
            _ => assert!(count <= 4, "{}: {count}", test.name),
        }
    }
}

/// Where no map tells, reads that open rows take longer, and that is enough to find a bank's rows.
#[rstest]
#[case(true, RowChoice::Map)]
#[case(false, RowChoice::Timing)]
fn rows_to_disturb_are_found(#[case] mapped: bool, #[case] by: RowChoice) {
    let machine = machine("frontdesk", 1);
    let recipe = Recipe::with_tests(Depth::Triage, vec!["row-disturbance".to_owned()]);
    let map = machine.firmware.address_map().filter(|_| mapped);
    let entries = timed_by(&machine, &recipe, 1, map);
    let opened = entries.into_iter().find_map(|(_, entry)| match entry {
        Entry::RowsOpened(opened) => Some(opened),
        _ => None,
    });
    let opened = opened.expect("it is told");
    // Twenty rows share an interval of 64 ms, 50 ns each.
    assert_eq!((opened.by, opened.rows, opened.openings), (by, 20, 64_000));
}

/// Share of the lines of half a memory that some pass reads while it writes another rank. The rank is the parity of two address bits, as published
/// for modules of two ranks (Pessl, Gruss, Maurice, Schwarz, Mangard, USENIX Security 2016).
fn turned(passes: u64, half: u64, shift: impl Fn(u64) -> u64) -> f64 {
    let rank = |at: u64| (at >> 16 ^ at >> 20) & 1;
    let lines = (0..half).step_by(4160).map(|offset| offset & !63);
    let (mut all, mut found) = (0u64, 0u64);
    for offset in lines {
        let target = |pass| half + (offset + shift(pass)) % half;
        all += 1;
        found += u64::from((1..=passes).any(|pass| rank(offset) != rank(target(pass))));
    }
    found as f64 / all as f64
}

/// Shifted within a row only, as it once was, a copy comes to the same ranks in every pass.
#[test]
fn copies_come_to_another_rank_within_a_few_passes() {
    for half in [2048 * MIB, 1999 * MIB + 4096, 512 * MIB + 65536 * 3] {
        let seed = |pass: u64| pass_seed(pass << 20, 1);
        let near = turned(8, half, |pass| (pass_seed(seed(pass), 7) % 4093 + 1) * 8);
        let shares = [1, 2, 4, 8].map(|passes| turned(passes, half, |pass| copy_shift(seed(pass), half)));
        println!("{half} bytes: 1, 2, 4 and 8 passes {shares:.3?}, shifted within a row 8 passes {near:.3}");
        assert!(shares[3] >= 0.99 && shares[3] > near + 0.05, "{shares:?} {near}");
    }
}

/// A cell that is read wrongly only while the other rank of its module is written: copies find it, and nothing else does.
#[test]
fn copies_find_what_shows_only_when_lines_turn_round() {
    let cell = Cell { rank: 0, bank: 3, row: 0x1200, column: 77 };
    let weak = FaultSpec {
        slot: Some("DIMM 1".into()),
        turns: true,
        ..FaultSpec::plain(FaultKind::IncorrectRead, cell, 7, 1)
    };
    let mut spec = MachineSpec { faults: vec![weak], ..shipped("frontdesk").unwrap().unwrap() };
    spec.modules.iter_mut().for_each(|module| module.ranks = 2);
    let tests = CATALOG.iter().filter(|test| !test.on_request && test.name != "idle");
    for test in tests {
        let machine = simulated_machine(spec.clone(), SimOptions::default());
        let recipe = Recipe { passes: Some(4), ..Recipe::with_tests(Depth::Triage, vec![test.name.to_string()]) };
        let found = ran(&machine, &recipe, 1).errors.words > 0;
        assert_eq!(found, test.name == "copies", "{}", test.name);
    }
}
