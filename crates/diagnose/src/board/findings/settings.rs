//! How the machine runs its memory, and what the firmware has to do with it.

use jiff::Timestamp;
use jiff::civil::Date;

use super::{Known, finding};
use crate::board::finding::{Finding, Weight};
use crate::speed::shows_profile_off;
use revisum_record::fitted::{Module, Slot};

/// Firmware older than so many years has probably been followed by newer.
const OLD_YEARS: i32 = 3;

/// `A1 and B1 at 3600`: slots with the same words share them.
fn grouped(each: impl Iterator<Item = (String, String)>) -> Vec<String> {
    let mut groups: Vec<(String, Vec<String>)> = Vec::new();
    for (slot, words) in each {
        match groups.iter_mut().find(|(known, _)| *known == words) {
            Some((_, slots)) => slots.push(slot),
            None => groups.push((words, vec![slot])),
        }
    }
    groups.into_iter().map(|(words, slots)| format!("{} {words}", slots.join(" and "))).collect()
}

pub(super) fn below_rating(known: &Known<'_>) -> Option<Finding> {
    let slow = |(slot, module): (&Slot, &Module)| {
        let (speed, rated) = (module.speed?, module.rated_speed?);
        (speed < rated).then(|| (slot.id.clone(), format!("at {speed} of {rated} MT/s")))
    };
    let slow = grouped(known.board().modules().filter_map(slow));
    // Where that was measured the measurement says it.
    if slow.is_empty() || known.speed().is_some_and(shows_profile_off) {
        return None;
    }
    finding(
        Weight::Note,
        format!("Runs below its rated speed: {}", slow.join(", ")),
        "Stock settings, a slower module installed with it, or the processor's limit. Leave it so while you look for errors.",
    )
}

/// The base speed stands in the module itself; the firmware's tables do not tell it from a profile's.
pub(super) fn profile_on(known: &Known<'_>) -> Option<Finding> {
    let fast = |(slot, module): (&Slot, &Module)| {
        let (speed, base) = (module.speed?, module.base_speed?);
        // Speeds are rounded by whoever tells them.
        (u64::from(speed) * 100 > u64::from(base) * 102)
            .then(|| (slot.id.clone(), format!("at {speed}, made for {base} MT/s")))
    };
    let fast = grouped(known.board().modules().filter_map(fast));
    if fast.is_empty() {
        return None;
    }
    finding(
        Weight::Doubtful,
        format!("Runs above its base speed, so a profile is on: {}", fast.join(", ")),
        "Errors may come from the settings alone. Test as it is first; if errors show, switch the profile off and run again before any part is blamed.",
    )
}

pub(super) fn old_firmware(known: &Known<'_>) -> Option<Finding> {
    let date = Date::strptime("%m/%d/%Y", &known.inventory.firmware_date).ok()?;
    let today = Timestamp::from_millisecond(known.wall_ms?).ok()?.to_zoned(jiff::tz::TimeZone::UTC).date();
    let years = today.since((jiff::Unit::Year, date)).ok()?.get_years();
    if i32::from(years) < OLD_YEARS {
        return None;
    }
    finding(
        Weight::Note,
        format!("The mainboard's firmware is {years} years old ({})", date.strftime("%Y-%m-%d")),
        "Newer firmware often sets memory up better. Look for an update before a module is called unfit for this mainboard.",
    )
}

pub(super) fn encryption(known: &Known<'_>) -> Option<Finding> {
    if known.inventory.encrypted != Some(true) {
        return None;
    }
    finding(
        Weight::Note,
        "Memory is encrypted by the processor".to_owned(),
        "One bad bit garbles a whole block, so data lines are unknown. To see data lines, switch encryption off in the firmware.",
    )
}
