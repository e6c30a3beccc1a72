//! The board with its modules as byte lanes, and the errors where they are.

use revisum_engine::units::bytes_text;
use revisum_record::fitted::{Module, Slot};
use revisum_record::outcome::Judgement;
use revisum_record::run_state::RunState;
use revisum_words::result;

use crate::fonts::{Fonts, Weight};
use crate::palette::{CLEAN, ERROR, FAINT, INK, LABEL, PAPER};
use crate::say;
use crate::scene::{Colour, Scene};

const LINE: f32 = 30.0;
const MARGIN: f32 = 24.0;
const LANE: f32 = 26.0;
const LANES_AT: f32 = 80.0;
const FACTS_AT: f32 = 330.0;
const STATE_AT: f32 = 700.0;
const WIDTH: f32 = 940.0;
/// Between the longest name and the lanes.
const GAP: f32 = 10.0;
const MOST_SHIFT: f32 = 260.0;
const SIZE: f32 = 14.0;
const SMALL: f32 = 12.0;

/// The board with what sits in it.
pub fn board_scene(state: &RunState) -> Scene {
    let slots = &state.begin.board.slots;
    let shift = shift(slots);
    let mut scene = Scene::new(WIDTH + shift, 2.0 * MARGIN + LINE * (slots.len() + 1) as f32);
    let simulated = if state.begin.simulated { say::drawing_simulated() } else { "" };
    let title = format!("{}{simulated}: {}", state.begin.machine, result::headline(&Judgement::of(state, false)));
    scene.text((MARGIN, MARGIN), SIZE, Weight::Semibold, INK, &title);
    for (index, slot) in slots.iter().enumerate() {
        draw_slot(&mut scene, state, slot, (shift, MARGIN + LINE * (index + 1) as f32));
    }
    scene
}

/// How much further right all begins that stands behind the names of slots, where those are long.
fn shift(slots: &[Slot]) -> f32 {
    let Some(fonts) = Fonts::read() else { return 0.0 };
    let longest = slots.iter().map(|slot| fonts.width(&slot.id, Weight::Semibold, SIZE)).fold(0.0, f32::max);
    (MARGIN + longest + GAP - LANES_AT).clamp(0.0, MOST_SHIFT)
}

fn draw_slot(scene: &mut Scene, state: &RunState, slot: &Slot, (shift, y): (f32, f32)) {
    scene.text((MARGIN, y), SIZE, Weight::Semibold, INK, &slot.id);
    let Some(module) = &slot.module else {
        return text(scene, LANES_AT + shift, y, LABEL, say::drawing_empty());
    };
    for lane in 0..module.byte_lanes {
        draw_lane(scene, lane, (shift, y), lane_is_bad(state, slot, lane));
    }
    text(scene, FACTS_AT + shift, y, INK, &facts(module));
    let errors: u64 = state.errors.slots.iter().filter(|(slots, _)| **slots == slot.id).map(|(_, words)| words).sum();
    match errors {
        0 => text(scene, STATE_AT + shift, y, CLEAN, say::drawing_no_errors()),
        errors => text(scene, STATE_AT + shift, y, ERROR, &say::drawing_errors(errors)),
    }
}

/// A byte lane is bad when a sample placed in this slot alone has a wrong bit in it.
fn lane_is_bad(state: &RunState, slot: &Slot, lane: u8) -> bool {
    lane < 8
        && state.errors.samples.iter().any(|sample| {
            sample.slots == [slot.id.clone()] && (sample.expected.0 ^ sample.actual.0) >> (lane * 8) & 0xff != 0
        })
}

fn draw_lane(scene: &mut Scene, lane: u8, (shift, y): (f32, f32), bad: bool) {
    let x = LANES_AT + shift + f32::from(lane) * LANE;
    let (fill, ink) = if bad { (ERROR, PAPER) } else { (FAINT, INK) };
    scene.rectangle((x, y - 16.0), (LANE - 4.0, 22.0), fill);
    let label = if bad { format!("{lane}×") } else { lane.to_string() };
    scene.text((x + 5.0, y), SMALL, Weight::Regular, ink, &label);
}

fn facts(module: &Module) -> String {
    let speed = module.speed.map_or(String::new(), |speed| format!("{speed} MT/s "));
    let mark = module.mark.as_deref().unwrap_or("");
    format!("{} {speed}{} {} {} {mark}", bytes_text(module.bytes), module.maker, module.part, module.short_serial())
}

fn text(scene: &mut Scene, x: f32, y: f32, colour: Colour, words: &str) {
    scene.text((x, y), SIZE, Weight::Regular, colour, words);
}

#[cfg(test)]
mod tests {
    use revisum_engine::tally::Tally;
    use revisum_record::journal::Begin;
    use rstest::rstest;

    use super::*;
    use crate::svg::svg;

    /// Names as firmware gives them are not covered by the lanes.
    #[rstest]
    #[case::short("A1", LANES_AT)]
    #[case::usual("DIMM_A1", LANES_AT)]
    #[case::long("P0 CHANNEL A/DIMM 0", LANES_AT)]
    fn lanes_begin_behind_the_longest_name(#[case] name: &str, #[case] least: f32) {
        let module = Module { bytes: 8 << 30, byte_lanes: 8, ..Module::default() };
        let slots = vec![Slot { id: name.into(), module: Some(module), ..Slot::default() }];
        let board = revisum_record::fitted::Board { slots, ..Default::default() };
        let scene = board_scene(&RunState { begin: Begin { board, ..Begin::default() }, ..RunState::default() });
        let first = scene.texts().find(|text| text.words == "0").unwrap();
        let end = MARGIN + Fonts::read().unwrap().width(name, Weight::Semibold, SIZE);
        assert!(first.x > end && first.x >= least, "{} {end}", first.x);
    }

    #[test]
    fn errors_are_drawn_at_their_slot_and_firmware_text_cannot_break_the_document() {
        let module = Module { part: "<b>&\"".into(), bytes: 8 << 30, byte_lanes: 8, ..Module::default() };
        let slot = |id: &str, module| Slot { id: id.into(), module, ..Slot::default() };
        let board = revisum_record::fitted::Board {
            slots: vec![slot("A1", Some(module)), slot("A2", None)],
            ..Default::default()
        };
        let mut errors = Tally { words: 2, ..Tally::default() };
        errors.slots.insert("A1".into(), 2);
        let mut state = RunState::default();
        (state.begin, state.errors) = (Begin { board, ..Begin::default() }, errors);
        let scene = board_scene(&state);
        assert!(scene.says("2 errors") && scene.says("empty"));
        let drawing = svg(&scene);
        assert!(drawing.contains("&lt;b&gt;&amp;") && !drawing.contains("<b>"));
    }
}
