//! One file: what it is shows by its first bytes, not by its name.

use std::fs::{File, OpenOptions};
use std::io::{self, BufRead, BufReader, Read, Seek};
use std::os::unix::fs::OpenOptionsExt;
use std::path::Path;

use flate2::read::MultiGzDecoder;
use revisum_diagnose::system_log::{Collected, LineReader, SystemLogs, read_event, read_export_line};
use revisum_engine::units::bytes_text;
use revisum_record::logged::LogEntry;

use super::event_file;

/// Bytes read of one file, unpacked.
const MOST_BYTES: u64 = 2 << 30;
/// Longest line; what is behind it is skipped.
const LONGEST_LINE: u64 = 1 << 16;
/// Longest event as XML.
const LONGEST_EVENT: usize = 1 << 20;
/// Bytes that tell what a file is.
const BEGINNING: usize = 4096;

enum Format {
    Lines,
    Export,
    Events,
    Binary,
    Packed,
    Unknown,
}

fn format_of(beginning: &[u8]) -> Format {
    let text = beginning.strip_prefix(b"\xef\xbb\xbf").unwrap_or(beginning).trim_ascii_start();
    match beginning {
        _ if beginning.starts_with(b"ElfFile\0") => Format::Binary,
        _ if beginning.starts_with(b"\x1f\x8b") => Format::Packed,
        _ if is_wide(beginning) => Format::Events,
        _ if text.starts_with(b"<?xml") || text.starts_with(b"<Event") => Format::Events,
        _ if text.starts_with(b"{") => Format::Export,
        _ if beginning.contains(&0) => Format::Unknown,
        _ => Format::Lines,
    }
}

/// UTF-16 with its mark, as exports have it.
fn is_wide(beginning: &[u8]) -> bool {
    beginning.starts_with(b"\xff\xfe<\0")
}

/// Reads a file; one that is no log at all is passed over.
pub(super) fn read(path: &Path, logs: &mut SystemLogs) {
    let name = path.display().to_string();
    match try_read(path) {
        Ok(Some((entries, whole))) => {
            logs.take(&name, entries);
            if !whole {
                logs.refuse(format!("{name}: only its first {} were read", bytes_text(MOST_BYTES)));
            }
        }
        Ok(None) => {}
        Err(error) => logs.refuse(format!("{name} cannot be read: {error}")),
    }
}

/// The entries, and whether the file was read to its end.
fn try_read(path: &Path) -> io::Result<Option<(Vec<LogEntry>, bool)>> {
    let flags = libc::O_NONBLOCK | libc::O_NOFOLLOW;
    let mut file = OpenOptions::new().read(true).custom_flags(flags).open(path)?;
    let mut beginning = Vec::new();
    file.by_ref().take(BEGINNING as u64).read_to_end(&mut beginning)?;
    file.rewind()?;
    match format_of(&beginning) {
        Format::Unknown => Ok(None),
        Format::Binary => event_file::read(file).map(Some),
        Format::Packed => unpacked(file).map(Some),
        format => {
            let mut text = BufReader::new(file.take(MOST_BYTES));
            let entries = of_text(&mut text, &format)?;
            Ok(Some((entries, text.get_ref().limit() > 0)))
        }
    }
}

/// Logs that were packed away; only text is.
fn unpacked(file: File) -> io::Result<(Vec<LogEntry>, bool)> {
    let mut text = BufReader::new(MultiGzDecoder::new(file).take(MOST_BYTES));
    let format = format_of(text.fill_buf()?);
    let entries = match format {
        Format::Lines | Format::Export | Format::Events => of_text(&mut text, &format)?,
        _ => Vec::new(),
    };
    Ok((entries, text.get_ref().limit() > 0))
}

fn of_text(text: &mut impl BufRead, format: &Format) -> io::Result<Vec<LogEntry>> {
    match format {
        Format::Events => events(text),
        Format::Export => lines(text, |reader, line| {
            if let Some((time, message)) = read_export_line(line) {
                message.lines().for_each(|line| reader.take_message(time.clone(), line));
            }
        }),
        _ => lines(text, LineReader::take),
    }
}

/// Calls `take` with every line that is not absurdly long.
pub(super) fn lines(text: &mut impl BufRead, take: impl Fn(&mut LineReader, &str)) -> io::Result<Vec<LogEntry>> {
    let (mut reader, mut line) = (LineReader::default(), Vec::new());
    loop {
        line.clear();
        if text.by_ref().take(LONGEST_LINE).read_until(b'\n', &mut line)? == 0 {
            return Ok(reader.entries());
        }
        let whole = line.ends_with(b"\n") || (line.len() as u64) < LONGEST_LINE;
        take(&mut reader, &String::from_utf8_lossy(&line));
        if !whole {
            skip_line(text)?;
        }
    }
}

fn skip_line(text: &mut impl BufRead) -> io::Result<()> {
    loop {
        let (found, used) = match text.fill_buf()? {
            [] => return Ok(()),
            buffer => match buffer.iter().position(|byte| *byte == b'\n') {
                Some(at) => (true, at + 1),
                None => (false, buffer.len()),
            },
        };
        text.consume(used);
        if found {
            return Ok(());
        }
    }
}

