//! A module's life: what jobs made of it, and every run of it on whatever mainboard.

use revisum_engine::units::{count_text, counted};

use crate::kit::canvas::{Canvas, shortened};
use super::page::LifePage;

/// Draws it, the newest run first.
pub fn draw(canvas: &mut Canvas<'_>, page: &LifePage) {
    let (theme, life) = (canvas.theme, &page.life);
    let x = canvas.put(2, 0, theme.label(), "the life of ");
    let kind = life.runs.last().map(|run| run.kind.as_str()).unwrap_or_default();
    let failed = life.runs.iter().filter(|run| run.errors > 0).count() as u64;
    let x = canvas.put(x, 0, theme.strong(), &format!("{}   {kind}   {}", page.name, life.serial));
    let runs = format!("{}, errors on it in {failed}", counted(life.runs.len() as u64, "run"));
    canvas.put(x + 3, 0, if failed > 0 { theme.error() } else { theme.text() }, &runs);
    let mut y = 2;
    for end in life.ends.iter().rev().take(4) {
        let closed = end.closed.as_ref().map_or("open", |_| "closed");
        canvas.put(4, y, theme.label(), &format!("job {} {closed}", end.job));
        canvas.put(36, y, theme.strong(), &end.end);
        y += 1;
    }
    if life.runs.is_empty() {
        canvas.put(2, y + 1, theme.text(), "No run with it is on record here.");
        return;
    }
    y += u16::from(!life.ends.is_empty());
    // A narrow screen leaves the mainboard to the run itself.
    let wide = canvas.width() >= 100;
    let columns: [u16; 6] = if wide { [4, 22, 36, 60, 70, 79] } else { [4, 22, 36, 36, 46, 55] };
    for (x, label) in columns.iter().zip(["started", "machine", "mainboard", "slot", "errors", "result"]) {
        if wide || label != "mainboard" {
            canvas.put(*x, y, theme.label(), label);
        }
    }
    let room = usize::from(canvas.height().saturating_sub(y + 2)).max(1);
    let first = page.at.saturating_sub(room - 1);
    for (row, (at, run)) in (y + 1..).zip(life.runs.iter().rev().enumerate().skip(first).take(room)) {
        canvas.line(row, at);
        let style = if at == page.at { theme.strong() } else { theme.text() };
        if at == page.at {
            canvas.put(2, row, theme.attention(), theme.marks.here);
        }
        canvas.put(columns[0], row, style, &format!("{:.16}", run.started.replace('T', " ")));
        canvas.put(columns[1], row, style, &format!("{:.13}", run.machine));
        if wide {
            canvas.put(columns[2], row, style, &format!("{:.23}", run.mainboard));
        }
        canvas.put(columns[3], row, style, &format!("{:.7}", run.slot));
        let errors = if run.errors > 0 { theme.error() } else { theme.label() };
        canvas.put_right(columns[4] + 6, row, errors, &count_text(run.errors));
        let result = if run.headline.is_empty() { &run.outcome } else { &run.headline };
        canvas.put(
            columns[5],
            row,
            style,
            &shortened(result, usize::from(canvas.width().saturating_sub(columns[5] + 1))),
        );
    }
}
