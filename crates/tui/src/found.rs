//! Finding lines in lists: groups of failing words and single ones in the Locate view, runs in the Logs view.

use crossterm::event::{KeyCode, KeyEvent};
use revisum_diagnose::locate::{Group, NamedWord, lanes_of};

use super::action::View;
use super::effect::Effect;
use super::state::{App, Overlay};
use super::typing::typed;

/// Longest text to look for.
const LONGEST: usize = 40;

/// Takes a key while what is looked for is typed.
pub fn key(app: &mut App, key: KeyEvent) -> Vec<Effect> {
    match key.code {
        KeyCode::Enter => return Vec::new(),
        KeyCode::Esc => {
            app.find.reset();
            return listed(app);
        }
        _ => typed(&mut app.find, key, LONGEST),
    }
    match &mut app.word {
        Some(word) => *word = 0,
        None => app.group = 0,
    }
    app.overlay = Some(Overlay::Find);
    listed(app)
}

/// The list of runs is made by what is looked for; the others are narrowed down where they are drawn.
fn listed(app: &mut App) -> Vec<Effect> {
    if app.view != View::Logs {
        return Vec::new();
    }
    app.log = 0;
    vec![Effect::ListLogs]
}

/// All lines again, and no list opened.
pub fn forget(app: &mut App) {
    app.find.reset();
    app.word = None;
}

/// One step back: out of the opened group, or to all lines. Returns whether there was one.
pub fn back(app: &mut App) -> bool {
    let opened = app.word.take().is_some();
    let narrowed = !app.find.value().is_empty();
    if !opened {
        app.find.reset();
    }
    opened || narrowed
}

/// Groups that are shown. The text narrows down the list that is in front.
pub fn groups(app: &App) -> Vec<&Group> {
    let all = app.facts.located.iter().flat_map(|located| &located.location.groups);
    let wanted = if app.word.is_none() { app.find.value() } else { "" };
    all.filter(|group| holds(&group_line(group), wanted)).collect()
}

/// Words that are shown of the chosen group.
pub fn words(app: &App) -> Vec<&NamedWord> {
    let all = groups(app).get(app.group).map(|group| group.named.as_slice()).unwrap_or_default();
    let wanted = if app.word.is_some() { app.find.value() } else { "" };
    all.iter().filter(|word| holds(&word_line(word), wanted)).collect()
}

fn holds(line: &str, wanted: &str) -> bool {
    line.to_lowercase().contains(&wanted.to_lowercase())
}

fn group_line(group: &Group) -> String {
    format!("{} {} {}", group.slot.as_deref().unwrap_or("?"), group.words_of_kind(), lanes_text(group.wrong))
}

fn word_line(word: &NamedWord) -> String {
    let cell =
        word.cell.map(|cell| format!("rank {} bank {} row {} column {}", cell.rank, cell.bank, cell.row, cell.column));
    // Addresses are found with and without the gaps between their digits.
    let address = word.place.to_string();
    format!(
        "{address} {} {} {} {}",
        address.replace(' ', ""),
        cell.unwrap_or_default(),
        lanes_text(word.wrong),
        word.behaviour()
    )
}

/// Data lanes in few words.
pub fn lanes_text(wrong: u64) -> String {
    let lanes = lanes_of(wrong);
    match lanes.len() {
        0..=8 => lanes.iter().map(u8::to_string).collect::<Vec<_>>().join(" "),
        many => format!("{many} lanes"),
    }
}
