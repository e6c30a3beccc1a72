//! Bits that turn over when a row beside them is opened very often (row disturbance; Kim et al., ISCA 2014).

use revisum_diagnose::address::{Cell, Placed};

use super::{FaultKind, FaultSpec};

/// A bit and the row that disturbs it.
#[derive(Clone, Debug)]
pub(crate) struct Disturbance {
    slot: String,
    aggressor: Cell,
    threshold: u32,
    /// Offset of the word that it sits in.
    pub offset: u64,
    /// Its bit.
    pub mask: u64,
}

impl Disturbance {
    /// The disturbance of the word at this offset; nothing for other faults.
    pub fn new(spec: &FaultSpec, slot: &str, offset: u64) -> Option<Self> {
        let aggressor = spec.aggressor.filter(|_| spec.kind == FaultKind::RowDisturb)?.cell;
        Some(Self { slot: slot.to_owned(), aggressor, threshold: spec.threshold, offset, mask: 1 << spec.lane? })
    }

    /// Whether opening the rows of these words so often, in turns, is enough. A row is opened each time only when another row
    /// of its bank is opened in between.
    pub fn is_caused_by(&self, placed: &[Placed], times: u32) -> bool {
        let of_bank = placed.iter().filter(|place| {
            place.slot == self.slot && (place.cell.rank, place.cell.bank) == (self.aggressor.rank, self.aggressor.bank)
        });
        let rows: Vec<u32> = of_bank.map(|place| place.cell.row).collect();
        let alternates = rows.iter().any(|row| *row != self.aggressor.row);
        times >= self.threshold && alternates && rows.contains(&self.aggressor.row)
    }
}
