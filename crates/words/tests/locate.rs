//! Where errors are, in words: no more is said than is known.

use rstest::rstest;

use revisum_diagnose::address::{AddressMap, Cell, CellMap, Locator, Placed, Region, Stack, Way};
use revisum_diagnose::locate::{Basis, GroupKind, Limit, Location, locate};
use revisum_diagnose::signature::Cause;
use revisum_engine::places::Certainty;
use revisum_engine::sweep::second_look::Kind;
use revisum_engine::units::{ByteRange, GIB};
use revisum_record::digest::Digest;
use revisum_record::fitted::{Board, Module, Slot};
use revisum_words::locate::statement;

fn board() -> Board {
    let slot = |id: &str| Slot {
        id: id.into(),
        channel: Some(id[..1].into()),
        module: Some(Module { serial: format!("4A00{id}"), bytes: GIB, package_width: Some(8), ..Module::default() }),
        ..Slot::default()
    };
    Board { slots: vec![slot("A1"), slot("B1")], ..Board::default() }
}

fn map() -> AddressMap {
    let way =
        |slot: &str| Way { channel_start: 0, stacks: vec![Stack::of(slot, CellMap::hashed(10, 4, 13, 0).unwrap())] };
    let region = Region {
        start: 0,
        bytes: 2 * GIB,
        ways: vec![way("A1"), way("B1")],
        granule_bits: 8,
        way_masks: vec![1 << 8 | 1 << 14],
    };
    AddressMap::new(vec![ByteRange::new(0, 2 * GIB)], vec![region]).unwrap()
}

fn located(locator: &Locator, addresses: &[u64], wrong: u64, encrypted: bool) -> Location {
    let mut digest = Digest::default();
    for address in addresses {
        for _ in 0..3 {
            digest.add(*address, 0, wrong, Kind::Recurring);
        }
    }
    let board = board();
    locate(
        &digest,
        &Basis {
            board: &board,
            failures: 0,
            is_fair: true,
            locator,
            addresses_known: true,
            encrypted,
            guest: false,
            ranges_trusted: false,
        },
    )
}

/// Words of one row of B1 by the map.
fn row() -> Vec<u64> {
    let locator = Locator::new(&board(), Some(map()));
    let cell = |column| Cell { rank: 0, bank: 5, row: 77, column };
    (0..60).map(|at| locator.address(&Placed { slot: "B1".into(), cell: cell(at * 17) }).unwrap().0).collect()
}

#[test]
fn a_row_is_named_with_its_module() {
    let location = located(&Locator::new(&board(), Some(map())), &row(), 1 << 19, false);
    assert_eq!(statement(&location), "B1 (…00B1): one row of one bank, DQ 19. 60 words failed.");
    assert_eq!((location.certainty, location.outside), (Some(Certainty::Certain), 0));
    assert_eq!(location.causes, [Cause::Module]);
    assert_eq!(location.groups.len(), 1);
    assert_eq!(location.groups[0].kind, GroupKind::Row { rank: 0, bank: 5, row: 77 });
}

#[rstest]
#[case::no_map(Locator::new(&board(), None), false, "In one of A1, B1: one data line, DQ 19.")]
#[case::assumed(Locator::new(&board(), None).assuming(map()), false, "B1 (…00B1): one row of one bank, DQ 19.")]
#[case::encrypted(Locator::new(&board(), Some(map())), true, "B1 (…00B1): one row of one bank. 60 words")]
fn no_more_is_said_than_is_known(#[case] locator: Locator, #[case] encrypted: bool, #[case] words: &str) {
    let location = located(&locator, &row(), 1 << 19, encrypted);
    assert!(statement(&location).starts_with(words), "{}", statement(&location));
    assert_eq!(location.limits.contains(&Limit::Encrypted), encrypted);
}

#[test]
fn a_sample_is_called_one() {
    let mut digest = Digest::default();
    row().iter().for_each(|address| digest.add(*address, 0, 1, Kind::NotLooked));
    let (board, locator) = (board(), Locator::new(&board(), Some(map())));
    let ground = Basis {
        board: &board,
        failures: 5000,
        is_fair: false,
        locator: &locator,
        addresses_known: true,
        encrypted: false,
        guest: false,
        ranges_trusted: false,
    };
    let location = locate(&digest, &ground);
    assert!(location.limits.contains(&Limit::Flood), "{:?}", location.limits);
    assert!(!statement(&location).contains("row"), "{}", statement(&location));
    assert!(
        statement(&location).contains("Read from 60 words of those that failed (5 000 wrong reads in all)"),
        "{}",
        statement(&location)
    );
}

#[test]
fn addresses_outside_of_the_map_are_counted() {
    let mut addresses = row();
    addresses.push(7 * GIB);
    let location = located(&Locator::new(&board(), Some(map())), &addresses, 1, false);
    assert_eq!(location.outside, 1);
    assert!(statement(&location).starts_with("In one of"), "{}", statement(&location));
}
