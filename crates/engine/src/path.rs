//! The order in which a sweep visits the words.

/// The order in which an element visits the words of a few MiB.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, serde::Serialize, serde::Deserialize)]
#[serde(rename_all = "kebab-case")]
pub enum Path {
    /// One after the other.
    #[default]
    Linear,
    /// From row to row: neighbouring accesses lie [`HOP_BYTES`] apart.
    RowHopping,
}

/// Distance of a row-hopping step: a row of as many channels as ordinary machines have. Where banks are chosen by exclusive or of row bits, rows
/// some power of two apart lie in banks that all stay open; so the steps go over every row of [`HOP_BLOCK`] before they come back to the first,
/// and each bank is asked for many rows in turn.
pub const HOP_BYTES: u64 = 32 << 10;
/// Bytes within which a row-hopping sweep hops: eight rows and more of each bank.
pub const HOP_BLOCK: u64 = 16 << 20;

/// Words by which a copy is shifted within a row, at most.
const SHIFT_WORDS: u64 = 4093;
/// Steps by which it is shifted from row to row. Ranks are chosen by the top of the address, or by parities of bits from 16 on (Pessl et al., USENIX
/// Security 2016): within a few passes a copy reads every word while another rank is written.
const SHIFT_STEP: u64 = 64 << 10;
const SHIFT_STEPS: u64 = 64;

/// Bytes by which the copy of one half of memory in the other half is shifted in a pass; never as many as the half has.
pub fn copy_shift(pass_seed: u64, half: u64) -> u64 {
    let draw = |number| crate::pattern::pass_seed(pass_seed, number);
    let words = (draw(7) % SHIFT_WORDS + 1) * 8;
    let steps = (half / 2 / SHIFT_STEP).min(SHIFT_STEPS);
    words + if steps > 0 { draw(8) % steps * SHIFT_STEP } else { 0 }
}
