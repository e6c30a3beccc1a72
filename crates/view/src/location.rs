//! What failed: the statement, which data lanes the groups of failing words have, and the groups.

use revisum_diagnose::locate::Location;
use revisum_engine::units::counted;
use svg::Document;
use svg::node::element::{Rectangle, Text};

use crate::palette::{ERROR, FAINT, LABEL, TEXT};

const WIDTH: usize = 940;
const MARGIN: usize = 24;
const LINE: usize = 24;
const BAR: usize = 13;
const BARS: usize = 110;
const MOST_GROUPS: usize = 12;

/// The drawing as an SVG document.
pub fn location_drawing(location: &Location) -> String {
    let groups = location.groups.iter().take(MOST_GROUPS);
    let height = 2 * MARGIN + 3 * LINE + BARS + 2 * LINE + LINE * groups.len();
    let mut document = Document::new().set("viewBox", (0, 0, WIDTH, height)).set("font-family", "sans-serif");
    document = document.add(text(MARGIN, MARGIN, TEXT, &location.statement).set("font-weight", "bold"));
    document = document.add(text(MARGIN, MARGIN + LINE, LABEL, &location.because));
    let base = MARGIN + 2 * LINE + BARS;
    document = lanes(document, location, base);
    for (at, group) in groups.enumerate() {
        let slot = group.slot.as_deref().unwrap_or("?");
        let line = format!("{slot}   {}   {}", group.words_of_kind(), counted(group.words as u64, "word"));
        document = document.add(text(MARGIN, base + (at + 3) * LINE, TEXT, &line));
    }
    document.to_string()
}

/// A bar for each data lane: of the distinct failing words, how many ever read wrong on it.
fn lanes(mut document: Document, location: &Location, base: usize) -> Document {
    let most = location.lanes.iter().copied().max().unwrap_or(0).max(1);
    for (lane, count) in location.lanes.iter().enumerate() {
        let height = (BARS as u64 * count).div_ceil(most).max(2) as usize;
        let colour = if *count > 0 { ERROR } else { FAINT };
        let bar = Rectangle::new()
            .set("x", MARGIN + lane * BAR + lane / 8 * 6)
            .set("y", base - height)
            .set("width", BAR - 3)
            .set("height", height)
            .set("fill", colour);
        document = document.add(bar);
        if lane % 8 == 0 {
            document = document.add(text(MARGIN + lane * BAR + lane / 8 * 6, base + LINE, LABEL, &lane.to_string()));
        }
    }
    document
}

fn text(x: usize, y: usize, colour: &str, words: &str) -> Text {
    Text::new(words).set("x", x).set("y", y).set("fill", colour).set("font-size", 15)
}
