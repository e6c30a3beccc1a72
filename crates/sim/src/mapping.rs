//! How the simulated memory controller spreads addresses for a fitting.

use revisum_diagnose::address::{AddressMap, Cell, CellMap, MapError, Region, Stack, Way};
use revisum_engine::units::ByteRange;

use crate::registers;
use crate::spec::{MachineSpec, ModuleSpec};

const COLUMN_BITS: u32 = 10;
const BANK_BITS: u32 = 4;
/// Physical ranges of this much memory.
pub(crate) fn physical(machine: &MachineSpec, bytes: u64) -> Vec<ByteRange> {
    let (mut at, mut left) = (0, bytes);
    let mut ranges = Vec::new();
    for hole in &machine.holes {
        let len = left.min(hole.from - at);
        ranges.push(ByteRange::new(at, at + len));
        (at, left) = (hole.to, left - len);
    }
    ranges.push(ByteRange::new(at, at + left));
    ranges.retain(|range| !range.is_empty());
    ranges
}

fn rank_bits(module: &ModuleSpec) -> u32 {
    module.ranks.trailing_zeros()
}

fn row_bits(module: &ModuleSpec) -> u32 {
    (module.size / 8).trailing_zeros() - COLUMN_BITS - BANK_BITS - rank_bits(module)
}

/// How many ranks, banks, rows and columns a module has.
pub(crate) fn size(module: &ModuleSpec) -> Cell {
    Cell { rank: module.ranks, bank: 1 << BANK_BITS, row: 1 << row_bits(module), column: 1 << COLUMN_BITS }
}

fn cells(module: &ModuleSpec) -> Result<CellMap, MapError> {
    CellMap::hashed(COLUMN_BITS, BANK_BITS, row_bits(module), rank_bits(module))
}

/// Whether the module has this cell.
pub(crate) fn holds(module: &ModuleSpec, cell: Cell) -> bool {
    let size = size(module);
    cell.rank < size.rank && cell.bank < size.bank && cell.row < size.row && cell.column < size.column
}

/// The map of a fitting: channels of equal size are interleaved, by a hash where their number is a power of two and in turns
/// otherwise; channels of unequal size follow one another.
pub(crate) fn address_map(machine: &MachineSpec, placement: &[(String, String)]) -> Result<AddressMap, MapError> {
    let channels = channels(machine, placement)?;
    let sizes: Vec<u64> = channels.iter().map(|way| way.stacks.iter().map(|stack| stack.cells.bytes()).sum()).collect();
    let total: u64 = sizes.iter().sum();
    let granule_bits = machine.map.granule_bits;
    let region = |start, bytes, ways, way_masks| Region { start, bytes, ways, granule_bits, way_masks };
    let regions = if channels.len() > 1 && sizes.windows(2).all(|pair| pair[0] == pair[1]) {
        let ways = channels.len();
        let bits = if ways.is_power_of_two() { ways.trailing_zeros() as usize } else { 0 };
        let masks = if machine.map.registers { &[registers::MASK][..] } else { &machine.map.way_masks[..] };
        let masks = masks.get(..bits).ok_or(MapError::TooFewMasks(bits))?;
        let way_masks = masks.to_vec();
        vec![region(0, total, channels, way_masks)]
    } else {
        let mut start = 0;
        let one_each = channels.into_iter().zip(sizes).map(|(way, bytes)| {
            start += bytes;
            region(start - bytes, bytes, vec![way], Vec::new())
        });
        one_each.collect()
    };
    AddressMap::new(physical(machine, total), regions)
}

fn channels(machine: &MachineSpec, placement: &[(String, String)]) -> Result<Vec<Way>, MapError> {
    let mut ways: Vec<(&str, Way)> = Vec::new();
    for slot in &machine.slots {
        let Some((_, serial)) = placement.iter().find(|(id, _)| *id == slot.id) else { continue };
        let Some(module) = machine.module(serial) else { continue };
        let entry = Stack::of(slot.id.clone(), cells(module)?);
        match ways.iter_mut().find(|(channel, _)| *channel == slot.channel) {
            Some((_, way)) => way.stacks.push(entry),
            None => ways.push((&slot.channel, Way { channel_start: 0, stacks: vec![entry] })),
        }
    }
    Ok(ways.into_iter().map(|(_, way)| way).collect())
}

/// Channels with at least one module.
pub(crate) fn populated_channels(machine: &MachineSpec, placement: &[(String, String)]) -> usize {
    channels(machine, placement).map_or(1, |ways| ways.len().max(1))
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;
    use revisum_engine::units::PhysAddr;

    use super::*;
    use crate::machine_file::{shipped, shipped_names};

    proptest! {
        #[test]
        fn every_shipped_map_is_one_to_one(word in any::<u64>()) {
            for name in shipped_names() {
                let machine = shipped(name).unwrap().unwrap();
                let map = address_map(&machine, &machine.placement()).unwrap();
                let total: u64 = map.physical().iter().map(|range| range.len()).sum();
                let mut packed = word % (total / 8) * 8;
                let range = map.physical().iter().find(|range| {
                    let inside = packed < range.len();
                    packed -= if inside { 0 } else { range.len() };
                    inside
                });
                let address = PhysAddr(range.expect("inside").start + packed);
                let placed = map.locate(address).expect("inside");
                prop_assert_eq!(map.address(&placed), Some(address));
            }
        }
    }
}
