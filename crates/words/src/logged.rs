//! Entries of a system's own logs.

use revisum_diagnose::system_log::SystemLogs;
use revisum_record::logged::{LogEntry, LogKind};

use crate::say;

/// Beginning of what is recorded of a stop screen: its number follows.
const STOP: &str = "stop code ";

/// What an entry says: the log's own words, and of a stop screen what its number means where bad memory causes it now and then.
pub fn text(entry: &LogEntry) -> String {
    let code = entry.text.strip_prefix(STOP).filter(|_| entry.kind == LogKind::StopScreen);
    // Entries of older records carry the meaning themselves.
    let Some(code) = code.and_then(|rest| rest.split([':', ' ']).next()) else { return entry.text.clone() };
    match meaning(code) {
        Some(meaning) => say::stop_code_means(code, meaning),
        None => say::stop_code(code),
    }
}

fn meaning(code: &str) -> Option<&'static str> {
    Some(match u64::from_str_radix(code.strip_prefix("0x")?, 16).ok()? {
        0x1a => say::stop_memory_management(),
        0x2e => say::stop_bus(),
        0x4e => say::stop_page_list(),
        0x50 => say::stop_address(),
        0x7a | 0x77 => say::stop_read_in(),
        0x9c | 0x124 => say::stop_hardware(),
        0x127 => say::stop_page_not_empty(),
        0x12b => say::stop_page_damaged(),
        0x19 | 0xc2 | 0x13a => say::stop_pool(),
        _ => return None,
    })
}

/// What was looked through.
pub fn looked_through(logs: &SystemLogs) -> String {
    match logs.read.as_slice() {
        [] => say::logs_read_none().to_owned(),
        [one] => say::logs_read_one(one),
        all => say::logs_read(all.len()),
    }
}

#[cfg(test)]
mod tests {
    use revisum_record::logged::LogTime;
    use rstest::rstest;

    use super::*;

    #[rstest]
    #[case(LogKind::StopScreen, "stop code 0x1a", "stop code 0x1a: memory management is inconsistent")]
    #[case(
        LogKind::StopScreen,
        "stop code 0x1a: as an older program said it",
        "stop code 0x1a: memory management is inconsistent"
    )]
    #[case(LogKind::StopScreen, "stop code 0xdead", "stop code 0xdead")]
    #[case(LogKind::Corrected, "stop code 0x1a", "stop code 0x1a")]
    #[case(LogKind::StopScreen, "blue", "blue")]
    fn a_number_has_its_meaning(#[case] kind: LogKind, #[case] text: &str, #[case] expected: &str) {
        assert_eq!(super::text(&LogEntry::new(kind, LogTime::default(), text.into())), expected);
    }
}
