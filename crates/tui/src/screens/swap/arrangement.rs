//! A step as a drawing: the board as it is, as it is to be, and what moves.

use revisum_diagnose::isolate::{Experiment, Suspect};
use ratatui::style::Style;

use crate::say;
use crate::kit::canvas::Canvas;
use crate::kit::moves_drawn::{self, Block, Place};
use crate::kit::theme::Theme;
use crate::shared::state::Shared;

use super::history::marks_of;

/// On more slots than this the empty ones are left out.
const MOST_SLOTS: usize = 8;

/// Draws it and returns the rows it took; none where nothing is moved or there is no room.
pub fn draw(canvas: &mut Canvas<'_>, shared: &Shared, next: &Experiment) -> u16 {
    let places = places(canvas.theme, shared, next);
    let moved = |place: &Place| id_of(place.now.as_ref()) != id_of(place.then.as_ref());
    if !places.iter().any(moved) {
        return 0;
    }
    // A row of air above and below.
    match moves_drawn::draw(canvas, &places) {
        0 => 0,
        rows => rows + 2,
    }
}

fn id_of(block: Option<&Block>) -> Option<&str> {
    block.map(|block| block.id.as_str())
}

/// Slots in the mainboard's order, then each module that lies or comes to lie beside it.
fn places(theme: &Theme, shared: &Shared, next: &Experiment) -> Vec<Place> {
    let now = shared.facts.board.known_placement();
    let then = &next.placement;
    let at = |placement: &[(String, String)], slot: &str| {
        placement.iter().find(|(used, _)| used == slot).map(|(_, id)| id.clone())
    };
    let holds = |placement: &[(String, String)], id: &str| placement.iter().any(|(_, module)| module == id);
    let mut places: Vec<Place> = Vec::new();
    let slots = &shared.facts.board.slots;
    for slot in slots {
        let (before, after) = (at(&now, &slot.id), at(then, &slot.id));
        if slots.len() > MOST_SLOTS && before.is_none() && after.is_none() {
            continue;
        }
        let moved = before != after;
        places.push(Place {
            name: slot.id.clone(),
            now: before.map(|id| block(theme, shared, &id, false)),
            then: after.map(|id| block(theme, shared, &id, moved)),
        });
    }
    for id in now.iter().map(|(_, id)| id).filter(|id| !holds(then, id)) {
        places.push(Place { name: say::removed().to_owned(), then: Some(block(theme, shared, id, true)), ..Place::default() });
    }
    for id in then.iter().map(|(_, id)| id).filter(|id| !holds(&now, id)) {
        places.push(Place { name: say::removed().to_owned(), now: Some(block(theme, shared, id, false)), ..Place::default() });
    }
    places
}

fn block(theme: &Theme, shared: &Shared, id: &str, moved: bool) -> Block {
    let style = if moved { theme.chosen() } else { own_style(theme, shared, id) };
    let marks = if moved { Vec::new() } else { marks_of(theme, shared, id) };
    Block { id: id.to_owned(), name: shared.facts.name_of(id), style, marks }
}

/// The suspect one is told apart.
fn own_style(theme: &Theme, shared: &Shared, id: &str) -> Style {
    let odds = shared.facts.advice.as_ref().filter(|_| shared.has_suspicion()).and_then(|advice| advice.odds.first());
    let suspect = odds.is_some_and(|odds| matches!(&odds.suspect, Suspect::Module(module) if module == id));
    if suspect { theme.on_bar(theme.error()) } else { theme.bar() }
}
