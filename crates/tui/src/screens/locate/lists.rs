//! The groups of failing words, or the single words of one, with what narrows them down.

use revisum_diagnose::locate::NamedWord;
use revisum_engine::units::count_text;
use revisum_words as words;

use crate::say;
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
        let x = canvas.put(2, 0, theme.label(), say::locate_find());
        let x = canvas.put(x, 0, theme.attention(), screen.find.value());
        let words = if typing { say::locate_find_keys() } else { say::locate_find_kept() };
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
    let columns = [
        Column::fit(say::col_slot()),
        Column::fit(say::col_where()),
        Column::number(say::col_words()),
        Column::fit("DQ"),
    ];
    let theme = canvas.theme;
    let groups = found::groups(screen, shared);
    if groups.is_empty() {
        canvas.put(2, 1, theme.attention(), say::locate_no_group());
    }
    let line = |at: usize| {
        let group = groups[at];
        vec![
            (group.slot.clone().unwrap_or_else(|| "?".to_owned()), theme.strong()),
            (words::locate::group(group), theme.text()),
            (count_text(group.words as u64), theme.text()),
            (found::lanes_text(group.wrong), theme.text()),
        ]
    };
    table::draw(canvas, &columns, groups.len(), Some(screen.group), &line);
}

fn word_list(canvas: &mut Canvas<'_>, screen: &Locate, shared: &Shared, chosen: usize) {
    let columns = [
        Column::fixed(say::col_address(), 18),
        Column::fit(say::col_cell()),
        Column::fit("DQ"),
        Column::fit(say::col_behaviour()),
    ];
    let theme = canvas.theme;
    let words = found::words(screen, shared);
    if words.is_empty() {
        canvas.put(2, 1, theme.attention(), say::locate_no_word());
    }
    let line = |at: usize| {
        let word = words[at];
        let cell =
            word.cell.map(|cell| say::locate_cell_short(cell.rank.to_string(), cell.bank.to_string(), cell.row.to_string(), cell.column.to_string()));
        vec![
            (word.place.to_string(), theme.text()),
            (cell.unwrap_or_else(|| say::locate_no_map().to_owned()), theme.text()),
            (found::lanes_text(word.wrong), theme.text()),
            (seen_text(word), theme.text()),
        ]
    };
    // A narrow screen says of the chosen word only how it was seen to fail.
    let wide = canvas.width() >= 100;
    let (width, height) = (canvas.width(), canvas.height().saturating_sub(u16::from(!wide)));
    let columns = if wide { &columns[..] } else { &columns[..3] };
    table::draw(&mut canvas.part(0, 0, width, height), columns, words.len(), Some(chosen), &line);
    if let Some(word) = words.get(chosen).filter(|_| !wide) {
        canvas.put(2, height, theme.label(), &say::locate_failed(seen_text(word)));
    }
}

fn seen_text(word: &NamedWord) -> String {
    match word.seen {
        1 => say::locate_once(words::locate::behaviour(word)),
        times => say::locate_times(times, words::locate::behaviour(word)),
    }
}
