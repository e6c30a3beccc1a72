//! Address maps against tables that were worked out by brute force in another language (`maps/make.py`).

use std::path::{Path, PathBuf};

use revisum_diagnose::address::{AddressMap, Cell, Locator, MapFile, Placed};
use revisum_diagnose::locate::{Basis, Place, locate};
use revisum_engine::sweep::second_look::Kind;
use revisum_engine::units::{ByteRange, PhysAddr};
use revisum_record::digest::Digest;
use revisum_record::fitted::{Board, MappedDevice, Module, Slot};
use rstest::rstest;

fn map(path: &Path) -> AddressMap {
    MapFile::parse(&std::fs::read_to_string(path).unwrap()).unwrap().map
}

#[rstest]
fn every_row_of_the_table_agrees(#[files("tests/maps/*.toml")] path: PathBuf) {
    let map = map(&path);
    let table = rows(&path);
    for Row { address, placed } in &table {
        let address = PhysAddr(*address);
        assert_eq!(map.locate(address), Some(placed.clone()), "{address}");
        assert_eq!(map.address(placed), Some(address), "{address}");
        let (slot, run) = map.slot_run(address).unwrap();
        assert!(slot == placed.slot && run.contains(address.0), "{address}");
    }
    let rows = table.len();
    assert!(rows >= 300, "only {rows} rows");
}

