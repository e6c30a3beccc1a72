//! Row hopping opens another row at every step, whatever the address map, and finds what only shows then.

mod common;

use std::collections::BTreeMap;

use common::{machine_with, ran};
use revisum_diagnose::address::AddressMap;
use revisum_diagnose::address::Cell;
use revisum_engine::catalog::{CATALOG, HOP_BLOCK, Path};
use revisum_engine::march::Op;
use revisum_engine::pattern::WordRule;
use revisum_engine::pattern::pass_seed;
use revisum_engine::recipe::{Depth, Recipe};
use revisum_engine::sweep::ElementWork;
use revisum_engine::units::{MIB, PhysAddr};
use revisum_sim::{FaultKind, FaultSpec, SimOptions, shipped, simulated_machine};
use rstest::rstest;

/// Share of the lines of a block, visited in this order, that find another row open in their bank.
fn opens(map: &AddressMap, start: u64, bytes: u64, order: impl Fn(u64) -> u64) -> f64 {
    let mut lines: Vec<u64> = (0..bytes / 64).map(|line| line * 64).collect();
    lines.sort_by_key(|offset| order(*offset));
    let (mut open, mut opened) = (BTreeMap::new(), 0u64);
    for offset in &lines {
        let placed = map.locate(PhysAddr(start + offset)).expect("memory is there");
        let bank = (placed.slot, placed.cell.rank, placed.cell.bank);
        if open.insert(bank, placed.cell.row) != Some(placed.cell.row) {
            opened += 1;
        }
    }
    opened as f64 / lines.len() as f64
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
    let work = hopping();
    for start in [256 * MIB, 1040 * MIB] {
        let hops = opens(&map, start, HOP_BLOCK, |offset| work.visited(offset, HOP_BLOCK));
        let straight = opens(&map, start, HOP_BLOCK, |offset| offset);
        // As it once was: sixteen places 256 KiB apart, in 4 MiB.
        let before = opens(&map, start, 4 * MIB, |offset| offset % (256 << 10) / 64 * 16 + offset / (256 << 10));
        println!(
            "{name} at {} MiB: hopping {:.1} %, straight on {:.1} %, 256 KiB apart {:.1} %",
            start / MIB,
            hops * 100.0,
            straight * 100.0,
            before * 100.0
        );
        assert!(hops >= 0.95 && straight < 0.1, "{name}: {hops} {straight}");
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
