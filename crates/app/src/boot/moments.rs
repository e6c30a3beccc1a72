//! How long a start took and what went wrong with it, in a file beside the results: somebody who wonders about a machine has something to look at.

use std::io::Write;
use std::path::Path;
use std::time::{Duration, SystemTime};

use jiff::Timestamp;
use revisum_engine::text::cleaned;
use revisum_linux::boot::CommandLine;

/// Its name.
const FILE: &str = "starts.txt";
/// Most characters of a trouble.
const LONGEST: usize = 400;

/// Time since the kernel's start, by its own clock.
pub(super) fn since_start() -> Option<Duration> {
    let text = std::fs::read_to_string("/proc/uptime").ok()?;
    Duration::try_from_secs_f64(text.split(' ').next()?.parse().ok()?).ok()
}

/// Adds a line: when the kernel was started, and after how long the screen was there and the drive was found; then one for each trouble. What cannot be
/// written is not missed.
pub(super) fn note(
    results: &Path,
    line: &CommandLine,
    screen: Option<Duration>,
    drive: Option<Duration>,
    troubles: &[String],
) {
    let (Some(screen), Some(drive), Some(now)) = (screen, drive, since_start()) else { return };
    let mut text = words(line.entry.name(), SystemTime::now() - now, screen, drive);
    text.extend(troubles.iter().map(|trouble| format!("  {}\n", cleaned(trouble, LONGEST))));
    let file = std::fs::OpenOptions::new().create(true).append(true).open(results.join(FILE));
    let _ = file.and_then(|mut file| file.write_all(text.as_bytes()));
}

fn words(entry: &str, start: SystemTime, screen: Duration, drive: Duration) -> String {
    let start = Timestamp::try_from(start).map(|start| format!("{start:.1}")).unwrap_or_default();
    format!("start={start} entry={entry} screen={:.1} drive={:.1}\n", screen.as_secs_f64(), drive.as_secs_f64())
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_start_is_one_line() {
        let start = SystemTime::UNIX_EPOCH + Duration::from_millis(1_900_000_000_250);
        let line = words("a", start, Duration::from_millis(7130), Duration::from_secs(9));
        assert_eq!(line, "start=2030-03-17T17:46:40.2Z entry=a screen=7.1 drive=9.0\n");
        assert!(since_start().unwrap() > Duration::ZERO);
    }
}
