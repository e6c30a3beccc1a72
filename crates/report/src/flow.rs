//! A document flowed onto A4 pages, each of them a scene: tables go on over pages with their titles, titles stay with what follows.

use revisum_drawing::{Colour, Fonts, Scene, Weight};
use thiserror::Error;

use crate::document::{Block, Document, Figure, Table};
use crate::paper;

/// A4 in points.
const PAGE: (f32, f32) = (595.0, 842.0);
const LEFT: f32 = 56.0;
const TOP: f32 = 56.0;
const BOTTOM: f32 = 780.0;
const WIDTH: f32 = PAGE.0 - 2.0 * LEFT;
const FOOT: f32 = 810.0;
const GAP: f32 = 8.0;
/// Space between the columns of a table.
const GUTTER: f32 = 8.0;
/// Size of the letters at the head of a table, and in it.
const HEAD: f32 = 8.5;
const CELL: f32 = 9.0;

const INK: Colour = Colour::solid(0x23, 0x26, 0x2a);
const LABEL: Colour = Colour::solid(0x6a, 0x67, 0x60);
const RULE: Colour = Colour::solid(0xd5, 0xd1, 0xc6);
const GROUND: Colour = Colour::solid(0xf3, 0xf1, 0xeb);
const BAD: Colour = Colour::solid(0xc7, 0x43, 0x2c);
const CLEAN: Colour = Colour::solid(0x1f, 0x82, 0x75);

/// Why no PDF could be made.
#[derive(Debug, Error)]
pub enum PdfError {
    /// A font cannot be read.
    #[error("a font of the report cannot be read")]
    Font,
    /// A font cannot be cut down to the letters that are used.
    #[error("a font of the report cannot be cut down to the letters that are used")]
    Subset,
}

/// The document as PDF.
///
/// # Errors
/// When a font cannot be read or cut down.
pub fn pdf(document: &Document) -> Result<Vec<u8>, PdfError> {
    let fonts = Fonts::read().ok_or(PdfError::Font)?;
    paper::write(&pages(document, &fonts), &fonts, &document.title, document.language)
}

/// The document as pages; there is at least one.
fn pages(document: &Document, fonts: &Fonts) -> Vec<Scene> {
    let mut flow = Flow { fonts, pages: vec![page()], y: TOP };
    flow.head(document);
    for (at, block) in document.blocks.iter().enumerate() {
        flow.block(block, document.blocks.get(at + 1));
    }
    flow.number(&document.foot);
    flow.pages
}

fn page() -> Scene {
    Scene::new(PAGE.0, PAGE.1)
}

/// Lines that fit; a word that is wider than the whole line is cut.
/// Widths of columns by their shares, but none so narrow that a word of it is torn, as long as the others have room to give.
fn widths(fonts: &Fonts, table: &Table) -> Vec<f32> {
    let total: f32 = table.shares.iter().sum::<f32>().max(0.01);
    let mut widths: Vec<f32> = table.shares.iter().map(|share| WIDTH * share / total).collect();
    let least: Vec<f32> = (0..widths.len()).map(|at| longest_word(fonts, table, at) + GUTTER + 0.5).collect();
    for _ in 0..widths.len() {
        let missing: f32 = widths.iter().zip(&least).map(|(width, least)| (least - width).max(0.0)).sum();
        let spare: f32 = widths.iter().zip(&least).map(|(width, least)| (width - least).max(0.0)).sum();
        if missing <= 0.0 || spare < missing {
            break;
        }
        for (width, least) in widths.iter_mut().zip(&least) {
            let give = (*width - least).max(0.0) / spare * missing;
            *width = (*width - give).max(*least);
        }
    }
    widths
}

fn longest_word(fonts: &Fonts, table: &Table, column: usize) -> f32 {
    let widest = |text: &String, size| {
        text.split_whitespace().map(|word| fonts.width(word, Weight::Regular, size)).fold(0.0, f32::max)
    };
    let head = table.columns.get(column).map_or(0.0, |head| widest(head, HEAD));
    table.rows.iter().filter_map(|row| row.get(column)).map(|cell| widest(cell, CELL)).fold(head, f32::max)
}

