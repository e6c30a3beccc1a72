//! Findings in words: each rule with a board that makes it fire and one just beside it that does not.

use rstest::rstest;

use revisum_diagnose::board::{EventSource, Inventory, Known, MemoryEvent, SystemFacts, Weight, fact_names, findings};
use revisum_engine::host::EccCount;
use revisum_engine::units::{ByteRange, GIB, MIB, RangeSet};
use revisum_record::fitted::{Before, Board, Module, Slot};

/// 2031-04-12.
const NOW_MS: i64 = 1_933_766_160_000;

fn module(serial: &str) -> Module {
    Module {
        serial: serial.into(),
        maker: "Haldry".into(),
        bytes: 8 * GIB,
        speed: Some(3200),
        rated_speed: Some(3200),
        base_speed: Some(3200),
        ranks: Some(1),
        ..Module::default()
    }
}

/// Two channels with two slots each, modules in `fitted`, all of it mapped and usable.
fn inventory(fitted: &[&str]) -> Inventory {
    let slot = |id: &str| Slot {
        id: id.into(),
        channel: Some(id[..1].into()),
        soldered: false,
        declared: false,
        module: fitted.contains(&id).then(|| module(&format!("HA{id}"))),
    };
    let bytes = fitted.len() as u64 * 8 * GIB;
    Inventory {
        board: Board { slots: ["A1", "A2", "B1", "B2"].map(slot).into(), ..Board::default() },
        usable: RangeSet::from(vec![ByteRange::new(0, bytes)]),
        mapped_bytes: Some(bytes),
        firmware_date: "11/30/2029".into(),
        ..Inventory::default()
    }
}

fn pair() -> Inventory {
    inventory(&["A1", "B1"])
}

fn usable(mut inventory: Inventory, bytes: u64) -> Inventory {
    inventory.usable = RangeSet::from(vec![ByteRange::new(0, bytes)]);
    inventory
}

fn change(mut inventory: Inventory, slot: &str, change: fn(&mut Module)) -> Inventory {
    let slots = inventory.board.slots.iter_mut().filter(|known| known.id == slot);
    slots.filter_map(|slot| slot.module.as_mut()).for_each(change);
    inventory
}

fn with(mut inventory: Inventory, change: fn(&mut Inventory)) -> Inventory {
    change(&mut inventory);
    inventory
}

fn told(inventory: Inventory, slot: &str, name: &str, values: [&str; 2]) -> Inventory {
    let mut inventory = inventory;
    inventory.facts.tell(slot, name, "SMBIOS type 17", values[0]);
    inventory.facts.tell(slot, name, "SPD 0-0050", values[1]);
    inventory
}

fn event(corrected: bool, slots: &[&str], place: &str) -> MemoryEvent {
    MemoryEvent {
        source: EventSource::KernelLog,
        corrected,
        count: 2,
        address: None,
        place: place.into(),
        slots: slots.iter().map(|slot| (*slot).to_owned()).collect(),
        text: String::new(),
    }
}

fn found(known: &Known<'_>) -> Vec<String> {
    findings(known).iter().map(revisum_words::board::found).collect()
}

fn expect(found: &[String], expected: Option<&str>) {
    match expected {
        Some(words) => assert!(found.len() == 1 && found[0].contains(words), "{found:?}"),
        None => assert!(found.is_empty(), "{found:?}"),
    }
}

