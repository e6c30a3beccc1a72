//! A machine as a tile: its number and outcome are read from across the room.

use super::need::Need;
use super::row::Said;
use crate::kit::big_words;
use crate::kit::canvas::Canvas;

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
    let name = format!("{}  {}", said.number, said.machine);
    let room = width.saturating_sub(x + 2 + said.heard.chars().count() as u16 + 2);
    canvas.cell(x + 1, 0, room, head, name.trim());
    canvas.put_right(width.saturating_sub(1), 0, head, &said.heard);
    let inside = width.saturating_sub(2);
    // The number of the drive in the corner that the outcome leaves free.
    let wide = big_words::Pixel::Square(1).size(&said.number).0;
    let left = inside.saturating_sub(if wide > 0 { wide + 2 } else { 0 });
    let wordings: Vec<&str> = said.large.iter().map(String::as_str).collect();
    let taken = big_words::draw(&mut canvas.part(1, 2, left, big_words::ROWS), &wordings, style);
    if wide > 0 && taken + wide + 2 <= inside {
        let at = width.saturating_sub(wide + 1);
        big_words::draw(&mut canvas.part(at, 2, wide, big_words::ROWS), &[&said.number], style);
    }
    let mut y = 2 + big_words::ROWS;
    let slots = if said.slots.is_empty() { String::new() } else { crate::say::in_slots(&said.slots, "") };
    let running =
        [said.test.as_str(), said.ends.as_str()].iter().filter(|text| !text.is_empty()).copied().collect::<Vec<_>>();
    let lines = [
        slots,
        running.join("   "),
        said.trouble.clone().unwrap_or_default(),
        said.stage.clone(),
        if said.is_large { String::new() } else { said.headline.clone() },
    ];
    // What somebody is to do stands at the bottom, whatever else there is no room for.
    let last = height.saturating_sub(1);
    let next_rows = u16::from(!said.next.is_empty());
    for line in lines.iter().filter(|line| !line.is_empty()) {
        if y + next_rows <= last {
            canvas.cell(1, y, inside, style, line);
            y += 1;
        }
    }
    if next_rows > 0 {
        canvas.fill_row(last, theme.chosen());
        canvas.cell(1, last, inside, theme.chosen(), &said.next);
    }
}
