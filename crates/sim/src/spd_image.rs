//! SPD images of simulated modules as real bytes (DDR4, JESD21-C annex L), so that they go through the same reader as those of
//! real modules. Made-up makers have no code: the one used is none of the published ones.

use revisum_diagnose::board::SpdImage;
use revisum_engine::units::MIB;

use crate::spec::{MachineSpec, ModuleSpec};

/// Bytes of a DDR4 module's description.
const IMAGE_BYTES: usize = 512;
/// Continuation codes and code of no maker, with odd parity.
const NO_MAKER: [u8; 2] = [0xfe, 0x85];
/// Medium time step in picoseconds.
const MEDIUM_PS: u32 = 125;
/// CAS latency, row to column and precharge times of usual modules.
const LATENCY_PS: u32 = 13_750;
const ACTIVE_PS: u32 = 32_000;
const CYCLE_PS: u32 = 45_750;

/// Where the description of the module in the slot of this number stands on the bus.
pub(crate) fn place_of(slot: usize) -> String {
    format!("0-{:04x}", 0x50 + slot)
}

/// Images of all fitted modules; none where the machine does not let them be read.
pub(crate) fn images(machine: &MachineSpec, placement: &[(String, String)]) -> Vec<SpdImage> {
    if !machine.spd {
        return Vec::new();
    }
    let of_slot = |at: usize, id: &str| {
        let (_, serial) = placement.iter().find(|(slot, _)| slot == id)?;
        Some(SpdImage { place: place_of(at), bytes: image(machine.module(serial)?, machine.ecc)? })
    };
    let slots = machine.slots.iter().filter(|slot| !slot.soldered).enumerate();
    slots.filter_map(|(at, slot)| of_slot(at, &slot.id)).collect()
}

/// The image of one module; nothing for a capacity that the standard has no code for.
fn image(module: &ModuleSpec, ecc: bool) -> Option<Vec<u8>> {
    let mut image = vec![0; IMAGE_BYTES];
    let mut put = |at: usize, bytes: &[u8]| image[at..at + bytes.len()].copy_from_slice(bytes);
    let packages = 64 / u64::from(module.width);
    let die = module.size / packages / u64::from(module.ranks);
    let density = (0..8u8).find(|power| (32 * MIB) << power == die)?;
    let width = module.width.trailing_zeros() as u8 - 2;
    put(0, &[0x23, 0x11, 0x0c, 0x02, 0x80 | density, 0x21, 0x00]);
    put(11, &[0x03, (module.ranks as u8 - 1) << 3 | width, if ecc { 0x0b } else { 0x03 }]);
    let clock_ps = 2_000_000 / u32::from(module.speed);
    let (medium, fine) = steps(clock_ps);
    put(18, &[medium]);
    put(125, &[fine]);
    let latency = (LATENCY_PS / MEDIUM_PS) as u8;
    let (active, cycle) = (ACTIVE_PS / MEDIUM_PS, CYCLE_PS / MEDIUM_PS);
    put(24, &[latency, latency, latency, (cycle >> 8 << 4 | active >> 8) as u8, active as u8, cycle as u8]);
    put(320, &NO_MAKER);
    put(323, &[0x30, 0x14]);
    put(325, &u32::from_str_radix(&module.serial, 16).unwrap_or(0).to_be_bytes());
    let part: Vec<u8> = module.part.bytes().chain(std::iter::repeat(b' ')).take(20).collect();
    put(329, &part);
    if let Some(speed) = module.profile_speed {
        put_profile(&mut put, speed);
    }
    for (from, sum) in [(0, 126), (128, 254)] {
        let crc = crc::Crc::<u16>::new(&crc::CRC_16_XMODEM).checksum(&image[from..from + 126]);
        image[sum..sum + 2].copy_from_slice(&crc.to_le_bytes());
    }
    Some(image)
}

/// Latency, row and precharge times of the profile, and its voltage: 1.35 V.
const PROFILE_LATENCY_PS: u32 = 10_000;
const PROFILE_ACTIVE_PS: u32 = 21_000;
const PROFILE_VOLTS: u8 = 0x80 | 35;

/// The first profile alone: header, its bit, version 2.0, and what it sets.
fn put_profile(put: &mut impl FnMut(usize, &[u8]), speed: u16) {
    const FIRST: usize = 393;
    put(384, &[0x0c, 0x4a, 0x01, 0x20]);
    let (medium, fine) = steps(2_000_000 / u32::from(speed));
    let latency = (PROFILE_LATENCY_PS / MEDIUM_PS) as u8;
    put(FIRST, &[PROFILE_VOLTS, 0, 0, medium]);
    put(FIRST + 8, &[latency, latency, latency, 0, (PROFILE_ACTIVE_PS / MEDIUM_PS) as u8]);
    put(FIRST + 38, &[fine]);
}

/// A time as medium steps, rounded up, and the fine picoseconds to take off.
fn steps(time_ps: u32) -> (u8, u8) {
    let medium = time_ps.div_ceil(MEDIUM_PS);
    (medium as u8, (time_ps as i32 - (medium * MEDIUM_PS) as i32) as i8 as u8)
}