/// Each rule with a board that makes it fire and one just beside it that does not.
#[rstest]
#[case::sound(pair(), None)]
#[case::missing(usable(pair(), 8 * GIB), Some("hands over only 8 GiB"))]
#[case::not_missing(usable(pair(), 15 * GIB), None)]
#[case::map_hidden(usable(pair(), 0), Some("memory map is hidden"))]
#[case::totals(with(pair(), |i| i.mapped_bytes = Some(15 * GIB)), Some("add up to 16 GiB, but the firmware maps 15 GiB"))]
#[case::totals_untold(with(pair(), |i| i.mapped_bytes = None), None)]
#[case::crowded(inventory(&["A1", "A2"]), Some("share channel A while another"))]
#[case::full(inventory(&["A1", "A2", "B1"]), None)]
#[case::one_channel(inventory(&["A1"]), Some("1 of 2 memory channels"))]
#[case::channels_untold(with(inventory(&["A1"]), |i| i.board.slots[0].channel = None), None)]
#[case::slow(change(pair(), "B1", |m| m.speed = Some(2666)), Some("B1 at 2666 of 3200"))]
#[case::speed_unknown(change(pair(), "B1", |m| m.speed = None), None)]
#[case::profile(change(pair(), "B1", |m| { m.speed = Some(3600); m.rated_speed = Some(3600); }), Some("B1 at 3600, made for 3200"))]
#[case::profile_rounding(change(pair(), "B1", |m| m.speed = Some(3202)), None)]
#[case::base_speed_unknown(change(pair(), "B1", |m| { m.speed = Some(3600); m.base_speed = None; }), None)]
#[case::makers(change(pair(), "B1", |m| m.maker = "Ostrand".into()), Some("different makers"))]
#[case::maker_unknown(change(pair(), "B1", |m| m.maker = String::new()), None)]
#[case::sizes(with(change(usable(pair(), 12 * GIB), "B1", |m| m.bytes = 4 * GIB), |i| i.mapped_bytes = None), Some("different sizes"))]
#[case::ranks(change(pair(), "B1", |m| m.ranks = Some(2)), Some("different ranks"))]
#[case::ranks_unknown(change(pair(), "B1", |m| m.ranks = None), None)]
#[case::speeds(change(pair(), "B1", |m| { m.base_speed = Some(3600); m.rated_speed = Some(3200); }), Some("different speeds"))]
#[case::soldered_is_not_mixed(with(change(pair(), "B1", |m| m.maker = "Ostrand".into()), |i| i.board.slots[2].soldered = true), None)]
#[case::no_serial(change(pair(), "B1", |m| m.serial.clear()), Some("no serial number for B1"))]
#[case::twins(change(pair(), "B1", |m| m.serial = "HAA1".into()), Some("A1 and B1 state the same serial number"))]
#[case::damaged_spd(change(pair(), "B1", |m| m.damaged_spd = true), Some("does not match its checksum: B1"))]
#[case::no_spd(change(change(pair(), "B1", |m| m.base_speed = None), "A1", |m| m.base_speed = None), Some("(SPD) could not be read"))]
#[case::one_spd(change(pair(), "B1", |m| m.base_speed = None), None)]
#[case::disputed(told(pair(), "B1", SERIAL, ["HAB1", "5A220094"]), Some("serial number of B1: HAB1 (SMBIOS type 17), 5A220094 (SPD 0-0050)"))]
#[case::agreed(told(pair(), "B1", SERIAL, ["5A220094", "5A220094"]), None)]
#[case::dispute_of_no_weight(told(pair(), "B1", "form", ["DIMM", "SO-DIMM"]), None)]
#[case::encrypted(with(pair(), |i| i.encrypted = Some(true)), Some("encrypted by the processor"))]
#[case::plain(with(pair(), |i| i.encrypted = Some(false)), None)]
#[case::old_firmware(with(pair(), |i| i.firmware_date = "04/11/2028".into()), Some("firmware is 3 years old (2028-04-11)"))]
#[case::firmware_just_younger(with(pair(), |i| i.firmware_date = "04/13/2028".into()), None)]
#[case::firmware_date_garbled(with(pair(), |i| i.firmware_date = "31.12.99".into()), None)]
#[case::logged(with(pair(), |i| i.events = vec![event(false, &["B1"], ""), event(true, &["B1"], "")]),
    Some("Errors on record: 2 corrected and 2 uncorrected memory errors, at B1. Source: the kernel's log"))]