/// Every `Event` of a file of them.
fn events(text: &mut impl BufRead) -> io::Result<Vec<LogEntry>> {
    const END: &[u8] = b"</Event>";
    let wide = is_wide(text.fill_buf()?);
    let (mut entries, mut bytes) = (Collected::default(), Vec::new());
    let mut piece = vec![0; 1 << 16];
    let mut odd: Option<u8> = None;
    loop {
        let count = text.read(&mut piece)?;
        if count == 0 {
            return Ok(entries.entries());
        }
        match wide {
            true => narrow(&piece[..count], &mut odd, &mut bytes),
            false => bytes.extend_from_slice(&piece[..count]),
        }
        while let Some(end) = find(&bytes, END).map(|at| at + END.len()) {
            let event = bytes.drain(..end).collect::<Vec<u8>>();
            // Nested elements have other names: the last beginning is this one's.
            if let Some(start) = find_last(&event, b"<Event ").or_else(|| find_last(&event, b"<Event>")) {
                entries.extend(read_event(&String::from_utf8_lossy(&event[start..])));
            }
        }
        if bytes.len() > LONGEST_EVENT {
            bytes.drain(..bytes.len() - END.len());
        }
    }
}

/// UTF-16, little-endian, as UTF-8: whatever lies outside of the basic plane becomes a mark, no rule looks at it.
fn narrow(piece: &[u8], odd: &mut Option<u8>, into: &mut Vec<u8>) {
    for byte in piece {
        match odd.take() {
            None => *odd = Some(*byte),
            Some(low) => {
                let letter = char::from_u32(u32::from(u16::from_le_bytes([low, *byte]))).unwrap_or('\u{fffd}');
                into.extend_from_slice(letter.encode_utf8(&mut [0; 4]).as_bytes());
            }
        }
    }
}

fn find(bytes: &[u8], words: &[u8]) -> Option<usize> {
    bytes.windows(words.len()).position(|window| window == words)
}

fn find_last(bytes: &[u8], words: &[u8]) -> Option<usize> {
    bytes.windows(words.len()).rposition(|window| window == words)
}

#[cfg(test)]
mod tests {
    use std::io::Write as _;

    use flate2::Compression;
    use flate2::write::GzEncoder;
    use revisum_record::logged::LogKind;
    use rstest::rstest;

    use super::*;

    const LINE: &str =
        "Nov  2 10:11:12 host kernel: EDAC MC0: 2 CE memory read error on DIMM_B1 (page:0x1 offset:0x0)\n";
    const EVENT: &str = "<Event><System><Provider Name='Kernel-WHEA'/><Level>2</Level></System><EventData>\
        <Data Name='PhysicalAddress'>0x1000</Data></EventData></Event>";

    fn packed(text: &str) -> Vec<u8> {
        let mut packer = GzEncoder::new(Vec::new(), Compression::fast());
        packer.write_all(text.as_bytes()).unwrap();
        packer.finish().unwrap()
    }

    fn wide(text: &str) -> Vec<u8> {
        b"\xff\xfe".iter().copied().chain(text.encode_utf16().flat_map(u16::to_le_bytes)).collect()
    }

    #[rstest]
    #[case::lines(LINE.into(), &[(LogKind::Corrected, 2)])]
    #[case::packed(packed(&LINE.repeat(2)), &[(LogKind::Corrected, 4)])]
    #[case::export(format!("{{\"MESSAGE\":\"{}\"}}\n", LINE.trim_end()).into(), &[(LogKind::Corrected, 2)])]
    #[case::events(format!("<?xml version='1.0'?><Events>{}</Events>", EVENT.repeat(3)).into(), &[(LogKind::Uncorrected, 3)])]
    #[case::wide(wide(&format!("<Events>{EVENT}</Events>")), &[(LogKind::Uncorrected, 1)])]
    #[case::packed_events(packed(&format!("<Events>{EVENT}</Events>")), &[(LogKind::Uncorrected, 1)])]
    #[case::huge_line([vec![b'x'; 3 << 20], format!("\n{LINE}").into()].concat(), &[(LogKind::Corrected, 2)])]
    #[case::huge_event([b"<Event ".to_vec(), vec![b'x'; 3 << 20], EVENT.into()].concat(), &[(LogKind::Uncorrected, 1)])]
    #[case::foreign(vec![0; 100_000], &[])]
    #[case::empty(Vec::new(), &[])]
    #[case::packed_badly([b"\x1f\x8b".to_vec(), vec![7; 100]].concat(), &[])]
    #[case::binary_badly([b"ElfFile\0".to_vec(), vec![7; 10_000]].concat(), &[])]
    fn by_what_is_in_them(#[case] bytes: Vec<u8>, #[case] expected: &[(LogKind, u64)]) {
        let folder = tempfile::tempdir().unwrap();
        let path = folder.path().join("some.file");
        std::fs::write(&path, bytes).unwrap();
        let mut logs = SystemLogs::default();
        read(&path, &mut logs);
        assert_eq!(
            logs.entries.iter().map(|entry| (entry.kind, entry.count)).collect::<Vec<_>>(),
            expected,
            "{logs:?}"
        );
    }
}