fn wrapped(fonts: &Fonts, text: &str, weight: Weight, size: f32, width: f32) -> Vec<String> {
    let mut lines = vec![String::new()];
    for word in text.split_whitespace().flat_map(|word| pieces(fonts, word, weight, size, width)) {
        let last = lines.last().map(String::as_str).unwrap_or_default();
        let longer = if last.is_empty() { word.clone() } else { format!("{last} {word}") };
        let fits = last.is_empty() || fonts.width(&longer, weight, size) <= width;
        match lines.last_mut().filter(|_| fits) {
            Some(last) => *last = longer,
            None => lines.push(word),
        }
    }
    lines
}

fn pieces(fonts: &Fonts, word: &str, weight: Weight, size: f32, width: f32) -> Vec<String> {
    let mut pieces = vec![String::new()];
    for letter in word.chars() {
        let last = pieces.last().map(String::as_str).unwrap_or_default();
        if !last.is_empty() && fonts.width(&format!("{last}{letter}"), weight, size) > width {
            pieces.push(String::new());
        }
        if let Some(piece) = pieces.last_mut() {
            piece.push(letter);
        }
    }
    pieces
}

struct Flow<'a> {
    fonts: &'a Fonts,
    pages: Vec<Scene>,
    y: f32,
}

impl Flow<'_> {
    /// The page at hand: there is always one.
    fn page(&mut self) -> &mut Scene {
        if self.pages.is_empty() {
            self.pages.push(page());
        }
        let last = self.pages.len() - 1;
        &mut self.pages[last]
    }

    fn fill(&mut self, at: (f32, f32), size: (f32, f32), colour: Colour) {
        self.page().rectangle(at, size, colour);
    }

    /// A new page when this much does not fit.
    fn make_room(&mut self, height: f32) {
        if self.y + height > BOTTOM && self.y > TOP {
            self.pages.push(page());
            self.y = TOP;
        }
    }

    fn line(&mut self, x: f32, words: &str, weight: Weight, size: f32, colour: Colour) {
        let height = size * 1.4;
        self.make_room(height);
        self.put(x, self.y + size, words, weight, size, colour);
        self.y += height;
    }

    fn put(&mut self, x: f32, y: f32, words: &str, weight: Weight, size: f32, colour: Colour) {
        self.page().text((x, y), size, weight, colour, words);
    }

    fn paragraph(&mut self, x: f32, words: &str, weight: Weight, size: f32, colour: Colour) {
        for line in wrapped(self.fonts, words, weight, size, LEFT + WIDTH - x) {
            self.line(x, &line, weight, size, colour);
        }
    }

    fn head(&mut self, document: &Document) {
        for (at, line) in document.letterhead.iter().enumerate() {
            let (weight, size) = if at == 0 { (Weight::Semibold, 11.0) } else { (Weight::Regular, 9.0) };
            let x = LEFT + WIDTH - self.fonts.width(line, weight, size);
            self.put(x, TOP + size + 13.0 * at as f32, line, weight, size, LABEL);
        }
        self.paragraph(LEFT, &document.title, Weight::Semibold, 20.0, INK);
        self.y = self.y.max(TOP + 13.0 * document.letterhead.len() as f32) + GAP;
        for (name, value) in &document.facts {
            let top = self.y;
            self.put(LEFT, top + 9.5, name, Weight::Regular, 9.5, LABEL);
            self.paragraph(LEFT + 110.0, value, Weight::Regular, 9.5, INK);
        }
        self.y += GAP;
    }

    fn block(&mut self, block: &Block, next: Option<&Block>) {
        match block {
            Block::Answer { words, bad, beneath } => self.answer(words, *bad, beneath),
            Block::Heading(words) => {
                // A title stays with what follows it.
                let follows = match next {
                    Some(Block::Figure(_)) => 170.0,
                    Some(Block::SubHeading(_)) => 90.0,
                    _ => 60.0,
                };
                self.make_room(34.0 + follows);
                self.y += 14.0;
                self.paragraph(LEFT, words, Weight::Semibold, 13.0, INK);
                self.y += 3.0;
            }
            Block::SubHeading(words) => {
                self.make_room(80.0);
                self.y += 6.0;
                self.paragraph(LEFT, words, Weight::Semibold, 10.5, INK);
                self.y += 2.0;
            }
            Block::Paragraph(words) => {
                self.keep_together(words, 10.0);
                self.paragraph(LEFT, words, Weight::Regular, 10.0, INK);
                self.y += 4.0;
            }
            Block::Small(words) => {
                self.keep_together(words, 8.5);
                self.paragraph(LEFT, words, Weight::Regular, 8.5, LABEL);
                self.y += 4.0;
            }
            Block::Numbered(lines) => self.list((1..).map(|number: u32| format!("{number}")).zip(lines)),
            Block::Bullets(lines) => self.list(std::iter::repeat_with(|| "•".to_owned()).zip(lines)),
            Block::Table(table) => self.table(table),
            Block::Figure(figure) => self.figure(figure),
        }
    }

    /// A short paragraph does not leave a line behind on the next page.
    fn keep_together(&mut self, words: &str, size: f32) {
        const SHORT: usize = 4;
        let rows = wrapped(self.fonts, words, Weight::Regular, size, WIDTH).len();
        if rows <= SHORT {
            self.make_room(rows as f32 * size * 1.4);
        }
    }

    fn answer(&mut self, words: &str, bad: bool, beneath: &[String]) {
        let inner = WIDTH - 32.0;
        let large = wrapped(self.fonts, words, Weight::Semibold, 15.0, inner);
        let small: Vec<Vec<String>> =
            beneath.iter().map(|line| wrapped(self.fonts, line, Weight::Regular, 10.0, inner)).collect();
        let lines = small.iter().map(Vec::len).sum::<usize>();
        let height = 20.0 + 21.0 * large.len() as f32 + 14.0 * lines as f32;
        self.make_room(height);
        let (top, colour) = (self.y, if bad { BAD } else { CLEAN });
        self.fill((LEFT, top), (WIDTH, height), GROUND);
        self.fill((LEFT, top), (5.0, height), colour);
        self.y = top + 10.0;
        large.iter().for_each(|line| self.line(LEFT + 18.0, line, Weight::Semibold, 15.0, colour));
        small.iter().flatten().for_each(|line| self.line(LEFT + 18.0, line, Weight::Regular, 10.0, INK));
        self.y = top + height + GAP;
    }

    fn list<'b>(&mut self, lines: impl Iterator<Item = (String, &'b String)>) {
        for (mark, words) in lines {
            let rows = wrapped(self.fonts, words, Weight::Regular, 10.0, WIDTH - 20.0).len();
            self.make_room(14.0 * rows as f32);
            self.put(LEFT, self.y + 10.0, &mark, Weight::Semibold, 10.0, LABEL);
            self.paragraph(LEFT + 20.0, words, Weight::Regular, 10.0, INK);
            self.y += 3.0;
        }
    }

    fn table(&mut self, table: &Table) {
        let widths = widths(self.fonts, table);
        self.row(&table.columns, &widths, Weight::Regular, LABEL, HEAD);
        for cells in &table.rows {
            let page = self.pages.len();
            let height = self.row_height(cells, &widths, CELL);
            self.make_room(height);
            if self.pages.len() > page {
                self.row(&table.columns, &widths, Weight::Regular, LABEL, HEAD);
            }
            self.fill((LEFT, self.y), (WIDTH, 0.6), RULE);
            self.row(cells, &widths, Weight::Regular, INK, CELL);
        }
        self.y += 6.0;
    }

    fn row_height(&self, cells: &[String], widths: &[f32], size: f32) -> f32 {
        let lines = cells
            .iter()
            .zip(widths)
            .map(|(cell, width)| wrapped(self.fonts, cell, Weight::Regular, size, width - GUTTER).len());
        lines.max().unwrap_or(1) as f32 * size * 1.35 + 5.0
    }

    fn row(&mut self, cells: &[String], widths: &[f32], weight: Weight, colour: Colour, size: f32) {
        let height = self.row_height(cells, widths, size);
        self.make_room(height);
        let mut x = LEFT;
        for (cell, width) in cells.iter().zip(widths) {
            for (at, line) in wrapped(self.fonts, cell, weight, size, width - GUTTER).iter().enumerate() {
                let y = self.y + 2.5 + size + size * 1.35 * at as f32;
                self.put(x, y, line, weight, size, colour);
            }
            x += width;
        }
        self.y += height;
    }

    fn figure(&mut self, figure: &Figure) {
        let scene = &figure.scene;
        let scale = (WIDTH / scene.width).min((BOTTOM - TOP - 30.0) / scene.height);
        let height = scene.height * scale;
        self.make_room(height + 22.0);
        let top = self.y;
        self.page().place(scene, (LEFT, top), scale);
        self.y += height + 2.0;
        self.paragraph(LEFT, &figure.caption, Weight::Regular, 8.5, LABEL);
        self.y += 6.0;
    }

    /// The foot of every page, now that their number is known.
    fn number(&mut self, foot: &str) {
        let count = self.pages.len().to_string();
        for (number, page) in (1..).zip(&mut self.pages) {
            let foot = foot.replace("{page}", &format!("{number}")).replace("{pages}", &count);
            page.text((LEFT, FOOT), 8.0, Weight::Regular, LABEL, &foot);
        }
    }
}

