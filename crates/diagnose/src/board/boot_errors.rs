//! The firmware's boot error record: a generic error status block (ACPI specification, chapter on platform error interfaces)
//! whose entries hold memory error sections (UEFI specification, appendix on the common platform error record).

use revisum_engine::text::cleaned;
use revisum_engine::units::PhysAddr;

/// A memory error in such a record.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub(crate) struct BootError {
    /// The hardware corrected it.
    pub corrected: bool,
    /// Physical address, where it is told.
    pub address: Option<PhysAddr>,
    /// Handle of the module's SMBIOS structure, where it is told.
    pub module_handle: Option<u16>,
    /// Node, card and module, as far as they are told.
    pub place: String,
    /// What the record says in words.
    pub text: String,
}

/// The section of a memory error, A5BC1114-6F64-4EDE-B863-3E83ED7C83B1, in the byte order of the record.
const MEMORY_SECTION: [u8; 16] =
    [0x14, 0x11, 0xbc, 0xa5, 0x64, 0x6f, 0xde, 0x4e, 0xb8, 0x63, 0x3e, 0x83, 0xed, 0x7c, 0x83, 0xb1];
/// Bytes of a status block before its entries.
const BLOCK_HEADER: usize = 20;
/// Bytes of an entry before its section; 8 more since revision 3.
const ENTRY_HEADER: usize = 64;
/// More entries than any record holds.
const MOST_ENTRIES: usize = 64;

/// Memory errors in the region; a damaged one gives what can be read of it.
pub(super) fn read(region: &[u8]) -> Vec<BootError> {
    let Some(length) = u32_at(region, 12) else { return Vec::new() };
    let end = BLOCK_HEADER.saturating_add(length as usize).min(region.len());
    let mut errors = Vec::new();
    let mut at = BLOCK_HEADER;
    for _ in 0..MOST_ENTRIES {
        let Some(entry) = region.get(at..end).filter(|entry| entry.len() >= ENTRY_HEADER) else { break };
        let header = if u16_at(entry, 20).unwrap_or(0) >= 0x300 { ENTRY_HEADER + 8 } else { ENTRY_HEADER };
        let section_bytes = u32_at(entry, 24).unwrap_or(0) as usize;
        if entry.starts_with(&MEMORY_SECTION) {
            let section = entry.get(header..).unwrap_or_default();
            // Severity 2 is corrected; 0 recoverable and 1 fatal are not.
            errors.extend(memory_error(section, u32_at(entry, 16) == Some(2)));
        }
        at = at.saturating_add(header).saturating_add(section_bytes);
    }
    errors
}

/// Bytes of a record before its section descriptors, and of each of these.
const RECORD_HEADER: usize = 128;
const DESCRIPTOR: usize = 72;

/// Memory errors in a common platform error record as systems log it: header, section descriptors, sections (UEFI specification, appendix
/// on the common platform error record).
pub(crate) fn read_record(record: &[u8]) -> Vec<BootError> {
    if !record.starts_with(b"CPER") {
        return Vec::new();
    }
    let count = usize::from(u16_at(record, 10).unwrap_or(0)).min(MOST_ENTRIES);
    let one = |number: usize| {
        let at = RECORD_HEADER + number * DESCRIPTOR;
        let descriptor = record.get(at..at + DESCRIPTOR)?;
        if descriptor[16..32] != MEMORY_SECTION {
            return None;
        }
        let (offset, length) = (u32_at(descriptor, 0)? as usize, u32_at(descriptor, 4)? as usize);
        let section = record.get(offset..offset.saturating_add(length).min(record.len()))?;
        memory_error(section, u32_at(descriptor, 48) == Some(2))
    };
    (0..count).filter_map(one).collect()
}

fn memory_error(section: &[u8], corrected: bool) -> Option<BootError> {
    let valid = u64_at(section, 0)?;
    let told = |bit: u32| valid >> bit & 1 == 1;
    let field = |bit: u32, name: &str, offset: usize| {
        let value = u16_at(section, offset).filter(|_| told(bit))?;
        Some(format!("{name} {value}"))
    };
    let place = [
        field(3, "node", 32),
        field(4, "card", 34),
        field(5, "module", 36),
        field(15, "rank", 74),
        field(6, "bank", 38),
        field(8, "row", 42),
        field(9, "column", 44),
    ];
    let place = place.into_iter().flatten().collect::<Vec<_>>().join(", ");
    let address = u64_at(section, 16).filter(|_| told(1)).map(PhysAddr);
    let kind = if corrected { "corrected" } else { "uncorrected" };
    let at = address.map(|address| format!(" {address}")).unwrap_or_default();
    let text = cleaned(&format!("CPER {kind}{at} {place}"), 200);
    let module_handle = u16_at(section, 78).filter(|_| told(17));
    Some(BootError { corrected, address, module_handle, place, text })
}

