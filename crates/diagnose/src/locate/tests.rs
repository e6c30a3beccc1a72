use rstest::rstest;

use super::*;
use crate::address::{AddressMap, CellMap, Region, Stack, Way};
use crate::isolate::Place::{Half, Spread};
use crate::isolate::half_of;
use revisum_engine::rows::Halves;
use revisum_engine::sweep::second_look::Kind;
use revisum_engine::units::{ByteRange, GIB, NotRead};
use revisum_record::fitted::{Module, Slot};

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

/// Words of one row of B1 by the map.
fn row() -> Vec<u64> {
    let locator = Locator::new(&board(), Some(map()));
    let cell = |column| Cell { rank: 0, bank: 5, row: 77, column };
    (0..60)
        .map(|at| locator.address(&crate::address::Placed { slot: "B1".into(), cell: cell(at * 17) }).unwrap().0)
        .collect()
}

#[rstest]
#[case::good("address,expected,actual\n0x1000,0x0,0x1\n0x2000,0,8\n", 2, &[])]
#[case::no_names("0x1000,0x0,0x1\n", 1, &[])]
#[case::rubbish("address,expected,actual\n0x1000,0,1\nhello\n0x1000,1,1\n0xzz,0,1\n\u{1b}[2J,0,1\n0x3000,0,2\n", 2,
    &[
        (3, NotUsed::Fields(1)),
        (4, NotUsed::Same),
        (5, NotUsed::Field(NotRead::Address("0xzz".into()))),
        (6, NotUsed::Field(NotRead::Unit { text: "\u{1b}[2J".into(), unit: "J".into() })),
    ])]
#[case::empty("", 0, &[])]
fn errors_from_elsewhere(#[case] text: &str, #[case] used: usize, #[case] refused: &[(u64, NotUsed)]) {
    let read = read_foreign(text);
    assert_eq!((read.used, read.refused_count), (used, refused.len()));
    assert_eq!(read.refused, refused);
}

/// A word is on the fail bit map of its own module, at its cell; where no map tells cells there is none.
#[rstest]
#[case::known(Locator::new(&board(), Some(map())), &[("B1", 60)])]
#[case::unknown(Locator::new(&board(), None), &[])]
fn failing_words_are_mapped_inside_their_module(#[case] locator: Locator, #[case] expected: &[(&str, usize)]) {
    let mut digest = Digest::default();
    row().iter().for_each(|place| digest.add(*place, 0, 1 << 19, Kind::Recurring));
    let maps = fail_maps(&digest, &locator);
    assert_eq!(maps.iter().map(|map| (map.slot.as_str(), map.words.len())).collect::<Vec<_>>(), expected);
    for map in maps {
        assert_eq!(map.extent, crate::address::Extent { ranks: 1, banks: 16, rows: 1 << 13, columns: 1 << 10 });
        assert!(map.words.iter().all(|(cell, wrong)| (cell.bank, cell.row, *wrong) == (5, 77, 1 << 19)));
    }
}

/// Nothing names the slots of two channels but another start with one module less: from then on the errors of the first run have a slot.
#[test]
fn a_module_taken_out_names_the_slot_of_earlier_errors() {
    use crate::controller::tests::arranged;
    use crate::isolate::{Place, halves_of, placed_anew};
    let run = |slots: &[(u8, u64)], words: &[u64]| {
        let (registers, board) = arranged(slots);
        let mut state = RunState::default();
        state.begin.registers = registers.text();
        state.begin.board = board;
        state.held.addresses_known = true;
        words.iter().for_each(|address| state.digest.add(*address, 0, 1, Kind::Recurring));
        state.errors.words = words.len() as u64;
        state
    };
    let failed = run(&[(1, 8), (0, 8)], &[0, 0x40, 0x300]);
    let other = run(&[(1, 8), (0, 0)], &[]);
    let place = |runs: &[&RunState]| {
        let shown = shown_by(runs.iter().copied(), &failed.begin);
        placed_anew(&failed, &locator_of(&failed.begin, None, &shown))
    };
    assert_eq!(place(&[&failed]), None);
    // The half is known all the same.
    let halves = locator_of(&failed.begin, None, &Default::default());
    assert_eq!(half_of(&failed, &halves), Some(Place::Half(0)));
    assert_eq!(halves_of(&failed.begin.board), Some([vec!["P".to_owned()], vec!["Q".to_owned()]]));
    assert_eq!(place(&[&failed, &other]), Some(Place::Slot("Q".into())));
    let shown = shown_by([&failed, &other], &failed.begin);
    let location = locate_run(&failed, &locator_of(&failed.begin, None, &shown), &failed.begin.board);
    assert_eq!((location.certainty, location.because), (Some(Certainty::Told), Ground::Registers));
    // Another machine with this mainboard knows it from its first run on, unless it is wired otherwise.
    let mut later = failed.clone();
    later.begin.channels = shown.channels().clone();
    let place_later = |runs: &[&RunState]| {
        placed_anew(&later, &locator_of(&later.begin, None, &shown_by(runs.iter().copied(), &later.begin)))
    };
    assert_eq!(place_later(&[&later]), Some(Place::Slot("Q".into())));
    let otherwise = run(&[(0, 0), (1, 8)], &[]);
    let wired_otherwise = run(&[(0, 8), (1, 0)], &[]);
    assert_ne!(place_later(&[&later, &otherwise, &wired_otherwise]), Some(Place::Slot("Q".into())));
    // A virtual machine's registers are its host's invention.
    let mut guest = failed.clone();
    guest.begin.guest = true;
    assert!(!names_slots(&guest.begin, &shown) && names_slots(&failed.begin, &shown));
}

/// Two halves that time told place errors in one of them, name no slot, and say what to do; a map or a virtual machine sets them aside.
#[rstest]
#[case::one_half(&[0x40, 0x80, 0x240], false, Some(Half(0)), Ground::OneHalf, Some(Surer::Exchange))]
#[case::the_other(&[0x140, 0x1_0000_0100], false, Some(Half(1)), Ground::OneHalf, Some(Surer::Exchange))]
#[case::both(&[0x40, 0x100], false, Some(Spread), Ground::NoMap, Some(Surer::OneAtATime))]
#[case::in_a_virtual_machine(&[0x40, 0x80], true, None, Ground::NoMap, None)]
fn halves_that_time_told_place_errors(
    #[case] words: &[u64],
    #[case] guest: bool,
    #[case] half: Option<crate::isolate::Place>,
    #[case] because: Ground,
    #[case] surer: Option<Surer>,
) {
    let mut state = RunState::default();
    state.begin.board = board();
    state.begin.guest = guest;
    state.begin.halves = Some(Halves { mask: 0x100, from: 1 << 32, offset: 0x1000 });
    state.held.addresses_known = true;
    words.iter().for_each(|word| state.digest.add(*word, 0, 1, Kind::Recurring));
    state.errors.words = words.len() as u64;
    let locator = locator_of(&state.begin, None, &Default::default());
    assert_eq!(half_of(&state, &locator), half);
    let location = locate_run(&state, &locator, &state.begin.board);
    assert_eq!((location.because, location.surer), (because, surer));
    assert!(location.slots.keys().all(|slots| slots.contains(' ')), "{:?}", location.slots);
}
