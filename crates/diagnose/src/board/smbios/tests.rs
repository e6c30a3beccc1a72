use rstest::rstest;

use super::device::tell_apart;
use super::*;
use crate::board::fact_names as names;
use revisum_engine::units::{ByteRange, GIB};
use revisum_record::fitted::{Module, Slot};

fn structure(kind: u8, handle: u16, fields: &[u8], strings: &[&str]) -> Vec<u8> {
    let mut bytes = vec![kind, fields.len() as u8 + 4];
    bytes.extend(handle.to_le_bytes());
    bytes.extend(fields);
    strings.iter().for_each(|string| bytes.extend(string.bytes().chain([0])));
    bytes.extend(if strings.is_empty() { vec![0, 0] } else { vec![0] });
    bytes
}

/// A type 17 structure by the table of DSP0134, version 2.8 (length 0x28), written out by hand.
fn memory_device(handle: u16, size_mib: u16, strings: &[&str]) -> Vec<u8> {
    let mut fields = vec![0x00, 0x10, 0xfe, 0xff, 72, 0, 64, 0];
    fields.extend(size_mib.to_le_bytes());
    fields.extend([0x09, 0x00, 1, 2, 0x1a, 0x80, 0x00, 0x80, 0x0c, 3, 4, 0, 5, 0x01, 0, 0, 0, 0, 0x80, 0x0c]);
    // Least, most and configured voltage in millivolts.
    fields.extend([0, 0, 0, 0, 0xb0, 0x04]);
    assert_eq!(fields.len(), 0x24);
    structure(17, handle, &fields, strings)
}

/// Types 0, 1, 2, 4, 7, 16, 17, 19 and 20 by their tables.
fn whole_machine() -> Vec<u8> {
    let mut bytes = structure(0, 0, &firmware_fields(), &["Tarnwerk", "1.14", "03/02/2030"]);
    let mut system = vec![1, 2, 0, 3];
    system.extend([0; 16]);
    system.extend([6, 0, 0]);
    bytes.extend(structure(1, 1, &system, &["Tarnwerk", "Holm tower", "TW-77"]));
    bytes.extend(structure(2, 2, &[1, 2, 0, 3, 0, 0, 0, 0, 0, 0x0a, 0], &["Tarnwerk", "Holm M2", "MB-12"]));
    let mut processor = vec![1, 3, 0xfe, 0];
    processor.extend([0; 8]);
    // Version; voltage; external clock, most and current speed in MHz; status, upgrade; three caches; serial, tag, part; cores.
    processor.extend([2, 0, 100, 0, 0x10, 0x0e, 0xd0, 0x07, 0x41, 6, 7, 0, 8, 0, 9, 0, 0, 0, 0, 8, 8, 16, 0, 0]);
    bytes.extend(structure(4, 4, &processor, &["SOCKET0", "Corvane 8-core"]));
    // Level 3, 16 MiB in steps of 64 KiB.
    bytes.extend(structure(7, 9, &[0, 0x82, 0x01, 0x00, 0x81, 0x00, 0x81, 0, 0, 0, 0, 0, 0, 0, 0], &[]));
    // Mainboard, system memory, single-bit correction, 64 GiB at most, no error structure, two slots.
    bytes.extend(structure(16, 0x1000, &[3, 3, 5, 0, 0, 0, 4, 0xfe, 0xff, 2, 0, 0, 0, 0, 0, 0, 0, 0, 0], &[]));
    bytes.extend(memory_device(0x1100, 8192, &["A1", "P0 CHANNEL A", "Haldry\x1b[31m", "HA0093", "HD8G32J  "]));
    bytes.extend(memory_device(0x1101, 0, &["B1", "P0 CHANNEL B", "Unknown", "00000000", "NO DIMM"]));
    // 0 to 3 GiB, 4 to 9 GiB by the extended fields.
    bytes.extend(structure(19, 0x1300, &[0, 0, 0, 0, 0xff, 0xff, 0x2f, 0, 0x00, 0x10, 1], &[]));
    let mut extended = vec![0xff, 0xff, 0xff, 0xff, 0xff, 0xff, 0xff, 0xff, 0x00, 0x10, 1];
    extended.extend((4 * GIB).to_le_bytes());
    extended.extend((9 * GIB - 1).to_le_bytes());
    bytes.extend(structure(19, 0x1301, &extended, &[]));
    bytes.extend(structure(20, 0x1400, &[0, 0, 0, 0, 0xff, 0xff, 0x2f, 0, 0x00, 0x11, 0x00, 0x13, 1, 1, 2], &[]));
    bytes.extend(structure(127, 0xffff, &[], &[]));
    bytes
}

