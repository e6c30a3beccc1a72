//! Logs as files of every kind: binary event logs and journals with a right header, packed ones, events in two letter widths.
#![no_main]

use std::io::Write;
use std::sync::{Arc, Once};

use libfuzzer_sys::fuzz_target;
use revisum_linux::read_logs;

/// A file of one chunk whose headers are right and whose records are these bytes.
fn event_log(records: &[u8]) -> Vec<u8> {
    let mut chunk = vec![0; 512];
    chunk.extend_from_slice(&records[..records.len().min(65_000)]);
    let end = chunk.len() as u32;
    chunk.resize(65_536, 0);
    chunk[..8].copy_from_slice(b"ElfChnk\0");
    for at in [8, 16, 24, 32] {
        chunk[at..at + 8].copy_from_slice(&1u64.to_le_bytes());
    }
    chunk[40..44].copy_from_slice(&128u32.to_le_bytes());
    chunk[44..48].copy_from_slice(&512u32.to_le_bytes());
    chunk[48..52].copy_from_slice(&end.to_le_bytes());
    let mut file = vec![0; 4096];
    file[..8].copy_from_slice(b"ElfFile\0");
    file[24..32].copy_from_slice(&2u64.to_le_bytes());
    file[32..36].copy_from_slice(&128u32.to_le_bytes());
    file[36..44].copy_from_slice(&[1, 0, 3, 0, 0, 16, 1, 0]);
    file.extend(chunk);
    file
}

/// A record of an event log with a right frame around these bytes of binary XML.
fn record(xml: &[u8]) -> Vec<u8> {
    let size = (xml.len() + 28) as u32;
    let mut record = b"**\0\0".to_vec();
    record.extend(size.to_le_bytes());
    record.extend(1u64.to_le_bytes());
    record.extend(133_000_000_000_000_000u64.to_le_bytes());
    record.extend(xml);
    record.extend(size.to_le_bytes());
    record
}

/// A journal whose header is right and whose objects are these bytes; the first byte tells its form.
fn journal(objects: &[u8]) -> Vec<u8> {
    let mut file = vec![0; 256];
    file[..8].copy_from_slice(b"LPKSHHRH");
    file[12] = objects.first().map_or(0, |form| form & 0x10);
    file[88..96].copy_from_slice(&256u64.to_le_bytes());
    file.extend(objects.get(1..).unwrap_or_default());
    file
}

/// A journal of data objects of these bytes, in each packing, and an entry that refers to them all.
fn journal_of(payload: &[u8]) -> Vec<u8> {
    let mut file = journal(&[0]);
    let mut fields = Vec::new();
    let object = |file: &mut Vec<u8>, kind: u8, flags: u8, body: &[u8]| {
        let at = file.len() as u64;
        file.extend([kind, flags, 0, 0, 0, 0, 0, 0]);
        file.extend((16 + body.len() as u64).to_le_bytes());
        file.extend(body);
        file.resize(file.len().next_multiple_of(8), 0);
        at
    };
    fields.push(object(&mut file, 1, 0, &[&[0; 48], &b"_TRANSPORT=kernel"[..]].concat()));
    for flags in [0, 1, 2, 4] {
        fields.push(object(&mut file, 1, flags, &[&[0; 48][..], payload].concat()));
    }
    fields.push(object(&mut file, 1, 0, &[&[0; 48], &b"MESSAGE="[..], payload].concat()));
    let items = fields.iter().flat_map(|at| [at.to_le_bytes(), [0; 8]].concat());
    let body: Vec<u8> = [0; 48].into_iter().chain(items).collect();
    object(&mut file, 3, 0, &body);
    file
}

fn packed(bytes: &[u8]) -> Vec<u8> {
    let mut packer = flate2::write::GzEncoder::new(Vec::new(), flate2::Compression::fast());
    packer.write_all(bytes).expect("memory takes it");
    packer.finish().expect("memory takes it")
}

fn wide(bytes: &[u8]) -> Vec<u8> {
    let text = String::from_utf8_lossy(bytes);
    [vec![0xff, 0xfe], "<".encode_utf16().chain(text.encode_utf16()).flat_map(u16::to_le_bytes).collect()].concat()
}

/// A program's own beginning, which a target does not have, sees to it that a reader who went away is an error and no death.
fn hear_of_closed_pipes() {
    static ONCE: Once = Once::new();
    ONCE.call_once(|| drop(signal_hook::flag::register(signal_hook::consts::SIGPIPE, Arc::default())));
}

fuzz_target!(|data: &[u8]| {
    hear_of_closed_pipes();
    let Some((kind, bytes)) = data.split_first() else { return };
    let file = match kind % 11 {
        0 => event_log(bytes),
        1 => event_log(&record(bytes)),
        2 => packed(bytes),
        3 => [&packed(bytes)[..], bytes].concat(),
        4 => wide(bytes),
        5 => journal(bytes),
        6 => journal_of(bytes),
        7 => [&b"\xfd7zXZ\0"[..], bytes].concat(),
        8 => [&b"BZh"[..], bytes].concat(),
        9 => [&b"\x28\xb5\x2f\xfd"[..], bytes].concat(),
        _ => bytes.to_vec(),
    };
    let path = std::env::temp_dir().join(format!("revisum-fuzz-{}", std::process::id()));
    std::fs::write(&path, file).expect("there is room");
    let logs = read_logs(&[path]);
    assert!(logs.entries.len() < 2_100 && logs.trouble.len() < 100);
    for entry in logs.entries {
        assert!(!entry.text.chars().any(char::is_control) && !entry.last.words.chars().any(char::is_control));
    }
});
