//! An address map over positions.

use revisum_engine::units::{ByteRange, PhysAddr};
use serde::Serialize;

use super::channel::Channel;
use super::refusal::Contradiction;

/// Where a module can sit, as a controller counts.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize)]
pub struct Position {
    /// Channel.
    pub channel: u8,
    /// Slot of the channel.
    pub slot: u8,
}

/// How two channels take turns.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Interleave {
    /// The address bit that is left out of addresses inside a channel.
    pub bit: u32,
    /// Address bits whose parity is the channel: `bit` is among them.
    pub mask: u64,
}

/// How a zone is spread over channels, by their place in the map's list.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Spread {
    /// One channel alone.
    Alone(usize),
    /// Two of them: at parity 0 and at 1.
    Two([usize; 2], Interleave),
}

/// A piece of the physical addresses.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Zone {
    /// Physical addresses.
    pub physical: ByteRange,
    /// The address whose bits choose the channel, for the first byte.
    pub seen: u64,
    /// The address from which the interleave bit is left out, for the first byte.
    pub inside: u64,
    /// What is added in the channel after that.
    pub behind: u64,
    /// How it is spread.
    pub spread: Spread,
}

impl Zone {
    /// The channel of an address that lies so far inside, and its address there.
    fn place(&self, offset: u64) -> (usize, u64) {
        match self.spread {
            Spread::Alone(channel) => (channel, self.inside + offset + self.behind),
            Spread::Two(channels, Interleave { bit, mask }) => {
                let way = (self.seen + offset) & mask;
                let whole = self.inside + offset;
                let left = whole >> (bit + 1) << bit | whole & ((1 << bit) - 1);
                (channels[(way.count_ones() & 1) as usize], left + self.behind)
            }
        }
    }

    /// Addresses of each of its channels that it fills.
    fn filled(&self) -> ByteRange {
        let shift = u32::from(matches!(self.spread, Spread::Two(..)));
        let (start, end) = (self.inside, self.inside + self.physical.len());
        ByteRange::new((start >> shift) + self.behind, (end >> shift) + self.behind)
    }

    fn channels(&self) -> Vec<usize> {
        match self.spread {
            Spread::Alone(channel) => vec![channel],
            Spread::Two(channels, _) => channels.to_vec(),
        }
    }

    /// Each address bit that matters is the same in all three counts, and both channels get a half.
    fn is_whole(&self) -> bool {
        let Spread::Two(_, Interleave { bit, mask }) = self.spread else { return true };
        let turn = 2u64 << bit;
        let aligned = [self.physical.start, self.physical.end, self.seen, self.inside, self.behind];
        mask >> bit & 1 == 1 && aligned.iter().all(|at| at.is_multiple_of(turn))
    }
}

/// More than any machine has.
const WHOLE_BITS: u32 = 50;

/// A one-to-one map from physical addresses to channels, and as far as that is known to their slots.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct PositionMap {
    zones: Vec<Zone>,
    channels: Vec<Channel>,
}

impl PositionMap {
    /// Checks and keeps it.
    ///
    /// # Errors
    /// When two addresses would reach one place, or one none.
    pub(super) fn new(mut zones: Vec<Zone>, channels: Vec<Channel>) -> Result<Self, Contradiction> {
        zones.sort_by_key(|zone| zone.physical.start);
        let apart = zones.windows(2).all(|pair| pair[0].physical.end <= pair[1].physical.start);
        if zones.is_empty() || !apart || zones.iter().any(|zone| zone.physical.is_empty() || !zone.is_whole()) {
            return Err(Contradiction::NotOneToOne);
        }
        for (at, channel) in channels.iter().enumerate() {
            let own = zones.iter().filter(|zone| zone.channels().contains(&at));
            let mut filled: Vec<ByteRange> = own.map(Zone::filled).collect();
            filled.sort_by_key(|range| range.start);
            let apart = filled.windows(2).all(|pair| pair[0].end <= pair[1].start);
            if !apart || filled.last().is_some_and(|last| last.end > channel.bytes) {
                return Err(Contradiction::NotOneToOne);
            }
        }
        Ok(Self { zones, channels })
    }

    /// Channels.
    pub fn channels(&self) -> &[Channel] {
        &self.channels
    }

    /// Pieces of the physical addresses, ascending.
    pub fn zones(&self) -> &[Zone] {
        &self.zones
    }

    /// Positions with a module.
    pub fn positions(&self) -> Vec<(Position, u64)> {
        let of = |channel: &Channel| {
            let number = channel.number;
            let slots = (0u8..).zip(channel.sizes.clone()).filter(|(_, bytes)| *bytes > 0);
            slots.map(move |(slot, bytes)| (Position { channel: number, slot }, bytes)).collect::<Vec<_>>()
        };
        self.channels.iter().flat_map(of).collect()
    }

    fn zone(&self, address: PhysAddr) -> Option<&Zone> {
        let at = self.zones.partition_point(|zone| zone.physical.end <= address.0);
        self.zones.get(at).filter(|zone| zone.physical.contains(address.0))
    }

    /// The channel of an address and the address inside it; nothing outside of memory.
    pub fn channel(&self, address: PhysAddr) -> Option<(&Channel, u64)> {
        let zone = self.zone(address)?;
        let (channel, inside) = zone.place(address.0 - zone.physical.start);
        Some((self.channels.get(channel)?, inside))
    }

    /// Positions that can hold an address: one, or those of a channel of which no more is known. None outside of memory.
    pub fn locate(&self, address: PhysAddr) -> Vec<Position> {
        let Some((channel, inside)) = self.channel(address) else { return Vec::new() };
        let of = |slot| Position { channel: channel.number, slot };
        channel.slots(inside).into_iter().map(of).collect()
    }

    /// A piece of the address space around an address that is in the same place throughout; to the next memory where there is none.
    pub fn run(&self, address: PhysAddr) -> ByteRange {
        let Some(zone) = self.zone(address) else {
            let at = self.zones.partition_point(|zone| zone.physical.end <= address.0);
            let start = at.checked_sub(1).map_or(0, |before| self.zones[before].physical.end);
            return ByteRange::new(start, self.zones.get(at).map_or(u64::MAX, |next| next.physical.start));
        };
        let inside = zone.channels().iter().filter_map(|at| self.channels.get(*at)).map(Channel::run_bits).min();
        let ways = match zone.spread {
            Spread::Alone(_) => u64::BITS,
            Spread::Two(_, interleave) => interleave.mask.trailing_zeros().min(interleave.bit),
        };
        // Blocks are aligned alike in both counts only as far as what lies between them is.
        let shift = zone.physical.start.wrapping_sub(zone.inside).trailing_zeros().min(zone.behind.trailing_zeros());
        let bits = inside.unwrap_or(u64::BITS).min(ways).min(shift);
        if bits >= WHOLE_BITS {
            return zone.physical;
        }
        let start = address.0 >> bits << bits;
        let (low, high) = (start.max(zone.physical.start), (start + (1 << bits)).min(zone.physical.end));
        ByteRange::new(low, high)
    }
}
