//! The whole path on a simulated machine: engine, locating, moving a module, and odds.

mod common;

use common::{entries, folded, refit};
use revisum_diagnose::address::Locator;
use revisum_diagnose::machine::Machine;
use revisum_engine::memory::LeaseRequest;
use revisum_engine::places::Certainty;
use revisum_engine::recipe::{CoreSharing, Depth, Recipe};
use revisum_record::journal::JournalStore;
use revisum_record::journal::{Entry, JournalWriter, read_journal};
use revisum_record::outcome::{EndedBy, Judgement, Outcome};
use revisum_record::run_state::RunState;
use revisum_sim::{CrashStore, SimOptions, shipped, simulated_machine};
use rstest::rstest;

fn dome() -> Machine {
    simulated_machine(shipped("dome-1").unwrap().unwrap(), SimOptions::default())
}

fn triage() -> Recipe {
    Recipe::of_depth(Depth::Triage)
}

#[test]
fn the_firmware_tables_say_what_is_fitted() {
    let board = revisum_diagnose::board::board_of(dome().firmware.as_ref());
    assert_eq!(board.mainboard, "Tarnwerk Holm M2");
    let fitted: Vec<_> = board.modules().map(|(slot, module)| (slot.id.as_str(), module.serial.as_str())).collect();
    assert_eq!(fitted, [("A1", "4A220093"), ("B1", "4A220094")]);
    assert_eq!(board.slots[2].channel.as_deref(), Some("B"));
    assert_eq!(board.fitted_bytes(), Some(16 << 30));
}

#[rstest]
#[case::as_found(&[("A1", "4A220093"), ("B1", "4A220094")], "B1")]
#[case::exchanged(&[("A1", "4A220094"), ("B1", "4A220093")], "A1")]
#[case::same_channel(&[("A1", "4A220093"), ("A2", "4A220094")], "A2")]
#[case::alone(&[("B2", "4A220094")], "B2")]
fn the_fault_moves_with_its_module(#[case] placement: &[(&str, &str)], #[case] slot: &str) {
    let machine = dome();
    refit(&machine, placement);
    let state = folded(&entries(&machine, &triage(), 1));
    assert_eq!(Judgement::of(&state, false).outcome, Outcome::ErrorsFound);
    assert_eq!(state.errors.slots.keys().collect::<Vec<_>>(), [slot]);
    for sample in &state.errors.samples {
        assert_eq!((sample.slots.as_slice(), sample.certainty), ([slot.to_owned()].as_slice(), Certainty::Certain));
        assert_eq!(sample.actual.0 ^ sample.expected.0, 1 << 19);
        let cell = Locator::new(&state.begin.board, machine.firmware.address_map()).attribute(sample.address).cell;
        assert_eq!(cell.map(|cell| (cell.bank, cell.row, cell.column)), Some((5, 0x1a3c, 0x2e)));
    }
}

#[test]
fn addresses_change_with_the_fitting() {
    let machine = dome();
    let first = |machine: &Machine| folded(&entries(machine, &triage(), 1)).errors.samples[0].address;
    let before = first(&machine);
    refit(&machine, &[("A1", "4A220094")]);
    assert_ne!(before, first(&machine));
}

#[test]
fn without_the_bad_module_it_is_clean() {
    let machine = dome();
    refit(&machine, &[("A1", "4A220093")]);
    assert_eq!(machine.hands.as_ref().unwrap().on_the_table().len(), 1);
    let state = folded(&entries(&machine, &triage(), 1));
    assert_eq!(Judgement::of(&state, false).outcome, Outcome::Clean);
}

#[rstest]
#[case(CoreSharing::Divide)]
#[case(CoreSharing::Each)]
fn the_same_seed_gives_the_same_run(#[case] cores: CoreSharing) {
    let recipe = Recipe { cores, passes: Some(2), ..triage() };
    let run = |seed| entries(&dome(), &recipe, seed);
    assert_eq!(run(3), run(3));
    assert_ne!(run(3), run(4));
}

