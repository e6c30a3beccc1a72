//! The running kernel's own log, and what a crash left behind.

use std::fs::OpenOptions;
use std::io::{ErrorKind, Read};
use std::os::unix::fs::OpenOptionsExt;
use std::time::{Duration, SystemTime, UNIX_EPOCH};

use revisum_diagnose::system_log::{LineReader, SystemLogs};
use revisum_record::logged::LogTime;

use super::files;
use crate::text_files::entries;

/// Records read: more than the kernel's buffer holds.
const MOST_RECORDS: usize = 200_000;

pub(super) fn read(logs: &mut SystemLogs) {
    match kernel() {
        Ok(mut reader) => logs.take("kernel log", reader.entries()),
        Err(error) => logs.refuse(format!("The kernel's log cannot be read: {error}.")),
    }
    for path in entries("/sys/fs/pstore") {
        let _ = files::read(&path, logs);
    }
}

fn kernel() -> std::io::Result<LineReader> {
    let (started, mut reader) = (started_ms(), LineReader::default());
    each_message(|micros, message| {
        let wall_ms = started.map(|started| started + micros / 1000);
        reader.take_message(LogTime { wall_ms, words: String::new() }, message);
    })?;
    Ok(reader)
}

/// All that the running kernel has said and still knows; nothing where that cannot be read.
pub(crate) fn kernel_lines() -> Vec<String> {
    let mut lines = Vec::new();
    let read = each_message(|_, message| lines.push(message.to_owned()));
    read.map(|()| lines).unwrap_or_default()
}

fn each_message(mut take: impl FnMut(i64, &str)) -> std::io::Result<()> {
    let mut log = OpenOptions::new().read(true).custom_flags(libc::O_NONBLOCK).open("/dev/kmsg")?;
    let mut record = vec![0; 8192];
    for _ in 0..MOST_RECORDS {
        match log.read(&mut record) {
            Ok(0) => break,
            Ok(length) => {
                if let Some((micros, message)) = message(&String::from_utf8_lossy(&record[..length])) {
                    take(micros, &message);
                }
            }
            // Older records were overwritten while they were read: the next call goes on behind them.
            Err(error) if error.kind() == ErrorKind::BrokenPipe => {}
            Err(_) => break,
        }
    }
    Ok(())
}

/// `priority,number,microseconds,flags;message`
fn message(record: &str) -> Option<(i64, String)> {
    let (head, message) = record.split_once(';')?;
    Some((head.split(',').nth(2)?.parse().ok()?, message.lines().next()?.to_owned()))
}

/// When the kernel began to count, by the clock as it is set now.
fn started_ms() -> Option<i64> {
    let up = std::fs::read_to_string("/proc/uptime").ok()?;
    let seconds: f64 = up.split(' ').next()?.parse().ok()?;
    let now = SystemTime::now().duration_since(UNIX_EPOCH).ok()?;
    i64::try_from(now.checked_sub(Duration::try_from_secs_f64(seconds).ok()?)?.as_millis()).ok()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn records_are_taken_apart() {
        assert_eq!(message("6,1,1500,-;usb: x\n SUBSYSTEM=y\n"), Some((1500, "usb: x".to_owned())));
        assert_eq!(message("no record"), None);
    }
}
