//! The memory of a lease as offsets and addresses.

use std::ops::Range;

use crate::units::{ByteRange, PhysAddr, RangeSet};

/// One contiguous piece of held memory.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Segment {
    /// Where it begins in the held memory, in bytes.
    pub offset: u64,
    /// Its length in bytes.
    pub bytes: u64,
    /// Physical address of its first byte, where that is known.
    pub phys: Option<u64>,
}

/// The memory of a lease in the order in which it is swept. Offsets count from zero over all segments.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Layout {
    segments: Vec<Segment>,
}

impl Layout {
    /// Lays pieces of `(physical address, bytes)` one behind the other.
    pub fn new(pieces: impl IntoIterator<Item = (Option<u64>, u64)>) -> Self {
        let mut offset = 0;
        let segments = pieces.into_iter().map(|(phys, bytes)| {
            let segment = Segment { offset, bytes, phys };
            offset += bytes;
            segment
        });
        Self { segments: segments.collect() }
    }

    /// The segments, by ascending offset.
    pub fn segments(&self) -> &[Segment] {
        &self.segments
    }

    /// Bytes held.
    pub fn bytes(&self) -> u64 {
        self.segments.last().map_or(0, |last| last.offset + last.bytes)
    }

    /// True when every physical address is known.
    pub fn addresses_known(&self) -> bool {
        self.segments.iter().all(|segment| segment.phys.is_some())
    }

    /// The segments and parts of segments inside a range of offsets, each as `(segment, bytes to skip, length)`.
    pub fn parts(&self, held: Range<u64>) -> impl DoubleEndedIterator<Item = (usize, Segment, u64, u64)> {
        let first = self.segments.partition_point(|segment| segment.offset + segment.bytes <= held.start);
        let last = self.segments.partition_point(|segment| segment.offset < held.end);
        self.segments[first..last.max(first)].iter().enumerate().map(move |(at, segment)| {
            let start = held.start.max(segment.offset);
            let end = held.end.min(segment.offset + segment.bytes);
            (first + at, *segment, start - segment.offset, end.saturating_sub(start))
        })
    }

    /// Pieces of a range of offsets in which the words so many bytes before lie in one segment too: `(segment, bytes to skip,
    /// length, index of the first of those words)`.
    pub fn parts_moved(&self, held: Range<u64>, moved: u64) -> Vec<(usize, Segment, u64, u64, u64)> {
        let mut pieces = Vec::new();
        for (at, segment, skip, len) in self.parts(held) {
            let from = segment.offset + skip;
            if moved == 0 {
                pieces.push((at, segment, skip, len, self.index_of(from)));
                continue;
            }
            let sources = self.parts(from.saturating_sub(moved)..(from + len).saturating_sub(moved));
            let mut done = 0;
            for (_, source, source_skip, source_len) in sources {
                let index = self.index_of(source.offset + source_skip);
                pieces.push((at, segment, skip + done, source_len, index));
                done += source_len;
            }
        }
        pieces
    }

    /// Physical address of the byte at this offset, where it is known.
    pub fn address_of(&self, offset: u64) -> Option<PhysAddr> {
        let (_, segment, skip, _) = self.parts(offset..offset + 1).next()?;
        segment.phys.map(|phys| PhysAddr(phys + skip))
    }

    /// What the words at this offset are computed from: the address divided by eight, or the offset where unknown.
    pub fn index_of(&self, offset: u64) -> u64 {
        self.address_of(offset).map_or(offset, |address| address.0) >> 3
    }

    /// The offset of a physical address, if it is held.
    pub fn offset_of(&self, address: PhysAddr) -> Option<u64> {
        self.segments.iter().find_map(|segment| {
            let phys = segment.phys?;
            (phys..phys + segment.bytes).contains(&address.0).then(|| segment.offset + (address.0 - phys))
        })
    }

    /// The physical ranges of a range of offsets; unknown addresses contribute nothing.
    pub fn ranges_of(&self, held: Range<u64>) -> RangeSet {
        let known = self.parts(held).filter_map(|(_, segment, skip, len)| {
            segment.phys.map(|phys| ByteRange::new(phys + skip, phys + skip + len))
        });
        known.collect()
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn offsets_and_addresses_follow_the_segments() {
        let layout = Layout::new([(Some(0x1000), 0x1000), (Some(0x8000), 0x2000), (None, 0x1000)]);
        assert_eq!(layout.bytes(), 0x4000);
        assert_eq!(layout.address_of(0x0fff), Some(PhysAddr(0x1fff)));
        assert_eq!(layout.address_of(0x1008), Some(PhysAddr(0x8008)));
        assert_eq!(layout.address_of(0x3000), None);
        assert_eq!(layout.address_of(0x4000), None);
        assert_eq!(layout.offset_of(PhysAddr(0x9ff8)), Some(0x2ff8));
        assert_eq!(layout.offset_of(PhysAddr(0x7ff8)), None);
        assert!(!layout.addresses_known());
        let across: Vec<_> = layout.parts(0x0800..0x1800).map(|(at, _, skip, len)| (at, skip, len)).collect();
        assert_eq!(across, [(0, 0x800, 0x800), (1, 0, 0x800)]);
        assert_eq!(layout.ranges_of(0x0800..0x3800).bytes(), 0x2800);
    }
}
