//! A report without its form: blocks in reading order.

use revisum_drawing::Scene;

/// A drawing with its words.
#[derive(Clone, Debug, PartialEq)]
pub struct Figure {
    /// Short name, for a file.
    pub name: String,
    /// What it shows.
    pub caption: String,
    /// The drawing.
    pub scene: Scene,
}

/// A table.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Table {
    /// Titles of the columns.
    pub columns: Vec<String>,
    /// Share of the width that each column has.
    pub shares: Vec<f32>,
    /// Rows of as many cells.
    pub rows: Vec<Vec<String>>,
}

/// A part of a report.
#[derive(Clone, Debug, PartialEq)]
pub enum Block {
    /// What it came to, large.
    Answer {
        /// The answer.
        words: String,
        /// Something is wrong, as far as is known.
        bad: bool,
        /// How sure, and why.
        beneath: Vec<String>,
    },
    /// A title.
    Heading(String),
    /// A title below that.
    SubHeading(String),
    /// Running text.
    Paragraph(String),
    /// Text that matters less.
    Small(String),
    /// Steps in order.
    Numbered(Vec<String>),
    /// Points.
    Bullets(Vec<String>),
    /// A table.
    Table(Table),
    /// A drawing.
    Figure(Figure),
}

/// A report.
#[derive(Clone, Debug, PartialEq)]
pub struct Document {
    /// What it is.
    pub title: String,
    /// Who made it: the shop's own lines.
    pub letterhead: Vec<String>,
    /// Names and values at the top.
    pub facts: Vec<(String, String)>,
    /// The report.
    pub blocks: Vec<Block>,
    /// At the foot of each page: number and count stand for `{page}` and `{pages}`.
    pub foot: String,
    /// Language tag.
    pub language: &'static str,
}