#[case::logged_nowhere(with(pair(), |i| i.events = vec![event(true, &[], "")]), Some("2 corrected memory errors, at no known slot"))]
#[case::logged_in_words(with(pair(), |i| i.events = vec![event(true, &[], "mc#0csrow#1")]), Some("at mc#0csrow#1"))]
#[case::no_tables(Inventory { usable: RangeSet::from(vec![ByteRange::new(0, GIB)]), ..Inventory::default() }, Some("do not report what is installed"))]
fn rules(#[case] inventory: Inventory, #[case] expected: Option<&str>) {
    let system = SystemFacts::default();
    let known = Known {
        inventory: &inventory,
        system: &system,
        counters: &[],
        before: None,
        wall_ms: Some(NOW_MS),
        speed: None,
    };
    expect(&found(&known), expected);
}

const SERIAL: &str = fact_names::SERIAL;

#[rstest]
#[case(0, 0, None)]
#[case(1, 0, Some("1 corrected memory error since"))]
#[case(3, 1, Some("3 corrected and 1 uncorrected"))]
fn counters(#[case] corrected: u64, #[case] uncorrected: u64, #[case] expected: Option<&str>) {
    let counters = [EccCount { label: "B1".into(), corrected, uncorrected }];
    let (inventory, system) = (pair(), SystemFacts::default());
    let known =
        Known { inventory: &inventory, system: &system, counters: &counters, before: None, wall_ms: None, speed: None };
    expect(&found(&known), expected);
}

#[test]
fn a_label_that_names_a_slot_is_placed_there() {
    let counters = [EccCount { label: "CPU0_DIMM_B1".into(), corrected: 1, uncorrected: 0 }];
    let (inventory, system) = (pair(), SystemFacts::default());
    let known =
        Known { inventory: &inventory, system: &system, counters: &counters, before: None, wall_ms: None, speed: None };
    expect(&found(&known), Some("since the start, at B1"));
}

/// What was there before, what is there now.
#[rstest]
#[case::same(pair(), 16 * GIB, pair(), None)]
#[case::emptied(inventory(&["A1", "A2", "B1"]), 24 * GIB, pair(), Some("Not as last time: A2 had HAA2 and is empty"))]
#[case::filled(pair(), 16 * GIB, inventory(&["A1", "A2", "B1"]), Some("A2 was empty and has HAA2"))]
#[case::exchanged(change(pair(), "B1", |m| m.serial = "HAC3".into()), 16 * GIB, pair(), Some("B1 had HAC3 and has HAB1"))]
#[case::other_slots(with(pair(), |i| i.board.slots[0].id = "DIMM1".into()), 16 * GIB, pair(), None)]
#[case::less(pair(), 16 * GIB, usable(pair(), 15 * GIB), Some("handed over 16 GiB last time, 15 GiB now"))]
#[case::hardly_less(pair(), 16 * GIB, usable(pair(), 16 * GIB - 32 * MIB), None)]
#[case::total_untold(pair(), 0, usable(pair(), 15 * GIB), None)]
fn since_last_time(
    #[case] before: Inventory,
    #[case] usable_bytes: u64,
    #[case] now: Inventory,
    #[case] expected: Option<&str>,
) {
    let system = SystemFacts::default();
    let before = Before { board: before.board, usable_bytes };
    let known =
        Known { inventory: &now, system: &system, counters: &[], before: Some(&before), wall_ms: None, speed: None };
    expect(&found(&known), expected);
}

#[test]
fn a_virtual_machine_says_so_and_misses_nothing() {
    let inventory = with(usable(pair(), GIB), |i| i.mapped_bytes = Some(GIB));
    let system = SystemFacts { guest: true, ..SystemFacts::default() };
    let known =
        Known { inventory: &inventory, system: &system, counters: &[], before: None, wall_ms: None, speed: None };
    assert_eq!(found(&known), ["This is a virtual machine"]);
}

#[test]
fn the_worst_stands_first() {
    let counters = [EccCount { label: "A1".into(), corrected: 2, uncorrected: 0 }];
    let inventory = change(inventory(&["A1", "A2"]), "A2", |module| module.serial.clear());
    let system = SystemFacts::default();
    let known =
        Known { inventory: &inventory, system: &system, counters: &counters, before: None, wall_ms: None, speed: None };
    let weights: Vec<Weight> = findings(&known).into_iter().map(|finding| finding.weight).collect();
    assert_eq!(weights, [Weight::Wrong, Weight::Doubtful, Weight::Note]);
}
