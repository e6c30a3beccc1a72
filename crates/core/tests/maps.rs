//! Address maps against tables that were worked out by brute force in another language (`maps/make.py`).

use std::path::PathBuf;

use revisum_core::address::{AddressMap, Cell, MapFile, Placed};
use revisum_core::units::PhysAddr;
use rstest::rstest;

fn map(path: &PathBuf) -> AddressMap {
    MapFile::parse(&std::fs::read_to_string(path).unwrap()).unwrap().map
}

#[rstest]
fn every_row_of_the_table_agrees(#[files("tests/maps/*.toml")] path: PathBuf) {
    let map = map(&path);
    let table = std::fs::read_to_string(path.with_extension("csv")).unwrap();
    let mut rows = 0;
    for line in table.lines().skip(1) {
        let fields: Vec<&str> = line.split(',').collect();
        let address = PhysAddr(u64::from_str_radix(fields[0].trim_start_matches("0x"), 16).unwrap());
        let number = |at: usize| fields[at].parse::<u32>().unwrap();
        let cell = Cell { rank: number(2), bank: number(3), row: number(4), column: number(5) };
        let placed = Placed { slot: fields[1].to_owned(), cell };
        assert_eq!(map.locate(address), Some(placed.clone()), "{line}");
        assert_eq!(map.address(&placed), Some(address), "{line}");
        let (slot, run) = map.slot_run(address).unwrap();
        assert!(slot == placed.slot && run.contains(address.0), "{line}");
        rows += 1;
    }
    assert!(rows >= 300, "only {rows} rows");
}

/// The share of each slot in some ranges is the number of words that the map sends there.
#[rstest]
fn shares_are_what_is_sent_there(#[files("tests/maps/*.toml")] path: PathBuf) {
    let map = map(&path);
    let end = map.physical().last().unwrap().end;
    for (from, to) in [(0, end), (0x1238, 0x5670), (0x2000, 0x2100), (end - 0x1008, end)] {
        let range = revisum_core::units::ByteRange::new(from, to);
        let mut counted = std::collections::BTreeMap::new();
        for address in (from..to).step_by(8) {
            if let Some(placed) = map.locate(PhysAddr(address)) {
                *counted.entry(placed.slot).or_insert(0u64) += 8;
            }
        }
        for (slot, bytes) in counted {
            assert_eq!(map.share(&slot, range), bytes, "{slot} of {from:#x} to {to:#x}");
        }
    }
}
