//! What the number on a stop screen means, for those numbers that bad memory causes now and then.

/// In words; nothing for a number that says little about memory.
pub(super) fn words(code: u64) -> Option<&'static str> {
    Some(match code {
        0x1a => "the management of memory is inconsistent",
        0x2e => "an error on the memory bus",
        0x4e => "the list of pages is damaged",
        0x50 => "an address that is not there",
        0x7a | 0x77 => "a page could not be read in: memory or storage",
        0x9c | 0x124 => "the hardware reported an error that could not be corrected",
        0x127 => "a page that should be empty is not",
        0x12b => "a page was damaged by the hardware",
        0x19 | 0xc2 | 0x13a => "the management of small pieces of memory is damaged",
        _ => return None,
    })
}
