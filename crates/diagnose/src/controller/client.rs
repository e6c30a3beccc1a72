//! Client processors: a linear memory from zero to the top of memory, of which devices hide a piece that comes back above
//! 4 GiB; two channels, of which the smaller one is interleaved with as much of the larger one, and the rest of that follows.
//!
//! Source: the processors' datasheets, volume 2, registers of the host bridge and of the memory controller (TOM, TOUUD, TOLUD,
//! MESEG, REMAPBASE, REMAPLIMIT; MAD_CHNL, MAD_DIMM, MAD_ZR; MAD_INTER_CHANNEL, MAD_DIMM, CHANNEL_HASH). The function
//! of the channels is one of those that Pessl et al. measured (DRAMA, USENIX Security 2016).
//!
//! How two modules of one channel share it no document says well enough: both are possible for every address of the channel, and
//! the positions of a channel are counted by size, the larger module first.

use revisum_engine::units::{ByteRange, GIB, MIB};

use super::channel::Channel;
use super::family::Family;
use super::position_map::{Interleave, PositionMap, Spread, Zone};
use super::refusal::{Contradiction, Refusal, Undocumented};
use super::registers::{Place, Registers};

/// The host bridge's registers in configuration space, each of two words but the last.
pub(super) const KEPT_BASE: u16 = 0x70;
pub(super) const KEPT_MASK: u16 = 0x78;
pub(super) const REMAP_BASE: u16 = 0x90;
pub(super) const REMAP_LIMIT: u16 = 0x98;
pub(super) const TOP_OF_MEMORY: u16 = 0xa0;
pub(super) const TOP_OF_HIGH: u16 = 0xa8;
pub(super) const TOP_OF_LOW: u16 = 0xbc;

/// Offsets of the controller's registers behind its base.
pub(super) const MAPPED_2011: [u32; 5] = [0x5000, 0x5004, 0x5008, 0x5014, 0x5024];
pub(super) const MAPPED_2015: [u32; 4] = [0x5000, 0x500c, 0x5010, 0x5024];

const FOUR_GIB: u64 = 4 * GIB;
/// Switches in the mask of what the management engine keeps.
const KEPT_ON: u64 = 1 << 11;
const KEPT_LOCK: u64 = 1 << 10;
/// The bit that chooses where nothing else does, and the lowest one of a mask.
const FIRST_BIT: u32 = 6;
const MASK_BITS: u32 = 14;
/// The functions of channels that measurements agree with, from bit 6 on, each with the bit that is left out: bit 8. Registers could hold
/// any other one; whether controllers then do what documents say was never seen.
const MEASURED_2011: (u32, u32) = (0x30ce, 2);
const MEASURED_2015: (u32, u32) = (0x30cc, 2);

/// What the registers say of channels.
struct Channels {
    /// Sizes of the modules of both.
    sizes: [Vec<u64>; 2],
    larger: usize,
    interleave: Interleave,
}

impl Channels {
    fn bytes(&self, channel: usize) -> u64 {
        self.sizes[channel].iter().sum()
    }
}

pub(super) fn decode(registers: &Registers, family: Family) -> Result<PositionMap, Refusal> {
    let channels = match family {
        Family::Client2011 => channels_2011(registers)?,
        _ => channels_2015(registers)?,
    };
    let smaller = channels.bytes(1 - channels.larger);
    let total = smaller + channels.bytes(channels.larger);
    if total == 0 {
        return Err(Contradiction::NoMemory.into());
    }
    if smaller > channels.bytes(channels.larger) {
        return Err(Contradiction::Channels.into());
    }
    let host = Host::read(registers)?;
    if host.top != total {
        return Err(Contradiction::Sizes.into());
    }
    let zones = zones(&host.windows()?, &channels, smaller);
    let own = [0u8, 1].map(|number| Channel::of_modules(number, &channels.sizes[usize::from(number)]));
    Ok(PositionMap::new(zones, own.into())?)
}

/// Tops of memory and the window, in bytes.
struct Host {
    top: u64,
    /// Where what the management engine keeps for itself begins: at the top of memory where it keeps nothing.
    kept: u64,
    low: u64,
    high: u64,
    window: ByteRange,
}

