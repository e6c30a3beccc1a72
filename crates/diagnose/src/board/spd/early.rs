//! SDRAM, DDR and DDR2 (JESD21-C, section 4.1.2, annexes D, E and J of the years before DDR3): one layout that grew.

use super::timing::Timings;
use super::{Bytes, Spd, part};
use crate::board::maker::MakerCode;

/// The three generations, by the code of byte 2.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum Early {
    Sdram,
    Ddr,
    Ddr2,
}

/// Kind of memory by its code; nothing where it is another generation.
pub(super) fn kind(code: u8) -> Option<Early> {
    match code {
        0x04 => Some(Early::Sdram),
        0x07 => Some(Early::Ddr),
        0x08 => Some(Early::Ddr2),
        _ => None,
    }
}

pub(super) fn read(bytes: Bytes<'_>, kind: Early) -> Spd {
    let (generation, millivolts, transfers) = match kind {
        Early::Sdram => ("SDRAM", 3300, 1),
        Early::Ddr => ("DDR", 2500, 2),
        Early::Ddr2 => ("DDR2", 1800, 2),
    };
    let mut spd = Spd { generation, millivolts: Some(millivolts), ..Spd::default() };
    if sum_is_right(bytes) == Some(false) {
        spd.bad_sums.push("general");
    }
    spd.form = if kind == Early::Ddr2 { form(bytes) } else { "" };
    spd.ranks = bytes.at(5).map(|ranks| if kind == Early::Ddr2 { (ranks & 7) + 1 } else { ranks });
    spd.ranks = spd.ranks.filter(|ranks| (1..=8).contains(ranks));
    let check_bits = if kind == Early::Ddr2 { 0x02 } else { 0xfe };
    spd.ecc = bytes.at(11).is_some_and(|configuration| configuration & check_bits == 2);
    spd.package_width = bytes.at(13).map(|width| width & 0x7f).filter(|width| [4, 8, 16, 32].contains(width));
    spd.bytes = capacity(bytes, spd.ranks);
    let clock_ps = bytes.at(9).map_or(0, |code| period_ps(code, kind));
    spd.speed = (transfers * 1_000_000u32).checked_div(clock_ps).map(|exact| grade(exact, kind));
    spd.timings = timings(bytes, kind, clock_ps);
    spd.maker_code = maker(bytes).map(MakerCode::words).unwrap_or_default();
    spd.maker = maker(bytes).and_then(MakerCode::name).unwrap_or_default();
    spd.part = bytes.slice(73, 18).map(part::text).unwrap_or_default();
    spd.made = part::made(bytes, 93);
    spd.serial = part::serial(bytes, 95).unwrap_or_default();
    spd
}

fn maker(bytes: Bytes<'_>) -> Option<MakerCode> {
    MakerCode::spelled(bytes.slice(64, 8)?)
}

/// The low eight bits of the sum of the bytes before it.
fn sum_is_right(bytes: Bytes<'_>) -> Option<bool> {
    let sum = bytes.slice(0, 63)?.iter().fold(0u8, |sum, byte| sum.wrapping_add(*byte));
    Some(bytes.at(63)? == sum)
}

/// Rows, columns and banks of a package, times the data lines, times the ranks. Check bits are no capacity.
fn capacity(bytes: Bytes<'_>, ranks: Option<u8>) -> Option<u64> {
    let (rows, columns) = (bytes.at(3)? & 0x1f, bytes.at(4)? & 0x1f);
    let banks = u64::from(bytes.at(17)?);
    let lanes = match bytes.at(6)? {
        64 | 72 => 8u64,
        32 | 40 => 4,
        _ => return None,
    };
    let plausible = (11..=16).contains(&rows) && (8..=13).contains(&columns) && [2, 4, 8].contains(&banks);
    plausible.then_some(())?;
    Some((1u64 << (rows + columns)) * banks * lanes * u64::from(ranks?))
}

/// Nanoseconds in the high half, tenths in the low one, where a few codes of DDR2 stand for quarters and thirds.
fn period_ps(code: u8, kind: Early) -> u32 {
    let tenths = match (code & 0x0f, kind) {
        (10, Early::Ddr2 | Early::Ddr) => 250,
        (11, Early::Ddr2 | Early::Ddr) => 330,
        (12, Early::Ddr2 | Early::Ddr) => 660,
        (13, Early::Ddr2 | Early::Ddr) => 750,
        (tenths, _) => u32::from(tenths) * 100,
    };
    u32::from(code >> 4) * 1000 + tenths
}

/// Periods are rounded to tenths of a nanosecond: the grade nearest to them.
fn grade(exact: u32, kind: Early) -> u32 {
    let grades: &[u32] = match kind {
        Early::Sdram => &[66, 100, 133],
        Early::Ddr => &[200, 266, 333, 400],
        Early::Ddr2 => &[400, 533, 667, 800, 1066],
    };
    grades.iter().copied().min_by_key(|grade| grade.abs_diff(exact)).unwrap_or(exact)
}

/// The highest CAS latency of the mask is that of the highest speed; the others are stored as quarters of a nanosecond (DDR, DDR2) or whole
/// ones (SDRAM), row active in whole ones.
fn timings(bytes: Bytes<'_>, kind: Early, clock_ps: u32) -> Option<Timings> {
    let highest = 7u32.checked_sub(bytes.at(18)?.leading_zeros())?;
    let cl = match kind {
        Early::Sdram => highest + 1,
        // A bit each half a clock: whole ones are what labels print.
        Early::Ddr => (highest + 2).div_ceil(2),
        Early::Ddr2 => highest,
    };
    let quarters = if kind == Early::Sdram { 1000 } else { 250 };
    let time = |at: usize| bytes.at(at).map(|steps| u32::from(steps) * quarters);
    Timings::of(clock_ps, [cl * clock_ps, time(29)?, time(27)?, u32::from(bytes.at(30)?) * 1000], 1)
}

fn form(bytes: Bytes<'_>) -> &'static str {
    match bytes.at(20).unwrap_or(0) {
        1 => "registered DIMM",
        2 => "DIMM",
        4 => "SO-DIMM",
        8 => "Micro-DIMM",
        16 => "Mini-RDIMM",
        32 => "Mini-UDIMM",
        _ => "",
    }
}
