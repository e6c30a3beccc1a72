//! Mobile memory: LPDDR3 to LPDDR5X, mostly soldered (JESD21-C, section 4.1.2, annex M; JESD400 for later ones). How dies, channels and ranks
//! make up a size differs between those who write these images, so that no size is told.

use super::part::{self, Places};
use super::timing::speed;
use super::{Bytes, Spd, package_width};

/// Picoseconds of the medium time step.
const MEDIUM_PS: i32 = 125;

/// Name, millivolts, and transfers in a clock period, by the code of byte 2; nothing where it is another generation.
fn kind(code: u8) -> Option<(&'static str, u32, u32)> {
    match code {
        0x0f => Some(("LPDDR3", 1200, 2)),
        0x10 => Some(("LPDDR4", 1100, 2)),
        0x11 => Some(("LPDDR4X", 1100, 2)),
        // The clock for data runs four times as fast as the one for commands.
        0x13 => Some(("LPDDR5", 1050, 8)),
        0x15 => Some(("LPDDR5X", 1050, 8)),
        _ => None,
    }
}

pub(super) fn read(bytes: Bytes<'_>, code: u8) -> Option<Spd> {
    let (generation, millivolts, transfers) = kind(code)?;
    let mut spd = Spd { generation, form: form(bytes), millivolts: Some(millivolts), ..Spd::default() };
    // Images of soldered memory often carry no sum.
    let written = bytes.pair(126).is_some_and(|sum| sum != 0);
    if written && bytes.sum_is_right(0, 126, 126) == Some(false) {
        spd.bad_sums.push("general");
    }
    let organization = bytes.at(12).unwrap_or(0);
    spd.package_width = package_width(organization & 7);
    spd.ranks = bytes.at(12).map(|organization| (organization >> 3 & 7) + 1);
    let fine = bytes.at(125).map_or(0, |fine| i32::from(fine as i8));
    let clock_ps = u32::try_from(bytes.at(18).map_or(0, |steps| i32::from(steps) * MEDIUM_PS + fine)).unwrap_or(0);
    // Speeds count transfers, two in a period as everywhere else.
    spd.speed = speed(clock_ps / (transfers / 2));
    part::read(bytes, &Places { maker: 320, date: 323, serial: 325, part: (329, 20), package_maker: 350 }, &mut spd);
    Some(spd)
}

fn form(bytes: Bytes<'_>) -> &'static str {
    match bytes.at(3).unwrap_or(0) & 0x0f {
        3 => "SO-DIMM",
        7 => "compression-attached module",
        14 => "soldered",
        _ => "",
    }
}