#[cfg(test)]
mod tests {
    use revisum_drawing::{Shape, Text};
    use rstest::rstest;

    use super::*;

    fn document(blocks: Vec<Block>) -> Document {
        Document {
            title: "Memory report".into(),
            letterhead: vec!["The shop".into(), "Its street".into()],
            facts: vec![("Computer".into(), "dome-1".into())],
            blocks,
            foot: "{page} of {pages}".into(),
            language: "en",
        }
    }

    fn texts(page: &Scene) -> Vec<&Text> {
        page.shapes.iter().filter_map(|shape| if let Shape::Text(text) = shape { Some(text) } else { None }).collect()
    }

    fn words(page: &Scene) -> Vec<&str> {
        texts(page).into_iter().map(|text| text.words.as_str()).collect()
    }

    fn long(count: usize) -> String {
        (0..count).map(|at| format!("word{at}")).collect::<Vec<_>>().join(" ")
    }

    fn table(rows: usize) -> Block {
        Block::Table(Table {
            columns: vec!["run".into(), "result".into()],
            shares: vec![0.2, 0.8],
            rows: (0..rows).map(|at| vec![at.to_string(), long(at % 40)]).collect(),
        })
    }

    /// Whatever is in it: every line lies on a page, between its edges, and none of it is lost.
    #[rstest]
    #[case::nothing(vec![])]
    #[case::a_long_paragraph(vec![Block::Paragraph(long(3000))])]
    #[case::a_long_table(vec![table(120)])]
    #[case::lists(vec![Block::Numbered((0..60).map(long).collect()), Block::Bullets((0..60).map(long).collect())])]
    #[case::a_word_wider_than_the_page(vec![Block::Paragraph("m".repeat(500)), Block::Heading("m".repeat(200))])]
    #[case::an_answer(vec![Block::Answer { words: long(40), bad: true, beneath: vec![long(80), long(10)] }])]
    #[case::titles(std::iter::repeat_with(|| Block::Heading("A title".into())).take(80).collect())]
    fn every_line_lies_on_a_page(#[case] blocks: Vec<Block>) {
        let fonts = Fonts::read().unwrap();
        let document = document(blocks.clone());
        let pages = pages(&document, &fonts);
        for text in pages.iter().flat_map(texts) {
            let end = text.x + fonts.width(&text.words, text.weight, text.size);
            assert!(text.x >= LEFT - 0.1 && end <= LEFT + WIDTH + 0.5, "{text:?} ends at {end}");
            assert!((TOP..=FOOT + 1.0).contains(&text.y), "{text:?}");
        }
        let body = pages.iter().flat_map(texts).filter(|text| text.y <= BOTTOM + 1.0);
        let all = body.map(|text| text.words.as_str()).collect::<Vec<_>>().concat().replace(' ', "");
        for block in &blocks {
            if let Block::Paragraph(text) | Block::Heading(text) = block {
                assert!(all.contains(&text.replace(' ', "")), "what was said is there");
            }
        }
    }

