//! Journals as the system's own log keeps them: a published binary form (systemd, "Journal File Format") of objects one behind the other.
//! Read are entries of the kernel with their time and message; what a journal does not hold whole is passed over.

use std::collections::{BTreeSet, HashMap};
use std::fs::File;
use std::io::{self, Read};
use std::os::unix::fs::FileExt;

use revisum_diagnose::system_log::LineReader;
use revisum_record::logged::{LogEntry, LogTime};

/// How such a file begins.
pub(super) const MAGIC: &[u8] = b"LPKSHHRH";

const DATA: u8 = 1;
const ENTRY: u8 = 3;
/// Bytes before what an object holds.
const OBJECT_HEADER: u64 = 16;
/// Bytes of a data object before its payload; 8 more in the compact form.
const DATA_HEADER: u64 = 64;
/// Bytes of an entry before its items.
const ENTRY_HEADER: u64 = 64;
/// Flag of the header: offsets of four bytes.
const COMPACT: u32 = 1 << 4;
/// Longest message that is read, and most objects and entries of one file.
const LONGEST: u64 = 1 << 16;
const MOST_OBJECTS: usize = 20_000_000;
const MOST_ITEMS: usize = 1024;
/// Bytes of which the first ones say which field it is.
const FIELD: usize = 32;

/// Entries about memory, and whether the file was read to its end.
pub(super) fn read(file: &File) -> io::Result<(Vec<LogEntry>, bool)> {
    let mut head = [0; 96];
    file.read_exact_at(&mut head, 0)?;
    let flags = u32_at(&head, 12);
    let objects =
        Objects { file, compact: flags & COMPACT != 0, header: u64_at(&head, 88), length: file.metadata()?.len() };
    let (fields, entries, whole) = objects.list()?;
    let mut reader = LineReader::default();
    for (offset, size) in entries {
        let Some((wall_ms, message)) = objects.kernel_message(offset, size, &fields) else { continue };
        let time = LogTime { wall_ms: Some(wall_ms), words: String::new() };
        message.lines().for_each(|line| reader.take_message(time.clone(), line));
    }
    Ok((reader.entries(), whole))
}

/// What objects of a file are worth remembering.
#[derive(Default)]
struct Fields {
    /// Objects that say that the kernel wrote it.
    kernel: BTreeSet<u64>,
    /// Messages, with their size.
    messages: HashMap<u64, (u64, u8)>,
}

/// Where an object is, and its size.
type Placed = (u64, u64);

struct Objects<'a> {
    file: &'a File,
    compact: bool,
    header: u64,
    length: u64,
}

