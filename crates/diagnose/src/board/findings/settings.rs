//! How the machine runs its memory, and what the firmware has to do with it.

use jiff::Timestamp;
use jiff::civil::Date;

use super::{Known, finding};
use crate::board::finding::{Finding, Found, SlotsAt, Weight};
use crate::speed::shows_profile_off;
use revisum_record::fitted::{Module, Slot};

/// Firmware older than so many years has probably been followed by newer.
const OLD_YEARS: i32 = 3;

/// Slots at the same speeds together: slot, speed in force, and what its module is made for.
fn grouped(each: impl Iterator<Item = (String, u32, u32)>) -> Vec<SlotsAt> {
    let mut groups: Vec<SlotsAt> = Vec::new();
    for (slot, speed, made_for) in each {
        match groups.iter_mut().find(|known| (known.speed, known.made_for) == (speed, made_for)) {
            Some(known) => known.slots.push(slot),
            None => groups.push(SlotsAt { slots: vec![slot], speed, made_for }),
        }
    }
    groups
}

pub(super) fn below_rating(known: &Known<'_>) -> Option<Finding> {
    let slow = |(slot, module): (&Slot, &Module)| {
        let (speed, rated) = (module.speed?, module.rated_speed?);
        (speed < rated).then(|| (slot.id.clone(), speed, rated))
    };
    let slow = grouped(known.board().modules().filter_map(slow));
    // Where that was measured the measurement says it.
    if slow.is_empty() || known.is_guest() || known.speed().is_some_and(shows_profile_off) {
        return None;
    }
    finding(Weight::Note, Found::BelowRating(slow))
}

/// Speeds are rounded by whoever tells them: so many percent do not count.
const ROUNDING: u64 = 2;

/// The base speed stands in the module itself; the firmware's tables do not tell it from a profile's.
pub(super) fn profile_on(known: &Known<'_>) -> Option<Finding> {
    let fast = grouped(known.board().modules().filter_map(above_base));
    if fast.is_empty() || off_profile(known).is_some() {
        return None;
    }
    finding(Weight::Doubtful, Found::ProfileOn(fast))
}

/// Faster than the standard, and by none of the profiles that the module itself offers: somebody chose a speed by hand.
pub(super) fn off_profile(known: &Known<'_>) -> Option<Finding> {
    let is_of_profile = |speed: u32, module: &Module| module.profile_speeds.iter().any(|one| is_near(speed, *one));
    let chosen = |(slot, module): (&Slot, &Module)| {
        let (slot, speed, base) = above_base((slot, module))?;
        (!module.profile_speeds.is_empty() && !is_of_profile(speed, module)).then_some((slot, speed, base))
    };
    let chosen = grouped(known.board().modules().filter_map(chosen));
    if chosen.is_empty() {
        return None;
    }
    finding(Weight::Doubtful, Found::OffProfile(chosen))
}

fn above_base((slot, module): (&Slot, &Module)) -> Option<(String, u32, u32)> {
    let (speed, base) = (module.speed?, module.base_speed?);
    (speed > base && !is_near(speed, base)).then(|| (slot.id.clone(), speed, base))
}

fn is_near(one: u32, other: u32) -> bool {
    u64::from(one.abs_diff(other)) * 100 <= u64::from(other) * ROUNDING
}

pub(super) fn old_firmware(known: &Known<'_>) -> Option<Finding> {
    let date = Date::strptime("%m/%d/%Y", &known.inventory.firmware_date).ok()?;
    let today = Timestamp::from_millisecond(known.wall_ms?).ok()?.to_zoned(jiff::tz::TimeZone::UTC).date();
    // A guest's firmware is its host's.
    if known.is_guest() {
        return None;
    }
    let years = today.since((jiff::Unit::Year, date)).ok()?.get_years();
    if i32::from(years) < OLD_YEARS {
        return None;
    }
    finding(
        Weight::Note,
        Found::OldFirmware { years: years.unsigned_abs().into(), date: date.strftime("%Y-%m-%d").to_string() },
    )
}

pub(super) fn encryption(known: &Known<'_>) -> Option<Finding> {
    if known.inventory.encrypted != Some(true) {
        return None;
    }
    finding(Weight::Note, Found::Encrypted)
}
