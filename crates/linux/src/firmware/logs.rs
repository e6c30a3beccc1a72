//! What was logged about memory: by the running kernel, by one that crashed, by the firmware at boot.

use std::fs::OpenOptions;
use std::io::{ErrorKind, Read};
use std::os::unix::fs::OpenOptionsExt;

use crate::text_files::entries;

/// Records read of the kernel's log: more than its buffer holds.
const MOST_RECORDS: usize = 200_000;
/// Lines kept.
const MOST_LINES: usize = 5_000;
/// Bytes read of a file that a crash left behind.
const MOST_BYTES: u64 = 4 << 20;
/// The error region of the firmware's boot error record, as the kernel shows it.
const BOOT_ERRORS: &str = "/sys/firmware/acpi/tables/data/BERT";

/// Lines that speak of memory errors.
pub(super) fn kernel(trouble: &mut Vec<String>) -> Vec<String> {
    let opened = OpenOptions::new().read(true).custom_flags(libc::O_NONBLOCK).open("/dev/kmsg");
    let mut log = match opened {
        Ok(log) => log,
        Err(error) => {
            trouble.push(format!("The kernel's log cannot be read ({error}): what it says of memory is not known."));
            return Vec::new();
        }
    };
    let mut lines = Vec::new();
    let mut record = vec![0; 8192];
    for _ in 0..MOST_RECORDS {
        match log.read(&mut record) {
            Ok(0) => break,
            Ok(length) => lines.extend(message(&record[..length])),
            // Older records were overwritten while they were read: the next call goes on behind them.
            Err(error) if error.kind() == ErrorKind::BrokenPipe => {}
            Err(_) => break,
        }
        if lines.len() >= MOST_LINES {
            break;
        }
    }
    lines
}

/// The message of a record `priority,number,time,flags;message`, if it may speak of memory errors.
fn message(record: &[u8]) -> Option<String> {
    let text = String::from_utf8_lossy(record);
    let (_, message) = text.split_once(';')?;
    let line = message.lines().next()?;
    speaks_of_memory(line).then(|| line.to_owned())
}

fn speaks_of_memory(line: &str) -> bool {
    ["EDAC MC", "Machine Check", "[Hardware Error]", "Memory failure"].iter().any(|mark| line.contains(mark))
}

/// The same lines of what a crash left behind.
pub(super) fn crash() -> Vec<String> {
    let mut lines = Vec::new();
    for path in entries("/sys/fs/pstore") {
        let Ok(file) = std::fs::File::open(&path) else { continue };
        let mut bytes = Vec::new();
        // A compressed or damaged record gives no such line, and the next file may.
        if file.take(MOST_BYTES).read_to_end(&mut bytes).is_err() {
            continue;
        }
        let text = String::from_utf8_lossy(&bytes);
        lines.extend(text.lines().filter(|line| speaks_of_memory(line)).map(str::to_owned));
        lines.truncate(MOST_LINES);
    }
    lines
}

/// The region of the firmware's boot error record; empty where there is none.
pub(super) fn boot_errors() -> Vec<u8> {
    let Ok(file) = std::fs::File::open(BOOT_ERRORS) else { return Vec::new() };
    let mut bytes = Vec::new();
    match file.take(MOST_BYTES).read_to_end(&mut bytes) {
        Ok(_) => bytes,
        Err(_) => Vec::new(),
    }
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;

    #[rstest]
    #[case(
        "6,1,0,-;EDAC MC0: 1 CE memory read error on A1\n SUBSYSTEM=x\n",
        Some("EDAC MC0: 1 CE memory read error on A1")
    )]
    #[case("6,2,0,-;usb 1-1: new device", None)]
    #[case("no record", None)]
    fn records(#[case] record: &str, #[case] expected: Option<&str>) {
        assert_eq!(message(record.as_bytes()).as_deref(), expected);
    }
}
