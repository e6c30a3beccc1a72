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
