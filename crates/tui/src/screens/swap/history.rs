//! What was tried and what came of it: by module and slot, and run by run.

use ratatui::style::Style;
use revisum_diagnose::isolate::{Disposition, Move, band, dispositions};
use revisum_engine::units::duration_text;
use revisum_record::outcome::{Grade, Outcome};
use revisum_words as words;
use revisum_words::Said as _;

use crate::say;
use crate::kit::canvas::Canvas;
use crate::kit::table::{self, Column};
use crate::kit::theme::Theme;
use crate::shared::facts::Trial;
use crate::shared::state::Shared;

use super::draw::WIDE;

/// Slots that have a column in what was tried.
const MOST_SLOTS: usize = 6;
/// Outcomes of a module that are drawn.
const MOST_MARKS: usize = 6;

/// Modules by slots with the outcome of every run in which a module sat there, and what becomes of it. Returns the rows it took.
pub fn parts(canvas: &mut Canvas<'_>, shared: &Shared) -> u16 {
    let theme = canvas.theme;
    let modules = &shared.facts.case.modules;
    if shared.facts.trials.is_empty() || usize::from(canvas.height()) < 2 + modules.len() {
        return 0;
    }
    let slots: Vec<&str> = shared.facts.board.slots.iter().map(|slot| slot.id.as_str()).take(8).collect();
    let column = (canvas.width().saturating_sub(14) / (slots.len().max(1) as u16 + 2)).clamp(3, 8);
    canvas.put(0, 0, theme.label(), say::swap_by_slot());
    for (at, slot) in (0u16..).zip(&slots) {
        canvas.cell(12 + at * column, 1, column - 1, theme.label(), slot);
    }
    let ends = shared.answer().map(|(named, reason)| dispositions(&shared.facts.case, named, reason));
    for (y, module) in (2u16..).zip(modules) {
        canvas.cell(0, y, 11, theme.text(), &shared.facts.name_of(&module.id));
        for (at, slot) in (0u16..).zip(&slots) {
            outcomes(canvas, shared, (&module.id, slot), (12 + at * column, y), usize::from(column) - 1);
        }
        let x = 12 + slots.len() as u16 * column;
        let end = ends.iter().flatten().find(|(id, _)| *id == module.id).map(|(_, end)| *end);
        match (end, module.known_good) {
            (Some(end), _) => {
                let style = if end == Disposition::Keep { theme.clean() } else { theme.attention() };
                canvas.put(x, y, style, end.said())
            }
            (None, true) => canvas.put(x, y, theme.clean(), say::swap_known_good()),
            (None, false) => x,
        };
    }
    2 + modules.len() as u16
}

/// A mark for each of the latest runs with this module in this slot.
fn outcomes(canvas: &mut Canvas<'_>, shared: &Shared, (module, slot): (&str, &str), (x, y): (u16, u16), room: usize) {
    let sat = |trial: &&Trial| trial.placement.iter().any(|(used, id)| used == slot && id == module);
    let all: Vec<&Trial> = shared.facts.trials.iter().filter(sat).collect();
    for (at, trial) in (x..).zip(&all[all.len().saturating_sub(room.min(MOST_MARKS))..]) {
        let (mark, style) = mark(canvas.theme, trial, slot);
        canvas.put(at, y, style, mark);
    }
}

/// What the runs with a module came to, a mark each, the latest last.
pub fn marks_of(theme: &Theme, shared: &Shared, module: &str) -> Vec<(&'static str, Style)> {
    let sat = |trial: &'_ Trial| trial.placement.iter().find(|(_, id)| id == module).map(|(slot, _)| slot.clone());
    let all = shared.facts.trials.iter().filter_map(|trial| Some(mark(theme, trial, &sat(trial)?)));
    let all: Vec<_> = all.collect();
    all[all.len().saturating_sub(MOST_MARKS)..].to_vec()
}

