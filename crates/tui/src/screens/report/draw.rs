//! The report as it would be written now.

use revisum_report::{Block, Document, Table};

use crate::say;
use crate::kit::canvas::Canvas;

use super::Report;

/// What a line of the preview is.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Role {
    /// The answer, bad or not.
    Answer(bool),
    /// A title.
    Title,
    /// Running text.
    Text,
    /// Text that matters less.
    Label,
}

/// Widest text.
const WIDEST: usize = 110;

/// The lines of the report at this width of the terminal.
pub fn report_lines(screen: &Report, columns: usize) -> Vec<(Role, String)> {
    let width = columns.saturating_sub(6).clamp(20, WIDEST);
    screen.report.as_ref().map(|report| lines(report, width)).unwrap_or_default()
}

/// Draws the preview.
pub fn draw(canvas: &mut Canvas<'_>, screen: &Report) {
    let theme = canvas.theme;
    let lines = report_lines(screen, usize::from(canvas.width()));
    if lines.is_empty() {
        canvas.put(2, 0, theme.label(), say::report_being_made());
        return;
    }
    let room = usize::from(canvas.height());
    let first = screen.line.min(lines.len().saturating_sub(room));
    for (y, (role, words)) in (0u16..).zip(lines.iter().skip(first).take(room)) {
        let style = match role {
            Role::Answer(true) => theme.error(),
            Role::Answer(false) => theme.clean(),
            Role::Title => theme.strong(),
            Role::Text => theme.text(),
            Role::Label => theme.label(),
        };
        canvas.put(2, y, style, words);
    }
    let below = lines.len().saturating_sub(first + room);
    if below > 0 {
        canvas.put_right(canvas.width().saturating_sub(2), 0, theme.label(), &say::report_below(below));
    }
}

fn lines(report: &Document, width: usize) -> Vec<(Role, String)> {
    let mut all: Vec<(Role, String)> = report.letterhead.iter().map(|line| (Role::Label, line.clone())).collect();
    all.push((Role::Title, report.title.clone()));
    for (name, value) in &report.facts {
        wrap(&mut all, Role::Label, &format!("{name}: {value}"), "", width);
    }
    for block in &report.blocks {
        if !matches!(block, Block::Paragraph(_) | Block::Small(_)) {
            all.push((Role::Text, String::new()));
        }
        of_block(&mut all, block, width);
    }
    all
}

fn of_block(all: &mut Vec<(Role, String)>, block: &Block, width: usize) {
    match block {
        Block::Answer { words, bad, beneath } => {
            wrap(all, Role::Answer(*bad), words, "", width);
            beneath.iter().for_each(|line| wrap(all, Role::Text, line, "", width));
        }
        Block::Heading(words) | Block::SubHeading(words) => wrap(all, Role::Title, words, "", width),
        Block::Paragraph(words) => wrap(all, Role::Text, words, "", width),
        Block::Small(words) => wrap(all, Role::Label, words, "", width),
        Block::Numbered(lines) => {
            (1..).zip(lines).for_each(|(number, line)| wrap(all, Role::Text, line, &format!("{number:>2}  "), width));
        }
        Block::Bullets(lines) => lines.iter().for_each(|line| wrap(all, Role::Text, line, " -  ", width)),
        Block::Table(table) => of_table(all, table, width),
        Block::Figure(figure) => {
            wrap(all, Role::Label, &format!("[{}.svg] {}", figure.name, figure.caption), "", width)
        }
    }
}

fn wrap(all: &mut Vec<(Role, String)>, role: Role, words: &str, mark: &str, width: usize) {
    let indent = " ".repeat(mark.chars().count());
    let options = textwrap::Options::new(width).initial_indent(mark).subsequent_indent(&indent);
    all.extend(textwrap::wrap(words, options).into_iter().map(|line| (role, line.into_owned())));
}

fn of_table(all: &mut Vec<(Role, String)>, table: &Table, width: usize) {
    let total: f32 = table.shares.iter().sum();
    let widths: Vec<usize> =
        table.shares.iter().map(|share| ((width as f32 * share / total) as usize).max(4)).collect();
    let row = |cells: &[String]| {
        let columns: Vec<Vec<String>> = cells
            .iter()
            .zip(&widths)
            .map(|(cell, width)| textwrap::wrap(cell, width - 1).into_iter().map(|line| line.into_owned()).collect())
            .collect();
        let height = columns.iter().map(Vec::len).max().unwrap_or(0).max(1);
        let line = |at: usize| {
            let cells = columns.iter().zip(&widths);
            let cells = cells.map(|(lines, width)| format!("{:<width$}", lines.get(at).map_or("", String::as_str)));
            cells.collect::<String>().trim_end().to_owned()
        };
        (0..height).map(line).collect::<Vec<_>>()
    };
    all.extend(row(&table.columns).into_iter().map(|line| (Role::Label, line)));
    for cells in &table.rows {
        all.extend(row(cells).into_iter().map(|line| (Role::Text, line)));
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn tables_and_lists_keep_to_the_width() {
        let table = Table {
            columns: vec!["run".into(), "what it showed".into()],
            shares: vec![0.2, 0.8],
            rows: vec![vec!["1".into(), "many wrong words in several slots of this machine".into()]],
        };
        let report = Document {
            title: "Report".into(),
            letterhead: Vec::new(),
            facts: Vec::new(),
            blocks: vec![Block::Table(table), Block::Numbered(vec!["one step after the other, slowly".into()])],
            foot: String::new(),
            language: "en",
        };
        let lines = lines(&report, 24);
        assert!(lines.iter().all(|(_, line)| line.chars().count() <= 24), "{lines:?}");
        assert!(lines.iter().any(|(_, line)| line == " 1  one step after the"), "{lines:?}");
        assert!(lines.iter().any(|(_, line)| line == "1   many wrong words"), "{lines:?}");
    }
}
