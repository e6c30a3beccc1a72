//! The board, drawn on every view: slots in the mainboard's order, each module as its byte lanes, errors where they are.
//!
//! ```text
//! A1  0  1  2  3  4  5  6  7   8 GiB  3200  Haldry HD8G32J  …0093  green dot   clean so far
//! A2  empty
//! B1  0  1  ✗  3  4  5  6  7   8 GiB  3200  Haldry HD8G32J  …0094  red dot     5 errors
//! ```

use std::collections::BTreeSet;

use ratatui::style::Style;
use revisum_diagnose::isolate::{Suspect, band};
use revisum_engine::text::squeezed;
use revisum_engine::units::bytes_text;
use revisum_record::fitted::{Board, Module, Slot};
use revisum_record::outcome::{Grade, Judgement};
use revisum_record::run_state::RunState;
use revisum_words::Said as _;

use super::board_grid;
use super::canvas::{Canvas, Target, shortened};
use super::theme::Theme;
use crate::say;
use crate::shared::state::Shared;

/// More slots than this are folded: the empty ones are left out.
const MOST_ROWS: usize = 8;
/// Longest name of a slot that is shown whole.
const LONGEST_NAME: usize = 20;
const LONGEST_NAME_NARROW: usize = 14;
/// From this width on lanes are drawn as cells with air.
const WIDE: u16 = 112;

/// What is drawn of the board.
pub struct Strip<'a> {
    /// Machine and job.
    pub shared: &'a Shared,
    /// The board.
    pub board: &'a Board,
    /// The run that says what is known of it, and whether it goes on; nothing for the latest of the job.
    pub run: Option<(&'a RunState, bool)>,
    /// A slot that is chosen.
    pub chosen: Option<usize>,
    /// The module on the table that would be put in.
    pub loose: Option<usize>,
    /// Which module is suspect matters more than what the run says.
    pub in_question: bool,
    /// What is to be where next.
    pub next: Option<&'a [(String, String)]>,
}

impl<'a> Strip<'a> {
    /// The board as it is now, with the run of this sitting.
    pub fn of(shared: &'a Shared) -> Self {
        let run = shared.run_state().map(|state| (state, shared.is_running()));
        Self { shared, board: &shared.facts.board, run, chosen: None, loose: None, in_question: false, next: None }
    }
}

/// Rows that the strip takes.
pub fn rows(strip: &Strip<'_>) -> u16 {
    let slots = shown(strip).len().clamp(1, MOST_ROWS);
    let table = usize::from(!strip.shared.facts.table.is_empty());
    (slots + table) as u16
}

fn shown<'a>(strip: &Strip<'a>) -> Vec<&'a Slot> {
    let slots = &strip.board.slots;
    let fold = slots.len() > MOST_ROWS;
    let is_chosen = |slot: &Slot| strip.chosen.and_then(|at| slots.get(at)).is_some_and(|chosen| chosen.id == slot.id);
    slots.iter().filter(|slot| !fold || slot.module.is_some() || is_chosen(slot)).collect()
}

/// Draws the strip.
pub fn draw(canvas: &mut Canvas<'_>, strip: &Strip<'_>) {
    let theme = canvas.theme;
    let slots = shown(strip);
    if slots.is_empty() {
        let words = say::strip_unknown(bytes_text(strip.shared.facts.seen_bytes));
        canvas.put(2, 0, theme.label(), &words);
        return;
    }
    // Columns in which nothing stands give way to names, and to what is said of a slot.
    let marked = slots.iter().any(|slot| slot.module.as_ref().is_some_and(|module| has_mark(slot, module)));
    let names = names_apart(&slots, longest_name(canvas.width(), marked));
    if slots.len() > MOST_ROWS {
        board_grid::draw(canvas, strip, &slots, MOST_ROWS);
    }
    for (y, slot) in (0u16..).zip(&slots).take_while(|_| slots.len() <= MOST_ROWS) {
        let at = strip.board.slots.iter().position(|known| known.id == slot.id);
        let chosen = strip.chosen.is_some() && at == strip.chosen;
        if let Some(at) = at.filter(|_| strip.chosen.is_some()) {
            canvas.target(0, y, canvas.width(), Target::Slot(at));
        }
        let id = &names[usize::from(y)];
        draw_slot(canvas, strip, slot, (y, id, name_width(&names), marked), chosen);
    }
    if !strip.shared.facts.table.is_empty() {
        draw_table(canvas, strip, slots.len().min(MOST_ROWS) as u16);
    }
}

/// Columns of the slots' names with a gap after them.
fn name_width(names: &[String]) -> usize {
    names.iter().map(|name| name.chars().count()).max().unwrap_or(0).max(2) + 2
}

/// Longest name of a slot that is shown whole, by the width of the screen and whether there are marks.
fn longest_name(width: u16, marked: bool) -> usize {
    if width >= WIDE || !marked { LONGEST_NAME } else { LONGEST_NAME_NARROW }
}

