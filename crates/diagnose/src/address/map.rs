//! The address map of one fitting: how the memory controller spreads physical addresses over channels, slots and cells.
//!
//! Stages, forward:
//!
//! 1. holes are taken out: physical addresses become *packed* ones that count fitted memory from zero;
//! 2. a region of packed addresses is spread over its ways: the way is a number whose bits are parities of address
//!    bits, and the bits at the granule are left out of what remains;
//! 3. what remains is an address inside the channel, which belongs to the slot whose share holds it;
//! 4. the address inside the module becomes rank, bank, row and column by parities of its bits.
//!
//! A map belongs to a fitting, a firmware and its settings, not to a model of mainboard.

use super::cell::{Extent, MapError, Placed, Twofold};
use super::cells::CellMap;
use super::linear::parity;
use revisum_engine::units::{ByteRange, PhysAddr};

/// Slots that share one piece of a channel: one, or several that take turns by the parities of address bits.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Stack {
    /// Slots in the order of their numbers.
    pub slots: Vec<String>,
    /// Their cells.
    pub cells: CellMap,
}

impl Stack {
    /// One slot alone.
    pub fn of(slot: impl Into<String>, cells: CellMap) -> Self {
        Self { slots: vec![slot.into()], cells }
    }
}

/// One channel's part in a region: which bytes of which slots it spreads over, in order.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Way {
    /// First byte inside the channel that this region uses.
    pub channel_start: u64,
    /// Memory of the channel, one stack behind the other.
    pub stacks: Vec<Stack>,
}

impl Way {
    /// How many bytes of a part of this way lie in a slot.
    fn overlap(&self, slot: &str, from: u64, to: u64) -> u64 {
        let mut before = 0;
        let mut bytes = 0;
        for stack in &self.stacks {
            let (start, end) = (before, before + stack.cells.bytes());
            before = end;
            let (low, high) = ((from + self.channel_start).max(start), (to + self.channel_start).min(end));
            if let Some(number) = stack.slots.iter().position(|held| held == slot).filter(|_| low < high) {
                bytes += stack.cells.share(number, low - start, high - start);
            }
        }
        bytes
    }
}

/// A piece of the packed address space that is spread in one manner.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Region {
    /// First packed byte.
    pub start: u64,
    /// Length in bytes.
    pub bytes: u64,
    /// Channels.
    pub ways: Vec<Way>,
    /// Neighbouring bytes that stay together: 2 to this power.
    pub granule_bits: u32,
    /// For each bit of the way: which bits of the address inside the region it is the parity of. Without masks the ways take
    /// turns, granule by granule, which serves three or six channels.
    pub way_masks: Vec<u64>,
}

/// Smallest granule: a cache line never spreads over two slots.
const LEAST_GRANULE_BITS: u32 = 6;

impl Region {
    fn way_bits(&self) -> u32 {
        self.ways.len().trailing_zeros()
    }

    fn granule(&self) -> u64 {
        1 << self.granule_bits
    }

    /// Every way has one granule in each chunk of this many bytes, aligned to that.
    fn chunk(&self) -> u64 {
        self.granule() * self.ways.len() as u64
    }

    /// Ways that take turns instead of following masks: any number of them.
    fn takes_turns(&self) -> bool {
        self.way_masks.is_empty()
    }

    /// How many bytes of a part of this region lie in a slot.
    fn share(&self, slot: &str, from: u64, to: u64) -> u64 {
        let chunk = self.chunk();
        let (first, last) = (from.next_multiple_of(chunk).min(to), to / chunk * chunk);
        if first >= last {
            return self.share_by_granule(slot, from, to);
        }
        let (inside, bytes) = (first / self.ways.len() as u64, (last - first) / self.ways.len() as u64);
        let whole: u64 = self.ways.iter().map(|way| way.overlap(slot, inside, inside + bytes)).sum();
        whole + self.share_by_granule(slot, from, first) + self.share_by_granule(slot, last, to)
    }

    fn share_by_granule(&self, slot: &str, from: u64, to: u64) -> u64 {
        let (mut at, mut bytes) = (from, 0);
        while at < to {
            let end = ((at / self.granule() + 1) * self.granule()).min(to);
            let (way, inside) = self.split(at);
            bytes += self.ways[way].overlap(slot, inside, inside + (end - at));
            at = end;
        }
        bytes
    }