/// Type 0 from offset 4 on.
fn firmware_fields() -> Vec<u8> {
    let mut fields = vec![1, 2, 0, 0, 3, 0xff];
    fields.extend([0; 8]);
    fields
}

fn read(bytes: Vec<u8>) -> SmbiosFacts {
    SmbiosFacts::read(&SmbiosTables::of_version((3, 2), bytes))
}

#[test]
fn fitted_and_empty_slots() {
    let facts = read(whole_machine());
    let module = Module {
        serial: "HA0093".into(),
        maker: "Haldry [31m".into(),
        part: "HD8G32J".into(),
        bytes: 8 * GIB,
        generation: "DDR4".into(),
        speed: Some(3200),
        rated_speed: Some(3200),
        ranks: Some(1),
        byte_lanes: 9,
        ..Module::default()
    };
    let slot = |id: &str, channel: &str, module| Slot {
        id: id.into(),
        channel: Some(channel.into()),
        soldered: false,
        socket: None,
        declared: false,
        module,
    };
    assert_eq!(facts.board.slots, [slot("A1", "A", Some(module)), slot("B1", "B", None)]);
    assert_eq!(facts.board.fitted_bytes(), Some(8 * GIB));
}

#[rstest]
#[case::computer("", names::COMPUTER, "Tarnwerk Holm tower")]
#[case::computer_serial("", names::COMPUTER_SERIAL, "TW-77")]
#[case::mainboard("", names::MAINBOARD, "Tarnwerk Holm M2")]
#[case::mainboard_serial("", names::MAINBOARD_SERIAL, "MB-12")]
#[case::firmware_maker("", names::FIRMWARE_MAKER, "Tarnwerk")]
#[case::firmware("", names::FIRMWARE, "1.14")]
#[case::firmware_date("", names::FIRMWARE_DATE, "03/02/2030")]
#[case::processor("", names::PROCESSOR, "Corvane 8-core")]
#[case::socket("", names::SOCKET, "SOCKET0")]
#[case::cores("", names::CORES, "8")]
#[case::clock("", names::CLOCK, "2000 MHz")]
#[case::cache("", "cache level 3", "16 MiB")]
#[case::most("", names::MOST_MEMORY, "64 GiB")]
#[case::slots("", names::SLOTS, "2")]
#[case::correction("", names::CORRECTION, "corrects single bits")]
#[case::array("", names::ARRAY_RANGE, "0x0000 0000 0000 to 0x0000 bfff ffff")]
#[case::second_array("", "memory answers at (2)", "0x0001 0000 0000 to 0x0002 3fff ffff")]
#[case::bank("A1", names::BANK, "P0 CHANNEL A")]
#[case::form("A1", names::FORM, "DIMM")]
#[case::serial("A1", names::SERIAL, "HA0093")]
#[case::voltage("A1", names::VOLTAGE, "1.20 V")]
#[case::width("A1", names::WIDTH, "72 bit")]
#[case::data_width("A1", names::DATA_WIDTH, "64 bit")]
#[case::range("A1", names::RANGE, "0x0000 0000 0000 to 0x0000 bfff ffff")]
#[case::turn("A1", names::TURN, "1")]
fn every_fact_stands_with_its_name(#[case] slot: &str, #[case] name: &str, #[case] expected: &str) {
    assert_eq!(read(whole_machine()).facts.value(slot, name), Some(expected));
}

