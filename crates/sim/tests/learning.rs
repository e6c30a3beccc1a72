//! What single-module runs teach of how the slots of every simulated machine share its addresses.

mod common;

use revisum_diagnose::address::{AddressMap, KnownWord, Open, Sharing, learn_layout};
use revisum_engine::units::PhysAddr;
use revisum_sim::{shipped, shipped_names};

fn random(seed: u64) -> u64 {
    let mut mixed = seed.wrapping_mul(0x9e37_79b9_7f4a_7c15).wrapping_add(0x1234_5678_9abc_def1);
    mixed = (mixed ^ mixed >> 30).wrapping_mul(0xbf58_476d_1ce4_e5b9);
    mixed ^ mixed >> 31
}

/// A failing word somewhere in the machine, and the slot that it is in.
fn word(map: &AddressMap, seed: u64) -> KnownWord {
    let total: u64 = map.physical().iter().map(|range| range.len()).sum();
    let mut packed = (random(seed) % total) & !63;
    let mut address = 0;
    for range in map.physical() {
        if packed < range.len() {
            address = range.start + packed;
            break;
        }
        packed -= range.len();
    }
    KnownWord { address, label: map.locate(PhysAddr(address)).expect("inside of the map").slot }
}

/// Whole failing modules, one after another in every slot: the channel and slot functions are found but for the borders that no
/// failing word has shown, and with one slot untried exactly that one is named.
#[test]
fn every_machine_is_learned() {
    for name in shipped_names() {
        let spec = shipped(name).unwrap().unwrap();
        let machine = common::machine(name, 1);
        let Some(map) = machine.firmware.address_map() else { panic!("{name} has a map") };
        let channel = |slot: &str| spec.slots.iter().find(|known| known.id == slot).unwrap().channel.clone();
        let fitted: Vec<_> = spec.placement().into_iter().map(|(slot, _)| (slot.clone(), channel(&slot))).collect();
        let words: Vec<KnownWord> = (0..200 * fitted.len() as u64).map(|seed| word(&map, seed)).collect();
        let layout = learn_layout(&words, &fitted, map.physical(), 6);
        let (mut right, mut open) = (0, 0);
        for seed in 1_000_000..1_002_000 {
            let fresh = word(&map, seed);
            match layout.slot(fresh.address) {
                Some(slot) => {
                    assert_eq!(slot, fresh.label, "{name}: {:?}", layout);
                    right += 1;
                }
                None => open += 1,
            }
        }
        println!("{name}: {right} of 2000 placed; {:?}", layout);
        // Between the words seen on both sides of a border there is little room: a two-hundredth for each slot.
        assert!(open * 200 <= 2 * 2000 * fitted.len(), "{name}: {open} open, {:?}", layout);
        if fitted.len() > 1 {
            let (unseen, _) = &fitted[0];
            let fewer: Vec<KnownWord> = words.iter().filter(|word| word.label != *unseen).cloned().collect();
            let layout = learn_layout(&fewer, &fitted, map.physical(), 6);
            let channel = channel(unseen);
            let alone = fitted.iter().filter(|(_, of)| *of == channel).count() == 1;
            let named = if alone { &channel } else { unseen };
            let unknown =
                |open: Option<&Open>| matches!(open, Some(Open::NoWord { labels, .. }) if labels.contains(named));
            let open = layout.slots.iter().map(|(_, sharing)| sharing).chain([&layout.channels]);
            assert!(open.map(Sharing::open).any(unknown), "{name}: {layout:?}");
        }
    }
}