    fn split(&self, offset: u64) -> (usize, u64) {
        if self.takes_turns() {
            let (granule, ways) = (offset / self.granule(), self.ways.len() as u64);
            return ((granule % ways) as usize, granule / ways * self.granule() + offset % self.granule());
        }
        let way = self
            .way_masks
            .iter()
            .enumerate()
            .fold(0, |way, (bit, mask)| way | usize::from(parity(mask & offset)) << bit);
        let low = offset & ((1 << self.granule_bits) - 1);
        let high = offset >> (self.granule_bits + self.way_bits());
        (way, high << self.granule_bits | low)
    }

    fn join(&self, way: usize, inside: u64) -> u64 {
        if self.takes_turns() {
            let granule = inside / self.granule() * self.ways.len() as u64 + way as u64;
            return granule * self.granule() + inside % self.granule();
        }
        let low = inside & ((1 << self.granule_bits) - 1);
        let high = inside >> self.granule_bits;
        let without_way = high << (self.granule_bits + self.way_bits()) | low;
        // Each mask holds its own granule bit and no other one (checked when built), so each bit follows by itself.
        self.way_masks.iter().enumerate().fold(without_way, |offset, (bit, mask)| {
            let wanted = way >> bit & 1 == 1;
            let have = parity(mask & without_way);
            offset | u64::from(wanted != have) << (self.granule_bits + bit as u32)
        })
    }

    fn check(&self) -> Result<(), MapError> {
        if self.ways.is_empty() || self.granule_bits < LEAST_GRANULE_BITS {
            return Err(MapError::NotOneToOne(Twofold::Ways));
        }
        let share = self.bytes / self.ways.len() as u64;
        for way in &self.ways {
            if way.stacks.iter().any(|stack| stack.slots.len() != stack.cells.slots()) {
                return Err(MapError::Slots);
            }
            let held = way.stacks.iter().map(|stack| stack.cells.bytes()).fold(0, u64::saturating_add);
            if way.channel_start.checked_add(share).is_none_or(|needed| needed > held) {
                return Err(MapError::Channel);
            }
        }
        if self.takes_turns() {
            let fits = self.ways.len() == 1 || self.bytes.is_multiple_of(self.chunk());
            return if fits { Ok(()) } else { Err(MapError::NotOneToOne(Twofold::Length)) };
        }
        let bits = self.way_bits();
        if !self.ways.len().is_power_of_two() || self.way_masks.len() != bits as usize {
            return Err(MapError::NotOneToOne(Twofold::Masks));
        }
        let granule_field = ((1u64 << bits) - 1) << self.granule_bits;
        let below = (1u64 << self.granule_bits) - 1;
        for (bit, mask) in self.way_masks.iter().enumerate() {
            if mask & granule_field != 1 << (self.granule_bits + bit as u32) || mask & below != 0 {
                return Err(MapError::NotOneToOne(Twofold::Mask));
            }
        }
        if !self.bytes.is_multiple_of(1 << (self.granule_bits + bits)) {
            return Err(MapError::NotOneToOne(Twofold::Length));
        }
        Ok(())
    }
}

/// The whole map.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct AddressMap {
    /// Physical ranges in ascending order; packed addresses run through them.
    physical: Vec<ByteRange>,
    regions: Vec<Region>,
}

impl AddressMap {
    /// Checks and keeps the map.
    ///
    /// # Errors
    /// When it is not one-to-one or the sizes do not agree.
    pub fn new(physical: Vec<ByteRange>, regions: Vec<Region>) -> Result<Self, MapError> {
        if physical.windows(2).any(|pair| pair[0].end > pair[1].start) {
            return Err(MapError::NotOneToOne(Twofold::Ranges));
        }
        let mut next = 0;
        for region in &regions {
            region.check()?;
            if region.start != next {
                return Err(MapError::NotOneToOne(Twofold::Regions));
            }
            next += region.bytes;
        }
        let ranges = physical.iter().map(|range| range.len()).sum();
        if ranges != next {
            return Err(MapError::Size { ranges, regions: next });
        }
        Ok(Self { physical, regions })
    }

    /// Pieces of the packed address space.
    pub fn regions(&self) -> &[Region] {
        &self.regions
    }

    /// Physical ranges of the map.
    pub fn physical(&self) -> &[ByteRange] {
        &self.physical
    }

    /// Ranks, banks, rows and columns of the module in a slot, over all regions that it has a part in; nothing where it has none.
    pub fn extent(&self, slot: &str) -> Option<Extent> {
        let stacks = self.regions.iter().flat_map(|region| &region.ways).flat_map(|way| &way.stacks);
        let own = stacks.filter(|stack| stack.slots.iter().any(|id| id == slot));
        own.map(|stack| stack.cells.extent()).reduce(Extent::with)
    }