impl Objects<'_> {
    /// Where fields and entries are, and whether the objects go on to the end of the file.
    fn list(&self) -> io::Result<(Fields, Vec<Placed>, bool)> {
        let (mut fields, mut entries) = (Fields::default(), Vec::new());
        let mut at = self.header;
        for _ in 0..MOST_OBJECTS {
            let mut head = [0; OBJECT_HEADER as usize];
            if at + OBJECT_HEADER > self.length {
                return Ok((fields, entries, true));
            }
            self.file.read_exact_at(&mut head, at)?;
            let (kind, packed, size) = (head[0], head[1], u64_at(&head, 8));
            // Behind the last object the file is filled up with nothing.
            if kind == 0 && size == 0 {
                return Ok((fields, entries, true));
            }
            let next = at.checked_add(size).and_then(|end| end.checked_next_multiple_of(8));
            let Some(next) = next.filter(|next| size >= OBJECT_HEADER && *next <= self.length + 8) else {
                return Ok((fields, entries, false));
            };
            match kind {
                DATA => self.take_field(at, size, packed, &mut fields),
                ENTRY => entries.push((at, size)),
                _ => {}
            }
            at = next;
        }
        Ok((fields, entries, false))
    }

    fn take_field(&self, at: u64, size: u64, packed: u8, fields: &mut Fields) {
        let beginning = match packed & 7 {
            0 => self.payload(at, size, FIELD as u64).unwrap_or_default(),
            _ => self.unpacked(at, size, packed).unwrap_or_default(),
        };
        if beginning == b"_TRANSPORT=kernel" {
            fields.kernel.insert(at);
        } else if beginning.starts_with(b"MESSAGE=") {
            fields.messages.insert(at, (size, packed));
        }
    }

    /// The beginning of what a data object holds, at most so much.
    fn payload(&self, at: u64, size: u64, most: u64) -> io::Result<Vec<u8>> {
        let start = DATA_HEADER + if self.compact { 8 } else { 0 };
        let mut bytes = vec![0; size.saturating_sub(start).min(most) as usize];
        self.file.read_exact_at(&mut bytes, at + start)?;
        Ok(bytes)
    }

    fn unpacked(&self, at: u64, size: u64, packed: u8) -> io::Result<Vec<u8>> {
        let packed_bytes = self.payload(at, size, LONGEST)?;
        let mut bytes = Vec::new();
        match packed & 7 {
            1 => {
                let mut packed_bytes = io::Cursor::new(packed_bytes);
                lzma_rs::xz_decompress(&mut packed_bytes, &mut bytes)
                    .map_err(|error| io::Error::other(error.to_string()))?;
            }
            2 => {
                let length = u64_at(packed_bytes.get(..8).unwrap_or(&[0; 8]), 0).min(LONGEST) as usize;
                let block = packed_bytes.get(8..).unwrap_or_default();
                bytes = lz4_flex::block::decompress(block, length).map_err(io::Error::other)?;
            }
            4 => {
                let frame = ruzstd::decoding::StreamingDecoder::new(&packed_bytes[..]).map_err(io::Error::other)?;
                frame.take(LONGEST).read_to_end(&mut bytes)?;
            }
            _ => return Err(io::ErrorKind::Unsupported.into()),
        }
        Ok(bytes)
    }

    /// Time and message of an entry that the kernel wrote.
    fn kernel_message(&self, at: u64, size: u64, fields: &Fields) -> Option<(i64, String)> {
        let (item, offset_of): (u64, fn(&[u8]) -> u64) = match self.compact {
            true => (4, |item| u64::from(u32_at(item, 0))),
            false => (16, |item| u64_at(item, 0)),
        };
        let count = (size.checked_sub(ENTRY_HEADER)? / item).min(MOST_ITEMS as u64);
        let mut bytes = vec![0; (ENTRY_HEADER + count * item) as usize];
        self.file.read_exact_at(&mut bytes, at).ok()?;
        let offsets: Vec<u64> = bytes[ENTRY_HEADER as usize..].chunks_exact(item as usize).map(offset_of).collect();
        offsets.iter().any(|offset| fields.kernel.contains(offset)).then_some(())?;
        let (offset, (size, packed)) =
            offsets.iter().find_map(|offset| Some((*offset, *fields.messages.get(offset)?)))?;
        let message = match packed & 7 {
            0 => self.payload(offset, size, LONGEST).ok()?,
            _ => self.unpacked(offset, size, packed).ok()?,
        };
        let message = String::from_utf8_lossy(message.strip_prefix(b"MESSAGE=")?).into_owned();
        // Microseconds since 1970.
        Some((i64::try_from(u64_at(&bytes, 24) / 1000).ok()?, message))
    }
}

fn u64_at(bytes: &[u8], at: usize) -> u64 {
    bytes.get(at..at + 8).map_or(0, |bytes| u64::from_le_bytes(bytes.try_into().unwrap_or_default()))
}

fn u32_at(bytes: &[u8], at: usize) -> u32 {
    bytes.get(at..at + 4).map_or(0, |bytes| u32::from_le_bytes(bytes.try_into().unwrap_or_default()))
}

#[cfg(test)]
mod tests {
    use std::io::{Seek as _, Write as _};

    use revisum_record::logged::LogKind;
    use rstest::rstest;

    use super::*;

    const LINE: &str = "EDAC MC0: 2 CE memory read error on DIMM_B1 (page:0x1 offset:0x0)";
    const TIME_MICROS: u64 = 1_933_932_660_500_000;

    /// A journal being written by the published description: a header, then objects at multiples of eight.
    struct Written {
        bytes: Vec<u8>,
        compact: bool,
    }

    impl Written {
        fn new(compact: bool) -> Self {
            let mut bytes = vec![0; 256];
            bytes[..8].copy_from_slice(MAGIC);
            bytes[12..16].copy_from_slice(&(if compact { COMPACT } else { 0 }).to_le_bytes());
            bytes[88..96].copy_from_slice(&256u64.to_le_bytes());
            Self { bytes, compact }
        }

