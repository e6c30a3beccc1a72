//! Marches find couplings at every distance although a cache and a queue of writes lie between the sweeps and the cells.

use std::collections::BTreeSet;
use std::sync::Arc;

use revisum_diagnose::address::{AddressMap, Cell};
use revisum_engine::catalog::find_test;
use revisum_engine::march::{Element, March};
use revisum_engine::memory::{BadStretch, LeaseRequest, Memory, MismatchSink};
use revisum_engine::pattern::{WordRule, pass_seed};
use revisum_engine::sweep::second_look::WordAccess;
use revisum_engine::sweep::{BadLine, BadWord, ElementWork};
use revisum_engine::units::{MIB, PhysAddr};
use revisum_sim::{Aggressor, FaultKind, FaultSpec, MachineSpec, SimOptions, shipped, simulated_machine};
use rstest::rstest;

/// 256 MiB from here on, behind a cache of 8 MiB with 16 ways.
const FIRST: u64 = 512 * MIB;
const BYTES: u64 = 256 * MIB;
/// Pairs at each distance.
const PAIRS: u32 = 100;

/// Two different words of one module so many bytes apart.
struct Pair {
    distance: u64,
    victim: u64,
    fault: FaultSpec,
}

/// Draws pairs at 4 KiB to 64 MiB, the aggressor below and above.
fn pairs(kind: FaultKind, map: &AddressMap, serials: &[(String, String)]) -> Vec<Pair> {
    let place = |address: u64| -> Option<(String, Cell)> {
        let placed = map.locate(PhysAddr(address))?;
        let (_, serial) = serials.iter().find(|(slot, _)| *slot == placed.slot)?;
        Some((serial.clone(), placed.cell))
    };
    let one = |distance: u64, number: u32| {
        let drawn = pass_seed(distance, number);
        // Twins exactly a power of two apart may never share a module: channels take turns by such bits.
        let apart = distance + drawn.rotate_left(20) % (distance / 4) / 8 * 8;
        let low = FIRST + drawn % ((BYTES - apart) / 8) * 8;
        let (aggressor, victim) = if number.is_multiple_of(2) { (low, low + apart) } else { (low + apart, low) };
        let ((owner, cell), (beside, other)) = (place(victim)?, place(aggressor)?);
        let (trigger, value) = (u8::from(drawn >> 61 & 1 == 1), u8::from(drawn >> 62 & 1 == 1));
        let fault = FaultSpec {
            module: Some(owner.clone()),
            aggressor: Some(Aggressor { cell: other, lane: 17, trigger }),
            ..FaultSpec::plain(kind, cell, 5, value)
        };
        (owner == beside).then_some(Pair { distance, victim: victim - FIRST, fault })
    };
    let at = |bit: u32| (0..100 * PAIRS).filter_map(move |number| one(1 << bit, number)).take(PAIRS as usize);
    let pairs: Vec<Pair> = (12..=26).flat_map(at).collect();
    assert_eq!(pairs.len(), 15 * PAIRS as usize);
    pairs
}

/// Offsets that read wrong.
#[derive(Default)]
struct Wrong(BTreeSet<u64>);

impl MismatchSink for Wrong {
    fn mismatch(&mut self, word: BadWord, _again: &mut dyn WordAccess) {
        self.0.insert(word.offset);
    }
    fn looks_again(&self) -> bool {
        true
    }
    fn line(&mut self, _offset: u64, _line: &BadLine) {}
    fn stretch(&mut self, _stretch: &BadStretch) {}
}

fn swept(memory: &Arc<dyn Memory>, march: &March) -> Wrong {
    let mut wrong = Wrong::default();
    let elements: Vec<&Element> = march.0.iter().collect();
    for element in elements {
        let Some(work) = ElementWork::of(element, WordRule::Constant(0)) else { continue };
        memory.sweep(0..BYTES, &work, &mut wrong);
    }
    wrong
}

#[rstest]
#[case("march-c-", FaultKind::CouplingIdempotent)]
#[case("march-c-", FaultKind::CouplingInversion)]
#[case("march-c-", FaultKind::CouplingState)]
#[case("march-ss", FaultKind::CouplingIdempotent)]
#[case("march-ss", FaultKind::CouplingDisturb)]
fn couplings_are_found_at_every_distance(#[case] test: &str, #[case] kind: FaultKind) {
    let plain =
        MachineSpec { cache: 8 * MIB, cache_ways: 16, held_by_system: 0, ..shipped("frontdesk").unwrap().unwrap() };
    let sound = simulated_machine(MachineSpec { faults: Vec::new(), ..plain.clone() }, SimOptions::default());
    let map = sound.firmware.address_map().expect("a simulated machine tells its map");
    let pairs = pairs(kind, &map, &plain.placement());
    let faults = pairs.iter().map(|pair| pair.fault.clone()).collect();
    let machine = simulated_machine(MachineSpec { faults, ..plain }, SimOptions::default());
    let range = Some(revisum_engine::units::ByteRange::new(FIRST, FIRST + BYTES));
    let memory = machine.memory.lease(&LeaseRequest { range, ..LeaseRequest::default() }, &|_, _| true).unwrap();
    assert_eq!(memory.layout().bytes(), BYTES);
    let wrong = swept(&memory, &find_test(test).unwrap().march());
    for bit in 12..=26 {
        let here: Vec<&Pair> = pairs.iter().filter(|pair| pair.distance == 1 << bit).collect();
        let found = here.iter().filter(|pair| wrong.0.contains(&pair.victim)).count();
        println!("{test} {kind:?} {} KiB: {found} of {}", (1u64 << bit) / 1024, here.len());
        assert!(
            found * 100 >= here.len() * 99,
            "{test} {kind:?} at {} KiB: {found} of {}",
            (1u64 << bit) / 1024,
            here.len()
        );
    }
}
