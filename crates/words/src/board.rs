//! What is found on a board, what of it is unknown, and how much of its memory can be tested.

use revisum_diagnose::board::{
    ErrorCounts, Fact, Finding, Found, MissingWhy, Part, PartKind, SlotChange, SlotsAt, Unknown,
};
use revisum_diagnose::controller::Refusal;
use revisum_engine::memory::{KeptBy, Limit};
use revisum_engine::units::bytes_text;

use crate::said::Said;
use crate::{say, speed};

/// What was found.
pub fn found(finding: &Finding) -> String {
    match &finding.what {
        Found::Counted { errors, places } => say::found_counted(counts(*errors), places.join(", ")),
        Found::Logged { sources, errors, places } => {
            let sources: Vec<&str> = sources.iter().map(Said::said).collect();
            let places: Vec<String> = places.iter().map(|slots| slots.join(say::join_or())).collect();
            let at = match places.is_empty() {
                true => say::found_logged_nowhere().to_owned(),
                false => say::found_logged_at(places.join(", ")),
            };
            say::found_logged(counts(*errors), at, sources.join(say::join_and()))
        }
        Found::MissingMemory { installed, given, .. } => {
            say::found_missing(bytes_text(*installed), bytes_text(*given), bytes_text(*installed - *given))
        }
        Found::LessThanBefore { was, is } => say::found_less(bytes_text(*was), bytes_text(*is)),
        Found::Changed(changes) => say::found_changed(changes.iter().map(change).collect::<Vec<_>>().join("; ")),
        Found::DamagedSpd(slots) => say::found_damaged_spd(listed(slots)),
        Found::Crowded { channel, .. } => say::found_crowded(channel),
        Found::Unbalanced { channels, .. } => say::found_unbalanced(held(channels)),
        Found::IdleChannels { used, of } => say::found_idle(*used, *of),
        Found::Mixed(traits) => {
            say::found_mixed(listed(&traits.iter().map(|one| one.said().to_owned()).collect::<Vec<_>>()))
        }
        Found::BelowRating(slots) => {
            let each = |at: &SlotsAt| say::below_at(listed(&at.slots), plain(at.speed), plain(at.made_for));
            say::found_below(slots.iter().map(each).collect::<Vec<_>>().join(", "))
        }
        Found::ProfileOn(slots) => {
            let each = |at: &SlotsAt| say::above_at(listed(&at.slots), plain(at.speed), plain(at.made_for));
            say::found_profile_on(slots.iter().map(each).collect::<Vec<_>>().join(", "))
        }
        Found::OffProfile(slots) => {
            let each = |at: &SlotsAt| say::above_at(listed(&at.slots), plain(at.speed), plain(at.made_for));
            say::found_off_profile(slots.iter().map(each).collect::<Vec<_>>().join(", "))
        }
        Found::OldFirmware { years, date } => say::found_old_firmware(*years, date),
        Found::Encrypted => say::found_encrypted().to_owned(),
        Found::Disputed(facts) => say::found_disputed(facts.iter().map(disputed).collect::<Vec<_>>().join("; ")),
        Found::NoSerials { slots, all: false } => say::found_no_serials(listed(slots)),
        Found::NoSerials { all: true, .. } => say::found_no_serials_at_all().to_owned(),
        Found::SameSerials(slots) => say::found_same_serials(listed(slots)),
        Found::NoSpd => say::found_no_spd().to_owned(),
        Found::Guest => say::found_guest().to_owned(),
        Found::NoTables => say::found_no_tables().to_owned(),
        Found::HiddenAddresses { saved: false } => say::found_hidden().to_owned(),
        Found::HiddenAddresses { saved: true } => say::found_map_not_saved().to_owned(),
        Found::Speed(sign) => speed::sign(sign),
    }
}

/// What to do about it.
pub fn advice(finding: &Finding) -> String {
    let words = match &finding.what {
        Found::Counted { .. } => say::do_counted(),
        Found::Logged { .. } => say::do_logged(),
        Found::MissingMemory { why, .. } => match why {
            MissingWhy::NotMapped => say::do_missing_not_mapped(),
            MissingWhy::Reserved => say::do_missing_reserved(),
            MissingWhy::NothingHigh => say::do_missing_nothing_high(),
            MissingWhy::Unknown => say::do_missing(),
        },
        Found::LessThanBefore { .. } => say::do_less(),
        Found::Changed(_) => say::do_changed(),
        Found::DamagedSpd(_) => say::do_damaged_spd(),
        Found::Crowded { free, of: 2, .. } => return say::do_crowded(free.join(say::join_or())),
        Found::Crowded { free, .. } => return say::do_crowded_of_many(free.join(say::join_or())),
        Found::Unbalanced { better: Some(to), .. } => return say::do_unbalanced(&to.from, &to.to),
        Found::Unbalanced { better: None, .. } => say::do_unbalanced_by_size(),
        Found::IdleChannels { .. } => say::do_idle(),
        Found::Mixed(_) => say::do_mixed(),
        Found::BelowRating(_) => say::do_below(),
        Found::ProfileOn(_) => say::do_profile_on(),
        Found::OffProfile(_) => say::do_off_profile(),
        Found::OldFirmware { .. } => say::do_old_firmware(),
        Found::Encrypted => say::do_encrypted(),
        Found::Disputed(_) => say::do_disputed(),
        Found::NoSerials { .. } => say::do_no_serials(),
        Found::SameSerials(_) => say::do_same_serials(),
        Found::NoSpd => say::do_no_spd(),
        Found::Guest => say::do_guest(),
        Found::NoTables => say::do_no_tables(),
        Found::HiddenAddresses { saved: false } => say::do_hidden(),
        Found::HiddenAddresses { saved: true } => say::do_map_not_saved(),
        Found::Speed(sign) => return speed::advice(sign),
    };
    words.to_owned()
}