/// Physical addresses and the memory address of the first one.
type Window = (ByteRange, u64);

impl Host {
    fn read(registers: &Registers) -> Result<Self, Refusal> {
        let word = |offset| {
            let place = Place::Config { device: 0, function: 0, offset };
            registers.get(place).ok_or(Refusal::Missing(place))
        };
        // Bits 38 to 20 of an address, and some that are switches.
        let with = |offset: u16, switches: u64| -> Result<(u64, u64), Refusal> {
            let value = u64::from(word(offset)?) | u64::from(word(offset + 4)?) << 32;
            if value >> 39 != 0 || value & 0xf_ffff & !switches != 0 {
                return Err(Contradiction::Reserved.into());
            }
            Ok((value >> 20 << 20, value & switches))
        };
        // Bit 0 locks it.
        let wide = |offset| with(offset, 1).map(|(address, _)| address);
        let (base, (_, kept)) = (with(KEPT_BASE, 0)?.0, with(KEPT_MASK, KEPT_ON | KEPT_LOCK)?);
        let top = wide(TOP_OF_MEMORY)?;
        let low = word(TOP_OF_LOW)?;
        if low & 0xf_fffe != 0 {
            return Err(Contradiction::Reserved.into());
        }
        // The limit names the last MiB of the window; below the base there is none.
        let window = ByteRange::new(wide(REMAP_BASE)?, wide(REMAP_LIMIT)? + MIB);
        Ok(Self {
            top,
            kept: if kept & KEPT_ON != 0 { base } else { top },
            low: u64::from(low) >> 20 << 20,
            high: wide(TOP_OF_HIGH)?,
            window: if wide(REMAP_LIMIT)? < window.start { ByteRange::new(0, 0) } else { window },
        })
    }

    /// Memory as processors see it: below devices, above 4 GiB, and what devices hide behind that. All tops have to agree.
    fn windows(&self) -> Result<Vec<Window>, Contradiction> {
        let (low, kept) = (self.low, self.kept);
        if low == 0 || low > kept || kept > self.top {
            return Err(Contradiction::Window);
        }
        let (beyond, hidden) = (kept.max(FOUR_GIB), kept.min(FOUR_GIB) - low);
        let window = ByteRange::new(beyond, beyond + hidden);
        let told = if hidden == 0 { self.window.is_empty() } else { self.window == window };
        if !told || self.high != window.end {
            return Err(Contradiction::Window);
        }
        let mut windows =
            vec![(ByteRange::new(0, low), 0), (ByteRange::new(FOUR_GIB, beyond), FOUR_GIB), (window, low)];
        windows.retain(|(range, _)| !range.is_empty());
        Ok(windows)
    }
}

/// Each window cut where the interleaved part ends.
fn zones(windows: &[Window], channels: &Channels, smaller: u64) -> Vec<Zone> {
    let both = Spread::Two([0, 1], channels.interleave);
    let parts = [
        (ByteRange::new(0, 2 * smaller), both, 0),
        (ByteRange::new(2 * smaller, u64::MAX), Spread::Alone(channels.larger), smaller),
    ];
    let mut zones = Vec::new();
    for (physical, memory) in windows {
        for (part, spread, less) in &parts {
            let piece = ByteRange::new(*memory, memory + physical.len()).intersection(*part);
            if piece.is_empty() {
                continue;
            }
            let start = physical.start + (piece.start - memory);
            zones.push(Zone {
                physical: ByteRange::new(start, start + piece.len()),
                seen: piece.start,
                inside: piece.start - less,
                behind: 0,
                spread: *spread,
            });
        }
    }
    zones
}

fn mapped(registers: &Registers, offset: u32) -> Result<u32, Refusal> {
    let place = Place::Mapped { offset };
    registers.get(place).ok_or(Refusal::Missing(place))
}

fn field(value: u32, low: u32, bits: u32) -> u32 {
    value >> low & ((1 << bits) - 1)
}

