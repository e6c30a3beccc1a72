//! How physical addresses are counted before linear functions choose channel, rank and bank.

use crate::units::ByteRange;

/// Ways that take turns, granule by granule: three channels, or six of which three do.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Turns {
    /// How many.
    pub ways: u64,
    /// Neighbouring bytes that stay together: 2 to this power.
    pub granule_bits: u32,
}

/// Addresses less an offset (memory that is mapped above a hole), then divided among ways that take turns, where some do.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub struct View {
    /// What is taken off addresses at or above `from`.
    pub offset: u64,
    /// First address that it is taken off.
    pub from: u64,
    /// Ways that take turns.
    pub turns: Option<Turns>,
}

impl View {
    /// Which way an address goes, and its address inside that way.
    pub fn of(&self, address: u64) -> (u64, u64) {
        let packed = if address >= self.from { address.wrapping_sub(self.offset) } else { address };
        let Some(Turns { ways, granule_bits }) = self.turns else { return (0, packed) };
        let granule = packed >> granule_bits;
        let low = packed & ((1 << granule_bits) - 1);
        (granule % ways, (granule / ways) << granule_bits | low)
    }

    /// The address of a place inside a way.
    pub fn address(&self, way: u64, inside: u64) -> u64 {
        let packed = match self.turns {
            Some(Turns { ways, granule_bits }) => {
                let low = inside & ((1 << granule_bits) - 1);
                ((inside >> granule_bits) * ways + way) << granule_bits | low
            }
            None => inside,
        };
        let above = packed.wrapping_add(self.offset);
        if self.offset > 0 && above >= self.from { above } else { packed }
    }
}

/// Above this memory is mapped that would lie under devices otherwise.
const FOUR_GIB: u64 = 4 << 30;
/// Holes are whole multiples of one of these: what lies just below them is kept for graphics and the firmware.
const STEPS: [u64; 5] = [64 << 20, 128 << 20, 256 << 20, 512 << 20, 1 << 30];

/// What may be taken off addresses above 4 GiB: the hole below them, by the end of usable memory there.
pub fn holes(usable: &[ByteRange]) -> Vec<(u64, u64)> {
    let Some(end) = usable.iter().map(|range| range.end).filter(|end| *end < FOUR_GIB).max() else { return Vec::new() };
    if !usable.iter().any(|range| range.end > FOUR_GIB) {
        return Vec::new();
    }
    let mut all: Vec<u64> = STEPS.iter().map(|step| FOUR_GIB - end.next_multiple_of(*step)).collect();
    all.retain(|hole| *hole > 0);
    all.sort_unstable();
    all.dedup();
    all.into_iter().map(|hole| (FOUR_GIB, hole)).collect()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_hole_is_what_lies_between_memory_and_four_gib() {
        let range = ByteRange::new;
        let usable = [range(0, 640 << 10), range(1 << 20, 0xa7e0_0000), range(FOUR_GIB, 5 * FOUR_GIB)];
        let found = holes(&usable);
        assert!(found.contains(&(FOUR_GIB, 0x5800_0000)), "{found:x?}");
        assert!(found.iter().all(|(from, hole)| *from == FOUR_GIB && *hole < FOUR_GIB - 0xa7e0_0000));
        assert_eq!(holes(&usable[..2]), []);
    }

    #[test]
    fn every_address_has_a_place_of_its_own() {
        let view = View { offset: 1 << 20, from: 4 << 20, turns: Some(Turns { ways: 3, granule_bits: 8 }) };
        let lines = (0..3 << 14).chain((4 << 14)..(7 << 14)).map(|line| view.of(line * 64));
        let places: std::collections::BTreeSet<_> = lines.collect();
        assert_eq!(places.len(), 6 << 14);
        assert!(places.iter().all(|(way, inside)| view.of(view.address(*way, *inside)) == (*way, *inside)));
        assert!(places.iter().all(|(way, inside)| *way < 3 && *inside < (6 << 20) / 3));
    }
}