/// What channels hold: those of equal size together, the fullest first.
fn held(channels: &[(String, u64)]) -> String {
    let mut sizes: Vec<u64> = channels.iter().map(|(_, bytes)| *bytes).collect();
    sizes.sort_unstable_by(|one, other| other.cmp(one));
    sizes.dedup();
    let of = |size: &u64| {
        let names = channels.iter().filter(|(_, bytes)| bytes == size).map(|(name, _)| name.clone());
        say::channels_hold(bytes_text(*size), listed(&names.collect::<Vec<_>>()))
    };
    sizes.iter().map(of).collect::<Vec<_>>().join("; ")
}

/// More names than these are counted.
const MOST_NAMES: usize = 6;

/// `A`, `A and B`, `A, B and C`; of many the first ones and how many more there are.
fn listed(names: &[String]) -> String {
    let more = names.len().saturating_sub(MOST_NAMES);
    match names {
        _ if more > 1 => format!("{}{}", names[..MOST_NAMES].join(", "), say::join_and_more(more)),
        [before @ .., last] if !before.is_empty() => format!("{}{}{last}", before.join(", "), say::join_and()),
        _ => names.join(", "),
    }
}

/// A speed in MT/s: no group of digits is set apart in it.
pub(crate) fn plain(speed: u32) -> String {
    speed.to_string()
}

fn counts(errors: ErrorCounts) -> String {
    match (errors.corrected, errors.uncorrected) {
        (corrected, 0) => say::errors_corrected(corrected),
        (0, uncorrected) => say::errors_uncorrected(uncorrected),
        (corrected, uncorrected) => say::errors_both(corrected, uncorrected),
    }
}

fn change(change: &SlotChange) -> String {
    let slot = &change.slot;
    match (&change.was, &change.is) {
        (Some(was), None) => say::change_emptied(slot, was),
        (was, Some(is)) => match was {
            None => say::change_filled(slot, is),
            Some(was) => say::change_other(slot, was, is),
        },
        (None, None) => slot.clone(),
    }
}

fn disputed(fact: &Fact) -> String {
    say::disputed_fact(crate::facts::name(&fact.name), &fact.slot, fact.in_words())
}

/// Version and date of firmware: the date as in ISO 8601, where the firmware writes month, day and year (SMBIOS 3.7, section 7.1).
pub fn firmware(text: &str) -> String {
    let Some((version, date)) = text.rsplit_once(' ') else { return iso(text).unwrap_or_else(|| text.to_owned()) };
    iso(date).map_or_else(|| text.to_owned(), |date| format!("{version} {date}"))
}

/// `03/02/2030` as `2030-03-02`.
fn iso(date: &str) -> Option<String> {
    let parts: Vec<&str> = date.split('/').collect();
    let digits = |part: &&str| part.bytes().all(|byte| byte.is_ascii_digit());
    match parts[..] {
        [month, day, year] if parts.iter().all(digits) && (month.len(), day.len(), year.len()) == (2, 2, 4) => {
            Some(format!("{year}-{month}-{day}"))
        }
        _ => None,
    }
}

/// What a part of memory is, or who holds it.
pub fn part(part: &Part) -> String {
    match part.what {
        PartKind::Testable => say::part_testable(),
        PartKind::Kept(KeptBy::Kernel) => say::part_kernel(),
        PartKind::Kept(KeptBy::System) => say::part_system(),
        PartKind::Kept(KeptBy::Reserve) => say::part_reserve(),
        PartKind::Kept(KeptBy::LockLimit) => say::part_lock_limit(),
        PartKind::Kept(KeptBy::Withheld) => return say::part_withheld(&part.detail),
        PartKind::Firmware => say::part_firmware(),
        PartKind::Unaccounted => say::part_unaccounted(),
    }
    .to_owned()
}

/// Why memory cannot be reached, by its word in a journal; older journals have the sentence itself.
pub fn limit(word: &str) -> &str {
    match Limit::ALL.into_iter().find(|limit| limit.word() == word) {
        Some(Limit::LockLimit) => say::limit_lock_limit(),
        Some(Limit::System) => say::limit_system(),
        None => word,
    }
}

/// What is not known of a board, and why.
pub fn unknown(unknown: &Unknown) -> String {
    match unknown {
        Unknown::Spd(place, error) => say::unknown_spd(place, error.to_string()),
        Unknown::SpdUnmatched { place, module } => say::unknown_spd_unmatched(place, module),
        Unknown::Tables => say::unknown_tables().to_owned(),
        Unknown::Trouble(words) => words.clone(),
        Unknown::Map => say::unknown_map().to_owned(),
        Unknown::Encryption => say::unknown_encryption().to_owned(),
        Unknown::Controller(why) => refusal(why),
        Unknown::TimingsInForce => say::unknown_timings().to_owned(),
    }
}

/// Why the memory controller's registers give no map.
fn refusal(why: &Refusal) -> String {
    match why {
        Refusal::Unknown { vendor, device } => say::controller_unknown(format!("{vendor:04x}:{device:04x}")),
        Refusal::Missing(place) => say::controller_missing(place.to_string()),
        Refusal::Contradiction(what) => say::controller_contradiction(what.said()),
        Refusal::Undocumented(what) => say::controller_undocumented(what.said()),
    }
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;

    #[rstest]
    #[case("1.14 03/02/2030", "1.14 2030-03-02")]
    #[case("03/02/2030", "2030-03-02")]
    #[case("F12b", "F12b")]
    #[case("1.0 3/2/30", "1.0 3/2/30")]
    #[case("", "")]
    fn dates_are_written_alike(#[case] text: &str, #[case] expected: &str) {
        assert_eq!(firmware(text), expected);
    }
}
