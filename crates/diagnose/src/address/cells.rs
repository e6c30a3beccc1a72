//! How the address inside a stack of memory becomes slot, rank, bank, row and column: parities of its bits.

use super::cell::{Cell, Extent, MapError, Twofold};
use super::linear::BitMatrix;

/// For each bit of each coordinate, lowest first: which bits of the byte address inside the stack it is the parity of.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct CellMasks {
    /// Word within the row; the lowest three address bits are the byte within the word and belong to no coordinate.
    pub column: Vec<u64>,
    /// Bank, bank group included.
    pub bank: Vec<u64>,
    /// Row.
    pub row: Vec<u64>,
    /// Rank.
    pub rank: Vec<u64>,
    /// Which of the stack's slots; empty where it has only one.
    pub slot: Vec<u64>,
}

/// A one-to-one map between addresses inside a stack and cells.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct CellMap {
    masks: CellMasks,
    matrix: BitMatrix,
}

/// Bits of an address that choose the byte within a word.
const WORD_BITS: u32 = 3;

impl CellMap {
    /// Checks that every address reaches a cell of its own.
    ///
    /// # Errors
    /// When two would reach the same one.
    pub fn new(masks: CellMasks) -> Result<Self, MapError> {
        let all = [&masks.column, &masks.bank, &masks.row, &masks.rank, &masks.slot];
        if all.iter().any(|masks| masks.iter().any(|mask| mask & ((1 << WORD_BITS) - 1) != 0)) {
            return Err(MapError::NotOneToOne(Twofold::InsideAWord));
        }
        let rows = all.into_iter().flatten().map(|mask| mask >> WORD_BITS).collect();
        let matrix = BitMatrix::new(rows).ok_or(MapError::NotOneToOne(Twofold::Coordinates))?;
        Ok(Self { masks, matrix })
    }

    /// Columns lowest, then banks, then rows, then ranks; bank bits are hashed with the lowest row bits, as memory
    /// controllers do so that neighbouring rows of one stream fall into different banks.
    ///
    /// # Errors
    /// When the module would need more address bits than there are.
    pub fn hashed(column_bits: u32, bank_bits: u32, row_bits: u32, rank_bits: u32) -> Result<Self, MapError> {
        if column_bits + bank_bits + row_bits + rank_bits + WORD_BITS > 60 {
            return Err(MapError::NotOneToOne(Twofold::Coordinates));
        }
        let mut next = WORD_BITS;
        let mut take = |bits: u32| {
            let masks: Vec<u64> = (next..next + bits).map(|bit| 1u64 << bit).collect();
            next += bits;
            masks
        };
        let (column, mut bank, row, rank) = (take(column_bits), take(bank_bits), take(row_bits), take(rank_bits));
        bank.iter_mut().zip(&row).for_each(|(bank, row)| *bank |= row);
        Self::new(CellMasks { column, bank, row, rank, slot: Vec::new() })
    }

    /// The masks.
    pub fn masks(&self) -> &CellMasks {
        &self.masks
    }

    /// Bytes of all slots together.
    pub fn bytes(&self) -> u64 {
        1 << (self.matrix.bits() as u32 + WORD_BITS)
    }

    /// Ranks, banks, rows and columns that its coordinates reach.
    pub fn extent(&self) -> Extent {
        let reach = |masks: &[u64]| 1u32.checked_shl(masks.len() as u32).unwrap_or(u32::MAX);
        let masks = &self.masks;
        Extent {
            ranks: reach(&masks.rank),
            banks: reach(&masks.bank),
            rows: reach(&masks.row),
            columns: reach(&masks.column),
        }
    }

    /// How many slots take turns here.
    pub fn slots(&self) -> usize {
        1 << self.masks.slot.len()
    }

    /// Neighbouring bytes that are in one slot: 2 to this power.
    pub(super) fn run_bits(&self) -> u32 {
        self.masks.slot.iter().map(|mask| mask.trailing_zeros()).min().unwrap_or(u64::BITS)
    }

    /// The slot's number in the stack and the cell of an address inside the stack.
    pub(super) fn locate(&self, address: u64) -> (usize, Cell) {
        let mut rest = self.matrix.apply(address >> WORD_BITS);
        let mut take = |masks: &Vec<u64>| {
            let value = rest & ((1 << masks.len()) - 1);
            rest >>= masks.len();
            value as u32
        };
        let masks = &self.masks;
        let (column, bank, row) = (take(&masks.column), take(&masks.bank), take(&masks.row));
        let (rank, slot) = (take(&masks.rank), take(&masks.slot));
        (slot as usize, Cell { rank, bank, row, column })
    }