/// What a run says of a slot: errors in it, errors in it or another, errors elsewhere, clean, not finished.
fn mark(theme: &Theme, trial: &Trial, slot: &str) -> (&'static str, Style) {
    let placed = trial.slots.iter().any(|named| named == slot);
    let alone = trial.placement.len() == 1 || trial.slots.iter().all(|named| named == slot);
    match () {
        () if trial.struck.is_some() => ("-", theme.faint()),
        () if trial.errors > 0 && placed && alone => (theme.marks.failed, theme.error()),
        () if trial.errors > 0 && placed => ("?", theme.attention()),
        () if trial.grade == Grade::Corrected && placed => ("?", theme.attention()),
        () if matches!(trial.grade, Grade::Errors | Grade::Corrected) => (theme.marks.open, theme.label()),
        () if trial.outcome == Outcome::Clean => (theme.marks.passed, theme.graded(trial.grade)),
        () => (theme.marks.open, theme.graded(trial.grade)),
    }
}

/// What was tried: as many of the latest runs as there is room for, and how many earlier ones are not shown.
pub fn trials(canvas: &mut Canvas<'_>, shared: &Shared) {
    let theme = canvas.theme;
    if shared.facts.trials.is_empty() || canvas.height() < 2 {
        return;
    }
    let slots: Vec<&str> = shared.facts.board.slots.iter().map(|slot| slot.id.as_str()).take(MOST_SLOTS).collect();
    let all = &shared.facts.trials;
    let room = canvas.height() - 1;
    // The last row says how many are not shown.
    let room = if all.len() > usize::from(room) { room.saturating_sub(1).max(1) } else { room };
    let hidden = all.len().saturating_sub(usize::from(room));
    let mut columns = vec![Column::fit(say::col_run())];
    columns.extend(slots.iter().copied().map(Column::fit));
    columns.extend([say::col_duration(), say::col_result()].map(Column::fit));
    if canvas.width() >= WIDE {
        columns.push(Column::fit(say::col_effect()));
    }
    let line = |at: usize| {
        let trial = &all[hidden + at];
        let mut line = vec![((hidden + at + 1).to_string(), theme.text())];
        line.extend(slots.iter().map(|slot| placed(theme, shared, trial, slot)));
        let (mut words, style) = outcome_words(trial, theme);
        if shared.facts.offered.len() > 1 {
            words = format!("{words}, {}", trial.settings);
        }
        line.extend([(duration_text(trial.seconds), theme.text()), (words, style)]);
        line.push((moved_words(shared, trial), theme.label()));
        line
    };
    let width = canvas.width();
    table::draw(&mut canvas.part(0, 0, width, room + 1), &columns, all.len() - hidden, None, &line);
    if hidden > 0 {
        canvas.put(2, room + 1, theme.label(), &say::swap_hidden(hidden));
    }
}

fn moved_words(shared: &Shared, trial: &Trial) -> String {
    let words = |moved: &Move| {
        let way = if moved.after > moved.before { say::swap_up() } else { say::swap_down() };
        let name = words::odds::suspect(&moved.suspect, &|id| shared.facts.name_of(id));
        format!("{name} {way}, {}", band(moved.after).said())
    };
    trial.moved.as_ref().map(words).unwrap_or_default()
}

/// What sat in a slot, in the colour of errors where they were placed there.
fn placed(theme: &Theme, shared: &Shared, trial: &Trial, slot: &str) -> (String, Style) {
    let fitted = trial.placement.iter().find(|(used, _)| used == slot);
    let blamed = trial.slots.iter().any(|named| named == slot);
    match fitted {
        Some((_, id)) => (shared.facts.name_of(id), if blamed { theme.error() } else { theme.text() }),
        None => (theme.marks.open.to_owned(), theme.faint()),
    }
}

fn outcome_words(trial: &Trial, theme: &Theme) -> (String, Style) {
    let marks = &theme.marks;
    if let Some(reason) = &trial.struck {
        return (say::swap_excluded_because(marks.open, reason), theme.faint());
    }
    if trial.errors > 0 {
        let place = trial.slots.join(say::or());
        return (format!("{} {}, {place}", marks.failed, say::errors(trial.errors)), theme.error());
    }
    match trial.grade {
        Grade::Clean => {
            (say::swap_clean_passes(marks.passed, trial.passes), theme.clean())
        }
        grade => (format!("{} {}", marks.open, words::result::headline_of(&trial.headline)), theme.graded(grade)),
    }
}