/// What a mainboard calls its slots can be long: shortened in the middle, else at the side where they do not differ.
pub(super) fn names_apart(slots: &[&Slot], most: usize) -> Vec<String> {
    let end = |id: &str| {
        let signs: Vec<char> = id.chars().collect();
        match signs.len() > most {
            true => format!("…{}", signs[signs.len() + 1 - most..].iter().collect::<String>()),
            false => id.to_owned(),
        }
    };
    let ways: [&dyn Fn(&str) -> String; 3] = [&|id| squeezed(id, most).into_owned(), &end, &|id| shortened(id, most)];
    let all = ways.map(|way| slots.iter().map(|slot| way(&slot.id)).collect::<Vec<String>>());
    let apart = |names: &&Vec<String>| names.iter().collect::<BTreeSet<_>>().len() == names.len();
    all.iter().find(apart).unwrap_or(&all[0]).clone()
}

/// Whether something stands in the columns for numbers and marks.
fn has_mark(slot: &Slot, module: &Module) -> bool {
    module.mark.is_some() || slot.declared || module.serial.contains(' ')
}

/// Row, name, columns of all names, and whether there is a column for marks.
type Row<'a> = (u16, &'a str, usize, bool);

fn draw_slot(canvas: &mut Canvas<'_>, strip: &Strip<'_>, slot: &Slot, (y, id, names, marked): Row<'_>, chosen: bool) {
    let theme = canvas.theme;
    let (status, status_style) = status(strip, slot, canvas);
    let bad = status_style == theme.error();
    if chosen {
        canvas.put(0, y, theme.attention(), theme.marks.here);
    }
    let id_style = if bad { theme.error() } else { theme.strong() };
    let x = 1 + canvas.cell(2, y, names as u16 - 1, id_style, id);
    let Some(module) = &slot.module else {
        let x = canvas.put(x, y, theme.faint(), say::strip_empty());
        if let Some(words) = coming(strip, slot) {
            canvas.put(x + 3, y, theme.attention(), &words);
        }
        return;
    };
    // Longer names must not push what is said of a slot off the screen.
    let wide = canvas.width() >= WIDE + (names as u16 - 4);
    let x = draw_lanes(canvas, strip, slot, module, x, y, wide);
    let speed = module.speed.map_or("     ".to_owned(), |speed| format!("{speed:<5}"));
    let x = canvas.put(x + 2, y, theme.text(), &format!("{:>7}", bytes_text(module.bytes)));
    let mut x = x + 2;
    if wide {
        let x_part = canvas.put(x, y, theme.label(), &format!("{speed} "));
        x = 1 + canvas.cell(x_part, y, 18, theme.label(), &format!("{} {}", module.maker, module.part));
    }
    // What a person wrote on it instead of a number has the room of a mark.
    let named = module.serial.contains(' ');
    let number = if named { String::new() } else { module.short_serial() };
    let written = if named {
        module.serial.as_str()
    } else if slot.declared {
        say::strip_declared()
    } else {
        ""
    };
    let x = 1 + canvas.cell(x, y, 6, theme.text(), &number);
    let mark = module.mark.as_deref().unwrap_or(written);
    let x = if marked { 1 + canvas.cell(x, y, 12, theme.label(), mark) } else { x + 1 };
    let x = going(strip, slot, module).map_or(x, |words| canvas.put(x, y, theme.attention(), &words) + 2);
    canvas.put(x, y, status_style, &status);
}

/// Which module is to come into a slot.
fn coming(strip: &Strip<'_>, slot: &Slot) -> Option<String> {
    let (_, id) = strip.next?.iter().find(|(used, _)| *used == slot.id)?;
    let now = strip.board.known_placement();
    let from = now.iter().find(|(_, module)| module == id).map_or(say::strip_outside(), |(from, _)| from);
    Some(say::strip_from(strip.shared.facts.name_of(id), from))
}

/// Where the module in a slot is to go; nothing where it stays.
fn going(strip: &Strip<'_>, slot: &Slot, module: &Module) -> Option<String> {
    let id = module.identity(&slot.id);
    let to = strip.next?.iter().find(|(_, other)| *other == id).map_or(say::strip_out(), |(to, _)| to);
    (to != slot.id).then(|| format!("→ {to}"))
}

fn draw_lanes(
    canvas: &mut Canvas<'_>,
    strip: &Strip<'_>,
    slot: &Slot,
    module: &Module,
    x: u16,
    y: u16,
    wide: bool,
) -> u16 {
    let theme = canvas.theme;
    let mut x = x;
    for lane in 0..module.byte_lanes {
        let bad = shown_here(strip).is_some_and(|state| lane_is_bad(state, &slot.id, lane));
        let label = if bad { theme.marks.failed.to_owned() } else { lane.to_string() };
        let style = if bad { theme.bad_lane() } else { theme.lane() };
        x = canvas.put(x, y, style, &if wide { format!(" {label} ") } else { label });
        if wide {
            x = canvas.put(x, y, theme.ground(), " ");
        }
    }
    x
}

