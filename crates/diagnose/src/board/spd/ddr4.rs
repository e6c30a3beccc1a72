//! DDR4 (JESD21-C, annex L).

use super::part::{self, Places};
use super::timing::{Timings, speed};
use super::{Bytes, Spd, package_width, profile};
use revisum_engine::units::MIB;

/// Picoseconds of the medium and of the fine time step: the standard defines one value for each.
const MEDIUM_PS: i32 = 125;

pub(super) fn read(bytes: Bytes<'_>) -> Spd {
    let mut spd = Spd { generation: "DDR4", form: form(bytes), millivolts: Some(1200), ..Spd::default() };
    for (name, from, covered, sum) in [("general", 0, 126, 126), ("module", 128, 126, 254)] {
        if bytes.sum_is_right(from, covered, sum) == Some(false) {
            spd.bad_sums.push(name);
        }
    }
    let organization = bytes.at(12).unwrap_or(0);
    let width = package_width(organization & 7);
    let ranks = (organization >> 3 & 7) + 1;
    let bus = bytes.at(13).unwrap_or(0);
    spd.package_width = width;
    spd.ranks = Some(ranks);
    spd.ecc = bus >> 3 & 3 == 1;
    spd.bytes = package_bytes(bytes).zip(width).map(|(package, width)| {
        package * (8u64 << (bus & 7).min(3)) / u64::from(width) * u64::from(ranks) * stacked(bytes)
    });
    let clock_ps = time(bytes.at(18), bytes.at(125)).unwrap_or(0);
    spd.speed = speed(clock_ps);
    spd.timings = timings(bytes, clock_ps);
    part::read(bytes, &Places { maker: 320, date: 323, serial: 325, part: (329, 20), package_maker: 350 }, &mut spd);
    spd.profiles = profile::of_ddr4(bytes);
    spd
}

/// Capacity of one die: 256 Mbit doubled so many times, and 12 and 24 Gbit.
fn package_bytes(bytes: Bytes<'_>) -> Option<u64> {
    match bytes.at(4)? & 0x0f {
        power @ 0..=7 => Some((32 * MIB) << power),
        8 => Some(1536 * MIB),
        9 => Some(3072 * MIB),
        _ => None,
    }
}

/// Dies that answer as ranks of their own inside one package: only of stacks with a single load.
fn stacked(bytes: Bytes<'_>) -> u64 {
    let package = bytes.at(6).unwrap_or(0);
    if package & 0x83 == 0x82 { u64::from(package >> 4 & 7) + 1 } else { 1 }
}

fn time(medium: Option<u8>, fine: Option<u8>) -> Option<u32> {
    u32::try_from(i32::from(medium?) * MEDIUM_PS + i32::from(fine? as i8)).ok()
}

fn timings(bytes: Bytes<'_>, clock_ps: u32) -> Option<Timings> {
    let ras = u32::from(bytes.at(27)? & 0x0f) << 8 | u32::from(bytes.at(28)?);
    let times = [
        time(bytes.at(24), bytes.at(123))?,
        time(bytes.at(25), bytes.at(122))?,
        time(bytes.at(26), bytes.at(121))?,
        ras * MEDIUM_PS as u32,
    ];
    Timings::of(clock_ps, times, 1)
}

fn form(bytes: Bytes<'_>) -> &'static str {
    match bytes.at(3).unwrap_or(0) & 0x0f {
        1 => "registered DIMM",
        2 => "DIMM",
        3 => "SO-DIMM",
        4 => "load-reduced DIMM",
        5 => "Mini-RDIMM",
        6 => "Mini-UDIMM",
        8 => "registered SO-DIMM with ECC",
        9 => "SO-DIMM with ECC",
        _ => "",
    }
}
