//! Wall-clock times as people read them.

use jiff::Timestamp;
use jiff::tz::TimeZone;

use crate::say;

/// This computer's time in milliseconds since 1970.
pub fn now_ms() -> i64 {
    jiff::Timestamp::now().as_millisecond()
}

/// The zone in which times are shown: simulated machines live in UTC, real ones where they stand.
pub fn zone(simulated: bool) -> TimeZone {
    if simulated { TimeZone::UTC } else { TimeZone::system() }
}

/// A moment in this zone, by a format of `strftime`.
pub fn format(wall_ms: i64, zone: &TimeZone, pattern: &str) -> String {
    let moment = Timestamp::from_millisecond(wall_ms).unwrap_or_default();
    moment.to_zoned(zone.clone()).strftime(pattern).to_string()
}

/// `2031-04-12 13:16`.
pub fn date_and_time(wall_ms: i64, zone: &TimeZone) -> String {
    format(wall_ms, zone, "%Y-%m-%d %H:%M")
}

/// RFC 3339 in UTC, for machines.
pub fn machine_form(wall_ms: i64) -> String {
    Timestamp::from_millisecond(wall_ms).unwrap_or_default().to_string()
}

/// Minutes since midnight.
pub fn minute_of_day(wall_ms: i64, zone: &TimeZone) -> u32 {
    let moment = Timestamp::from_millisecond(wall_ms).unwrap_or_default().to_zoned(zone.clone());
    u32::from(moment.hour().unsigned_abs()) * 60 + u32::from(moment.minute().unsigned_abs())
}

/// Seconds from now until the clock next shows this time of day.
///
/// # Errors
/// A sentence when the text is not a time of day.
pub fn seconds_until(text: &str, now_ms: i64, zone: &TimeZone) -> Result<u64, String> {
    let wrong = || say::not_a_time(format!("{:?}", text));
    let (hour, minute) = text.split_once(':').ok_or_else(wrong)?;
    let number = |digits: &str| digits.parse::<i8>().map_err(|_| wrong());
    let time = jiff::civil::Time::new(number(hour)?, number(minute)?, 0, 0).map_err(|_| wrong())?;
    let now = Timestamp::from_millisecond(now_ms).map_err(|_| wrong())?.to_zoned(zone.clone());
    let today = now.date().to_datetime(time).to_zoned(zone.clone()).map_err(|_| wrong())?;
    let next = if today > now {
        today
    } else {
        let tomorrow = now.date().tomorrow().map_err(|_| wrong())?;
        tomorrow.to_datetime(time).to_zoned(zone.clone()).map_err(|_| wrong())?
    };
    Ok(u64::try_from(next.timestamp().as_second() - now.timestamp().as_second()).unwrap_or(1).max(1))
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;

    /// 2031-04-12 13:16:00 UTC.
    const NOW_MS: i64 = 1_933_766_160_000;

    #[rstest]
    #[case("13:17", Some(60))]
    #[case("13:16", Some(86_400))]
    #[case("07:00", Some(17 * 3600 + 44 * 60))]
    #[case("24:00", None)]
    #[case("soon", None)]
    #[case("7", None)]
    fn the_next_time_of_day(#[case] text: &str, #[case] seconds: Option<u64>) {
        assert_eq!(seconds_until(text, NOW_MS, &TimeZone::UTC).ok(), seconds);
    }
}