    #[test]
    fn a_table_begins_each_page_with_its_titles() {
        let fonts = Fonts::read().unwrap();
        let pages = pages(&document(vec![table(120)]), &fonts);
        assert!(pages.len() > 2);
        for page in &pages {
            assert!(words(page).contains(&"result"), "{:?}", words(page));
        }
        let numbers: Vec<String> = (0..120).map(|at| at.to_string()).collect();
        let shown: Vec<&str> =
            pages.iter().flat_map(words).filter(|word| numbers.iter().any(|known| known == word)).collect();
        assert_eq!(shown, numbers.iter().map(String::as_str).collect::<Vec<_>>(), "every row once, in order");
    }

    #[rstest]
    #[case::words(vec![])]
    #[case::a_smaller_title(vec![Block::SubHeading("Smaller".into())])]
    fn a_title_stays_with_what_follows_it(#[case] between: Vec<Block>) {
        let fonts = Fonts::read().unwrap();
        for lines in 40..60 {
            let filling = Block::Bullets(vec!["a line".into(); lines]);
            let mut blocks = vec![filling, Block::Heading("A title".into())];
            blocks.extend(between.clone());
            blocks.push(Block::Paragraph("What follows.".into()));
            let pages = pages(&document(blocks), &fonts);
            let of = |wanted: &str| pages.iter().position(|page| words(page).contains(&wanted));
            assert_eq!(of("A title"), of("What follows."), "after {lines} lines");
        }
    }

