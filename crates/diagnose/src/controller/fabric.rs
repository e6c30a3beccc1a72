//! Processors of family 17h, models 00h to 1Fh, one die in one socket: ranges of addresses in the data fabric, and chip selects
//! with base and mask in each channel's controller.
//!
//! Source: processor programming references of these models (54945, 55570), registers D18F0x50, D18F0x104, D18F0x[11C:110],
//! D18F0x1B4 and UMC CS_BASE, CS_MASK, SDP_CTRL.

use revisum_engine::units::{ByteRange, GIB};

use super::channel::{Channel, Select};
use super::position_map::{Interleave, PositionMap, Spread, Zone};
use super::refusal::{Contradiction, Refusal, Undocumented};
use super::registers::{Place, Registers};

/// Channels of a die.
pub(super) const CHANNELS: u8 = 2;
/// The fabric's registers of a channel: its number, hole, two ranges with base and limit, what the second one is shifted by.
pub(super) const FABRIC: [u16; 7] = [0x50, 0x104, 0x110, 0x114, 0x118, 0x11c, 0x1b4];
/// Chip selects of a channel, and masks: one for each pair.
pub(super) const SELECTS: u32 = 4;
pub(super) const MASKS: u32 = 2;
/// Bit 31 says that the controller was started.
pub(super) const STARTED: u32 = 0x104;
/// Second addresses of chip selects begin here.
pub(super) const SECOND: u32 = 0x10;

const FOUR_GIB: u64 = 4 * GIB;

/// A register of a channel's controller.
pub(super) fn of_channel(channel: u8, offset: u32) -> Place {
    Place::Management { address: 0x5_0000 + 0x10_0000 * u32::from(channel) + offset }
}

pub(super) fn of_fabric(channel: u8, offset: u16) -> Place {
    Place::Fabric { instance: channel, function: 0, offset }
}

pub(super) fn select_base(channel: u8, select: u32) -> Place {
    of_channel(channel, 4 * select)
}

pub(super) fn select_mask(channel: u8, pair: u32) -> Place {
    of_channel(channel, 0x20 + 4 * pair)
}

pub(super) fn decode(registers: &Registers) -> Result<PositionMap, Refusal> {
    let at = |place: Place| registers.get(place).ok_or(Refusal::Missing(place));
    let mut channels = Vec::new();
    let mut ranges = Vec::new();
    for number in 0..CHANNELS {
        let channel = channel(&at, number)?;
        if channel.bytes > 0 {
            for (which, range) in (0..).zip(ranges_of(&at, number)?) {
                ranges.extend(range.map(|range| Own { which, channel: channels.len(), ..range }));
            }
        }
        channels.push(channel);
    }
    if ranges.is_empty() {
        return Err(Contradiction::NoMemory.into());
    }
    let zones = zones(&ranges)?;
    let total: u64 = zones.iter().map(|zone| zone.physical.len()).sum();
    if total != channels.iter().map(|channel| channel.bytes).sum::<u64>() {
        return Err(Contradiction::Sizes.into());
    }
    Ok(PositionMap::new(zones, channels)?)
}

type At<'a> = &'a dyn Fn(Place) -> Result<u32, Refusal>;

/// Bits 31 to 1 of base and mask are bits 39 to 9 of an address.
fn channel(at: At<'_>, number: u8) -> Result<Channel, Refusal> {
    const ENABLED: u32 = 1;
    let mut selects = Vec::new();
    let started = at(of_channel(number, STARTED))? >> 31 == 1;
    for select in (0..SELECTS).filter(|_| started) {
        let (base, mask) = (at(select_base(number, select))?, at(select_mask(number, select / 2))?);
        if at(of_channel(number, SECOND + 4 * select))? & ENABLED != 0 {
            return Err(Undocumented::SecondSelect.into());
        }
        if base & ENABLED != 0 {
            let wide = |value: u32| u64::from(value & !1) << 8;
            selects.push(Select { base: wide(base), mask: wide(mask) | 0x1ff, slot: (select / 2) as u8 });
        }
    }
    Ok(Channel::of_selects(number, selects, (SELECTS / 2) as usize)?)
}

/// One range as one channel has it.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
struct Own {
    which: usize,
    channel: usize,
    base: u64,
    end: u64,
    /// Where the hole begins, where there is one.
    hole: Option<u64>,
    /// The bit of turns, what chooses, and the turn of this channel.
    turns: Option<(Interleave, u32)>,
    /// What the range is shifted by inside the channel.
    behind: u64,
}

