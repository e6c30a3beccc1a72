//! Processors of families 10h and 15h (models 00h to 0Fh) with one node: a range of addresses with a hole below 4 GiB, two
//! controllers that take turns or stand one behind the other, and chip selects with base and mask in each.
//!
//! Source: BIOS and kernel developer's guides of these families (31116, 42301), registers F1x40, F1x44, F1xF0, F2x10C, F2x110,
//! F2x114, F2x[1,0][5C:40] and F2x[1,0][6C:60].

use revisum_engine::units::{ByteRange, GIB};

use super::channel::{Channel, Select};
use super::family::{Family, NODE};
use super::position_map::{Interleave, PositionMap, Spread, Zone};
use super::refusal::{Contradiction, Refusal, Undocumented};
use super::registers::{Place, Registers};

/// Functions of the processor's device.
pub(super) const MAPS: u8 = 1;
pub(super) const CONTROLLERS: u8 = 2;
/// Ranges of addresses that can be set up.
pub(super) const RANGES: u16 = 8;
pub(super) const HOLE: u16 = 0xf0;
pub(super) const EXCHANGE: u16 = 0x10c;
pub(super) const SELECT_LOW: u16 = 0x110;
pub(super) const SELECT_HIGH: u16 = 0x114;
/// Chip selects of a controller, and masks: one for each pair.
pub(super) const SELECTS: u16 = 8;
pub(super) const MASKS: u16 = 4;

const FOUR_GIB: u64 = 4 * GIB;

/// Where a register of one of two controllers is.
pub(super) fn of_controller(family: Family, controller: u8, offset: u16) -> Place {
    match family {
        // The second controller's registers follow 100h behind.
        Family::Northbridge2007 => {
            Place::Config { device: NODE, function: CONTROLLERS, offset: offset + 0x100 * u16::from(controller) }
        }
        _ => Place::Chosen { chosen: controller, function: CONTROLLERS, offset },
    }
}

pub(super) fn base_of_range(range: u16) -> Place {
    Place::Config { device: NODE, function: MAPS, offset: 0x40 + 8 * range }
}

pub(super) fn limit_of_range(range: u16) -> Place {
    Place::Config { device: NODE, function: MAPS, offset: 0x44 + 8 * range }
}

pub(super) fn select_base(family: Family, controller: u8, select: u16) -> Place {
    of_controller(family, controller, 0x40 + 4 * select)
}

pub(super) fn select_mask(family: Family, controller: u8, pair: u16) -> Place {
    of_controller(family, controller, 0x60 + 4 * pair)
}

struct Source<'a> {
    registers: &'a Registers,
    family: Family,
}

impl Source<'_> {
    fn at(&self, place: Place) -> Result<u32, Refusal> {
        self.registers.get(place).ok_or(Refusal::Missing(place))
    }

    fn config(&self, function: u8, offset: u16) -> Result<u32, Refusal> {
        self.at(Place::Config { device: NODE, function, offset })
    }
}

pub(super) fn decode(registers: &Registers, family: Family) -> Result<PositionMap, Refusal> {
    let source = Source { registers, family };
    let channels = [channel(&source, 0)?, channel(&source, 1)?];
    let memory = memory(&source)?;
    let zones = zones(&source, &memory, [channels[0].bytes, channels[1].bytes])?;
    Ok(PositionMap::new(zones, channels.into())?)
}

/// The chip selects of a controller: bits 28 to 19 (30 to 19 in family 15h) are bits 36 to 27 of an address, bits 13 to 5 are
/// bits 21 to 13.
fn channel(source: &Source<'_>, controller: u8) -> Result<Channel, Refusal> {
    const ENABLED: u32 = 1;
    const SPARE: u32 = 2;
    let upper: u32 = if source.family == Family::Northbridge2011 { 0x7ff8_0000 } else { 0x1ff8_0000 };
    let known: u32 = upper | 0x3fe0;
    // Bits of an address that no base and mask speak of can be anything.
    let open = ((1u64 << 27) - 1) & !(0x3fe0_u64 << 8);
    let mut selects = Vec::new();
    for number in 0..SELECTS {
        let base = source.at(select_base(source.family, controller, number))?;
        let mask = source.at(select_mask(source.family, controller, number / 2))?;
        if base & ENABLED == 0 {
            continue;
        }
        if base & SPARE != 0 {
            return Err(Undocumented::SecondSelect.into());
        }
        selects.push(Select {
            base: u64::from(base & known) << 8,
            mask: u64::from(mask & known) << 8 | open,
            slot: (number / 2) as u8,
        });
    }
    Ok(Channel::of_selects(controller, selects, usize::from(SELECTS / 2))?)
}

/// The one range of addresses, and the hole in it.
struct Memory {
    end: u64,
    /// Where the hole begins, and what is taken off addresses above it.
    hole: Option<(u64, u64)>,
}

fn memory(source: &Source<'_>) -> Result<Memory, Refusal> {
    let enabled = |range| Ok::<_, Refusal>(source.at(base_of_range(range))? & 3);
    for range in 1..RANGES {
        if enabled(range)? != 0 {
            return Err(Undocumented::Nodes.into());
        }
    }
    let (base, limit) = (source.at(base_of_range(0))?, source.at(limit_of_range(0))?);
    // Turns between nodes, and a node that is not the first one.
    if base >> 8 & 7 != 0 || limit & 7 != 0 {
        return Err(Undocumented::Nodes.into());
    }
    if enabled(0)? != 3 || base >> 16 != 0 {
        return Err(Contradiction::Reserved.into());
    }
    let end = (u64::from(limit >> 16) << 24) + (1 << 24);
    let hole = source.config(MAPS, HOLE)?;
    if hole & 1 == 0 {
        return Ok(Memory { end, hole: None });
    }
    let (start, offset) = (u64::from(hole >> 24) << 24, u64::from(hole >> 7 & 0x1ff) << 23);
    if start == 0 || end <= FOUR_GIB {
        return Err(Contradiction::Window.into());
    }
    Ok(Memory { end, hole: Some((start, offset)) })
}

