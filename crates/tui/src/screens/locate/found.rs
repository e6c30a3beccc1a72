//! The groups of failing words, and the single ones, that are shown: all, or those with some words in their line.

use revisum_diagnose::locate::{Group, NamedWord, lanes_of};
use revisum_words as words;

use crate::say;
use super::Locate;
use crate::shared::state::Shared;

/// Groups that are shown. The text narrows down the list that is in front.
pub fn groups<'a>(screen: &Locate, shared: &'a Shared) -> Vec<&'a Group> {
    let all = shared.located.iter().flat_map(|located| &located.location.groups);
    let wanted = if screen.zoom.names_words() { "" } else { screen.find.value() };
    all.filter(|group| wanted.is_empty() || holds(&group_line(group), wanted)).collect()
}

/// Words that are shown of the chosen group.
pub fn words<'a>(screen: &Locate, shared: &'a Shared) -> Vec<&'a NamedWord> {
    let all = groups(screen, shared).get(screen.group).map(|group| group.named.as_slice()).unwrap_or_default();
    let wanted = if screen.zoom.names_words() { screen.find.value() } else { "" };
    all.iter().filter(|word| wanted.is_empty() || holds(&word_line(word), wanted)).collect()
}

fn holds(line: &str, wanted: &str) -> bool {
    line.to_lowercase().contains(&wanted.to_lowercase())
}

fn group_line(group: &Group) -> String {
    format!("{} {} {}", group.slot.as_deref().unwrap_or("?"), words::locate::group(group), lanes_text(group.wrong))
}

fn word_line(word: &NamedWord) -> String {
    let cell =
        word.cell.map(|cell| say::locate_cell(cell.rank.to_string(), cell.bank.to_string(), cell.row.to_string(), cell.column.to_string()));
    // Addresses are found with and without the gaps between their digits.
    let address = word.place.to_string();
    format!(
        "{address} {} {} {} {}",
        address.replace(' ', ""),
        cell.unwrap_or_default(),
        lanes_text(word.wrong),
        words::locate::behaviour(word)
    )
}

/// Data lanes in few words.
pub fn lanes_text(wrong: u64) -> String {
    let lanes = lanes_of(wrong);
    match lanes.len() {
        0..=8 => lanes.iter().map(u8::to_string).collect::<Vec<_>>().join(" "),
        many => say::locate_many_lines(many),
    }
}