        fn object(&mut self, kind: u8, flags: u8, body: &[u8]) -> u64 {
            let at = self.bytes.len();
            self.bytes.extend([kind, flags, 0, 0, 0, 0, 0, 0]);
            self.bytes.extend((16 + body.len() as u64).to_le_bytes());
            self.bytes.extend(body);
            self.bytes.resize(self.bytes.len().next_multiple_of(8), 0);
            at as u64
        }

        fn field(&mut self, flags: u8, payload: &[u8]) -> u64 {
            let mut body = vec![0; if self.compact { 56 } else { 48 }];
            body.extend(payload);
            self.object(DATA, flags, &body)
        }

        fn entry(&mut self, fields: &[u64]) {
            let mut body = vec![0; 48];
            body[8..16].copy_from_slice(&TIME_MICROS.to_le_bytes());
            for field in fields {
                match self.compact {
                    true => body.extend((*field as u32).to_le_bytes()),
                    false => body.extend([field.to_le_bytes(), [0; 8]].concat()),
                }
            }
            self.object(ENTRY, 0, &body);
        }

        fn read(&self) -> io::Result<(Vec<LogEntry>, bool)> {
            read_bytes(&self.bytes)
        }
    }

    fn read_bytes(bytes: &[u8]) -> io::Result<(Vec<LogEntry>, bool)> {
        let mut file = tempfile::tempfile().unwrap();
        file.write_all(bytes).unwrap();
        file.rewind().unwrap();
        read(&file)
    }

    fn packed(how: u8, message: &str) -> Vec<u8> {
        let mut bytes = Vec::new();
        match how {
            0 => bytes.extend(message.as_bytes()),
            1 => lzma_rs::xz_compress(&mut message.as_bytes(), &mut bytes).unwrap(),
            2 => {
                bytes.extend((message.len() as u64).to_le_bytes());
                bytes.extend(lz4_block(message.as_bytes()));
            }
            _ => {
                bytes =
                    ruzstd::encoding::compress_to_vec(message.as_bytes(), ruzstd::encoding::CompressionLevel::Fastest)
            }
        }
        bytes
    }

    /// One sequence of literals is a block: its length in the high half of the first byte, 255 and what is left behind it (LZ4 block format).
    fn lz4_block(text: &[u8]) -> Vec<u8> {
        let mut block = vec![0xf0];
        let mut rest = text.len() - 15;
        while rest >= 255 {
            block.push(255);
            rest -= 255;
        }
        block.push(rest as u8);
        block.extend(text);
        block
    }

    #[rstest]
    fn what_the_kernel_wrote_is_read(#[values(false, true)] compact: bool, #[values(0, 1, 2, 4)] packing: u8) {
        let mut journal = Written::new(compact);
        let kernel = journal.field(0, b"_TRANSPORT=kernel");
        let other = journal.field(0, b"_TRANSPORT=syslog");
        let message = journal.field(packing, &packed(packing, &format!("MESSAGE={LINE}{}", " ".repeat(300))));
        let from_elsewhere = journal.field(0, format!("MESSAGE={LINE}").as_bytes());
        journal.entry(&[other, from_elsewhere]);
        journal.entry(&[kernel, message]);
        let (entries, whole) = journal.read().unwrap();
        let [entry] = &entries[..] else { panic!("{entries:?}") };
        assert_eq!((entry.kind, entry.count, entry.place.as_str(), whole), (LogKind::Corrected, 2, "DIMM_B1", true));
        assert_eq!(entry.first.wall_ms, Some((TIME_MICROS / 1000) as i64));
    }

    /// Whatever byte is wrong and wherever it ends: an answer, and no more than was there.
    #[test]
    fn damaged_journals_do_no_harm() {
        let mut journal = Written::new(false);
        let kernel = journal.field(0, b"_TRANSPORT=kernel");
        let message = journal.field(0, format!("MESSAGE={LINE}").as_bytes());
        journal.entry(&[kernel, message]);
        let whole = journal.bytes.clone();
        for at in 0..whole.len() {
            let mut damaged = whole.clone();
            damaged[at] ^= 0x5a;
            for bytes in [&damaged[..], &whole[..at]] {
                assert!(read_bytes(bytes).map_or(0, |(entries, _)| entries.len()) <= 1, "byte {at}");
            }
        }
        // A length that leads nowhere is damage that is said.
        let mut damaged = whole;
        damaged[256 + 8..256 + 16].copy_from_slice(&u64::MAX.to_le_bytes());
        assert!(!read_bytes(&damaged).unwrap().1);
    }
}
