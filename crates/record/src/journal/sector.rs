//! Whole sectors: a medium writes no less than one, and one that is being written when the power goes can be lost with all that stood in it
//! before. So what was synced is never in a sector that is written again.

/// Bytes of a sector, the smallest that drives take.
pub const SECTOR: u64 = 512;

/// A line of spaces that fills the sector in which a journal of this length ends; readers pass over it. Empty when the sector is full.
pub fn filler(len: u64) -> String {
    match len % SECTOR {
        0 => String::new(),
        used => format!("{}\n", " ".repeat((SECTOR - used - 1) as usize)),
    }
}