    /// Address to slot and cell; nothing outside the map.
    pub fn locate(&self, address: PhysAddr) -> Option<Placed> {
        let (stack, rest, _) = self.find(address)?;
        let (number, cell) = stack.cells.locate(rest);
        Some(Placed { slot: stack.slots.get(number)?.clone(), cell })
    }

    /// The slot of an address, and a piece of the address space around it that is in the same slot. Costs no allocation.
    pub fn slot_run(&self, address: PhysAddr) -> Option<(&str, ByteRange)> {
        let (stack, rest, run) = self.find(address)?;
        let slot = stack.slots.get(stack.cells.slot_of(rest))?;
        let bits = stack.cells.run_bits();
        if bits >= run.len().trailing_zeros() {
            return Some((slot, run));
        }
        let start = address.0 >> bits << bits;
        Some((slot, ByteRange::new(start, start + (1 << bits))))
    }

    /// Which channel of how many an address comes to, in the order of the map.
    pub fn channel(&self, address: PhysAddr) -> Option<(usize, usize)> {
        let packed = self.pack(address)?;
        let region = self.regions.iter().find(|region| packed < region.start + region.bytes)?;
        Some((region.split(packed - region.start).0, region.ways.len()))
    }

    fn find(&self, address: PhysAddr) -> Option<(&Stack, u64, ByteRange)> {
        let packed = self.pack(address)?;
        let region = self.regions.iter().find(|region| packed < region.start + region.bytes)?;
        let offset = packed - region.start;
        let (way, inside) = region.split(offset);
        let way = &region.ways[way];
        let start = address.0 - offset % region.granule();
        let run = ByteRange::new(start, start + region.granule());
        let mut rest = inside + way.channel_start;
        for stack in &way.stacks {
            if rest < stack.cells.bytes() {
                return Some((stack, rest, run));
            }
            rest -= stack.cells.bytes();
        }
        None
    }

    /// How many bytes of a physical range lie in this slot.
    pub fn share(&self, slot: &str, range: ByteRange) -> u64 {
        let mut before = 0;
        let mut bytes = 0;
        for physical in &self.physical {
            let (start, end) = (range.start.max(physical.start), range.end.min(physical.end));
            if start < end {
                let packed = before + (start - physical.start);
                bytes += self.packed_share(slot, packed, packed + (end - start));
            }
            before += physical.len();
        }
        bytes
    }

    fn packed_share(&self, slot: &str, start: u64, end: u64) -> u64 {
        let share = |region: &Region| {
            let (from, to) = (start.max(region.start), end.min(region.start + region.bytes));
            if from < to { region.share(slot, from - region.start, to - region.start) } else { 0 }
        };
        self.regions.iter().map(share).sum()
    }

    /// Slot and cell to the address of the word; nothing when there is no such cell.
    pub fn address(&self, placed: &Placed) -> Option<PhysAddr> {
        for region in &self.regions {
            for (index, way) in region.ways.iter().enumerate() {
                let Some(channel_address) = channel_address(way, placed) else { continue };
                let Some(inside) = channel_address.checked_sub(way.channel_start) else { continue };
                if inside < region.bytes / region.ways.len() as u64 {
                    return self.unpack(region.start + region.join(index, inside));
                }
            }
        }
        None
    }

    fn pack(&self, address: PhysAddr) -> Option<u64> {
        let mut before = 0;
        for range in &self.physical {
            if (range.start..range.end).contains(&address.0) {
                return Some(before + (address.0 - range.start));
            }
            before += range.len();
        }
        None
    }

    fn unpack(&self, packed: u64) -> Option<PhysAddr> {
        let mut rest = packed;
        for range in &self.physical {
            if rest < range.len() {
                return Some(PhysAddr(range.start + rest));
            }
            rest -= range.len();
        }
        None
    }
}

