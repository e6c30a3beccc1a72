//! A document as PDF: A4, text that can be selected, fonts embedded, tables that go on over pages with their titles.

use std::sync::Arc;

use krilla::color::rgb;
use krilla::geom::{PathBuilder, Point, Size, Transform};
use krilla::metadata::Metadata;
use krilla::num::NormalizedF32;
use krilla::page::PageSettings;
use krilla::paint::Fill;
use krilla::surface::Surface;
use krilla::text::{Font, TextDirection};
use krilla_svg::{SurfaceExt, SvgSettings};
use thiserror::Error;
use ttf_parser::Face;

use crate::document::{Block, Document, Figure, Table};

const REGULAR: &[u8] = include_bytes!("../fonts/OpenSans-Regular.ttf");
const SEMIBOLD: &[u8] = include_bytes!("../fonts/OpenSans-Semibold.ttf");

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

const INK: [u8; 3] = [0x23, 0x26, 0x2a];
const LABEL: [u8; 3] = [0x6a, 0x67, 0x60];
const RULE: [u8; 3] = [0xd5, 0xd1, 0xc6];
const GROUND: [u8; 3] = [0xf3, 0xf1, 0xeb];
const BAD: [u8; 3] = [0xc7, 0x43, 0x2c];
const CLEAN: [u8; 3] = [0x1f, 0x82, 0x75];

/// Why no PDF could be made.
#[derive(Debug, Error)]
pub enum PdfError {
    /// A font cannot be read.
    #[error("a font of the report cannot be read")]
    Font,
    /// A drawing is no drawing.
    #[error("the drawing {0} cannot be read")]
    Drawing(String),
    /// The document could not be put together.
    #[error("the PDF cannot be put together: {0}")]
    Whole(String),
}

/// The document as PDF.
///
/// # Errors
/// When a font or a drawing cannot be read, or the document cannot be put together.
pub fn pdf(document: &Document) -> Result<Vec<u8>, PdfError> {
    let fonts = Fonts::new()?;
    let mut flow = Flow { fonts: &fonts, pages: vec![Vec::new()], y: TOP };
    flow.head(document);
    for (at, block) in document.blocks.iter().enumerate() {
        flow.block(block, document.blocks.get(at + 1))?;
    }
    flow.write(document)
}

#[derive(Clone, Copy)]
enum Weight {
    Regular,
    Semibold,
}

struct Fonts {
    fonts: [Font; 2],
    faces: [Face<'static>; 2],
    database: Arc<usvg::fontdb::Database>,
}

impl Fonts {
    fn new() -> Result<Self, PdfError> {
        let font = |bytes: &'static [u8]| Font::new(bytes.to_vec().into(), 0).ok_or(PdfError::Font);
        let face = |bytes| Face::parse(bytes, 0).map_err(|_| PdfError::Font);
        let mut database = usvg::fontdb::Database::new();
        database.load_font_data(REGULAR.to_vec());
        database.load_font_data(SEMIBOLD.to_vec());
        database.set_sans_serif_family("Open Sans");
        Ok(Self {
            fonts: [font(REGULAR)?, font(SEMIBOLD)?],
            faces: [face(REGULAR)?, face(SEMIBOLD)?],
            database: Arc::new(database),
        })
    }

    fn width(&self, text: &str, weight: Weight, size: f32) -> f32 {
        let face = &self.faces[weight as usize];
        let advance = |letter| face.glyph_index(letter).and_then(|glyph| face.glyph_hor_advance(glyph)).unwrap_or(600);
        text.chars().map(|letter| f32::from(advance(letter))).sum::<f32>() * size / f32::from(face.units_per_em())
    }

    /// Lines that fit; a word that is wider than the whole line is cut.
    fn wrapped(&self, text: &str, weight: Weight, size: f32, width: f32) -> Vec<String> {
        let mut lines = vec![String::new()];
        for word in text.split_whitespace().flat_map(|word| self.pieces(word, weight, size, width)) {
            let last = lines.last().map(String::as_str).unwrap_or_default();
            let longer = if last.is_empty() { word.clone() } else { format!("{last} {word}") };
            let fits = last.is_empty() || self.width(&longer, weight, size) <= width;
            match lines.last_mut().filter(|_| fits) {
                Some(last) => *last = longer,
                None => lines.push(word),
            }
        }
        lines
    }