/// The share of each slot in some ranges is the number of words that the map sends there.
#[rstest]
fn shares_are_what_is_sent_there(#[files("tests/maps/*.toml")] path: PathBuf) {
    let map = map(&path);
    let end = map.physical().last().unwrap().end;
    for (from, to) in [(0, end), (0x1238, 0x5670), (0x2000, 0x2100), (end - 0x1008, end)] {
        let range = revisum_engine::units::ByteRange::new(from, to);
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

/// A row of a table: address, slot and cell as worked out by brute force.
struct Row {
    address: u64,
    placed: Placed,
}

fn rows(path: &Path) -> Vec<Row> {
    let table = std::fs::read_to_string(path.with_extension("csv")).unwrap();
    let row = |line: &str| {
        let fields: Vec<&str> = line.split(',').collect();
        let number = |at: usize| fields[at].parse::<u32>().unwrap();
        let cell = Cell { rank: number(2), bank: number(3), row: number(4), column: number(5) };
        let address = u64::from_str_radix(fields[0].trim_start_matches("0x"), 16).unwrap();
        Row { address, placed: Placed { slot: fields[1].to_owned(), cell } }
    };
    table.lines().skip(1).map(row).collect()
}

/// The rows that a fault around this one takes: a cell, a row, a column, a bank or the module.
fn struck<'a>(table: &'a [Row], around: &'a Row, kind: u64) -> Vec<&'a Row> {
    let (slot, at) = (&around.placed.slot, around.placed.cell);
    let takes = |row: &&Row| {
        let cell = row.placed.cell;
        let bank = (cell.rank, cell.bank) == (at.rank, at.bank);
        row.placed.slot == *slot
            && match kind {
                0 => cell == at,
                1 => bank && cell.row == at.row,
                2 => bank && cell.column == at.column,
                3 => bank,
                _ => true,
            }
    };
    table.iter().filter(takes).collect()
}

fn board_of(map: &AddressMap) -> Board {
    let mut slots: Vec<Slot> = Vec::new();
    for (number, way) in map.regions().iter().flat_map(|region| region.ways.iter().enumerate()) {
        for id in way.stacks.iter().flat_map(|stack| &stack.slots) {
            if !slots.iter().any(|slot| slot.id == *id) {
                let (channel, module) = (Some(number.to_string()), Some(Module::default()));
                slots.push(Slot { id: id.clone(), channel, module, ..Slot::default() });
            }
        }
    }
    Board { slots, ..Board::default() }
}

/// What firmware tells of this fitting at best: which slots answer somewhere in each region.
fn firmware_ranges(map: &AddressMap) -> Vec<MappedDevice> {
    let mut devices = Vec::new();
    let mut before = 0;
    for range in map.physical() {
        for region in map.regions() {
            let (from, to) = (region.start.max(before), (region.start + region.bytes).min(before + range.len()));
            for slot in region.ways.iter().flat_map(|way| &way.stacks).flat_map(|stack| &stack.slots) {
                if from < to {
                    let range = ByteRange::new(range.start + from - before, range.start + to - before);
                    let slot = slot.clone();
                    devices.push(MappedDevice { slot, range, interleave_position: None, interleave_depth: None });
                }
            }
        }
        before += range.len();
    }
    devices
}

fn random(seed: u64) -> u64 {
    let mut mixed = seed.wrapping_mul(0x9e37_79b9_7f4a_7c15).wrapping_add(0x1234_5678_9abc_def1);
    mixed = (mixed ^ mixed >> 30).wrapping_mul(0xbf58_476d_1ce4_e5b9);
    mixed ^ mixed >> 31
}

/// A thousand jobs, each with a fault somewhere in one module: the map places every word rightly, and what the firmware tells alone
/// never leaves the true slot out.
#[test]
fn a_thousand_jobs_are_located() {
    let mut maps: Vec<PathBuf> = std::fs::read_dir("tests/maps").unwrap().map(|file| file.unwrap().path()).collect();
    maps.retain(|path| path.extension().is_some_and(|ending| ending == "toml"));
    maps.sort();
    let maps: Vec<(AddressMap, Vec<Row>)> = maps.iter().map(|path| (map(path), rows(path))).collect();
    assert!(maps.len() >= 12);
    let (mut words, mut named, mut narrowed) = (0, 0, 0);
    for job in 0..1000u64 {
        let (map, table) = &maps[job as usize % maps.len()];
        let around = &table[(random(job) % table.len() as u64) as usize];
        let truth = &around.placed.slot;
        let bad = struck(table, around, job / maps.len() as u64 % 5);
        let byte_lane = random(job + 1) % 8;
        let mut digest = Digest::default();
        for row in &bad {
            let wrong = 1 << (byte_lane * 8 + random(row.address + job) % 8);
            digest.add(row.address, 0, wrong, Kind::Recurring);
            digest.add(row.address, 0, wrong, Kind::Recurring);
        }
        let board = board_of(map);
        let located = |locator: &Locator| {
            let (failures, guest, encrypted) = (0, false, false);
            let ground = Basis {
                board: &board,
                locator,
                failures,
                is_fair: true,
                addresses_known: true,
                encrypted,
                guest,
                ranges_trusted: false,
            };
            locate(&digest, &ground)
        };
        let location = located(&Locator::new(&board, Some(map.clone())));
        assert_eq!(location.slots.keys().collect::<Vec<_>>(), [truth], "job {job}");
        assert!(
            matches!(&location.place, Place::Slots(slots) if slots.iter().any(|slot| slot.slot == *truth)),
            "job {job}: {:?}",
            location.place
        );
        for word in location.groups.iter().flat_map(|group| &group.named) {
            let row = bad.iter().find(|row| row.address == word.place.0).expect("one of those that failed");
            assert_eq!(word.cell, Some(row.placed.cell), "job {job}");
            assert_eq!(word.wrong >> (byte_lane * 8) & !0xff, 0, "job {job}");
            named += 1;
        }
        words += bad.len();
        let coarse = Locator::new(&board, None).with_firmware_ranges(&firmware_ranges(map));
        for row in &bad {
            let possible = coarse.attribute(Some(PhysAddr(row.address))).slots;
            assert!(possible.contains(truth), "job {job}: {truth} is not among {possible:?}");
            narrowed += usize::from(possible.len() < board.slots.len());
        }
    }
    println!(
        "{words} failing words of 1000 jobs in their slots, {named} with their cells; firmware alone narrows {narrowed}"
    );
    assert!(words > 5000 && named > 2000);
}
