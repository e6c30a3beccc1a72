//! Registers of a memory controller that fit a machine's address map: client processors of 2015, two channels of equal size or one.

use revisum_diagnose::controller::{Place, Registers};
use revisum_engine::units::{GIB, MIB};

use crate::spec::MachineSpec;

/// The function of the channels: with it a machine is built whose registers tell its map.
pub(crate) const MASK: u64 = 0x30cc << 6;

const FOUR_GIB: u64 = 4 * GIB;

/// The registers in this fitting; none where the machine shows none, or where its channels are of unequal size.
pub(crate) fn registers(machine: &MachineSpec, placement: &[(String, String)]) -> Registers {
    let mut registers = Registers::default();
    let of_channel = |channel: &str| -> Vec<u64> {
        let slots = machine.slots.iter().filter(|slot| slot.channel == channel);
        let fitted = slots.filter_map(|slot| placement.iter().find(|(id, _)| *id == slot.id));
        let mut sizes: Vec<u64> = fitted.filter_map(|(_, id)| machine.module(id)).map(|module| module.size).collect();
        sizes.sort_unstable_by(|a, b| b.cmp(a));
        sizes
    };
    let channels = ["A", "B"].map(of_channel);
    let [first, second] = channels.each_ref().map(|sizes| sizes.iter().sum::<u64>());
    let top = first + second;
    if !machine.map.registers || top == 0 || (first != second && first.min(second) > 0) {
        return registers;
    }
    let low = machine.holes.first().map_or(FOUR_GIB, |hole| hole.from).min(top);
    let hidden = top.min(FOUR_GIB) - low;
    let reach = top.max(FOUR_GIB);
    let (base, limit) = if hidden > 0 { (reach, reach + hidden - MIB) } else { (0x7f_fff0_0000, 0) };
    let host = |offset| Place::Config { device: 0, function: 0, offset };
    registers.insert(host(0), 0x191f_8086);
    for (offset, value) in [(0x70, 0), (0x78, 0), (0x90, base), (0x98, limit), (0xa0, top), (0xa8, reach + hidden)] {
        registers.insert(host(offset), value as u32);
        registers.insert(host(offset + 4), (value >> 32) as u32);
    }
    registers.insert(host(0xbc), low as u32);
    let larger = u32::from(second > first);
    let gib = |bytes: u64| (bytes / GIB) as u32;
    registers.insert(Place::Mapped { offset: 0x5000 }, gib(first.min(second)) << 12 | larger << 4);
    for (offset, sizes) in [0x500c, 0x5010].into_iter().zip(&channels) {
        let size = |at: usize| sizes.get(at).copied().map_or(0, gib);
        registers.insert(Place::Mapped { offset }, size(0) | size(1) << 16);
    }
    registers.insert(Place::Mapped { offset: 0x5024 }, 1 << 28 | 2 << 24 | MASK as u32);
    registers
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;
    use revisum_diagnose::board::Inventory;
    use revisum_diagnose::controller::KnownController;
    use revisum_engine::units::PhysAddr;

    use super::*;
    use crate::bench::raw;
    use crate::machine_file::shipped;
    use crate::mapping::address_map;

    proptest! {
        /// What registers tell is where the simulation keeps its words.
        #[test]
        fn registers_tell_the_true_slot(word in any::<u64>()) {
            let mut machine = shipped("heliostat").unwrap().unwrap();
            machine.map.registers = true;
            let placement = machine.placement();
            let inventory = Inventory::read(&raw(&machine, &placement, "stock"));
            let known: KnownController = inventory.controller.unwrap();
            let truth = address_map(&machine, &placement).unwrap();
            let total: u64 = truth.physical().iter().map(|range| range.len()).sum();
            let address = PhysAddr(word % (total + GIB) / 8 * 8);
            let slot = truth.locate(address).map(|placed| vec![placed.slot]);
            prop_assert_eq!(known.map.slots(address), slot);
        }
    }
}
