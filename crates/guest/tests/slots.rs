//! The slot, end to end: bits of four slots are forced from outside while a booted computer tests itself, and each is reported with its address, its
//! bit and its slot, on the screen and in the journal. Virtual firmware's word on slots is made to count for this.

mod common;

use std::collections::BTreeMap;

use common::{GIB, MIB, at_the_board, run_of, run_with_forced};
use revisum_guest::tables::Structure;
use revisum_guest::{Chipset, FromDrive};
use revisum_record::outcome::Judgement;
use rstest::rstest;

const ARRAY: u16 = 0x1000;

/// A slot with the addresses that its module answers to, by the firmware's word.
struct Slot {
    name: &'static str,
    from: u64,
    bytes: u64,
}

/// Below the hole there are two modules, above it two.
fn four_slots(low: u64, high: u64) -> [Slot; 4] {
    [
        Slot { name: "DIMM A1", from: 0, bytes: low / 2 },
        Slot { name: "DIMM A2", from: low / 2, bytes: low / 2 },
        Slot { name: "DIMM B1", from: 4 * GIB, bytes: high / 2 },
        Slot { name: "DIMM B2", from: 4 * GIB + high / 2, bytes: high / 2 },
    ]
}

/// Types 16, 17, 19 and 20 (DMTF DSP0134): the array, its slots, its addresses, and those of each slot.
fn tables(slots: &[Slot]) -> Vec<Vec<u8>> {
    let array = Structure::new(16, ARRAY).bytes(&[3, 3, 3]).dword(64 << 20).word(0xfffe).word(4).qword(0).finished();
    let device = |number: u16, slot: &Slot| {
        let mib = u16::try_from(slot.bytes / MIB).unwrap();
        let structure = Structure::new(17, 0x1100 + number).word(ARRAY).word(0xfffe).word(64).word(64).word(mib);
        let structure = structure.bytes(&[0x09, 0]).string(slot.name).string("BANK 0").bytes(&[0x1a]).word(0x80);
        let structure = structure.word(3200).string("Haldry").string(&format!("4A22009{number}")).bytes(&[0]);
        structure.string("HD2G32J").bytes(&[1]).dword(0).word(3200).word(1200).word(1200).word(1200).finished()
    };
    let range = |number: u16, slot: &Slot| {
        let array = Structure::new(19, 0x1300 + number).dword(u32::MAX).dword(u32::MAX).word(ARRAY).bytes(&[1]);
        let (from, last) = (slot.from, slot.from + slot.bytes - 1);
        let array = array.qword(from).qword(last).finished();
        let device = Structure::new(20, 0x1400 + number).dword(u32::MAX).dword(u32::MAX).word(0x1100 + number);
        let device = device.word(0x1300 + number).bytes(&[1, 0, 0]).qword(from).qword(last).finished();
        [array, device]
    };
    let mut all = vec![array];
    all.extend((1..).zip(slots).map(|(number, slot)| device(number, slot)));
    all.extend((1..).zip(slots).flat_map(|(number, slot)| range(number, slot)));
    all
}

/// Words of each slot: at its bottom, at its top, and at places of chance between; a bit in each.
fn places(slots: &[Slot]) -> BTreeMap<u64, (u64, &'static str)> {
    let mut places = BTreeMap::new();
    for (at, slot) in (1u64..).zip(slots) {
        let chance = |number: u64| (at * 100 + number).wrapping_mul(0x9e37_79b9_7f4a_7c15) >> 8;
        // The first 256 MiB hold the kernel: what it uses cannot be tested in this start.
        let bottom = slot.from.max(300 * MIB);
        let within = |number: u64| (bottom + chance(number) % (slot.from + slot.bytes - bottom)) & !7;
        let top = slot.from + slot.bytes - 2 * MIB;
        for (number, address) in (1..).zip([bottom, within(1), within(2), within(3), top]) {
            places.insert(address, (1 << (chance(10 + number) % 64), slot.name));
        }
    }
    places
}

/// Twenty bits, five in each of four slots: at its bottom and at its top, below and above 4 GiB.
#[rstest]
#[case::below_and_above_4_gib(5120, 3 * GIB)]
#[ignore = "boots a guest: cargo xtask guests runs it"]
fn every_forced_bit_is_named_with_its_slot(#[case] memory_mib: u64, #[case] low: u64) {
    let slots = four_slots(low, memory_mib * MIB - low);
    let places = places(&slots);
    assert_eq!(places.len(), 20);
    let computer = FromDrive {
        chipset: Chipset::Pc,
        memory_mib,
        entry: Some("serial"),
        structures: tables(&slots),
        trust_ranges: true,
        ..FromDrive::default()
    };
    let booted = at_the_board(&computer);
    booted.wait(&["slots by its firmware (test)"]).unwrap();
    run_with_forced(&booted, &places.iter().map(|(at, (mask, _))| (*at, *mask)).collect::<Vec<_>>());
    booted.keys(b"5").unwrap();
    let locate = booted.wait(&["firmware was believed"]).unwrap();
    let run = run_of(&booted.cut_power().unwrap().journals().unwrap()[0].1);
    assert!(run.begin.guest && run.begin.ranges_trusted);
    let judgement = Judgement::of(&run, true);
    let mut found = 0;
    for sample in &run.errors.samples {
        let (address, bits) = (sample.address.unwrap().0, sample.expected.0 ^ sample.actual.0);
        let Some((mask, _)) = places.get(&address) else { panic!("nothing was forced at {address:#x}") };
        assert_eq!(bits, *mask, "{address:#x}");
        found += 1;
    }
    println!("{found} samples, {:?}, {:?}", run.errors.slots, judgement.told());
    let named: BTreeMap<&str, usize> = run
        .errors
        .slots
        .keys()
        .map(|slot| (slot.as_str(), places.values().filter(|(_, name)| name == slot).count()))
        .collect();
    assert_eq!(named, slots.iter().map(|slot| (slot.name, 5)).collect::<BTreeMap<_, _>>(), "every slot, and no other");
    let addresses: std::collections::BTreeSet<u64> =
        run.errors.samples.iter().filter_map(|sample| Some(sample.address?.0)).collect();
    assert_eq!(addresses, places.keys().copied().collect(), "every place");
    for slot in &slots {
        assert!(locate.contains(slot.name), "{locate}");
    }
}
