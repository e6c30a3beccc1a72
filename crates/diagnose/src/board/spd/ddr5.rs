//! DDR5 (JESD400-5).

use super::part::{self, Places};
use super::timing::{Timings, speed};
use super::{Bytes, Spd, package_width, profile};
use revisum_engine::units::MIB;

pub(super) fn read(bytes: Bytes<'_>) -> Spd {
    let mut spd = Spd { generation: "DDR5", form: form(bytes), millivolts: Some(1100), ..Spd::default() };
    if bytes.sum_is_right(0, 510, 510) == Some(false) {
        spd.bad_sums.push("base, module");
    }
    spd.package_width = bytes.at(6).and_then(|width| package_width(width >> 5));
    spd.ranks = bytes.at(234).map(|organization| (organization >> 3 & 7) + 1);
    let bus = bytes.at(235).unwrap_or(0);
    spd.ecc = bus >> 3 & 3 != 0;
    spd.bytes = capacity(bytes, bus);
    let clock_ps = bytes.pair(20).map_or(0, u32::from);
    spd.speed = speed(clock_ps);
    let times = [30, 32, 34, 36].map(|at| bytes.pair(at).map_or(0, u32::from));
    // CAS latencies of DDR5 are even.
    spd.timings = Timings::of(clock_ps, times, 2);
    part::read(bytes, &Places { maker: 512, date: 515, serial: 517, part: (521, 30), package_maker: 552 }, &mut spd);
    spd.profiles = profile::of_ddr5(bytes);
    spd
}

/// Both subchannels, even ranks of the first kind of package and odd ones of the second where two kinds are mixed.
fn capacity(bytes: Bytes<'_>, bus: u8) -> Option<u64> {
    let organization = bytes.at(234)?;
    let ranks = u64::from(organization >> 3 & 7) + 1;
    let mixed = organization & 0x40 != 0;
    let lanes = 8u64 << (bus & 7).min(3);
    let subchannels = 1u64 << (bus >> 5 & 1);
    let rank = |first: usize| {
        let (density, width) = (bytes.at(first)?, bytes.at(first + 2)?);
        let width = 4u64 << (width >> 5).min(3);
        Some(die_bytes(density)? * dies(density)? * (lanes / width))
    };
    let one = rank(4)?;
    let rank_bytes = if mixed { one * ranks.div_ceil(2) + rank(8)? * (ranks / 2) } else { one * ranks };
    Some(rank_bytes * subchannels)
}

fn die_bytes(density: u8) -> Option<u64> {
    let gigabits = match density & 0x1f {
        1 => 4,
        2 => 8,
        3 => 12,
        4 => 16,
        5 => 24,
        6 => 32,
        7 => 48,
        8 => 64,
        _ => return None,
    };
    Some(gigabits * 128 * MIB)
}

fn dies(density: u8) -> Option<u64> {
    match density >> 5 {
        0 => Some(1),
        2 => Some(2),
        3 => Some(4),
        4 => Some(8),
        5 => Some(16),
        _ => None,
    }
}

fn form(bytes: Bytes<'_>) -> &'static str {
    match bytes.at(3).unwrap_or(0) & 0x0f {
        1 => "registered DIMM",
        2 => "DIMM",
        3 => "SO-DIMM",
        4 => "load-reduced DIMM",
        5 => "clocked DIMM",
        6 => "clocked SO-DIMM",
        7 => "multiplexed-rank DIMM",
        8 => "compression-attached module",
        10 => "DDIMM",
        11 => "soldered",
        _ => "",
    }
}
