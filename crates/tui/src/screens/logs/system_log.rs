//! What the operating systems of the machine logged about memory, in one list.

use revisum_engine::units::count_text;
use revisum_record::logged::{LogEntry, LogKind};

use crate::kit::canvas::Canvas;
use crate::shared::state::Shared;
use revisum_records::shown_time;
use revisum_records::wall_time;

use super::page::SystemLogPage;

/// Rows below the list for the chosen entry.
const BELOW: u16 = 5;

/// Draws the list, and the chosen entry in full below it.
pub fn draw(canvas: &mut Canvas<'_>, shared: &Shared, page: &SystemLogPage) {
    let theme = canvas.theme;
    canvas.put(2, 0, theme.label(), "what the machine's own systems logged about memory");
    let Some(logs) = page.logs.get() else {
        canvas.put(2, 2, theme.attention(), "The logs are being read. A whole disk takes a while.");
        return;
    };
    let kept = if page.kept { "   kept in the job" } else { "" };
    let looked = format!("{}{kept}", logs.looked_through());
    canvas.put(2, 1, theme.text(), &looked);
    let width = canvas.width().saturating_sub(4);
    let height = canvas.height();
    if let Some(trouble) = logs.trouble.first() {
        let more = if logs.trouble.len() > 1 { format!(" {} more.", logs.trouble.len() - 1) } else { String::new() };
        canvas.paragraph(2, height.saturating_sub(2), width, theme.attention(), &format!("{trouble}{more}"));
    }
    if logs.entries.is_empty() {
        canvas.put(2, 3, theme.strong(), "No entry speaks of memory.");
        let words = "That proves little: many systems log nothing of it, and one that stopped could not. Disks that are mounted are looked \
                     through too; revisum system-log PATH reads any other.";
        canvas.paragraph(2, 5, width, theme.label(), words);
        return;
    }
    let columns: [u16; 5] = if canvas.width() < 100 { [4, 21, 45, 52, 70] } else { [4, 24, 52, 64, 84] };
    for (x, label) in columns.iter().zip(["last", "what", "count", "address", "slot"]) {
        canvas.put(*x, 3, theme.label(), label);
    }
    let room = usize::from(height.saturating_sub(5 + BELOW)).max(1);
    let first = page.at.saturating_sub(room - 1);
    for (row, (at, entry)) in (4u16..).zip(logs.entries.iter().enumerate().skip(first).take(room)) {
        canvas.line(row, at);
        line(canvas, shared, entry, &columns, row, at == page.at);
    }
    if let Some(entry) = logs.entries.get(page.at) {
        let shown = logs.entries.len().min(room) as u16;
        let y = (shown + 6).min(height.saturating_sub(BELOW) + 1);
        canvas.put(2, y.saturating_sub(1), theme.label(), &entry.log);
        canvas.paragraph(2, y, width, theme.text(), &entry.text);
    }
}

fn line(canvas: &mut Canvas<'_>, shared: &Shared, entry: &LogEntry, columns: &[u16; 5], row: u16, chosen: bool) {
    let theme = canvas.theme;
    let text = if chosen { theme.strong() } else { theme.text() };
    if chosen {
        canvas.put(2, row, theme.attention(), theme.marks.here);
    }
    let time = shown_time(entry, &wall_time::zone(shared.facts.simulated));
    canvas.put(columns[0], row, text, &format!("{time:.19}"));
    let (mark, style) = match entry.kind {
        kind if kind.is_memory_error() => (theme.marks.failed, theme.error()),
        LogKind::CheckClean => (theme.marks.passed, theme.clean()),
        _ => (theme.marks.open, theme.attention()),
    };
    let room = usize::from(columns[2] - columns[1] - 1);
    canvas.put(columns[1], row, style, &format!("{:.room$}", format!("{mark} {}", entry.kind.words())));
    canvas.put_right(columns[2] + 5, row, text, &count_text(entry.count));
    let address = entry.address.map_or_else(|| "not told".to_owned(), |address| address.to_string());
    canvas.put(columns[3], row, if entry.address.is_some() { text } else { theme.label() }, &address);
    let slots = if entry.slots.is_empty() { "not told".to_owned() } else { entry.slots.join(" or ") };
    canvas.put(columns[4], row, if entry.slots.is_empty() { theme.label() } else { theme.strong() }, &slots);
}
