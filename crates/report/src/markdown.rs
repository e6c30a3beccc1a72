//! A document as Markdown.

use std::fmt::Write as _;

use revisum_engine::text::shown_as;

use crate::document::{Block, Document, Table};

/// The document as Markdown; figures are links to `<name>.svg` beside it.
pub fn markdown(document: &Document) -> String {
    let mut text = format!("# {}\n\n", escaped(&document.title));
    for line in &document.letterhead {
        let _ = writeln!(text, "{}  ", escaped(line));
    }
    if !document.letterhead.is_empty() {
        text.push('\n');
    }
    for (name, value) in &document.facts {
        let _ = writeln!(text, "* {}: {}", escaped(name), escaped(value));
    }
    for block in &document.blocks {
        text.push('\n');
        block_text(&mut text, block);
    }
    text
}

fn block_text(text: &mut String, block: &Block) {
    let _ = match block {
        Block::Answer { words, beneath, .. } => {
            let _ = writeln!(text, "**{}**", escaped(words));
            beneath.iter().try_for_each(|line| writeln!(text, "\n{}", escaped(line)))
        }
        Block::Heading(words) => writeln!(text, "## {}", escaped(words)),
        Block::SubHeading(words) => writeln!(text, "### {}", escaped(words)),
        Block::Paragraph(words) | Block::Small(words) => writeln!(text, "{}", escaped(words)),
        Block::Numbered(lines) => {
            (1..).zip(lines).try_for_each(|(number, line)| writeln!(text, "{number}. {}", escaped(line)))
        }
        Block::Bullets(lines) => lines.iter().try_for_each(|line| writeln!(text, "* {}", escaped(line))),
        Block::Table(table) => table_text(text, table),
        Block::Figure(figure) => writeln!(text, "![{}]({}.svg)", escaped(&figure.caption), figure.name),
    };
}

fn table_text(text: &mut String, table: &Table) -> std::fmt::Result {
    let row = |cells: &[String]| {
        let cells: Vec<String> = cells.iter().map(|cell| escaped(cell)).collect();
        format!("| {} |", cells.join(" | "))
    };
    writeln!(text, "{}", row(&table.columns))?;
    writeln!(text, "|{}", "---|".repeat(table.columns.len()))?;
    table.rows.iter().try_for_each(|cells| writeln!(text, "{}", row(cells)))
}

/// Text that comes from firmware must not become markup.
fn escaped(text: &str) -> String {
    let mut out = String::new();
    for letter in text.chars().filter_map(shown_as) {
        if matches!(letter, '\\' | '`' | '*' | '_' | '|' | '<' | '>' | '[' | ']' | '#') {
            out.push('\\');
        }
        out.push(letter);
    }
    out
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn foreign_text_stays_text() {
        let table = Table { columns: vec!["a|b".into()], shares: vec![1.0], rows: vec![vec!["<b>".into()]] };
        let document = Document {
            title: "T".into(),
            letterhead: Vec::new(),
            facts: vec![("x".into(), "*y*".into())],
            blocks: vec![Block::Table(table)],
            foot: String::new(),
            language: "en",
        };
        assert_eq!(markdown(&document), "# T\n\n* x: \\*y\\*\n\n| a\\|b |\n|---|\n| \\<b\\> |\n");
    }
}
