//! A machine as a tile: its number and outcome are read from across the room.

use ratatui::style::Style;
use unicode_width::UnicodeWidthStr as _;

use super::need::Need;
use super::row::Said;
use crate::kit::big_words;
use crate::kit::canvas::Canvas;

/// Columns of the number at most.
const MOST_NUMBER: u16 = 16;

/// The least that a tile takes.
pub const LEAST: (u16, u16) = (40, 9);

/// Draws it over all of its canvas. The chosen one has a mark.
pub fn draw(canvas: &mut Canvas<'_>, said: &Said, chosen: bool) {
    let theme = canvas.theme;
    let silent = said.need == Need::Silent;
    let style = match said.grade.filter(|_| !silent) {
        Some(grade) => theme.filled(grade),
        None => theme.bar(),
    };
    for y in 0..canvas.height() {
        canvas.fill_row(y, style);
    }
    let (width, height) = (canvas.width(), canvas.height());
    let head = if chosen { theme.chosen() } else { theme.bar() };
    canvas.fill_row(0, head);
    let mark = if chosen { theme.marks.here } else { " " };
    let x = canvas.put(0, 0, head, mark);
    let name = &said.machine;
    let room = width.saturating_sub(x + 2 + said.heard.chars().count() as u16 + 2);
    canvas.cell(x + 1, 0, room, head, name.trim());
    canvas.put_right(width.saturating_sub(1), 0, head, &said.heard);
    // The number of the drive in a field of its own: it is no count of errors.
    let fits = |(columns, rows)| columns <= MOST_NUMBER && rows == big_words::ROWS;
    let digits = big_words::sizes(theme.marks.quarter_blocks).find(|pixel| fits(pixel.size(&said.number)));
    let field = digits.filter(|_| !said.number.is_empty()).map_or(0, |pixel| pixel.size(&said.number).0 + 2);
    for y in 1..height {
        canvas.put(0, y, theme.bar(), &" ".repeat(usize::from(field)));
    }
    if let Some(pixel) = digits.filter(|_| field > 0) {
        big_words::draw_at(&mut canvas.part(1, 2, field - 1, big_words::ROWS), 0, &said.number, pixel, theme.bar());
    }
    let (left, inside) = (field + 1, width.saturating_sub(field + 2));
    let is_clear = outcome(&mut canvas.part(left, 2, inside, big_words::ROWS), said, style);
    let slots = if said.slots.is_empty() { String::new() } else { crate::say::in_slots(&said.slots, "") };
    let headline = if said.is_large && is_clear { String::new() } else { said.headline.clone() };
    let trouble = said.trouble.clone().unwrap_or_default();
    let (first, later) = if is_clear { (String::new(), headline) } else { (headline, String::new()) };
    let lines = [first, trouble, slots, said.test.clone(), said.ends.clone(), later, said.stage.clone()];
    // What somebody is to do stands at the bottom, whatever else there is no room for.
    let last = height.saturating_sub(1);
    let next_rows = u16::from(!said.next.is_empty());
    let mut y = 2 + big_words::ROWS;
    for line in lines.iter().filter(|line| !line.is_empty()) {
        if y + next_rows <= last {
            canvas.cell(left, y, inside, style, line);
            y += 1;
        }
    }
    if next_rows > 0 {
        canvas.fill_row(last, theme.chosen());
        canvas.cell(1, last, width.saturating_sub(2), theme.chosen(), &said.next);
    }
}

/// The outcome as large as there is room for; a count that fits without its word has the word in small letters after it. Whether what is large
/// says what it is.
fn outcome(canvas: &mut Canvas<'_>, said: &Said, style: Style) -> bool {
    let wordings: Vec<&str> = said.large.iter().map(String::as_str).collect();
    let fits = |words: &str| {
        let mut sizes = big_words::sizes(canvas.theme.marks.quarter_blocks);
        sizes.any(|pixel| pixel.size(words).1 == big_words::ROWS && pixel.size(words).0 <= canvas.width())
    };
    // Of errors only the longest wording has the word in it.
    let bare = said.is_large && !wordings.first().is_some_and(|first| fits(first));
    let taken = big_words::draw(canvas, &wordings, style);
    let word = crate::say::big_errors();
    let room = usize::from(canvas.width().saturating_sub(taken + 1));
    if bare && word.width() <= room {
        canvas.put(taken + 1, big_words::ROWS - 1, style, word);
        return true;
    }
    !bare
}
