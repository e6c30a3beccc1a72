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
use revisum_record::journal::Start;
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
    if tried(shared).is_empty() || usize::from(canvas.height()) < 2 + modules.len() {
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

/// A mark for each of the latest runs and starts with this module in this slot.
fn outcomes(canvas: &mut Canvas<'_>, shared: &Shared, (module, slot): (&str, &str), (x, y): (u16, u16), room: usize) {
    let all = tried(shared);
    let sat = |one: &&Tried<'_>| one.placement().iter().any(|(used, id)| used == slot && id == module);
    let all: Vec<&Tried<'_>> = all.iter().filter(sat).collect();
    for (at, one) in (x..).zip(&all[all.len().saturating_sub(room.min(MOST_MARKS))..]) {
        let (mark, style) = mark_of(canvas.theme, one, slot);
        canvas.put(at, y, style, mark);
    }
}

/// What the runs and starts with a module came to, a mark each, the latest last.
pub fn marks_of(theme: &Theme, shared: &Shared, module: &str) -> Vec<(&'static str, Style)> {
    let of = |one: &Tried<'_>| {
        let (slot, _) = one.placement().iter().find(|(_, id)| id == module)?;
        Some(mark_of(theme, one, slot))
    };
    let all: Vec<_> = tried(shared).iter().filter_map(of).collect();
    all[all.len().saturating_sub(MOST_MARKS)..].to_vec()
}

/// A start that failed is the fault of any part, unless it was alone; one that went well says little.
fn mark_of(theme: &Theme, one: &Tried<'_>, slot: &str) -> (&'static str, Style) {
    match one {
        Tried::Run(_, trial) => mark(theme, trial, slot),
        Tried::Start(start) if start.started => (theme.marks.open, theme.label()),
        Tried::Start(start) if start.placement.len() == 1 => (theme.marks.failed, theme.error()),
        Tried::Start(_) => ("?", theme.attention()),
    }
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

/// Something that was tried: a run with its number, or a start before anything was run.
enum Tried<'a> {
    Run(usize, &'a Trial),
    Start(&'a Start),
}

impl Tried<'_> {
    fn placement(&self) -> &[(String, String)] {
        match self {
            Self::Run(_, trial) => &trial.placement,
            Self::Start(start) => &start.placement,
        }
    }
}

/// Runs and starts in the order in which they were made.
fn tried(shared: &Shared) -> Vec<Tried<'_>> {
    let mut all = Vec::new();
    let mut starts = shared.facts.starts.iter().peekable();
    for (at, trial) in shared.facts.trials.iter().enumerate() {
        while let Some(start) = starts.next_if(|start| start.after <= at) {
            all.push(Tried::Start(start));
        }
        all.push(Tried::Run(at + 1, trial));
    }
    all.extend(starts.map(Tried::Start));
    all
}

/// What was tried: as many of the latest runs as there is room for, and how many earlier ones are not shown.
pub fn trials(canvas: &mut Canvas<'_>, shared: &Shared) {
    let theme = canvas.theme;
    let all = tried(shared);
    if all.is_empty() || canvas.height() < 2 {
        return;
    }
    let slots: Vec<&str> = shared.facts.board.slots.iter().map(|slot| slot.id.as_str()).take(MOST_SLOTS).collect();
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
        let one = &all[hidden + at];
        let blamed: &[String] = match one {
            Tried::Run(_, trial) => &trial.slots,
            Tried::Start(_) => &[],
        };
        let sat = slots.iter().map(|slot| placed(theme, shared, one.placement(), blamed, slot));
        let (number, long, words, moved) = match one {
            Tried::Run(number, trial) => {
                let (mut words, style) = outcome_words(trial, theme);
                if shared.facts.offered.len() > 1 {
                    words = format!("{words}, {}", trial.settings);
                }
                (number.to_string(), duration_text(trial.seconds), (words, style), moved_words(shared, trial))
            }
            Tried::Start(start) => {
                (theme.marks.open.to_owned(), String::new(), start_words(theme, start), String::new())
            }
        };
        let mut line = vec![(number, theme.text())];
        line.extend(sat);
        line.extend([(long, theme.text()), words]);
        line.push((moved, theme.label()));
        line
    };
    let width = canvas.width();
    table::draw(&mut canvas.part(0, 0, width, room + 1), &columns, all.len() - hidden, None, &line);
    if hidden > 0 {
        canvas.put(2, room + 1, theme.label(), &say::swap_hidden(hidden));
    }
}

fn start_words(theme: &Theme, start: &Start) -> (String, Style) {
    match start.started {
        true => (format!("{} {}", theme.marks.open, say::swap_started()), theme.label()),
        false => (format!("{} {}", theme.marks.failed, say::swap_no_start()), theme.error()),
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
fn placed(
    theme: &Theme,
    shared: &Shared,
    placement: &[(String, String)],
    blamed: &[String],
    slot: &str,
) -> (String, Style) {
    let fitted = placement.iter().find(|(used, _)| used == slot);
    let blamed = blamed.iter().any(|named| named == slot);
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