/// MAD_CHNL, MAD_DIMM of two channels, MAD_ZR and the function of channels.
fn channels_2011(registers: &Registers) -> Result<Channels, Refusal> {
    /// Sizes count pieces of this.
    const UNIT: u64 = 256 * MIB;
    /// The two orders of channels that a machine of two has: a number of two bits for A, B and C.
    const ORDERS: [(u32, usize); 2] = [(0x24, 0), (0x21, 1)];
    let order = field(mapped(registers, 0x5000)?, 0, 6);
    let larger = ORDERS.iter().find(|(known, _)| *known == order).map(|(_, larger)| *larger);
    let larger = larger.ok_or(Undocumented::ChannelOrder)?;
    let sizes = |offset| -> Result<Vec<u64>, Refusal> {
        let value = mapped(registers, offset)?;
        larger_first([u64::from(field(value, 0, 8)) * UNIT, u64::from(field(value, 8, 8)) * UNIT])
    };
    let channels = Channels { sizes: [sizes(0x5004)?, sizes(0x5008)?], larger, interleave: hash_2011(registers)? };
    // The zones once more: the smaller channel, and what both hold of it.
    let (zones, smaller) = (mapped(registers, 0x5014)?, channels.bytes(1 - larger) / UNIT);
    if u64::from(field(zones, 24, 8)) != smaller || u64::from(field(zones, 16, 8)) != 2 * smaller {
        return Err(Contradiction::Channels.into());
    }
    Ok(channels)
}

fn hash_2011(registers: &Registers) -> Result<Interleave, Refusal> {
    let value = mapped(registers, 0x5024)?;
    if Family::has_one_bit(registers) {
        return if value == 0 { Ok(by_bit(FIRST_BIT)) } else { Err(Undocumented::ChannelHash.into()) };
    }
    chosen(field(value, 23, 1) == 1, (field(value, 0, MASK_BITS), field(value, 20, 3)), MEASURED_2011)
}

/// MAD_INTER_CHANNEL, MAD_DIMM of two channels, CHANNEL_HASH.
fn channels_2015(registers: &Registers) -> Result<Channels, Refusal> {
    /// Sizes count pieces of this.
    const UNIT: u64 = GIB;
    let inter = mapped(registers, 0x5000)?;
    let larger = field(inter, 4, 1) as usize;
    let sizes = |channel: u32| -> Result<Vec<u64>, Refusal> {
        let value = mapped(registers, 0x500c + 4 * channel)?;
        larger_first([u64::from(field(value, 0, 6)) * UNIT, u64::from(field(value, 16, 6)) * UNIT])
    };
    let hash = mapped(registers, 0x5024)?;
    let function = (field(hash, 6, MASK_BITS), field(hash, 24, 3));
    let interleave = chosen(field(hash, 28, 1) == 1, function, MEASURED_2015)?;
    let channels = Channels { sizes: [sizes(0)?, sizes(1)?], larger, interleave };
    if u64::from(field(inter, 12, 7)) * UNIT != channels.bytes(1 - larger) {
        return Err(Contradiction::Channels.into());
    }
    Ok(channels)
}

fn by_bit(bit: u32) -> Interleave {
    Interleave { bit, mask: 1 << bit }
}

/// One bit where no function is switched on, else the function, where it is one that was measured.
fn chosen(is_on: bool, function: (u32, u32), measured: (u32, u32)) -> Result<Interleave, Refusal> {
    match (is_on, function) {
        (false, (0, 0)) => Ok(by_bit(FIRST_BIT)),
        (true, (mask, bit)) if function == measured => {
            Ok(Interleave { bit: bit + FIRST_BIT, mask: u64::from(mask) << FIRST_BIT })
        }
        _ => Err(Undocumented::ChannelHash.into()),
    }
}

/// Sizes of the two modules of a channel: documents call the larger one the first, whichever slot it sits in.
fn larger_first(both: [u64; 2]) -> Result<Vec<u64>, Refusal> {
    if both[0] < both[1] { Err(Contradiction::Sizes.into()) } else { Ok(both.into()) }
}
