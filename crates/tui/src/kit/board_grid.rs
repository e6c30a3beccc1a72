//! A board with more modules than rows: several of them in a row, each with its slot, its size and what is known of it.

use revisum_engine::units::bytes_text;
use revisum_record::fitted::Slot;

use super::board_strip::{Strip, names_apart, status};
use super::canvas::{Canvas, Target};
use crate::say;

/// Narrowest column in which a slot can be told.
const NARROWEST: usize = 26;
/// Columns of a size, and of a mark with its gap.
const SIZE: usize = 8;
const MARK: usize = 2;
/// Longest name that is shown whole.
const LONGEST_NAME: usize = 20;

/// Draws as many slots as there is room for in these rows, those around the chosen one; a line says how many more there are.
pub(super) fn draw(canvas: &mut Canvas<'_>, strip: &Strip<'_>, slots: &[&Slot], rows: usize) {
    let width = usize::from(canvas.width().saturating_sub(1));
    let columns = slots.len().div_ceil(rows).min(width / NARROWEST).max(1);
    let all = slots.len() <= columns * rows;
    let rows = if all { rows } else { rows - 1 };
    let page = columns * rows;
    let chosen = strip.chosen.and_then(|at| strip.board.slots.get(at));
    let at = slots.iter().position(|slot| chosen.is_some_and(|chosen| chosen.id == slot.id)).unwrap_or(0);
    let first = at / page * page;
    let shown = &slots[first..slots.len().min(first + page)];
    let cell = width / columns;
    let room = LONGEST_NAME.min(cell.saturating_sub(MARK + SIZE + MARK + 1));
    let names = names_apart(slots, room);
    let longest = names.iter().map(|name| name.chars().count()).max().unwrap_or(0);
    let names: Vec<(String, usize)> = names.into_iter().map(|name| (name, longest)).collect();
    for (number, slot) in shown.iter().enumerate() {
        let (column, row) = (number / rows, number % rows);
        let mut field = canvas.part((column * cell) as u16, row as u16, cell as u16, 1);
        let is_chosen = chosen.is_some_and(|chosen| chosen.id == slot.id);
        draw_slot(&mut field, strip, slot, &names[first + number], is_chosen);
        if let Some(at) = strip.board.slots.iter().position(|known| known.id == slot.id).filter(|_| chosen.is_some()) {
            field.target(0, 0, cell as u16, Target::Slot(at));
        }
    }
    if !all {
        let words = say::strip_more(first + 1, first + shown.len(), slots.len());
        canvas.put(2, rows as u16, canvas.theme.label(), &words);
    }
}

fn draw_slot(field: &mut Canvas<'_>, strip: &Strip<'_>, slot: &Slot, id: &(String, usize), chosen: bool) {
    let (id, name) = (&id.0, id.1);
    let theme = field.theme;
    let (words, style) = status(strip, slot, field);
    let bad = style == theme.error();
    if chosen {
        field.put(0, 0, theme.attention(), theme.marks.here);
    }
    let room = usize::from(field.width());
    let id_style = if bad { theme.error() } else { theme.strong() };
    field.put(MARK as u16, 0, id_style, id);
    let end = (MARK + name + 1 + SIZE) as u16;
    match &slot.module {
        None => field.put_right(end, 0, theme.faint(), say::strip_empty()),
        Some(module) => field.put_right(end, 0, theme.text(), &bytes_text(module.bytes)),
    }
    let left = room.saturating_sub(usize::from(end) + 2);
    let channel = slot.channel.as_deref().map(say::strip_channel).filter(|words| words.chars().count() <= left);
    if let Some(channel) = channel.filter(|_| words.is_empty()) {
        field.put(end + 2, 0, theme.label(), &channel);
    } else if words.chars().count() <= left {
        field.put(end + 1, 0, style, &words);
    } else if bad {
        field.put(end + 1, 0, style, theme.marks.failed);
    }
}