    #[test]
    fn pages_are_numbered() {
        let fonts = Fonts::read().unwrap();
        let pages = pages(&document(vec![Block::Paragraph(long(3000))]), &fonts);
        for (at, page) in pages.iter().enumerate() {
            assert!(words(page).contains(&format!("{} of {}", at + 1, pages.len()).as_str()), "{:?}", words(page));
        }
    }

    /// A narrow column gets what its longest word needs, from those that have more; together they stay as wide as the page.
    #[rstest]
    #[case(&["Lauf", "begonnen", "Ergebnis"], &[0.2, 8.0, 2.0])]
    #[case(&["Einstellungen", "Standard", "x"], &[0.1, 0.1, 9.0])]
    fn no_word_of_a_table_is_torn(#[case] columns: &[&str], #[case] shares: &[f32]) {
        let fonts = Fonts::read().unwrap();
        let columns: Vec<String> = columns.iter().map(ToString::to_string).collect();
        let table = Table { rows: vec![columns.clone()], columns, shares: shares.to_vec() };
        let widths = widths(&fonts, &table);
        assert!((widths.iter().sum::<f32>() - WIDTH).abs() < 0.1, "{widths:?}");
        for (word, width) in table.columns.iter().zip(&widths) {
            assert_eq!(wrapped(&fonts, word, Weight::Regular, CELL, width - GUTTER).len(), 1, "{word}: {widths:?}");
        }
    }

    #[rstest]
    #[case("", 100.0, 1)]
    #[case("one", 100.0, 1)]
    #[case("one two three four five six seven eight nine ten", 60.0, 5)]
    #[case("mmmmmmmmmmmmmmmmmmmm", 50.0, 4)]
    fn lines_are_as_wide_as_there_is_room(#[case] text: &str, #[case] width: f32, #[case] least: usize) {
        let fonts = Fonts::read().unwrap();
        let lines = wrapped(&fonts, text, Weight::Regular, 10.0, width);
        assert!(lines.len() >= least, "{lines:?}");
        assert!(lines.iter().all(|line| fonts.width(line, Weight::Regular, 10.0) <= width), "{lines:?}");
        assert_eq!(lines.concat().replace(' ', ""), text.replace(' ', ""));
    }
}