fn ranges_of(at: At<'_>, number: u8) -> Result<[Option<Own>; 2], Refusal> {
    const VALID: u32 = 1;
    const HOLE: u32 = 2;
    let turn = at(of_fabric(number, 0x50))? >> 8 & 1;
    let mut own = [None; 2];
    for (which, range) in own.iter_mut().enumerate() {
        let (base, limit) =
            (at(of_fabric(number, 0x110 + 8 * which as u16))?, at(of_fabric(number, 0x114 + 8 * which as u16))?);
        if base & VALID == 0 {
            continue;
        }
        // Turns between sockets and dies.
        if limit >> 8 & 1 != 0 || limit >> 10 & 3 != 0 {
            return Err(Undocumented::Nodes.into());
        }
        let behind = at(of_fabric(number, 0x1b4))?;
        if which == 1 && behind & 1 == 0 {
            return Err(Contradiction::Channels.into());
        }
        let hole = at(of_fabric(number, 0x104))?;
        if base & HOLE != 0 && hole >> 24 == 0 {
            return Err(Contradiction::Window.into());
        }
        *range = Some(Own {
            which,
            channel: 0,
            base: u64::from(base >> 12) << 28,
            end: (u64::from(limit >> 12) << 28) + (1 << 28),
            hole: (base & HOLE != 0).then_some(u64::from(hole >> 24) << 24),
            turns: turns(base)?.map(|turns| (turns, turn)),
            behind: if which == 1 { u64::from(behind >> 20) << 28 } else { 0 },
        });
    }
    Ok(own)
}

/// How many channels take turns at which bit, and whether further bits choose.
fn turns(base: u32) -> Result<Option<Interleave>, Refusal> {
    /// Bits 12, 18, 21 and 30 of the physical address.
    const HASH: u64 = 1 << 12 | 1 << 18 | 1 << 21 | 1 << 30;
    let bit = 8 + (base >> 8 & 7);
    if bit > 11 {
        return Err(Contradiction::Reserved.into());
    }
    match base >> 4 & 0xf {
        0 => Ok(None),
        1 => Ok(Some(Interleave { bit, mask: 1 << bit })),
        8 => Ok(Some(Interleave { bit, mask: 1 << bit | HASH })),
        3 | 5 | 7 => Err(Undocumented::Nodes.into()),
        _ => Err(Contradiction::Reserved.into()),
    }
}

impl Own {
    /// Physical pieces, with what is taken off each. The base counts memory; addresses above the hole are higher by its size.
    fn pieces(&self) -> Vec<(ByteRange, u64)> {
        let whole = ByteRange::new(self.base, self.end);
        let Some(hole) = self.hole else { return vec![(whole, self.base)] };
        let hoisted = self.base + (FOUR_GIB - hole);
        let above = ByteRange::new(hoisted.max(FOUR_GIB), u64::MAX);
        vec![(whole.intersection(ByteRange::new(0, hole)), self.base), (whole.intersection(above), hoisted)]
    }
}

/// Ranges of one channel alone, and those that two have in common: both have to say the same of them, and take different turns.
fn zones(ranges: &[Own]) -> Result<Vec<Zone>, Refusal> {
    let mut zones = Vec::new();
    for (at, own) in ranges.iter().enumerate() {
        let spread = match own.turns {
            None => Spread::Alone(own.channel),
            Some((interleave, turn)) => {
                let common = |other: &&Own| {
                    Own { channel: own.channel, turns: own.turns, ..**other } == *own
                        && other.turns == Some((interleave, 1 - turn))
                };
                let Some(other) = ranges.iter().find(common) else { return Err(Contradiction::Channels.into()) };
                if ranges[..at].contains(other) {
                    continue;
                }
                let both = if turn == 0 { [own.channel, other.channel] } else { [other.channel, own.channel] };
                Spread::Two(both, interleave)
            }
        };
        for (physical, taken) in own.pieces() {
            if physical.is_empty() {
                continue;
            }
            if taken > physical.start {
                return Err(Contradiction::Window.into());
            }
            let inside = physical.start - taken;
            zones.push(Zone { physical, seen: physical.start, inside, behind: own.behind, spread });
        }
    }
    Ok(zones)
}