fn u16_at(bytes: &[u8], at: usize) -> Option<u16> {
    Some(u16::from_le_bytes(bytes.get(at..at + 2)?.try_into().ok()?))
}

fn u32_at(bytes: &[u8], at: usize) -> Option<u32> {
    Some(u32::from_le_bytes(bytes.get(at..at + 4)?.try_into().ok()?))
}

fn u64_at(bytes: &[u8], at: usize) -> Option<u64> {
    Some(u64::from_le_bytes(bytes.get(at..at + 8)?.try_into().ok()?))
}

#[cfg(test)]
mod tests {
    use super::*;

    /// A block with one entry, field by field: an uncorrected error at 0x3ea4fb600, bank 5, row 4660, module handle 0x1101.
    fn record(revision: u16) -> Vec<u8> {
        let mut section = vec![0u8; 80];
        section[0..8].copy_from_slice(&(1u64 << 1 | 1 << 6 | 1 << 8 | 1 << 17).to_le_bytes());
        section[16..24].copy_from_slice(&0x3_ea4f_b600u64.to_le_bytes());
        section[38..40].copy_from_slice(&5u16.to_le_bytes());
        section[42..44].copy_from_slice(&4660u16.to_le_bytes());
        section[78..80].copy_from_slice(&0x1101u16.to_le_bytes());
        let mut entry = MEMORY_SECTION.to_vec();
        entry.extend(1u32.to_le_bytes());
        entry.extend(revision.to_le_bytes());
        entry.extend([0, 0]);
        entry.extend((section.len() as u32).to_le_bytes());
        entry.extend([0; 36]);
        entry.extend(vec![0; if revision >= 0x300 { 8 } else { 0 }]);
        entry.extend(section);
        let mut block = vec![0x11, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0];
        block.extend((entry.len() as u32).to_le_bytes());
        block.extend(1u32.to_le_bytes());
        block.extend(entry);
        block
    }

    #[test]
    fn a_record_written_by_hand() {
        for revision in [0x201, 0x300] {
            let errors = read(&record(revision));
            let place = "bank 5, row 4660".to_owned();
            let [error] = &errors[..] else { panic!("{errors:?}") };
            assert_eq!((error.corrected, error.address), (false, Some(PhysAddr(0x3_ea4f_b600))));
            assert_eq!((error.module_handle, &error.place), (Some(0x1101), &place));
        }
    }

    /// The same section in a record as a system logs it.
    #[test]
    fn a_logged_record_written_by_hand() {
        let block = record(0x201);
        let section = &block[BLOCK_HEADER + ENTRY_HEADER..];
        let mut whole = b"CPER".to_vec();
        whole.resize(RECORD_HEADER + DESCRIPTOR, 0);
        whole[10] = 1;
        let at = RECORD_HEADER;
        whole[at..at + 4].copy_from_slice(&((at + DESCRIPTOR) as u32).to_le_bytes());
        whole[at + 4..at + 8].copy_from_slice(&(section.len() as u32).to_le_bytes());
        whole[at + 16..at + 32].copy_from_slice(&MEMORY_SECTION);
        whole[at + 48] = 2;
        whole.extend(section);
        let [error] = &read_record(&whole)[..] else { panic!() };
        assert_eq!((error.corrected, error.address), (true, Some(PhysAddr(0x3_ea4f_b600))));
        (0..whole.len()).for_each(|length| assert!(read_record(&whole[..length]).len() <= 1));
    }

    #[test]
    fn a_record_cut_anywhere_does_no_harm() {
        let whole = record(0x300);
        for length in 0..whole.len() {
            assert!(read(&whole[..length]).len() <= 1);
        }
        assert!(read(&[0xff; 4096]).is_empty());
    }
}
