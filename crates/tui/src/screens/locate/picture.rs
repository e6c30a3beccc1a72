//! The module of the chosen group, as close as it is looked at; or why there is no picture of it.

use std::collections::BTreeSet;

use revisum_diagnose::address::Cell;
use revisum_diagnose::locate::{FailMap, GroupKind};

use crate::say;
use crate::kit::canvas::Canvas;
use crate::kit::fail_map::{Picture, Window, draw as draw_picture};
use crate::shared::state::Shared;

use super::zoom::Zoom;
use super::{Locate, found};

/// Draws it on the whole canvas and returns the rows it took.
pub fn draw(canvas: &mut Canvas<'_>, screen: &Locate, shared: &Shared) -> u16 {
    let groups = found::groups(screen, shared);
    let Some(group) = groups.get(screen.group) else { return 0 };
    let maps = shared.located.iter().flat_map(|located| &located.fail_maps);
    let Some(map) = maps.into_iter().find(|map| group.slot.as_ref() == Some(&map.slot)) else {
        let mapped = group.named.iter().any(|word| word.cell.is_some());
        let words = match mapped {
            true => say::no_picture_flood(),
            false => say::no_picture_map(),
        };
        let width = canvas.width();
        return canvas.paragraph(0, 0, width, canvas.theme.label(), words);
    };
    let word = found::words(screen, shared).get(screen.word).and_then(|word| word.cell);
    let window = match (screen.zoom, word) {
        (Zoom::Bank, Some(cell)) => Window::Bank(cell),
        (Zoom::Around, Some(cell)) => Window::Around(cell),
        _ => Window::Module,
    };
    let own = group.named.iter().filter_map(|word| word.cell).collect::<BTreeSet<Cell>>();
    let chosen = |cell: Cell| match window {
        Window::Module => belongs(group.kind, map, cell, &own),
        Window::Bank(_) | Window::Around(_) => word == Some(cell),
    };
    draw_picture(canvas, &Picture { map, window, chosen: &chosen })
}

/// Whether a word is one of a group: of the whole row, column or bank; of the rest those that are named.
fn belongs(kind: GroupKind, map: &FailMap, cell: Cell, named: &BTreeSet<Cell>) -> bool {
    match kind {
        // One group of several is told apart from the others; a single one needs no mark.
        _ if named.len() >= map.words.len() => false,
        GroupKind::Row { rank, bank, row } => (cell.rank, cell.bank, cell.row) == (rank, bank, row),
        GroupKind::Column { rank, bank, column } => (cell.rank, cell.bank, cell.column) == (rank, bank, column),
        GroupKind::Bank { rank, bank } => (cell.rank, cell.bank) == (rank, bank),
        GroupKind::Page { .. } | GroupKind::Rest => named.contains(&cell),
    }
}
