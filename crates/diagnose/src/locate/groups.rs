//! Failing words that belong together, instead of a line for every one.

use std::collections::BTreeMap;

use serde::Serialize;

use super::Found;
use crate::address::Cell;
use crate::signature::Shape;
use revisum_engine::units::PhysAddr;

/// Fewer words of one row or column are shown with the rest.
const LEAST_WORDS: usize = 2;
/// Groups kept.
const MOST_GROUPS: usize = 200;
/// Words named in each.
const MOST_NAMED: usize = 32;

/// What the words of a group share.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Serialize)]
#[serde(rename_all = "kebab-case")]
pub enum GroupKind {
    /// A row.
    Row {
        /// Rank.
        rank: u32,
        /// Bank.
        bank: u32,
        /// Row.
        row: u32,
    },
    /// A column.
    Column {
        /// Rank.
        rank: u32,
        /// Bank.
        bank: u32,
        /// Column.
        column: u32,
    },
    /// A bank.
    Bank {
        /// Rank.
        rank: u32,
        /// Bank.
        bank: u32,
    },
    /// A page of 4 KiB, where cells are unknown.
    Page {
        /// Its address, or its offset in the held memory.
        start: u64,
    },
    /// Nothing but the slot.
    Rest,
}

/// Some failing words.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
pub struct Group {
    /// Slot, where only one is possible.
    pub slot: Option<String>,
    /// What they share.
    pub kind: GroupKind,
    /// Distinct words, as far as they were kept.
    pub words: usize,
    /// Bits that read wrong.
    pub wrong: u64,
    /// Some of them one by one.
    pub named: Vec<NamedWord>,
}

/// One failing word.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize)]
pub struct NamedWord {
    /// Its address, or its offset in the held memory where addresses are unknown.
    pub place: PhysAddr,
    /// Its cell, where a map tells.
    pub cell: Option<Cell>,
    /// Data lanes that ever read wrong.
    pub wrong: u64,
    /// Those of them that read one for zero.
    pub ones: u64,
    /// How often it was seen to fail.
    pub seen: u32,
    /// How often the next read was wrong again.
    pub recurring: u32,
    /// How often the next read was right again.
    pub transient: u32,
}

/// Data lanes of a mask.
pub fn lanes_of(mask: u64) -> Vec<u8> {
    (0..64).filter(|lane| mask >> lane & 1 == 1).collect()
}

impl Group {
    /// Wrong data lanes.
    pub fn lanes(&self) -> Vec<u8> {
        lanes_of(self.wrong)
    }
}

/// Groups of these words, the largest first.
pub(super) fn groups(cells: &[Found], slot_names: &[String], shape: Option<Shape>) -> Vec<Group> {
    // Of a fault that is everywhere rows and columns are chance.
    let by_bank = !matches!(
        shape,
        None | Some(Shape::Cell | Shape::Row | Shape::Column | Shape::DecoderDoubles | Shape::Scattered)
    );
    let mut rows: BTreeMap<(Option<usize>, u32, u32, u32), usize> = BTreeMap::new();
    let mut columns = rows.clone();
    for (_, slot, cell, _) in cells {
        let Some(Cell { rank, bank, row, column }) = *cell else { continue };
        *rows.entry((*slot, rank, bank, row)).or_default() += 1;
        *columns.entry((*slot, rank, bank, column)).or_default() += 1;
    }
    let kind = |(place, slot, cell, _): &Found| {
        let Some(Cell { rank, bank, row, column }) = *cell else {
            return GroupKind::Page { start: place >> 12 << 12 };
        };
        if by_bank {
            return GroupKind::Bank { rank, bank };
        }
        let in_row = rows[&(*slot, rank, bank, row)];
        let in_column = columns[&(*slot, rank, bank, column)];
        match in_row.max(in_column) {
            most if most < LEAST_WORDS => GroupKind::Rest,
            _ if in_row >= in_column => GroupKind::Row { rank, bank, row },
            _ => GroupKind::Column { rank, bank, column },
        }
    };
    let mut groups: BTreeMap<(Option<usize>, GroupKind), Group> = BTreeMap::new();
    for found in cells {
        let (place, slot, cell, bad) = found;
        let kind = kind(found);
        let group = groups.entry((*slot, kind)).or_insert_with(|| Group {
            slot: slot.and_then(|slot| slot_names.get(slot).cloned()),
            kind,
            words: 0,
            wrong: 0,
            named: Vec::new(),
        });
        group.words += 1;
        group.wrong |= bad.wrong;
        if group.named.len() < MOST_NAMED {
            group.named.push(NamedWord {
                place: PhysAddr(*place),
                cell: *cell,
                wrong: bad.wrong,
                ones: bad.ones,
                seen: bad.seen,
                recurring: bad.recurring,
                transient: bad.transient,
            });
        }
    }
    let mut groups: Vec<Group> = groups.into_values().collect();
    groups.sort_by_key(|group| std::cmp::Reverse(group.words));
    groups.truncate(MOST_GROUPS);
    groups
}