fn channel_address(way: &Way, placed: &Placed) -> Option<u64> {
    let mut before = 0;
    for stack in &way.stacks {
        if let Some(number) = stack.slots.iter().position(|slot| *slot == placed.slot) {
            return Some(before + stack.cells.address(number, placed.cell)?);
        }
        before += stack.cells.bytes();
    }
    None
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;
    use rstest::rstest;

    use super::*;
    use revisum_engine::units::GIB;

    fn cells() -> CellMap {
        CellMap::hashed(7, 4, 16, 0).unwrap()
    }

    fn way(slot: &str) -> Way {
        Way { channel_start: 0, stacks: vec![Stack::of(slot, cells())] }
    }

    /// Two channels of 1 GiB, way bit hashed, with a hole from 1 to 3 GiB.
    fn two_channels() -> AddressMap {
        let region = Region {
            start: 0,
            bytes: 2 * GIB,
            ways: vec![way("A1"), way("B1")],
            granule_bits: 8,
            way_masks: vec![1 << 8 | 1 << 14 | 1 << 21],
        };
        AddressMap::new(vec![ByteRange::new(0, GIB), ByteRange::new(3 * GIB, 4 * GIB)], vec![region]).unwrap()
    }

    #[test]
    fn sizes_follow_from_the_bits() {
        assert_eq!(cells().bytes(), GIB);
    }

    /// Worked out by hand: address 0x100 has way bit 8 set, nothing else, so it is the first granule of channel B.
    #[rstest]
    #[case(0x0, "A1", 0, 0)]
    #[case(0x100, "B1", 0, 0)]
    #[case(0x200, "A1", 0, 32)]
    #[case(0x4000, "B1", 8, 0)]
    #[case(0x4100, "A1", 8, 0)]
    fn addresses_by_hand(#[case] address: u64, #[case] slot: &str, #[case] bank: u32, #[case] column: u32) {
        let placed = two_channels().locate(PhysAddr(address)).unwrap();
        assert_eq!((placed.slot.as_str(), placed.cell.bank, placed.cell.column), (slot, bank, column));
    }

    #[test]
    fn addresses_in_the_hole_are_nowhere() {
        assert_eq!(two_channels().locate(PhysAddr(2 * GIB)), None);
        assert_eq!(two_channels().locate(PhysAddr(4 * GIB)), None);
    }

    #[rstest]
    #[case::own_bit_missing(vec![1 << 14])]
    #[case::inside_the_granule(vec![1 << 8 | 1 << 3])]
    fn wrong_masks_are_refused(#[case] way_masks: Vec<u64>) {
        let region = Region { start: 0, bytes: 2 * GIB, ways: vec![way("A1"), way("B1")], granule_bits: 8, way_masks };
        assert!(matches!(
            AddressMap::new(vec![ByteRange::new(0, 2 * GIB)], vec![region]),
            Err(MapError::NotOneToOne(_))
        ));
    }

    /// Three channels that take turns, and a fourth range without a partner.
    fn three_channels() -> AddressMap {
        let region = Region {
            start: 0,
            bytes: 3 * GIB,
            ways: vec![way("A1"), way("B1"), way("C1")],
            granule_bits: 8,
            way_masks: Vec::new(),
        };
        let alone =
            Region { start: 3 * GIB, bytes: GIB, ways: vec![way("D1")], granule_bits: 8, way_masks: Vec::new() };
        AddressMap::new(vec![ByteRange::new(0, 4 * GIB)], vec![region, alone]).unwrap()
    }

    #[rstest]
    #[case(0x0, "A1", 0)]
    #[case(0x108, "B1", 1)]
    #[case(0x200, "C1", 0)]
    #[case(0x300, "A1", 32)]
    #[case(3 << 30, "D1", 0)]
    fn three_ways_take_turns(#[case] address: u64, #[case] slot: &str, #[case] column: u32) {
        let placed = three_channels().locate(PhysAddr(address)).unwrap();
        assert_eq!((placed.slot.as_str(), placed.cell.column), (slot, column));
    }

    proptest! {
        #[test]
        fn turns_are_one_to_one(word in 0u64..(4 * GIB / 8)) {
            let map = three_channels();
            let placed = map.locate(PhysAddr(word * 8)).expect("inside the map");
            prop_assert_eq!(map.address(&placed), Some(PhysAddr(word * 8)));
        }

        /// What a range holds of each slot is what its words say one by one.
        #[test]
        fn shares_are_counted_right(start in 0u64..4 * GIB / 64, lines in 0u64..300, turns in any::<bool>()) {
            let map = if turns { three_channels() } else { two_channels() };
            let range = ByteRange::new(start * 64, start * 64 + lines * 64);
            for slot in ["A1", "B1", "C1", "D1"] {
                let line = |at: &u64| map.slot_run(PhysAddr(*at)).is_some_and(|(held, _)| held == slot);
                let bytes = (range.start..range.end).step_by(64).filter(line).count() as u64 * 64;
                prop_assert_eq!(map.share(slot, range), bytes, "{}", slot);
            }
        }

        #[test]
        fn every_word_has_its_own_cell(word in 0u64..(2 * GIB / 8)) {
            let map = two_channels();
            let packed = word * 8;
            let address = PhysAddr(if packed < GIB { packed } else { packed + 2 * GIB });
            let placed = map.locate(address).expect("inside the map");
            prop_assert_eq!(map.address(&placed), Some(address));
        }
    }
}
