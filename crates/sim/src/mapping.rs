//! How the simulated memory controller spreads addresses for a fitting.

use revisum_core::address::{AddressMap, Cell, CellMap, MapError, Placed, Region, Way};
use revisum_core::units::{ByteRange, GIB};

use crate::spec::{MachineSpec, ModuleSpec};

/// Below this address lies memory, from here to 4 GiB devices.
const HOLE_START: u64 = 3 * GIB;
const HOLE_END: u64 = 4 * GIB;
const COLUMN_BITS: u32 = 10;
const BANK_BITS: u32 = 4;
/// Bytes that stay together on one channel.
const GRANULE_BITS: u32 = 8;
/// Further address bits that take part in choosing the channel.
const HASHED_BITS: u64 = 1 << 14 | 1 << 19 | 1 << 25;

/// Physical ranges of this much memory.
pub(crate) fn physical(bytes: u64) -> Vec<ByteRange> {
    let low = ByteRange::new(0, bytes.min(HOLE_START));
    let high = ByteRange::new(HOLE_END, HOLE_END + bytes.saturating_sub(HOLE_START));
    [low, high].into_iter().filter(|range| !range.is_empty()).collect()
}

/// Words in a row.
pub(crate) const COLUMNS: u32 = 1 << COLUMN_BITS;

/// Rows in each bank of a module.
pub(crate) fn rows(module: &ModuleSpec) -> u32 {
    1 << ((module.size / 8).trailing_zeros() - COLUMN_BITS - BANK_BITS)
}

fn cells(module: &ModuleSpec) -> Result<CellMap, MapError> {
    let word_bits = (module.size / 8).trailing_zeros();
    CellMap::hashed(COLUMN_BITS, BANK_BITS, word_bits - COLUMN_BITS - BANK_BITS, 0)
}

/// Whether the module has this cell.
pub(crate) fn holds(module: &ModuleSpec, cell: Cell) -> bool {
    let Ok(cells) = cells(module) else { return false };
    let bytes = cells.bytes();
    let way = Way { channel_start: 0, slots: vec![(String::new(), cells)] };
    let region = Region { start: 0, bytes, ways: vec![way], granule_bits: GRANULE_BITS, way_masks: Vec::new() };
    AddressMap::new(vec![ByteRange::new(0, bytes)], vec![region])
        .is_ok_and(|map| map.address(&Placed { slot: String::new(), cell }).is_some())
}

/// The map of a fitting: channels of equal size are interleaved when their number is a power of two, otherwise they
/// follow one another.
pub(crate) fn address_map(machine: &MachineSpec, placement: &[(String, String)]) -> Result<AddressMap, MapError> {
    let channels = channels(machine, placement)?;
    let sizes: Vec<u64> = channels.iter().map(|way| way.slots.iter().map(|(_, cells)| cells.bytes()).sum()).collect();
    let total: u64 = sizes.iter().sum();
    let equal = sizes.windows(2).all(|pair| pair[0] == pair[1]);
    let regions = if equal && channels.len().is_power_of_two() && channels.len() > 1 {
        let bits = channels.len().trailing_zeros();
        let way_masks = (0..bits).map(|bit| 1u64 << (GRANULE_BITS + bit) | HASHED_BITS << bit).collect();
        vec![Region { start: 0, bytes: total, ways: channels, granule_bits: GRANULE_BITS, way_masks }]
    } else {
        let mut start = 0;
        let one_each = channels.into_iter().zip(sizes).map(|(way, bytes)| {
            let region = Region { start, bytes, ways: vec![way], granule_bits: GRANULE_BITS, way_masks: Vec::new() };
            start += bytes;
            region
        });
        one_each.collect()
    };
    AddressMap::new(physical(total), regions)
}

fn channels(machine: &MachineSpec, placement: &[(String, String)]) -> Result<Vec<Way>, MapError> {
    let mut ways: Vec<(&str, Way)> = Vec::new();
    for slot in &machine.slots {
        let Some((_, serial)) = placement.iter().find(|(id, _)| *id == slot.id) else { continue };
        let Some(module) = machine.module(serial) else { continue };
        let entry = (slot.id.clone(), cells(module)?);
        match ways.iter_mut().find(|(channel, _)| *channel == slot.channel) {
            Some((_, way)) => way.slots.push(entry),
            None => ways.push((&slot.channel, Way { channel_start: 0, slots: vec![entry] })),
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
    use revisum_core::units::PhysAddr;

    use super::*;
    use crate::spec::{shipped, shipped_names};

    proptest! {
        #[test]
        fn every_shipped_map_is_one_to_one(word in any::<u64>()) {
            for name in shipped_names() {
                let machine = shipped(name).unwrap().unwrap();
                let map = address_map(&machine, &machine.placement()).unwrap();
                let total: u64 = map.physical().iter().map(|range| range.len()).sum();
                let packed = word % (total / 8) * 8;
                let address = if packed < HOLE_START { packed } else { packed - HOLE_START + HOLE_END };
                let placed = map.locate(PhysAddr(address)).expect("inside");
                prop_assert_eq!(map.address(&placed), Some(PhysAddr(address)));
            }
        }
    }
}