    fn pieces(&self, word: &str, weight: Weight, size: f32, width: f32) -> Vec<String> {
        let mut pieces = vec![String::new()];
        for letter in word.chars() {
            let last = pieces.last().map(String::as_str).unwrap_or_default();
            if !last.is_empty() && self.width(&format!("{last}{letter}"), weight, size) > width {
                pieces.push(String::new());
            }
            if let Some(piece) = pieces.last_mut() {
                piece.push(letter);
            }
        }
        pieces
    }
}

/// Something at its place on a page.
enum Mark {
    Text { x: f32, y: f32, weight: Weight, size: f32, colour: [u8; 3], words: String },
    Box { x: f32, y: f32, width: f32, height: f32, colour: [u8; 3] },
    Drawing { y: f32, width: f32, height: f32, tree: Box<usvg::Tree> },
}

struct Flow<'a> {
    fonts: &'a Fonts,
    pages: Vec<Vec<Mark>>,
    y: f32,
}

impl Flow<'_> {
    fn mark(&mut self, mark: Mark) {
        if let Some(page) = self.pages.last_mut() {
            page.push(mark);
        }
    }

    /// A new page when this much does not fit.
    fn make_room(&mut self, height: f32) {
        if self.y + height > BOTTOM && self.y > TOP {
            self.pages.push(Vec::new());
            self.y = TOP;
        }
    }

    fn line(&mut self, x: f32, words: &str, weight: Weight, size: f32, colour: [u8; 3]) {
        let height = size * 1.4;
        self.make_room(height);
        self.put(x, self.y + size, words, weight, size, colour);
        self.y += height;
    }

    fn put(&mut self, x: f32, y: f32, words: &str, weight: Weight, size: f32, colour: [u8; 3]) {
        self.mark(Mark::Text { x, y, weight, size, colour, words: words.to_owned() });
    }

    fn paragraph(&mut self, x: f32, words: &str, weight: Weight, size: f32, colour: [u8; 3]) {
        for line in self.fonts.wrapped(words, weight, size, LEFT + WIDTH - x) {
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

    fn block(&mut self, block: &Block, next: Option<&Block>) -> Result<(), PdfError> {
        match block {
            Block::Answer { words, bad, beneath } => self.answer(words, *bad, beneath),
            Block::Heading(words) => {
                // A title stays with what follows it.
                let follows = if matches!(next, Some(Block::Figure(_))) { 170.0 } else { 60.0 };
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
                self.paragraph(LEFT, words, Weight::Regular, 10.0, INK);
                self.y += 4.0;
            }
            Block::Small(words) => {
                self.paragraph(LEFT, words, Weight::Regular, 8.5, LABEL);
                self.y += 4.0;
            }
            Block::Numbered(lines) => self.list((1..).map(|number: u32| format!("{number}")).zip(lines)),
            Block::Bullets(lines) => self.list(std::iter::repeat_with(|| "•".to_owned()).zip(lines)),
            Block::Table(table) => self.table(table),
            Block::Figure(figure) => self.figure(figure)?,
        }
        Ok(())
    }

    fn answer(&mut self, words: &str, bad: bool, beneath: &[String]) {
        let inner = WIDTH - 32.0;
        let large = self.fonts.wrapped(words, Weight::Semibold, 15.0, inner);
        let small: Vec<Vec<String>> =
            beneath.iter().map(|line| self.fonts.wrapped(line, Weight::Regular, 10.0, inner)).collect();
        let lines = small.iter().map(Vec::len).sum::<usize>();
        let height = 20.0 + 21.0 * large.len() as f32 + 14.0 * lines as f32;
        self.make_room(height);
        let (top, colour) = (self.y, if bad { BAD } else { CLEAN });
        self.mark(Mark::Box { x: LEFT, y: top, width: WIDTH, height, colour: GROUND });
        self.mark(Mark::Box { x: LEFT, y: top, width: 5.0, height, colour });
        self.y = top + 10.0;
        large.iter().for_each(|line| self.line(LEFT + 18.0, line, Weight::Semibold, 15.0, colour));
        small.iter().flatten().for_each(|line| self.line(LEFT + 18.0, line, Weight::Regular, 10.0, INK));
        self.y = top + height + GAP;
    }

    fn list<'b>(&mut self, lines: impl Iterator<Item = (String, &'b String)>) {
        for (mark, words) in lines {
            let rows = self.fonts.wrapped(words, Weight::Regular, 10.0, WIDTH - 20.0).len();
            self.make_room(14.0 * rows as f32);
            self.put(LEFT, self.y + 10.0, &mark, Weight::Semibold, 10.0, LABEL);
            self.paragraph(LEFT + 20.0, words, Weight::Regular, 10.0, INK);
            self.y += 3.0;
        }
    }

    fn table(&mut self, table: &Table) {
        let total: f32 = table.shares.iter().sum::<f32>().max(0.01);
        let widths: Vec<f32> = table.shares.iter().map(|share| WIDTH * share / total).collect();
        self.row(&table.columns, &widths, Weight::Regular, LABEL, 8.5);
        for cells in &table.rows {
            let page = self.pages.len();
            let height = self.row_height(cells, &widths, 9.0);
            self.make_room(height);
            if self.pages.len() > page {
                self.row(&table.columns, &widths, Weight::Regular, LABEL, 8.5);
            }
            self.mark(Mark::Box { x: LEFT, y: self.y, width: WIDTH, height: 0.6, colour: RULE });
            self.row(cells, &widths, Weight::Regular, INK, 9.0);
        }
        self.y += 6.0;
    }

    fn row_height(&self, cells: &[String], widths: &[f32], size: f32) -> f32 {
        let lines = cells
            .iter()
            .zip(widths)
            .map(|(cell, width)| self.fonts.wrapped(cell, Weight::Regular, size, width - GUTTER).len());
        lines.max().unwrap_or(1) as f32 * size * 1.35 + 5.0
    }

    fn row(&mut self, cells: &[String], widths: &[f32], weight: Weight, colour: [u8; 3], size: f32) {
        let height = self.row_height(cells, widths, size);
        self.make_room(height);
        let mut x = LEFT;
        for (cell, width) in cells.iter().zip(widths) {
            for (at, line) in self.fonts.wrapped(cell, weight, size, width - GUTTER).iter().enumerate() {
                let y = self.y + 2.5 + size + size * 1.35 * at as f32;
                self.put(x, y, line, weight, size, colour);
            }
            x += width;
        }
        self.y += height;
    }

    fn figure(&mut self, figure: &Figure) -> Result<(), PdfError> {
        let options = usvg::Options {
            fontdb: self.fonts.database.clone(),
            font_family: "Open Sans".to_owned(),
            ..usvg::Options::default()
        };
        let tree = usvg::Tree::from_str(&figure.svg, &options).map_err(|_| PdfError::Drawing(figure.name.clone()))?;
        let size = tree.size();
        let scale = (WIDTH / size.width()).min((BOTTOM - TOP - 30.0) / size.height());
        let (width, height) = (size.width() * scale, size.height() * scale);
        self.make_room(height + 22.0);
        self.mark(Mark::Drawing { y: self.y, width, height, tree: Box::new(tree) });
        self.y += height + 2.0;
        self.paragraph(LEFT, &figure.caption, Weight::Regular, 8.5, LABEL);
        self.y += 6.0;
        Ok(())
    }

    fn write(self, document: &Document) -> Result<Vec<u8>, PdfError> {
        let mut pdf = krilla::Document::new();
        let metadata = Metadata::new().title(document.title.clone()).language(document.language.to_owned());
        pdf.set_metadata(metadata);
        let count = self.pages.len().to_string();
        for (number, marks) in (1..).zip(&self.pages) {
            let settings =
                PageSettings::from_wh(PAGE.0, PAGE.1).ok_or_else(|| PdfError::Whole("no page".to_owned()))?;
            let mut page = pdf.start_page_with(settings);
            let mut surface = page.surface();
            marks.iter().for_each(|mark| mark.draw(&mut surface, self.fonts));
            let foot = document.foot.replace("{page}", &format!("{number}")).replace("{pages}", &count);
            let foot = Mark::Text { x: LEFT, y: FOOT, weight: Weight::Regular, size: 8.0, colour: LABEL, words: foot };
            foot.draw(&mut surface, self.fonts);
            surface.finish();
            page.finish();
        }
        pdf.finish().map_err(|error| PdfError::Whole(format!("{error:?}")))
    }
}

