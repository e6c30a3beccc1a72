//! The groups of failing words, or the single words of one, with what narrows them down.

use revisum_diagnose::locate::NamedWord;
use revisum_engine::units::count_text;

use crate::kit::canvas::Canvas;
use crate::kit::table::{self, Column};
use crate::shared::state::Shared;

use super::{Locate, found};

/// Draws the list that belongs to what is looked at.
pub fn draw(canvas: &mut Canvas<'_>, screen: &Locate, shared: &Shared) {
    let theme = canvas.theme;
    let typing = screen.typing;
    let mut y = 0;
    if typing || !screen.find.value().is_empty() {
        let x = canvas.put(2, 0, theme.label(), "find  ");
        let x = canvas.put(x, 0, theme.attention(), screen.find.value());
        let words = if typing { "_   Enter keeps, Esc shows all" } else { "   / changes it, Esc shows all" };
        canvas.put(x, 0, theme.label(), words);
        y = 1;
    }
    let mut below = canvas.below(y);
    match screen.zoom.names_words() {
        false => group_list(&mut below, screen, shared),
        true => word_list(&mut below, screen, shared, screen.word),
    }
}

fn group_list(canvas: &mut Canvas<'_>, screen: &Locate, shared: &Shared) {
    const COLUMNS: [Column<'_>; 4] = [
        Column::fit("slot"),
        Column::fit("where"),
        Column::number("words"),
        Column::fit("DQ"),
    ];
    let theme = canvas.theme;
    let groups = found::groups(screen, shared);
    if groups.is_empty() {
        canvas.put(2, 1, theme.attention(), "No group has this in its line.");
    }
    let line = |at: usize| {
        let group = groups[at];
        vec![
            (group.slot.clone().unwrap_or_else(|| "?".to_owned()), theme.strong()),
            (group.words_of_kind(), theme.text()),
            (count_text(group.words as u64), theme.text()),
            (found::lanes_text(group.wrong), theme.text()),
        ]
    };
    table::draw(canvas, &COLUMNS, groups.len(), Some(screen.group), &line);
}

fn word_list(canvas: &mut Canvas<'_>, screen: &Locate, shared: &Shared, chosen: usize) {
    const COLUMNS: [Column<'_>; 4] = [
        Column::fixed("address", 18),
        Column::fit("cell"),
        Column::fit("DQ"),
        Column::fit("behaviour"),
    ];
    let theme = canvas.theme;
    let words = found::words(screen, shared);
    if words.is_empty() {
        canvas.put(2, 1, theme.attention(), "No word has this in its line.");
    }
    let line = |at: usize| {
        let word = words[at];
        let cell =
            word.cell.map(|cell| format!("r{} bank {} row {} col {}", cell.rank, cell.bank, cell.row, cell.column));
        vec![
            (word.place.to_string(), theme.text()),
            (cell.unwrap_or_else(|| "no address map".to_owned()), theme.text()),
            (found::lanes_text(word.wrong), theme.text()),
            (seen_text(word), theme.text()),
        ]
    };
    // A narrow screen says of the chosen word only how it was seen to fail.
    let wide = canvas.width() >= 100;
    let (width, height) = (canvas.width(), canvas.height().saturating_sub(u16::from(!wide)));
    let columns = if wide { &COLUMNS[..] } else { &COLUMNS[..3] };
    table::draw(&mut canvas.part(0, 0, width, height), columns, words.len(), Some(chosen), &line);
    if let Some(word) = words.get(chosen).filter(|_| !wide) {
        canvas.put(2, height, theme.label(), &format!("failed {}", seen_text(word)));
    }
}

fn seen_text(word: &NamedWord) -> String {
    match word.seen {
        1 => format!("once: {}", word.behaviour()),
        times => format!("{times} times: {}", word.behaviour()),
    }
}
