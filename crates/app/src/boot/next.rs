//! The entry to boot next, noted where the boot loader finds it.

use std::path::Path;

use revisum_linux::boot::Entry;

/// Name of the file in which the boot loader finds what to boot next.
pub const NEXT_FILE: &str = "next.env";
/// Its length is fixed: the boot loader writes into it where it lies.
const BLOCK_BYTES: usize = 1024;
const HEAD: &str = "# GRUB Environment Block\n";

/// The boot loader's block of variables with this entry to boot next; with none it boots the usual one.
pub fn next_entry_block(entry: Option<Entry>) -> Vec<u8> {
    let mut block = HEAD.as_bytes().to_vec();
    if let Some(entry) = entry {
        block.extend(format!("next_entry={}\n", entry.name()).bytes());
    }
    block.resize(BLOCK_BYTES, b'#');
    block
}

/// Notes the entry to boot next beside the results; nothing for the usual one.
///
/// # Errors
/// When it cannot be written.
pub fn boot_next(results: &Path, entry: Option<Entry>) -> std::io::Result<()> {
    let file = results.join(NEXT_FILE);
    // Written over in place: the boot loader knows where it lies, and a new file might lie in pieces.
    let mut open = std::fs::OpenOptions::new().write(true).create(true).truncate(false).open(&file)?;
    std::io::Write::write_all(&mut open, &next_entry_block(entry))?;
    open.sync_all()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_block_has_its_length_whatever_is_in_it() {
        let block = next_entry_block(Some(Entry::High));
        assert_eq!(block.len(), BLOCK_BYTES);
        assert!(String::from_utf8(block).unwrap().starts_with("# GRUB Environment Block\nnext_entry=b\n###"));
        assert_eq!(next_entry_block(None).len(), BLOCK_BYTES);
        let folder = tempfile::tempdir().unwrap();
        boot_next(folder.path(), Some(Entry::Low)).unwrap();
        boot_next(folder.path(), Some(Entry::High)).unwrap();
        assert_eq!(std::fs::read(folder.path().join(NEXT_FILE)).unwrap(), next_entry_block(Some(Entry::High)));
    }
}