#[rstest]
#[case(&[("A1", "4A220093"), ("A1", "4A220094")], "two modules would sit in slot A1")]
#[case(&[("A1", "4A220093"), ("B1", "4A220093")], "would sit in two slots")]
#[case(&[("Z9", "4A220093")], "no slot Z9")]
fn impossible_fittings_are_refused(#[case] placement: &[(&str, &str)], #[case] reason: &str) {
    let machine = dome();
    let placement: Vec<_> = placement.iter().map(|(slot, serial)| ((*slot).to_owned(), (*serial).to_owned())).collect();
    let error = machine.hands.as_ref().unwrap().refit(&placement).unwrap_err();
    assert!(error.contains(reason), "{error}");
}

#[test]
fn an_empty_machine_does_not_start() {
    let machine = dome();
    refit(&machine, &[]);
    let error = machine.memory.lease(&LeaseRequest::default(), &|_, _| true).err().unwrap();
    assert!(error.to_string().contains("no module is installed"), "{error}");
}

/// At whatever record the power goes, exactly what was synced is read again, and none of it is called clean.
#[test]
fn a_power_loss_at_any_record_keeps_what_was_synced_and_is_never_clean() {
    let entries = entries(&dome(), &triage(), 1);
    for synced in 0..entries.len() {
        let store = CrashStore::default();
        let mut writer = JournalWriter::new(Box::new(store.clone()) as Box<dyn JournalStore>, "j");
        for (at, entry) in entries.iter().enumerate() {
            writer.append(at as u64, entry).unwrap();
            if at + 1 == synced {
                writer.sync().unwrap();
            }
        }
        let mut state = RunState::default();
        let mut read = Vec::new();
        let left = store.after_power_loss();
        let damage = read_journal::<Entry>(&mut left.as_slice(), |framed| {
            state.apply(&framed);
            read.push(framed.entry);
        });
        assert_eq!(read, entries[..synced]);
        assert!(!damage.unwrap().damage.any());
        if synced < entries.len() {
            let judgement = Judgement::of(&state, false);
            assert_eq!(judgement.ended_by, Some(EndedBy::BrokeOff));
            assert!(!judgement.complete && judgement.outcome != Outcome::Clean);
        }
    }
}

/// Whatever becomes of sectors that were not synced: all that was synced is read, nothing is read that was not written, and what is lost is said.
#[test]
fn sectors_that_arrive_in_any_order_or_not_at_all_spoil_nothing_that_was_synced() {
    let entries = entries(&dome(), &triage(), 1);
    for (stops_at, seed) in (1..=entries.len()).zip(1u64..) {
        let store = CrashStore::default();
        let mut writer = JournalWriter::new(Box::new(store.clone()) as Box<dyn JournalStore>, "j");
        let mut synced = 0;
        for (at, entry) in entries.iter().take(stops_at).enumerate() {
            writer.append(at as u64, entry).unwrap();
            if (at as u64 + seed).is_multiple_of(5) {
                writer.sync().unwrap();
                synced = at + 1;
            }
        }
        let mut read = Vec::new();
        let left = store.after_power_loss_in_disorder(seed);
        let damage =
            read_journal::<Entry>(&mut left.as_slice(), |framed| read.push((framed.seq as usize, framed.entry)))
                .unwrap();
        let whole = |(seq, entry): &(usize, Entry)| *entry == entries[*seq];
        assert!(read.iter().all(whole), "nothing is invented");
        assert!(read.is_sorted_by_key(|(seq, _)| *seq) && read.len() >= synced);
        assert!(read.iter().take(synced).map(|(seq, _)| *seq).eq(0..synced), "all that was synced");
        let gap = read.last().is_some_and(|(seq, _)| *seq + 1 > read.len());
        assert!(!gap || damage.damage.any(), "what is lost is said");
    }
}
