//! What a machine's own system logged, as it stands in lists.

use jiff::tz::TimeZone;
use revisum_record::logged::LogEntry;

use crate::say;
use crate::wall_time;

/// Entries kept in a job: the newest ones.
pub const MOST_KEPT: usize = 500;

/// When it was logged last, as far as the log tells.
pub fn shown_time(entry: &LogEntry, zone: &TimeZone) -> String {
    let words = [&entry.last.words, &entry.first.words].into_iter().find(|words| !words.is_empty());
    match (entry.wall_ms(), words) {
        (Some(wall_ms), _) => wall_time::date_and_time(wall_ms, zone),
        (None, Some(words)) => words.clone(),
        (None, None) => say::log_time_unknown().to_owned(),
    }
}
