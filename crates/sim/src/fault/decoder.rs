//! Address decoder faults: an address that reaches no word, another word, or two (van de Goor, Testing Semiconductor
//! Memories, 1991). The four combinations are those of the grade.

use super::{FaultKind, FaultSpec};

/// A decoder fault between the words at two offsets.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Decoder {
    kind: FaultKind,
    /// The word whose address goes astray.
    address: u64,
    /// The other word, where there is one.
    other: Option<u64>,
    value: bool,
}

impl Decoder {
    /// The fault between these offsets; nothing for other kinds.
    pub fn new(spec: &FaultSpec, address: u64, other: Option<u64>) -> Option<Self> {
        spec.kind.is_decoder().then_some(Self { kind: spec.kind, address, other, value: spec.value == 1 })
    }

    /// The words concerned.
    pub fn words(&self) -> impl Iterator<Item = u64> {
        [Some(self.address), self.other].into_iter().flatten()
    }

    /// Which words an address reaches; nothing where this fault does not concern it.
    pub fn reached(&self, address: u64) -> Option<Vec<u64>> {
        let other = self.other.filter(|other| *other != self.address);
        match (self.kind, other) {
            (FaultKind::DecoderNone | FaultKind::DecoderTaken, _) if address == self.address => Some(Vec::new()),
            (FaultKind::DecoderTaken, Some(by)) if address == by => Some(vec![by, self.address]),
            (FaultKind::DecoderOther, Some(cell)) if address == self.address => Some(vec![cell]),
            (FaultKind::DecoderBoth, Some(cell)) if address == self.address => Some(vec![address, cell]),
            _ => None,
        }
    }

    /// What the words that an address reaches read as together.
    pub fn combined(&self, words: impl Iterator<Item = u64>) -> u64 {
        let floating = if self.value { u64::MAX } else { 0 };
        let or = self.kind == FaultKind::DecoderBoth && self.value;
        words.reduce(|a, b| if or { a | b } else { a & b }).unwrap_or(floating)
    }
}