    /// The slot's number of an address inside the stack.
    pub(super) fn slot_of(&self, address: u64) -> usize {
        let bit = |(at, mask): (usize, &u64)| usize::from(super::linear::parity(mask & address)) << at;
        self.masks.slot.iter().enumerate().map(bit).sum()
    }

    /// The address inside the stack; nothing when there is no such cell.
    pub(super) fn address(&self, slot: usize, cell: Cell) -> Option<u64> {
        let masks = &self.masks;
        let parts = [
            (slot as u64, &masks.slot),
            (u64::from(cell.rank), &masks.rank),
            (u64::from(cell.row), &masks.row),
            (u64::from(cell.bank), &masks.bank),
            (u64::from(cell.column), &masks.column),
        ];
        let mut value = 0u64;
        for (coordinate, masks) in parts {
            if coordinate >> masks.len() != 0 {
                return None;
            }
            value = value << masks.len() | coordinate;
        }
        Some(self.matrix.invert(value) << WORD_BITS)
    }

    /// How many bytes of `[from, to)` inside the stack lie in this slot: counted over whole aligned blocks, in each of which the
    /// slot's parities are either fixed or take every value equally often.
    pub(super) fn share(&self, slot: usize, from: u64, to: u64) -> u64 {
        if self.masks.slot.is_empty() {
            return to.saturating_sub(from);
        }
        let (mut at, mut bytes) = (from, 0);
        while at < to {
            let mut bits = at.trailing_zeros().min(62);
            while at + (1 << bits) > to {
                bits -= 1;
            }
            bytes += self.share_of_block(slot, at, bits);
            at += 1 << bits;
        }
        bytes
    }

    fn share_of_block(&self, slot: usize, start: u64, bits: u32) -> u64 {
        // Gaussian elimination of the parities that the block's own bits can change; the rest is fixed.
        let inside = (1u64 << bits) - 1;
        let fixed = self.slot_of(start);
        let mut rows: Vec<(u64, bool)> = self
            .masks
            .slot
            .iter()
            .enumerate()
            .map(|(at, mask)| (mask & inside, (fixed ^ slot) >> at & 1 == 1))
            .collect();
        let mut rank = 0;
        while let Some(at) = (rank..rows.len()).find(|at| rows[*at].0 != 0) {
            rows.swap(rank, at);
            let (pivot, wanted) = rows[rank];
            let lowest = pivot & pivot.wrapping_neg();
            for (mask, parity) in rows.iter_mut().skip(rank + 1).filter(|(mask, _)| mask & lowest != 0) {
                *mask ^= pivot;
                *parity ^= wanted;
            }
            rank += 1;
        }
        if rows[rank..].iter().any(|(_, wanted)| *wanted) { 0 } else { (1u64 << bits) >> rank }
    }
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use super::*;

    /// Two slots that take turns by the parity of three bits.
    fn woven() -> CellMap {
        let bits = |from: u32, to: u32| (from..to).map(|bit| 1u64 << bit).collect::<Vec<_>>();
        let mut masks = CellMasks { column: bits(3, 8), bank: bits(9, 11), row: bits(11, 15), ..CellMasks::default() };
        masks.slot = vec![1 << 8 | 1 << 12 | 1 << 14];
        CellMap::new(masks).unwrap()
    }

    proptest! {
        #[test]
        fn shares_of_woven_slots_are_counted_right(from in 0u64..1 << 12, length in 0u64..1 << 12, slot in 0usize..2) {
            let map = woven();
            let (from, to) = (from * 8, (from + length) * 8);
            let counted = (from..to).step_by(8).filter(|at| map.slot_of(*at) == slot).count() as u64 * 8;
            prop_assert_eq!(map.share(slot, from, to), counted);
        }

        #[test]
        fn every_address_has_its_own_cell(word in 0u64..1 << 12) {
            let map = woven();
            let (slot, cell) = map.locate(word << 3);
            prop_assert_eq!(map.slot_of(word << 3), slot);
            prop_assert_eq!(map.address(slot, cell), Some(word << 3));
        }
    }

    #[test]
    fn masks_that_repeat_each_other_are_refused() {
        let masks = CellMasks { column: vec![1 << 3, 1 << 3], ..CellMasks::default() };
        assert!(CellMap::new(masks).is_err());
        assert!(CellMap::new(CellMasks { column: vec![1 << 2], ..CellMasks::default() }).is_err());
    }
}
