//! Memory that is fitted and that the operating system does not get. Firmware's tables alone prove nothing: end addresses are written a KiB too
//! high, holes are counted, the memory of graphics is left out. Only where the modules, the memory map and what the system sees agree is
//! something missing.

use super::{Known, finding};
use crate::board::finding::{Finding, Found, MissingWhy, Weight};
use revisum_engine::units::{ByteRange, GIB, MIB};

/// Less than this share of the fitted memory is what firmware and devices keep everywhere.
const MISSING_SHARE: f64 = 1.0 / 8.0;
/// Where 32 bits of an address end.
const HIGH: u64 = 4 * GIB;
/// Ranges of the map nearer to each other than this are neighbours.
const GAP: u64 = 16 * MIB;

pub(super) fn missing_memory(known: &Known<'_>) -> Option<Finding> {
    let given = known.inventory.usable.bytes();
    let installed = known.board().fitted_bytes().filter(|_| given > 0 && !known.is_guest())?;
    let is_missing = |seen: u64| installed.saturating_sub(seen) as f64 > installed as f64 * MISSING_SHARE;
    let seen = known.system.seen_bytes;
    if !is_missing(given) || seen > 0 && !is_missing(seen) {
        return None;
    }
    let why = why(known, installed, installed - given);
    let weight = match why {
        MissingWhy::NotMapped | MissingWhy::Unknown => Weight::Wrong,
        MissingWhy::NothingHigh => Weight::Doubtful,
        MissingWhy::Reserved => Weight::Note,
    };
    finding(weight, Found::MissingMemory { installed, given, why })
}

fn why(known: &Known<'_>, installed: u64, missing: u64) -> MissingWhy {
    let inventory = known.inventory;
    let mapped = inventory.mapped_bytes.unwrap_or(u64::MAX);
    if installed.saturating_sub(mapped) > missing / 2 {
        return MissingWhy::NotMapped;
    }
    if reserved_below_the_hole(known) >= missing - missing / 4 {
        return MissingWhy::Reserved;
    }
    let highest = inventory.usable.ranges().last().map_or(0, |range| range.end);
    if installed >= HIGH && highest <= HIGH { MissingWhy::NothingHigh } else { MissingWhy::Unknown }
}

/// What is reserved right behind the memory below 4 GiB: what firmware keeps of it, mostly for graphics.
fn reserved_below_the_hole(known: &Known<'_>) -> u64 {
    let inventory = known.inventory;
    let Some(low) = inventory.usable.ranges().iter().rfind(|range| range.end <= HIGH) else { return 0 };
    let behind = inventory.reserved.ranges().iter().filter(|range| range.start >= low.end && range.end <= HIGH);
    let mut end = low.end;
    let mut bytes = 0;
    for range in behind.take_while(|range: &&ByteRange| near(&mut end, range)) {
        bytes += range.len();
    }
    bytes
}

fn near(end: &mut u64, range: &ByteRange) -> bool {
    let is_near = range.start <= *end + GAP;
    *end = range.end;
    is_near
}
