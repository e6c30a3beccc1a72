//! What failed: the statement, which data lanes the groups of failing words have, and the groups.

use revisum_diagnose::locate::Location;
use revisum_words::{Said as _, locate};

use crate::fonts::Weight;
use crate::palette::{ERROR, FAINT, INK, LABEL};
use crate::say;
use crate::scene::{Colour, Scene};

const WIDTH: f32 = 940.0;
const MARGIN: f32 = 24.0;
const LINE: f32 = 24.0;
const BAR: f32 = 13.0;
const BARS: f32 = 110.0;
const SIZE: f32 = 15.0;
/// Between the byte lanes.
const GAP: f32 = 6.0;
const MOST_GROUPS: usize = 12;

/// What failed, drawn.
pub fn location_scene(location: &Location) -> Scene {
    let groups = location.groups.iter().take(MOST_GROUPS);
    let mut scene = Scene::new(WIDTH, 2.0 * MARGIN + 5.0 * LINE + BARS + LINE * groups.len() as f32);
    scene.text((MARGIN, MARGIN), SIZE, Weight::Semibold, INK, &locate::statement(location));
    text(&mut scene, MARGIN, MARGIN + LINE, LABEL, location.because.said());
    let base = MARGIN + 2.0 * LINE + BARS;
    lanes(&mut scene, location, base);
    for (at, group) in groups.enumerate() {
        let slot = group.slot.as_deref().unwrap_or("?");
        let line = format!("{slot}   {}   {}", locate::group(group), say::drawing_words(group.words as u64));
        text(&mut scene, MARGIN, base + (at + 3) as f32 * LINE, INK, &line);
    }
    scene
}

/// A bar for each data lane: of the distinct failing words, how many ever read wrong on it.
fn lanes(scene: &mut Scene, location: &Location, base: f32) {
    let most = location.lanes.iter().copied().max().unwrap_or(0).max(1);
    for (lane, count) in location.lanes.iter().enumerate() {
        let height = (BARS * *count as f32 / most as f32).max(2.0);
        let x = MARGIN + lane as f32 * BAR + (lane / 8) as f32 * GAP;
        let colour = if *count > 0 { ERROR } else { FAINT };
        scene.rectangle((x, base - height), (BAR - 3.0, height), colour);
        if lane % 8 == 0 {
            text(scene, x, base + LINE, LABEL, &lane.to_string());
        }
    }
}

fn text(scene: &mut Scene, x: f32, y: f32, colour: Colour, words: &str) {
    scene.text((x, y), SIZE, Weight::Regular, colour, words);
}
