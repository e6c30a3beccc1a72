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
        socket: None,
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

/// Two sockets with two channels each: the first one's slots are A1, B1 and two more on the first channel, the other's A2 and B2.
fn two_sockets(fitted: &[&str]) -> Inventory {
    let slot = |(id, socket, channel): (&str, &str, &str)| Slot {
        id: id.into(),
        channel: Some(channel.into()),
        socket: Some(socket.into()),
        module: fitted.contains(&id).then(|| module(&format!("HA{id}"))),
        ..Slot::default()
    };
    let slots =
        [("A1", "0", "P0-A"), ("A3", "0", "P0-A"), ("B1", "0", "P0-B"), ("A2", "1", "P1-A"), ("B2", "1", "P1-B")];
    let mut inventory = usable(pair(), fitted.len() as u64 * 8 * GIB);
    inventory.board.slots = slots.map(slot).into();
    if fitted.contains(&"A3") {
        // The second channel of the first socket is emptied for the third module.
        inventory.board.slots[2].module = None;
    }
    inventory
}

fn unequal() -> Inventory {
    change(usable(pair(), 12 * GIB), "B1", |module| module.bytes = 4 * GIB)
}

fn channels_untold(mut inventory: Inventory) -> Inventory {
    inventory.board.slots.iter_mut().for_each(|slot| slot.channel = None);
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
#[case::tables_count_otherwise(with(pair(), |i| i.mapped_bytes = Some(15 * GIB)), None)]
#[case::tables_count_a_kib_more(with(pair(), |i| i.mapped_bytes = Some(16 * GIB + 1024)), None)]
#[case::unbalanced(unequal(), Some("do not hold the same amount of memory: 8 GiB on A; 4 GiB on B"))]
#[case::crowded(inventory(&["A1", "A2"]), Some("share channel A while another"))]
#[case::three(inventory(&["A1", "A2", "B1"]), Some("same amount of memory: 16 GiB on A; 8 GiB on B"))]
#[case::full(inventory(&["A1", "A2", "B1", "B2"]), None)]
#[case::socket_without_modules(two_sockets(&["A1", "A2"]), Some("2 of 4 memory channels"))]
#[case::crowded_in_one_socket(two_sockets(&["A1", "B1", "A2", "A3"]), Some("share channel P0-A while another"))]
#[case::same_letters_of_two_sockets(two_sockets(&["A1", "A2", "B1", "B2"]), None)]
#[case::guest_by_its_tables(with(change(pair(), "B1", |m| m.serial.clear()), |i| i.guest = true), Some("This is a virtual machine"))]
#[case::soldered_needs_no_serial(with(change(pair(), "B1", |m| m.serial.clear()), |i| i.board.slots[2].soldered = true), None)]
#[case::one_maker_by_two_names(change(pair(), "B1", |m| m.maker = "HALDRY Semiconductor".into()), None)]
#[case::one_channel(inventory(&["A1"]), Some("1 of 2 memory channels"))]
#[case::channels_untold(with(inventory(&["A1"]), |i| i.board.slots[0].channel = None), None)]
#[case::slow(change(pair(), "B1", |m| m.speed = Some(2666)), Some("B1 at 2666 of 3200"))]
#[case::speed_unknown(change(pair(), "B1", |m| m.speed = None), None)]
#[case::profile(change(pair(), "B1", |m| { m.speed = Some(3600); m.rated_speed = Some(3600); }), Some("B1 at 3600, made for 3200"))]
#[case::by_hand(change(pair(), "B1", |m| { m.speed = Some(3400); m.rated_speed = Some(3400); m.profile_speeds = vec![3600]; }), Some("neither its base speed nor a profile's: B1 at 3400, made for 3200"))]
#[case::by_its_profile(change(pair(), "B1", |m| { m.speed = Some(3600); m.rated_speed = Some(3600); m.profile_speeds = vec![3600]; }), Some("a profile is on"))]
#[case::profile_rounding(change(pair(), "B1", |m| m.speed = Some(3202)), None)]
#[case::base_speed_unknown(change(pair(), "B1", |m| { m.speed = Some(3600); m.base_speed = None; }), None)]
#[case::makers(change(pair(), "B1", |m| m.maker = "Ostrand".into()), Some("different makers"))]
#[case::maker_unknown(change(pair(), "B1", |m| m.maker = String::new()), None)]
#[case::sizes(channels_untold(unequal()), Some("different sizes"))]
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

/// 8 of 16 GiB are given: what the system sees, what the tables map, what the map reserves, and up to where memory lies.
#[rstest]
#[case::unknown(0, None, 0, true, Some("Reseat it, then test it alone"))]
#[case::the_system_sees_it(16 * GIB, None, 0, true, None)]
#[case::the_system_sees_as_little(8 * GIB, None, 0, true, Some("Reseat it, then test it alone"))]
#[case::tables_leave_it_out(0, Some(8 * GIB), 0, true, Some("does not use one of the modules"))]
#[case::tables_have_it(0, Some(16 * GIB), 0, true, Some("Reseat it, then test it alone"))]
#[case::graphics(0, Some(16 * GIB), 7 * GIB, true, Some("most likely for graphics"))]
#[case::graphics_take_less(0, Some(16 * GIB), GIB, true, Some("Nothing is mapped above 4 GiB"))]
#[case::nothing_high(0, Some(16 * GIB), 0, false, Some("Nothing is mapped above 4 GiB"))]
fn missing_memory_has_a_reason(
    #[case] seen_bytes: u64,
    #[case] mapped_bytes: Option<u64>,
    #[case] reserved: u64,
    #[case] high: bool,
    #[case] expected: Option<&str>,
) {
    // In units of 1/8: the hole ends at 4 GiB, whatever is reserved lies right below it.
    let installed = if reserved > 0 || !high { 4 * GIB } else { 16 * GIB };
    let scale = |bytes: u64| bytes / (16 * GIB / installed);
    let low = scale(8 * GIB).min(3 * GIB);
    let mut usable = vec![ByteRange::new(0, low)];
    if scale(8 * GIB) > low {
        usable.push(ByteRange::new(4 * GIB, 4 * GIB + scale(8 * GIB) - low));
    }
    let mut inventory = pair();
    inventory.board.slots.iter_mut().filter_map(|slot| slot.module.as_mut()).for_each(|m| m.bytes = installed / 2);
    inventory.usable = usable.into();
    inventory.reserved = RangeSet::from(vec![ByteRange::new(low, low + scale(reserved))]);
    inventory.mapped_bytes = mapped_bytes.map(scale);
    let system = SystemFacts { seen_bytes: scale(seen_bytes), ..SystemFacts::default() };
    let known =
        Known { inventory: &inventory, system: &system, counters: &[], before: None, wall_ms: None, speed: None };
    let advice: Vec<String> = findings(&known).iter().map(revisum_words::board::advice).collect();
    expect(&advice, expected);
}

/// What was there before, what is there now.
#[rstest]
#[case::same(pair(), 16 * GIB, pair(), None)]
#[case::emptied(inventory(&["A1", "A2", "B1"]), 24 * GIB, pair(), Some("Not as last time: A2 had HAA2 and is empty"))]
#[case::filled(pair(), 16 * GIB, inventory(&["A1", "A2", "B1", "B2"]), Some("A2 was empty and has HAA2"))]
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
fn a_move_that_makes_channels_equal_is_proposed() {
    let uneven = inventory(&["A1", "A2", "B1"]);
    let uneven = change(change(uneven, "A2", |m| m.bytes = 4 * GIB), "B1", |m| m.bytes = 4 * GIB);
    let inventory = usable(uneven, 16 * GIB);
    let system = SystemFacts::default();
    let known =
        Known { inventory: &inventory, system: &system, counters: &[], before: None, wall_ms: None, speed: None };
    let advice: Vec<String> = findings(&known).iter().map(revisum_words::board::advice).collect();
    expect(&advice, Some("Move the module in A2 to B2"));
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
