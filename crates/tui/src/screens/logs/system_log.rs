//! What the operating systems of the machine logged about memory, in one list.

use revisum_engine::units::count_text;
use revisum_record::logged::{LogEntry, LogKind};

use crate::say;
use crate::kit::canvas::Canvas;
use crate::kit::table::{self, Column, Line};
use crate::kit::theme::Theme;
use crate::shared::state::Shared;
use revisum_records::shown_time;
use revisum_records::wall_time;
use revisum_words::Said as _;

use super::page::SystemLogPage;

/// Rows below the list for the chosen entry.
const BELOW: u16 = 5;

fn all_columns() -> [Column<'static>; 5] {
    [
    Column::fixed(say::col_last(), 19),
    Column::fit(say::col_what()),
    Column::number(say::col_count()),
    Column::fixed(say::col_address(), 18),
    Column::fit(say::col_slot()),
]
}

/// Draws the list, and the chosen entry in full below it.
pub fn draw(canvas: &mut Canvas<'_>, shared: &Shared, page: &SystemLogPage) {
    let theme = canvas.theme;
    canvas.put(2, 0, theme.label(), say::system_title());
    let Some(logs) = page.logs.get() else {
        canvas.put(2, 2, theme.attention(), say::system_reading());
        return;
    };
    let kept = if page.kept { say::system_kept() } else { "" };
    let looked = format!("{}{kept}", revisum_words::logged::looked_through(logs));
    canvas.put(2, 1, theme.text(), &looked);
    let width = canvas.width().saturating_sub(4);
    let height = canvas.height();
    if let Some(trouble) = logs.trouble.first() {
        let more = if logs.trouble.len() > 1 { say::system_more(logs.trouble.len() - 1) } else { String::new() };
        canvas.paragraph(2, height.saturating_sub(2), width, theme.attention(), &format!("{trouble}{more}"));
    }
    if logs.entries.is_empty() {
        canvas.put(2, 3, theme.strong(), say::system_none());
        let words = say::system_proves_little();
        canvas.paragraph(2, 5, width, theme.label(), words);
        return;
    }
    let room = height.saturating_sub(4 + BELOW).max(1);
    let of = |at: usize| line(theme, shared, &logs.entries[at], at == page.at);
    table::draw(&mut canvas.part(0, 3, width + 4, room), &all_columns(), logs.entries.len(), Some(page.at), &of);
    if let Some(entry) = logs.entries.get(page.at) {
        let shown = (logs.entries.len() as u16).min(room);
        let y = (shown + 6).min(height.saturating_sub(BELOW) + 1);
        canvas.put(2, y.saturating_sub(1), theme.label(), &entry.log);
        canvas.paragraph(2, y, width, theme.text(), &entry.text);
    }
}

fn line(theme: &Theme, shared: &Shared, entry: &LogEntry, chosen: bool) -> Line {
    let text = if chosen { theme.strong() } else { theme.text() };
    let (mark, style) = match entry.kind {
        kind if kind.is_memory_error() => (theme.marks.failed, theme.error()),
        LogKind::CheckClean => (theme.marks.passed, theme.clean()),
        _ => (theme.marks.open, theme.attention()),
    };
    let address = entry.address.map_or_else(|| say::unknown().to_owned(), |address| address.to_string());
    let slots = if entry.slots.is_empty() { say::unknown().to_owned() } else { entry.slots.join(say::or()) };
    vec![
        (shown_time(entry, &wall_time::zone(shared.facts.simulated)), text),
        (format!("{mark} {}", entry.kind.said()), style),
        (count_text(entry.count), text),
        (address, if entry.address.is_some() { text } else { theme.label() }),
        (slots, if entry.slots.is_empty() { theme.label() } else { theme.strong() }),
    ]
}
