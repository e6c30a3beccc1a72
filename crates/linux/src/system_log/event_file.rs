//! Event logs as their system keeps them: binary XML in chunks.

use std::fs::File;
use std::io;
use std::panic::{AssertUnwindSafe, catch_unwind};

use evtx::{EvtxParser, ParserSettings};
use revisum_diagnose::system_log::{Collected, read_event};
use revisum_record::logged::LogEntry;

/// Events of one file that are looked at.
const MOST_EVENTS: usize = 2_000_000;

/// Entries about memory, and whether all was read. Damaged chunks and records are passed over.
pub(super) fn read(file: File) -> io::Result<(Vec<LogEntry>, bool)> {
    // A damaged file must not end the program, whatever the parser makes of it.
    let read = catch_unwind(AssertUnwindSafe(|| {
        let parser = EvtxParser::from_read_seek(file).map_err(io::Error::other)?;
        let mut parser = parser.with_configuration(ParserSettings::new().num_threads(1).indent(false));
        let (mut entries, mut looked_at) = (Collected::default(), 0);
        for record in parser.records().take(MOST_EVENTS) {
            looked_at += 1;
            entries.extend(record.map(|record| read_event(&record.data)).unwrap_or_default());
        }
        Ok((entries.entries(), looked_at < MOST_EVENTS))
    }));
    read.unwrap_or_else(|_| Err(io::Error::other("it is damaged in a way that its reader does not know")))
}

#[cfg(test)]
mod tests {
    use std::io::{Seek as _, Write as _};

    use revisum_record::logged::LogKind;

    use super::*;

    /// A chunk being written, by the published description of the format: names stand where they are first used.
    struct Chunk(Vec<u8>);

    impl Chunk {
        fn wide(&mut self, text: &str) {
            self.0.extend((text.encode_utf16().count() as u16).to_le_bytes());
            self.0.extend(text.encode_utf16().flat_map(u16::to_le_bytes));
        }

        fn name(&mut self, name: &str) {
            let at = self.0.len() as u32 + 4;
            self.0.extend(at.to_le_bytes());
            self.0.extend([0; 6]);
            self.wide(name);
            self.0.extend([0, 0]);
        }

        fn text(&mut self, text: &str) {
            self.0.extend([0x05, 0x01]);
            self.wide(text);
        }

        fn element(&mut self, name: &str, attribute: Option<(&str, &str)>, inner: impl FnOnce(&mut Self)) {
            self.0.push(if attribute.is_some() { 0x41 } else { 0x01 });
            self.0.extend([0; 4]);
            self.name(name);
            if let Some((attribute, value)) = attribute {
                self.0.extend([0; 4]);
                self.0.push(0x06);
                self.name(attribute);
                self.text(value);
            }
            self.0.push(0x02);
            inner(self);
            self.0.push(0x04);
        }
    }

    fn file() -> Vec<u8> {
        let mut chunk = Chunk(vec![0; 512]);
        chunk.0.extend(b"**\0\0");
        let start = chunk.0.len() - 4;
        chunk.0.extend([0; 4]);
        chunk.0.extend(1u64.to_le_bytes());
        chunk.0.extend(133_000_000_000_000_000u64.to_le_bytes());
        chunk.0.extend([0x0f, 1, 1, 0]);
        chunk.element("Event", None, |event| {
            event.element("System", None, |system| {
                system.element("Provider", Some(("Name", "Kernel-WHEA")), |_| {});
                system.element("Level", None, |level| level.text("2"));
            });
            event.element("EventData", None, |data| {
                data.element("Data", Some(("Name", "PhysicalAddress")), |value| value.text("0x3ea4fb600"));
            });
        });
        chunk.0.push(0);
        let size = (chunk.0.len() + 4 - start) as u32;
        chunk.0[start + 4..start + 8].copy_from_slice(&size.to_le_bytes());
        chunk.0.extend(size.to_le_bytes());
        let mut chunk = chunk.0;
        let end = chunk.len() as u32;
        chunk.resize(65_536, 0);
        chunk[..8].copy_from_slice(b"ElfChnk\0");
        for at in [8, 16, 24, 32] {
            chunk[at..at + 8].copy_from_slice(&1u64.to_le_bytes());
        }
        chunk[40..44].copy_from_slice(&128u32.to_le_bytes());
        chunk[44..48].copy_from_slice(&(start as u32).to_le_bytes());
        chunk[48..52].copy_from_slice(&end.to_le_bytes());
        let mut file = vec![0; 4096];
        file[..8].copy_from_slice(b"ElfFile\0");
        file[24..32].copy_from_slice(&2u64.to_le_bytes());
        file[32..36].copy_from_slice(&128u32.to_le_bytes());
        file[36..44].copy_from_slice(&[1, 0, 3, 0, 0, 16, 1, 0]);
        file.extend(chunk);
        file
    }

    fn read_bytes(bytes: &[u8]) -> io::Result<Vec<LogEntry>> {
        let mut file = tempfile::tempfile().unwrap();
        file.write_all(bytes).unwrap();
        file.rewind().unwrap();
        read(file).map(|(entries, _)| entries)
    }

    #[test]
    fn a_file_written_by_hand() {
        let entries = read_bytes(&file()).unwrap();
        let [entry] = &entries[..] else { panic!("{entries:?}") };
        assert_eq!((entry.kind, entry.address.map(|at| at.0)), (LogKind::Uncorrected, Some(0x3_ea4f_b600)));
    }

    /// Whatever byte is wrong and wherever it ends: an answer, and no more entries than there were.
    #[test]
    fn damaged_files_do_no_harm() {
        let whole = file();
        let there = whole.len() - whole.iter().rev().take_while(|byte| **byte == 0).count();
        for at in (0..128).chain(4096..4096 + 128).chain(4096 + 512..there) {
            let mut damaged = whole.clone();
            damaged[at] ^= 0x5a;
            assert!(read_bytes(&damaged).map_or(0, |entries| entries.len()) <= 1, "byte {at}");
            assert!(read_bytes(&whole[..at]).map_or(0, |entries| entries.len()) <= 1, "cut at {at}");
        }
    }
}