fn fill([red, green, blue]: [u8; 3]) -> Fill {
    Fill { paint: rgb::Color::new(red, green, blue).into(), opacity: NormalizedF32::ONE, rule: Default::default() }
}

impl Mark {
    fn draw(&self, surface: &mut Surface<'_>, fonts: &Fonts) {
        match self {
            Self::Text { x, y, weight, size, colour, words } => {
                surface.set_fill(Some(fill(*colour)));
                let font = fonts.fonts[*weight as usize].clone();
                surface.draw_text(Point::from_xy(*x, *y), font, *size, words, false, TextDirection::Auto);
            }
            Self::Box { x, y, width, height, colour } => {
                let mut path = PathBuilder::new();
                path.move_to(*x, *y);
                path.line_to(x + width, *y);
                path.line_to(x + width, y + height);
                path.line_to(*x, y + height);
                path.close();
                surface.set_fill(Some(fill(*colour)));
                path.finish().iter().for_each(|path| surface.draw_path(path));
            }
            Self::Drawing { y, width, height, tree } => {
                let Some(size) = Size::from_wh(*width, *height) else { return };
                surface.push_transform(&Transform::from_translate(LEFT, *y));
                let _ = surface.draw_svg(tree, size, SvgSettings::default());
                surface.pop();
            }
        }
    }
}
