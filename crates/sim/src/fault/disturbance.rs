//! Bits that turn over when a row beside them is opened very often (row disturbance; Kim et al., ISCA 2014).

use std::collections::BTreeSet;

use revisum_diagnose::address::{Cell, Placed};

use super::{FaultKind, FaultSpec};

/// A bit and the row that disturbs it.
#[derive(Clone, Debug)]
pub(crate) struct Disturbance {
    slot: String,
    aggressor: Cell,
    threshold: u32,
    watched: u32,
    /// Offset of the word that it sits in.
    pub offset: u64,
    /// Its bit.
    pub mask: u64,
}

impl Disturbance {
    /// The disturbance of the word at this offset; nothing for other faults.
    pub fn new(spec: &FaultSpec, slot: &str, offset: u64) -> Option<Self> {
        let aggressor = spec.aggressor.filter(|_| spec.kind == FaultKind::RowDisturb)?.cell;
        Some(Self {
            slot: slot.to_owned(),
            aggressor,
            threshold: spec.threshold,
            watched: spec.watched,
            offset,
            mask: 1 << spec.lane?,
        })
    }

    /// Whether reading these words in turns, so often within one refresh interval, is enough. A row is opened each time only when another
    /// row of its bank is opened in between, and the module's defence takes care of as many rows as it watches.
    pub fn is_caused_by(&self, placed: &[Placed], times: u32) -> bool {
        let of_bank = placed.iter().filter(|place| {
            place.slot == self.slot && (place.cell.rank, place.cell.bank) == (self.aggressor.rank, self.aggressor.bank)
        });
        let rows: BTreeSet<u32> = of_bank.map(|place| place.cell.row).collect();
        let alternates = rows.len() > 1 && rows.len() > self.watched as usize;
        times >= self.threshold && alternates && rows.contains(&self.aggressor.row)
    }
}

#[cfg(test)]
mod tests {
    use revisum_engine::pattern::pass_seed;
    use rstest::rstest;

    use super::*;

    /// Rows opened, openings, rows watched.
    #[rstest]
    #[case(2, 60_000, 0, true)]
    #[case(2, 40_000, 0, false)]
    #[case(1, 60_000, 0, false)]
    #[case(2, 60_000, 4, false)]
    #[case(8, 60_000, 4, true)]
    fn many_rows_are_more_than_a_defence_watches(
        #[case] rows: u32,
        #[case] times: u32,
        #[case] watched: u32,
        #[case] turns: bool,
    ) {
        let cell = |row| Cell { rank: 0, bank: 3, row, column: 0 };
        let other = Cell { row: 0, ..cell(0) };
        let spec = FaultSpec {
            aggressor: Some(super::super::Aggressor { cell: cell(10), lane: 0, trigger: 0 }),
            threshold: 50_000,
            watched,
            ..FaultSpec::plain(FaultKind::RowDisturb, Cell { row: 11, ..other }, 5, 0)
        };
        let column = (pass_seed(1, rows) % 1024) as u32;
        let placed: Vec<Placed> =
            (0..rows).map(|n| Placed { slot: "A1".into(), cell: Cell { column, ..cell(10 + 2 * n) } }).collect();
        assert_eq!(Disturbance::new(&spec, "A1", 64).unwrap().is_caused_by(&placed, times), turns);
    }
}