#[test]
fn addresses_of_arrays_and_devices() {
    let facts = read(whole_machine());
    assert_eq!(facts.arrays.bytes(), 8 * GIB);
    let device = MappedDevice {
        slot: "A1".into(),
        range: ByteRange::new(0, 3 * GIB),
        interleave_position: Some(1),
        interleave_depth: Some(2),
    };
    assert_eq!(facts.mapped, [device]);
}

#[rstest]
#[case::main(3, 2)]
#[case::video(4, 0)]
#[case::flash(5, 0)]
fn only_main_memory_counts(#[case] usage: u8, #[case] slots: usize) {
    let mut bytes = whole_machine();
    let array = bytes.windows(4).position(|window| window == [16, 0x17, 0x00, 0x10]).unwrap();
    bytes[array + 5] = usage;
    assert_eq!(read(bytes).board.slots.len(), slots);
}

#[test]
fn tables_cut_anywhere_are_read_as_far_as_they_go() {
    let whole = whole_machine();
    for length in 0..whole.len() {
        let facts = read(whole[..length].to_vec());
        assert!(facts.board.slots.len() <= 2);
        // A structure that lost its end must not fill its fields with words about that.
        let odd = facts.facts.all().iter().find(|fact| fact.value().contains("structure"));
        assert_eq!(odd, None, "cut at {length}");
    }
}

#[rstest]
#[case::escapes("\x1b[2J\x1b]0;x\x07HA93")]
#[case::long(&"Z".repeat(10_000))]
#[case::direction("A\u{202e}B")]
fn strings_come_out_clean(#[case] serial: &str) {
    let facts = read(memory_device(1, 8192, &["A1", "P0 CHANNEL A", "Haldry", serial, "HD8G32J"]));
    let told = facts.facts.value("A1", names::SERIAL).unwrap();
    assert!(told.chars().count() <= LONGEST + 1 && !told.chars().any(char::is_control), "{told:?}");
    assert!(!told.contains('\u{202e}'));
}

#[test]
fn a_string_with_a_zero_byte_ends_there() {
    let facts = read(memory_device(1, 8192, &["A1", "P0 CHANNEL A", "Haldry", "HA\x0093", "HD8G32J"]));
    assert_eq!(facts.facts.value("A1", names::SERIAL), Some("HA"));
}

/// Where two slots have one name the other name of each tells them apart, and where that is no help a number.
#[rstest]
#[case::own(&[("A1", "BANK 0"), ("A2", "BANK 0")], &["A1", "A2"])]
#[case::by_bank(&[("DIMM1", "Node1/Bank1/MemCard1"), ("DIMM1", "Node1/Bank1/MemCard2")], &["Node1/Bank1/MemCard1 DIMM1", "Node1/Bank1/MemCard2 DIMM1"])]
#[case::by_socket(&[("D0", "/SYS/MB/P0"), ("D0", "/SYS/MB/P1"), ("D1", "/SYS/MB/P1")], &["/SYS/MB/P0 D0", "/SYS/MB/P1 D0", "D1"])]
#[case::by_number(&[("DIMM", ""), ("DIMM", "")], &["DIMM#1", "DIMM#2"])]
#[case::by_both(&[("DIMM", "B"), ("DIMM", "B"), ("DIMM", "C")], &["B DIMM#1", "B DIMM#2", "C DIMM"])]
#[case::nameless(&[("", ""), ("", "BANK 1")], &["slot", "BANK 1"])]
#[case::long(&[("Controller0-ChannelA-DIMM0", ""), ("Controller0-ChannelB-DIMM0", "")], &["Controller0-ChannelA-DIMM0", "Controller0-ChannelB-DIMM0"])]
fn slots_with_one_name_are_told_apart(#[case] names: &[(&str, &str)], #[case] expected: &[&str]) {
    let mut slots: Vec<Slot> = names.iter().map(|(id, _)| Slot { id: (*id).into(), ..Slot::default() }).collect();
    let banks: Vec<String> = names.iter().map(|(_, bank)| (*bank).to_owned()).collect();
    tell_apart(&mut slots, &banks);
    assert_eq!(slots.iter().map(|slot| slot.id.as_str()).collect::<Vec<_>>(), expected);
}