/// A byte lane is bad when a word placed in this slot alone has a wrong bit in it.
fn lane_is_bad(state: &RunState, slot: &str, lane: u8) -> bool {
    lane < 8
        && state.errors.samples.iter().any(|sample| {
            sample.slots.len() == 1
                && sample.slots[0] == slot
                && (sample.expected.0 ^ sample.actual.0) >> (lane * 8) & 0xff != 0
        })
}

fn draw_table(canvas: &mut Canvas<'_>, strip: &Strip<'_>, y: u16) {
    let theme = canvas.theme;
    let mut x = canvas.put(2, y, theme.label(), say::strip_removed());
    for (at, module) in strip.shared.facts.table.iter().enumerate() {
        let chosen = strip.loose == Some(at) && strip.shared.facts.table.len() > 1;
        let style = if chosen { theme.attention() } else { theme.text() };
        x = canvas.put(x, y, style, &told(module));
        x = canvas.put(
            x,
            y,
            theme.label(),
            &suspicion(strip, &module.serial).map_or_else(String::new, |s| format!("  {s}")),
        );
        x = canvas.put(x, y, theme.label(), "   ");
    }
}

/// The run that belongs to the drawn board, this one or an earlier one of the job: a run with another fitting says nothing
/// about this one.
fn shown_here<'a>(strip: &Strip<'a>) -> Option<&'a RunState> {
    let here = |state: &&RunState| state.begin.board.placement() == strip.board.placement();
    strip.run.map(|(state, _)| state).or(strip.shared.facts.last_run.as_deref()).filter(here)
}

fn suspicion(strip: &Strip<'_>, serial: &str) -> Option<String> {
    let odds = &strip.shared.facts.advice.as_ref().filter(|_| strip.shared.has_suspicion())?.odds;
    let own = odds.iter().find(|odds| odds.suspect == Suspect::Module(serial.to_owned()))?;
    let leads = odds.first()?.suspect == own.suspect;
    (leads && own.probability >= 0.5).then(|| say::strip_suspect(band(own.probability).said()))
}

/// What is known of a slot, in words; the worst first.
pub(super) fn status(strip: &Strip<'_>, slot: &Slot, canvas: &Canvas<'_>) -> (String, Style) {
    let theme = canvas.theme;
    let Some(module) = &slot.module else { return (String::new(), theme.label()) };
    if let Some(words) = suspicion(strip, &module.serial).filter(|_| strip.in_question) {
        return (words, theme.error());
    }
    if strip.shared.facts.saved {
        return (String::new(), theme.label());
    }
    if strip.shared.facts.dark_noted {
        return (say::swap_no_start().to_owned(), theme.attention());
    }
    let Some(state) = shown_here(strip) else { return (say::strip_not_tested().to_owned(), theme.label()) };
    let live = strip.run.is_some_and(|(_, live)| live);
    let alone: u64 = state.errors.slots.get(&slot.id).copied().unwrap_or(0);
    let among = |joined: &String| *joined != slot.id && state.begin.board.slots_in(joined).contains(&slot.id.as_str());
    let shared = state.errors.slots.keys().any(among);
    let earlier = if strip.run.is_none() { say::strip_earlier() } else { "" };
    let judgement = Judgement::of(state, live);
    match judgement.grade {
        _ if alone > 0 => (format!("{}{earlier}", say::errors(alone)), theme.error()),
        _ if shared => (say::strip_errors_here_or().to_owned(), theme.attention()),
        Grade::Errors if state.errors.is_empty() => (say::strip_hardware().to_owned(), theme.error()),
        Grade::Errors => (say::strip_none_here().to_owned(), theme.label()),
        Grade::Corrected => corrected_here(&judgement, slot, theme),
        grade => (format!("{}{earlier}", judgement.outcome.said()), theme.graded(grade)),
    }
}

/// Errors that the hardware corrected, where it says that they were here.
fn corrected_here(judgement: &Judgement, slot: &Slot, theme: &Theme) -> (String, Style) {
    match judgement.place.as_deref() {
        Some(place) if place == slot.id => (say::strip_corrected(judgement.counts.corrected), theme.attention()),
        Some(_) => (say::strip_corrected_elsewhere().to_owned(), theme.label()),
        None => (say::strip_corrected_unknown().to_owned(), theme.attention()),
    }
}
/// Name and serial number, or one of them where they are the same.
fn told(module: &Module) -> String {
    let (name, serial) = (module.name(), module.short_serial());
    if name == serial { name } else { format!("{name} {serial}") }
}
