//! What is measured: one kind of access, of one width, at one distance, over one working set, on so many cores.

use serde::{Deserialize, Serialize};

/// What is done with the memory.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub enum Kind {
    /// Loads.
    Read,
    /// Stores as programs do them: a line comes into the cache first.
    Write,
    /// Stores past the caches.
    Stream,
    /// Loads from one half of the working set, stores to the other.
    Copy,
    /// Loads each of which waits for the one before, in random order.
    Latency,
}

impl Kind {
    /// All of them.
    pub const ALL: [Self; 5] = [Self::Read, Self::Write, Self::Stream, Self::Copy, Self::Latency];

    /// As it is named on a command line.
    pub fn name(self) -> &'static str {
        match self {
            Self::Read => "read",
            Self::Write => "write",
            Self::Stream => "stream",
            Self::Copy => "copy",
            Self::Latency => "latency",
        }
    }
}

/// Bits of one load or store.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize)]
#[serde(try_from = "u16", into = "u16")]
pub enum Width {
    /// One byte.
    W8,
    /// Two bytes.
    W16,
    /// Four bytes.
    W32,
    /// Eight bytes.
    W64,
    /// A register of 16 bytes.
    W128,
    /// A register of 32 bytes.
    W256,
    /// A register of 64 bytes.
    W512,
}

impl Width {
    /// From the narrowest to the widest.
    pub const ALL: [Self; 7] = [Self::W8, Self::W16, Self::W32, Self::W64, Self::W128, Self::W256, Self::W512];

    /// Bytes.
    pub fn bytes(self) -> u32 {
        1 << self as u32
    }

    /// Bits.
    pub fn bits(self) -> u16 {
        8 << self as u16
    }
}

impl From<Width> for u16 {
    fn from(width: Width) -> Self {
        width.bits()
    }
}

impl TryFrom<u16> for Width {
    type Error = NoWidth;

    fn try_from(bits: u16) -> Result<Self, NoWidth> {
        Self::ALL.into_iter().find(|width| width.bits() == bits).ok_or(NoWidth(bits))
    }
}

/// A number of bits that no load has.
#[derive(Clone, Copy, Debug, PartialEq, Eq, thiserror::Error)]
#[error("{0} is no width of a load; the widths are 8, 16, 32, 64, 128, 256 and 512 bits")]
pub struct NoWidth(pub u16);

/// One loop over one working set.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize)]
pub struct Work {
    /// What is done.
    pub kind: Kind,
    /// How wide each access is.
    pub width: Width,
    /// Bytes from one access to the next; as many as the access has where there is no gap.
    pub stride: u32,
    /// Working set of each core in bytes.
    pub bytes: u64,
    /// Cores at work at the same time.
    pub cores: usize,
}

impl Work {
    /// The distance where it leaves gaps.
    pub fn gap(&self) -> Option<u32> {
        (self.stride > self.width.bytes()).then_some(self.stride)
    }

    /// Working sets of all cores together, in bytes.
    pub fn total_bytes(&self) -> u64 {
        self.bytes * self.cores as u64
    }
}

/// One level of the processor's caches for data.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
pub struct Cache {
    /// Level, from 1.
    pub level: u8,
    /// Size in bytes.
    pub bytes: u64,
    /// Logical cores that share one.
    pub shared_by: usize,
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn widths_are_powers_of_two() {
        let bytes: Vec<u32> = Width::ALL.into_iter().map(Width::bytes).collect();
        assert_eq!(bytes, [1, 2, 4, 8, 16, 32, 64]);
        assert!(Width::ALL.into_iter().all(|width| Width::try_from(width.bits()) == Ok(width)));
        assert!(Width::try_from(24).is_err());
    }
}
