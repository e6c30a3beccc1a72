//! The help and the list of actions: both are the commands of here and now.

use super::commands::Known;
use crate::kit::canvas::{Canvas, Target};
use crate::say;

/// Columns of a key's name.
const NAME: u16 = 8;
/// Rows above the keys, and columns of them on a screen where one is not enough.
const ABOVE: u16 = 3;
const COLUMN: u16 = 56;

/// Draws all keys: below each other, and in two columns where they do not fit or there is the width.
pub fn help(canvas: &mut Canvas<'_>, name: &str, all: &[Known]) {
    let theme = canvas.theme;
    let x = canvas.put(2, 1, theme.strong(), &say::keys_in(name)) + 3;
    let x = canvas.put(x, 1, theme.attention(), "t");
    let x = canvas.put(x + 1, 1, theme.text(), say::terms_explained()) + 3;
    canvas.put(x, 1, theme.label(), say::any_other_key_closes());
    let (width, count) = (canvas.width(), all.len() as u16);
    let two = width >= 100 || count > canvas.height().saturating_sub(ABOVE);
    let (columns, column) = if two { (2, COLUMN.min(width / 2)) } else { (1, width) };
    let rows = count.div_ceil(columns);
    for (at, known) in (0u16..).zip(all) {
        let (x, y) = (2 + at / rows.max(1) * column, ABOVE + at % rows.max(1));
        canvas.put(x, y, theme.attention(), known.key.name);
        canvas.cell(x + NAME, y, column.saturating_sub(NAME + 3), theme.text(), &known.key.words);
    }
}

/// Draws the actions that match what was typed.
pub fn actions(canvas: &mut Canvas<'_>, found: &[Known], typed: &str, chosen: usize) {
    let theme = canvas.theme;
    let x = canvas.put(2, 1, theme.strong(), say::actions());
    canvas.put(x + 2, 1, theme.attention(), &format!("{typed}_"));
    let chosen = chosen.min(found.len().saturating_sub(1));
    let room = usize::from(canvas.height().saturating_sub(5)).max(1);
    let first = (chosen + 1).saturating_sub(room);
    for (y, (at, known)) in (3u16..).zip(found.iter().enumerate().skip(first).take(room)) {
        let here = at == chosen;
        if here {
            canvas.put(2, y, theme.attention(), theme.marks.here);
        }
        canvas.target(0, y, canvas.width(), Target::Line(at));
        canvas.put(4, y, if here { theme.strong() } else { theme.text() }, &known.key.words);
        canvas.put(50, y, theme.label(), known.key.name);
    }
    let below = 4 + found.len().min(room) as u16;
    let words = if found.is_empty() { say::no_action_found() } else { say::actions_keys() };
    canvas.put(2, below, theme.label(), words);
}