impl Memory {
    /// Physical pieces without the hole.
    fn pieces(&self) -> Vec<ByteRange> {
        match self.hole {
            None => vec![ByteRange::new(0, self.end)],
            Some((start, _)) => vec![ByteRange::new(0, start), ByteRange::new(FOUR_GIB, self.end)],
        }
    }

    fn bytes(&self) -> u64 {
        self.pieces().iter().map(|piece| piece.len()).sum()
    }
}

fn zones(source: &Source<'_>, memory: &Memory, bytes: [u64; 2]) -> Result<Vec<Zone>, Refusal> {
    const HIGH_RANGE: u32 = 1;
    const HIGH_SELECT: u32 = 1 << 1;
    const INTERLEAVED: u32 = 1 << 2;
    const GANGED: u32 = 1 << 4;
    let (low, high) = (source.config(CONTROLLERS, SELECT_LOW)?, source.config(CONTROLLERS, SELECT_HIGH)?);
    if source.config(CONTROLLERS, EXCHANGE)? & 1 != 0 && source.family == Family::Northbridge2007 {
        return Err(Undocumented::Exchanged.into());
    }
    if low & GANGED != 0 {
        return Err(Undocumented::Ganged.into());
    }
    if low & HIGH_RANGE != 0 && low & INTERLEAVED != 0 {
        return Err(Undocumented::PartlyInterleaved.into());
    }
    if bytes[0] + bytes[1] == 0 {
        return Err(Contradiction::NoMemory.into());
    }
    if bytes[0] + bytes[1] != memory.bytes() {
        return Err(Contradiction::Sizes.into());
    }
    if low & INTERLEAVED != 0 {
        return interleaved(memory, interleave(low, high)?, bytes);
    }
    if low & HIGH_RANGE == 0 {
        // Without a high range everything goes to the first controller.
        return if bytes[1] == 0 { alone(memory, 0, 0) } else { Err(Contradiction::Channels.into()) };
    }
    let upper = usize::from(low & HIGH_SELECT != 0);
    stacked(memory, u64::from(low >> 11) << 27, u64::from(high >> 10) << 26, upper)
}

/// F2x110[DctSelIntLvAddr], with its third bit in F2x114.
fn interleave(low: u32, high: u32) -> Result<Interleave, Refusal> {
    /// Bits 20 to 16 of an address.
    const HASH: u64 = 0x1f << 16;
    Ok(match (high >> 9 & 1) << 2 | low >> 6 & 3 {
        0 => Interleave { bit: 6, mask: 1 << 6 },
        1 => Interleave { bit: 12, mask: 1 << 12 },
        2 => Interleave { bit: 6, mask: 1 << 6 | HASH },
        3 => Interleave { bit: 9, mask: 1 << 9 | HASH },
        _ => return Err(Undocumented::ChannelHash.into()),
    })
}

fn interleaved(memory: &Memory, interleave: Interleave, bytes: [u64; 2]) -> Result<Vec<Zone>, Refusal> {
    if bytes[0] != bytes[1] {
        return Err(Contradiction::Channels.into());
    }
    let zone = |(physical, taken): (ByteRange, u64)| Zone {
        physical,
        seen: physical.start,
        inside: physical.start - taken,
        behind: 0,
        spread: Spread::Two([0, 1], interleave),
    };
    Ok(normalised(memory, 0)?.into_iter().map(zone).collect())
}

fn alone(memory: &Memory, channel: usize, from: u64) -> Result<Vec<Zone>, Refusal> {
    Ok(normalised(memory, from)?.into_iter().map(|(physical, taken)| one(physical, taken, channel)).collect())
}

fn one(physical: ByteRange, taken: u64, channel: usize) -> Zone {
    let inside = physical.start - taken;
    Zone { physical, seen: physical.start, inside, behind: 0, spread: Spread::Alone(channel) }
}

/// Physical pieces from an address on, with what is taken off each: above 4 GiB the hole's offset.
fn normalised(memory: &Memory, from: u64) -> Result<Vec<(ByteRange, u64)>, Refusal> {
    let mut pieces = Vec::new();
    for piece in memory.pieces() {
        let piece = ByteRange::new(piece.start.max(from), piece.end);
        let taken = match memory.hole {
            Some((_, offset)) if piece.start >= FOUR_GIB => offset,
            _ => 0,
        };
        if piece.is_empty() {
            continue;
        }
        if taken > piece.start {
            return Err(Contradiction::Window.into());
        }
        pieces.push((piece, taken));
    }
    Ok(pieces)
}

/// Below an address one controller, from there on the other one.
fn stacked(memory: &Memory, border: u64, offset: u64, upper: usize) -> Result<Vec<Zone>, Refusal> {
    let mut zones = Vec::new();
    for (piece, taken) in normalised(memory, 0)? {
        let below = ByteRange::new(piece.start, piece.end.min(border));
        if !below.is_empty() {
            zones.push(one(below, taken, 1 - upper));
        }
        let above = ByteRange::new(piece.start.max(border), piece.end);
        // Where the upper range begins below the hole, the hole's offset holds its base as well.
        let hoisted = memory.hole.is_some_and(|(start, _)| border < start) && above.start >= FOUR_GIB;
        let less = if hoisted { taken } else { offset };
        if above.is_empty() {
            continue;
        }
        if less > above.start {
            return Err(Contradiction::Channels.into());
        }
        zones.push(one(above, less, upper));
    }
    Ok(zones)
}
