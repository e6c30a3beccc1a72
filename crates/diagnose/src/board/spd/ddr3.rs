//! DDR3 (JESD21-C, annex K), and mobile memory whose images keep to its layout.

use super::part::{self, Places};
use super::timing::{Timings, speed};
use super::{Bytes, Spd, package_width, profile};
use revisum_engine::units::MIB;

/// Mobile memory that is described in the layout of DDR3: its own kind and voltage, no sum that would be written, chips on the mainboard.
pub(super) fn read_mobile(bytes: Bytes<'_>) -> Spd {
    let written = bytes.pair(126).is_some_and(|sum| sum != 0);
    let mut spd = Spd { generation: "LPDDR3", form: "soldered", millivolts: Some(1200), ..read(bytes) };
    if !written {
        spd.bad_sums.clear();
    }
    spd
}

pub(super) fn read(bytes: Bytes<'_>) -> Spd {
    let mut spd = Spd { generation: "DDR3", form: form(bytes), ..Spd::default() };
    // The highest bit of the first byte says which bytes the sum covers.
    let covered = if bytes.at(0).is_some_and(|first| first & 0x80 != 0) { 117 } else { 126 };
    if bytes.sum_is_right(0, covered, 126) == Some(false) {
        spd.bad_sums.push("general");
    }
    let organization = bytes.at(7).unwrap_or(0);
    let width = package_width(organization & 7);
    let ranks = match organization >> 3 & 7 {
        ranks @ 0..=3 => Some(ranks + 1),
        4 => Some(8),
        _ => None,
    };
    let bus = bytes.at(8).unwrap_or(0);
    spd.package_width = width;
    spd.ranks = ranks;
    spd.ecc = bus >> 3 & 3 == 1;
    let package_mib = (32 * MIB) << (bytes.at(4).unwrap_or(0) & 0x0f).min(10);
    spd.bytes = width
        .zip(ranks)
        .map(|(width, ranks)| package_mib * (8u64 << (bus & 7).min(3)) / u64::from(width) * u64::from(ranks));
    spd.millivolts = bytes.at(6).map(|voltage| match voltage {
        low if low & 4 != 0 => 1250,
        low if low & 2 != 0 => 1350,
        _ => 1500,
    });
    let clock_ps = time(bytes, bytes.at(12), bytes.at(34)).unwrap_or(0);
    spd.speed = speed(clock_ps);
    spd.timings = timings(bytes, clock_ps);
    part::read(bytes, &Places { maker: 117, date: 120, serial: 122, part: (128, 18), package_maker: 148 }, &mut spd);
    spd.profiles = profile::of_ddr3(bytes);
    spd
}

/// A time in picoseconds: so many medium steps, corrected by so many fine ones.
fn time(bytes: Bytes<'_>, medium: Option<u8>, fine: Option<u8>) -> Option<u32> {
    let (dividend, divisor) = (i64::from(bytes.at(10)?), i64::from(bytes.at(11)?));
    let fine_steps = bytes.at(9)?;
    let fine_fs = i64::from(fine_steps >> 4) * 1000 / i64::from(fine_steps & 0x0f).max(1);
    let medium_ps = (i64::from(medium?) * dividend * 1000).checked_div(divisor)?;
    u32::try_from(medium_ps + i64::from(fine? as i8) * fine_fs / 1000).ok()
}

fn timings(bytes: Bytes<'_>, clock_ps: u32) -> Option<Timings> {
    let ras = u32::from(bytes.at(21)? & 0x0f) << 8 | u32::from(bytes.at(22)?);
    let step = time(bytes, Some(1), Some(0))?;
    let times = [
        time(bytes, bytes.at(16), bytes.at(35))?,
        time(bytes, bytes.at(18), bytes.at(36))?,
        time(bytes, bytes.at(20), bytes.at(37))?,
        ras.checked_mul(step)?,
    ];
    Timings::of(clock_ps, times, 1)
}

fn form(bytes: Bytes<'_>) -> &'static str {
    match bytes.at(3).unwrap_or(0) & 0x0f {
        1 => "registered DIMM",
        2 => "DIMM",
        3 => "SO-DIMM",
        4 => "Micro-DIMM",
        5 => "Mini-RDIMM",
        6 => "Mini-UDIMM",
        8 => "SO-DIMM with ECC",
        11 => "load-reduced DIMM",
        _ => "",
    }
}
