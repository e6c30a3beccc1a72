//! What the firmware says of the addresses that each device answers to (SMBIOS type 20): no map, but it narrows slots down.

use revisum_engine::units::{ByteRange, PhysAddr};
use revisum_record::fitted::MappedDevice;

/// Pieces of the address space with the slots that answer there, ascending.
#[derive(Clone, Debug, Default)]
pub(super) struct Coarse {
    pieces: Vec<Piece>,
}

#[derive(Clone, Debug)]
struct Piece {
    range: ByteRange,
    slots: Vec<String>,
    joined: String,
}

impl Coarse {
    /// From what each device answers to.
    pub fn new(mapped: &[MappedDevice]) -> Self {
        let mut bounds: Vec<u64> = mapped.iter().flat_map(|device| [device.range.start, device.range.end]).collect();
        bounds.sort_unstable();
        bounds.dedup();
        let piece = |pair: &[u64]| {
            let range = ByteRange::new(pair[0], pair[1]);
            let here = mapped.iter().filter(|device| device.range.contains(range.start));
            let mut slots: Vec<String> = here.map(|device| device.slot.clone()).collect();
            slots.sort();
            slots.dedup();
            (!slots.is_empty()).then(|| Piece { range, joined: slots.join(" "), slots })
        };
        Self { pieces: bounds.windows(2).filter_map(piece).collect() }
    }

    /// Whether nothing is told.
    pub fn is_empty(&self) -> bool {
        self.pieces.is_empty()
    }

    fn piece(&self, address: PhysAddr) -> Option<&Piece> {
        let at = self.pieces.partition_point(|piece| piece.range.end <= address.0);
        self.pieces.get(at).filter(|piece| piece.range.contains(address.0))
    }

    /// Slots that answer to an address.
    pub fn slots(&self, address: PhysAddr) -> Option<&[String]> {
        self.piece(address).map(|piece| piece.slots.as_slice())
    }

    /// The same joined by blanks, with the piece around it.
    pub fn run(&self, address: PhysAddr) -> Option<(&str, ByteRange)> {
        self.piece(address).map(|piece| (piece.joined.as_str(), piece.range))
    }

    /// The piece around an address to which nobody answers.
    pub fn gap(&self, address: PhysAddr) -> ByteRange {
        let at = self.pieces.partition_point(|piece| piece.range.end <= address.0);
        let start = at.checked_sub(1).map_or(0, |before| self.pieces[before].range.end);
        ByteRange::new(start, self.pieces.get(at).map_or(u64::MAX, |next| next.range.start))
    }
}
