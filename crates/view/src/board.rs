//! The board with its modules as byte lanes, and the errors where they are.

use revisum_engine::units::{bytes_text, counted};
use revisum_record::fitted::{Module, Slot};
use revisum_record::run_state::RunState;
use svg::Document;
use svg::node::element::{Rectangle, Text};

use crate::palette::{CLEAN, ERROR, FAINT, LABEL, TEXT};

const LINE: usize = 30;
const MARGIN: usize = 24;
const LANE: usize = 26;
const LANES_AT: usize = 80;
const FACTS_AT: usize = 330;
const STATE_AT: usize = 700;
const WIDTH: usize = 940;

/// The board as an SVG document.
pub fn board_drawing(state: &RunState) -> String {
    let slots = &state.begin.board.slots;
    let height = 2 * MARGIN + LINE * (slots.len() + 1);
    let mut document = Document::new().set("viewBox", (0, 0, WIDTH, height)).set("font-family", "sans-serif");
    let simulated = if state.begin.simulated { ", simulated" } else { "" };
    let title = format!("{}{simulated}: {}", state.begin.machine, state.outcome(false).words());
    document = document.add(text(MARGIN, MARGIN, TEXT, &title).set("font-weight", "bold"));
    for (index, slot) in slots.iter().enumerate() {
        document = draw_slot(document, state, slot, MARGIN + LINE * (index + 1));
    }
    document.to_string()
}

fn draw_slot(mut document: Document, state: &RunState, slot: &Slot, y: usize) -> Document {
    document = document.add(text(MARGIN, y, TEXT, &slot.id).set("font-weight", "bold"));
    let Some(module) = &slot.module else {
        return document.add(text(LANES_AT, y, LABEL, "empty"));
    };
    for lane in 0..module.byte_lanes {
        document = draw_lane(document, usize::from(lane), y, lane_is_bad(state, slot, lane));
    }
    document = document.add(text(FACTS_AT, y, TEXT, &facts(module)));
    let errors: u64 = state.errors.slots.iter().filter(|(slots, _)| **slots == slot.id).map(|(_, words)| words).sum();
    let (colour, words) = match errors {
        0 => (CLEAN, "no errors placed here".to_owned()),
        errors => (ERROR, counted(errors, "error")),
    };
    document.add(text(STATE_AT, y, colour, &words))
}

/// A byte lane is bad when a sample placed in this slot alone has a wrong bit in it.
fn lane_is_bad(state: &RunState, slot: &Slot, lane: u8) -> bool {
    lane < 8
        && state.errors.samples.iter().any(|sample| {
            sample.slots == [slot.id.clone()] && (sample.expected.0 ^ sample.actual.0) >> (lane * 8) & 0xff != 0
        })
}

fn draw_lane(document: Document, lane: usize, y: usize, bad: bool) -> Document {
    let x = LANES_AT + lane * LANE;
    let cell = Rectangle::new()
        .set("x", x)
        .set("y", y - 16)
        .set("width", LANE - 4)
        .set("height", 22)
        .set("fill", if bad { ERROR } else { FAINT });
    let label = if bad { format!("{lane}×") } else { lane.to_string() };
    document.add(cell).add(text(x + 5, y, if bad { "#ffffff" } else { TEXT }, &label).set("font-size", 12))
}

fn facts(module: &Module) -> String {
    let speed = module.speed.map_or(String::new(), |speed| format!("{speed} MT/s "));
    let mark = module.mark.as_deref().unwrap_or("");
    format!("{} {speed}{} {} {} {mark}", bytes_text(module.bytes), module.maker, module.part, module.short_serial())
}

fn text(x: usize, y: usize, colour: &str, words: &str) -> Text {
    Text::new(words).set("x", x).set("y", y).set("fill", colour).set("font-size", 14)
}

#[cfg(test)]
mod tests {
    use revisum_engine::tally::Tally;
    use revisum_record::journal::Begin;

    use super::*;

    #[test]
    fn errors_are_drawn_at_their_slot_and_firmware_text_cannot_break_the_document() {
        let module = Module { part: "<b>&\"".into(), bytes: 8 << 30, byte_lanes: 8, ..Module::default() };
        let slot = |id: &str, module| Slot { id: id.into(), channel: None, soldered: false, module };
        let board = revisum_record::fitted::Board {
            slots: vec![slot("A1", Some(module)), slot("A2", None)],
            ..Default::default()
        };
        let mut errors = Tally { words: 2, ..Tally::default() };
        errors.slots.insert("A1".into(), 2);
        let mut state = RunState::default();
        (state.begin, state.errors) = (Begin { board, ..Begin::default() }, errors);
        let drawing = board_drawing(&state);
        assert!(drawing.contains("2 errors") && drawing.contains("empty"));
        assert!(drawing.contains("&lt;b&gt;&amp;") && !drawing.contains("<b>"));
    }
}
