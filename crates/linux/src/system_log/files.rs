//! One file: what it is shows by its first bytes, not by its name.

use std::fs::{File, OpenOptions};
use std::io::{self, BufRead, BufReader, Read as _, Seek};
use std::os::unix::fs::OpenOptionsExt;
use std::path::Path;

use revisum_diagnose::system_log::{Collected, LineReader, SystemLogs, read_event, read_export_line};
use revisum_engine::units::bytes_text;
use revisum_record::logged::LogEntry;

use super::packed::{Packing, Unpacked, packing_of};
use super::{event_file, journal};

/// Bytes read of one file, unpacked.
const MOST_BYTES: u64 = 2 << 30;
/// Longest line; what is behind it is skipped.
const LONGEST_LINE: u64 = 1 << 16;
/// Longest event as XML.
const LONGEST_EVENT: usize = 1 << 20;
/// Bytes that tell what a file is.
const BEGINNING: usize = 4096;

#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum Format {
    Lines,
    Export,
    Events,
    EventFile,
    Journal,
    Packed(Packing),
    Unknown,
}

fn format_of(beginning: &[u8]) -> Format {
    let text = beginning.strip_prefix(b"\xef\xbb\xbf").unwrap_or(beginning).trim_ascii_start();
    if let Some(packing) = packing_of(beginning) {
        return Format::Packed(packing);
    }
    match beginning {
        _ if beginning.starts_with(b"ElfFile\0") => Format::EventFile,
        _ if beginning.starts_with(journal::MAGIC) => Format::Journal,
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

/// What became of a file.
enum Read {
    /// Read, and why not to its end where it was not.
    Taken(Vec<LogEntry>, Option<String>),
    /// Not read, and why.
    Refused(String),
    /// No log in a form that is known.
    NoLog,
}

/// Reads a file that somebody named: whatever comes of it is said.
pub(super) fn read_named(path: &Path, logs: &mut SystemLogs) {
    if !read(path, logs) {
        logs.refuse(format!(
            "{}: its form is not known. Read are text, exports of journals and event logs, journals, event logs, and these packed by gzip, xz, bzip2 or zstd.",
            path.display()
        ));
    }
}

/// Reads a file; false when it is no log in a form that is known.
pub(super) fn read(path: &Path, logs: &mut SystemLogs) -> bool {
    let name = path.display().to_string();
    match try_read(path) {
        Ok(Read::Taken(entries, rest)) => {
            logs.take(&name, entries);
            rest.into_iter().for_each(|why| logs.refuse(format!("{name}: {why}")));
        }
        Ok(Read::Refused(why)) => logs.refuse(format!("{name}: {why}")),
        Ok(Read::NoLog) => return false,
        Err(error) => logs.refuse(format!("{name} cannot be read: {error}")),
    }
    true
}

fn too_long(whole: bool) -> Option<String> {
    (!whole).then(|| format!("only its first {} were read", bytes_text(MOST_BYTES)))
}

fn try_read(path: &Path) -> io::Result<Read> {
    let flags = libc::O_NONBLOCK | libc::O_NOFOLLOW;
    let mut file = OpenOptions::new().read(true).custom_flags(flags).open(path)?;
    let mut beginning = Vec::new();
    file.by_ref().take(BEGINNING as u64).read_to_end(&mut beginning)?;
    file.rewind()?;
    match format_of(&beginning) {
        Format::Unknown => Ok(Read::NoLog),
        Format::EventFile => event_file::read(file).map(|(entries, whole)| Read::Taken(entries, too_long(whole))),
        Format::Journal => {
            let (entries, whole) = journal::read(&file)?;
            let why = (!whole).then(|| "it is damaged: what comes behind the damage was not read".to_owned());
            Ok(Read::Taken(entries, why))
        }
        Format::Packed(packing) => unpacked(file, packing),
        format => {
            let mut text = BufReader::new(file.take(MOST_BYTES));
            let entries = of_text(&mut text, format)?;
            Ok(Read::Taken(entries, too_long(text.get_ref().limit() > 0)))
        }
    }
}

/// Logs that were packed away; only text is read out of them. What came before damage is kept.
fn unpacked(file: File, packing: Packing) -> io::Result<Read> {
    let mut text = BufReader::new(Unpacked::begin(file, packing)?.take(MOST_BYTES));
    let format = format_of(text.fill_buf()?);
    match format {
        Format::Lines | Format::Export | Format::Events => {
            let mut checked = Checked { inner: text, failed: None };
            let entries = of_text(&mut checked, format)?;
            let damage = checked
                .failed
                .map(|error| format!("it is damaged: what comes behind the damage was not read ({error})"));
            Ok(Read::Taken(entries, damage.or_else(|| too_long(checked.inner.get_ref().limit() > 0))))
        }
        Format::Unknown => Ok(Read::NoLog),
        _ => Ok(Read::Refused("it is packed, and of a form that has to be unpacked before it can be read".to_owned())),
    }
}

/// Ends where reading fails, and remembers why.
struct Checked<T> {
    inner: T,
    failed: Option<io::Error>,
}

impl<T: BufRead> io::Read for Checked<T> {
    fn read(&mut self, into: &mut [u8]) -> io::Result<usize> {
        let count = self.fill_buf()?.len().min(into.len());
        into[..count].copy_from_slice(&self.fill_buf()?[..count]);
        self.consume(count);
        Ok(count)
    }
}

impl<T: BufRead> BufRead for Checked<T> {
    fn fill_buf(&mut self) -> io::Result<&[u8]> {
        if self.failed.is_some() {
            return Ok(&[]);
        }
        match self.inner.fill_buf() {
            Ok(bytes) => Ok(bytes),
            Err(error) => {
                self.failed = Some(error);
                Ok(&[])
            }
        }
    }

    fn consume(&mut self, count: usize) {
        self.inner.consume(count);
    }
}

fn of_text(text: &mut impl BufRead, format: Format) -> io::Result<Vec<LogEntry>> {
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
fn lines(text: &mut impl BufRead, take: impl Fn(&mut LineReader, &str)) -> io::Result<Vec<LogEntry>> {
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

    fn packed_by(how: &str, text: &str) -> Vec<u8> {
        let mut bytes = Vec::new();
        match how {
            "xz" => lzma_rs::xz_compress(&mut text.as_bytes(), &mut bytes).unwrap(),
            "bzip2" => {
                let mut packer = bzip2::write::BzEncoder::new(bytes, bzip2::Compression::fast());
                packer.write_all(text.as_bytes()).unwrap();
                bytes = packer.finish().unwrap();
            }
            _ => {
                bytes = ruzstd::encoding::compress_to_vec(text.as_bytes(), ruzstd::encoding::CompressionLevel::Fastest)
            }
        }
        bytes
    }

    fn wide(text: &str) -> Vec<u8> {
        b"\xff\xfe".iter().copied().chain(text.encode_utf16().flat_map(u16::to_le_bytes)).collect()
    }

    #[rstest]
    #[case::lines(LINE.into(), &[(LogKind::Corrected, 2)])]
    #[case::packed(packed(&LINE.repeat(2)), &[(LogKind::Corrected, 4)])]
    #[case::xz(packed_by("xz", &LINE.repeat(2)), &[(LogKind::Corrected, 4)])]
    #[case::bzip2(packed_by("bzip2", &LINE.repeat(2)), &[(LogKind::Corrected, 4)])]
    #[case::zstd(packed_by("zstd", &LINE.repeat(2)), &[(LogKind::Corrected, 4)])]
    #[case::two_frames([packed_by("zstd", LINE), packed_by("zstd", LINE)].concat(), &[(LogKind::Corrected, 4)])]
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

    /// Each file that gave nothing, or not all of it, says why.
    #[rstest]
    #[case::foreign(vec![0; 100_000], "its form is not known")]
    #[case::packed_badly([b"\x1f\x8b".to_vec(), vec![7; 100]].concat(), "cannot be read")]
    #[case::xz_badly([b"\xfd7zXZ\0".to_vec(), vec![7; 100]].concat(), "cannot be read")]
    #[case::cut_short(cut(packed(&format!("{}{}", LINE, noise(200_000)))), "it is damaged")]
    #[case::packed_binary(packed_by("xz", "ElfFile\0 and more"), "has to be unpacked")]
    #[case::packed_foreign(packed("\0\0\0"), "its form is not known")]
    #[case::journal_cut_short([journal::MAGIC.to_vec(), vec![0; 20]].concat(), "cannot be read")]
    fn what_gave_nothing_says_why(#[case] bytes: Vec<u8>, #[case] why: &str) {
        let folder = tempfile::tempdir().unwrap();
        let path = folder.path().join("some.file");
        std::fs::write(&path, bytes).unwrap();
        let mut logs = SystemLogs::default();
        read_named(&path, &mut logs);
        let [trouble] = &logs.trouble[..] else { panic!("{logs:?}") };
        assert!(trouble.contains(why), "{trouble}");
        assert_eq!(logs.entries.len(), usize::from(why == "it is damaged"), "what came before the damage is kept");
    }

    fn cut(mut bytes: Vec<u8>) -> Vec<u8> {
        bytes.truncate(bytes.len() - 100);
        bytes
    }

    /// Lines that do not pack well, so that something is read before the end is missed.
    fn noise(count: u64) -> String {
        let mixed = |at: u64| at.wrapping_mul(0x9e37_79b9_7f4a_7c15);
        (0..count / 20).map(|at| format!("{:x}\n", mixed(at))).collect()
    }
}