/// Firmware writes what it has from the module, or what its template had: maker, serial number, part number.
#[rstest]
#[case::plain(["Haldry", "5A22", "HD8G32J"], ["Haldry", "5A22", "HD8G32J"])]
#[case::placeholders(["Manufacturer0", "SerNum0", "ModulePartNumber00"], ["", "", ""])]
#[case::templates(["To Be Filled By O.E.M.", "Default string", "N/A"], ["", "", ""])]
#[case::code(["80CE000080CE", "00000001", "M1"], ["Samsung", "00000001", "M1"])]
#[case::code_of_nobody(["7FFF", "1", "M1"], ["7FFF", "1", "M1"])]
#[case::spelled_code(["JEDEC ID:80 AD", "1", "M1"], ["SK Hynix", "1", "M1"])]
#[case::part_in_digits(["Haldry", "1", "4844384733324A2D4B3120202020"], ["Haldry", "1", "HD8G32J-K1"])]
#[case::part_in_digits_that_are_no_text(["Haldry", "1", "0102030405060708090A0B"], ["Haldry", "1", "0102030405060708090A0B"])]
#[case::part_of_digits(["Haldry", "1", "48443847"], ["Haldry", "1", "48443847"])]
fn what_modules_state_is_made_readable(#[case] written: [&str; 3], #[case] expected: [&str; 3]) {
    let [maker, serial, part] = written;
    let facts = read(memory_device(1, 8192, &["A1", "P0 CHANNEL A", maker, serial, part]));
    let module = facts.board.slots[0].module.as_ref().unwrap();
    assert_eq!([module.maker.as_str(), &module.serial, &module.part], expected);
    let told = [names::MAKER, names::SERIAL, names::PART].map(|name| facts.facts.value("A1", name).unwrap_or_default());
    assert_eq!(told, expected);
}

/// By the bit of the standard, by names of the computer, or not at all.
#[rstest]
#[case::real("Holm tower", 0, false)]
#[case::by_name("Standard PC (i440FX + PIIX, 1996)", 0, true)]
#[case::by_the_bit("Holm tower", 0x10, true)]
#[case::other_bits("Holm tower", 0x0f, false)]
fn virtual_machines_are_known(#[case] product: &str, #[case] features: u8, #[case] expected: bool) {
    let mut fields = firmware_fields();
    fields.extend([0, features]);
    let mut bytes = structure(0, 0, &fields, &["Tarnwerk", "1.14", "03/02/2030"]);
    let mut system = vec![1, 2, 0, 3];
    system.extend([0; 16]);
    system.extend([6, 0, 0]);
    bytes.extend(structure(1, 1, &system, &["Tarnwerk", product, "TW-77"]));
    assert_eq!(read(bytes).guest, expected);
}

/// The kinds that the standard numbers, old and mobile ones among them.
#[rstest]
#[case(0x0f, "SDRAM")]
#[case(0x12, "DDR")]
#[case(0x13, "DDR2")]
#[case(0x18, "DDR3")]
#[case(0x1a, "DDR4")]
#[case(0x1d, "LPDDR3")]
#[case(0x1e, "LPDDR4")]
#[case(0x22, "DDR5")]
#[case(0x23, "LPDDR5")]
#[case(0x02, "")]
fn kinds_of_memory(#[case] kind: u8, #[case] expected: &str) {
    let mut bytes = memory_device(1, 8192, &["A1", "", "Haldry", "1", "P"]);
    bytes[0x12] = kind;
    assert_eq!(read(bytes).board.slots[0].module.as_ref().unwrap().generation, expected);
}
