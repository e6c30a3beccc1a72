//! 6 Swap: what to try next, why, and what was tried.

use revisum_core::isolate::{Experiment, Odds, Suspect, Verdict, band, leading, suspect_words};
use revisum_core::ports::PastRun;
use revisum_core::run_state::Outcome;
use revisum_core::units::{count_text, counted, duration_text};

use crate::tui::canvas::Canvas;
use crate::tui::state::{App, Trial};

const RIGHT: u16 = 70;
const WIDE: u16 = 116;
const BAR: u16 = 10;
/// Columns for the name of a suspect.
const NAME: u16 = 27;

/// Draws the view.
pub fn draw(canvas: &mut Canvas<'_>, app: &App) {
    let wide = canvas.width() >= WIDE;
    let roomy = canvas.height() >= 24;
    let left = if wide { RIGHT - 4 } else { canvas.width().saturating_sub(4) };
    let mut y = draw_card(canvas, app, left);
    if wide {
        let (width, height) = (canvas.width() - RIGHT, canvas.height());
        y = y.max(draw_odds(&mut canvas.part(RIGHT, 0, width, height), app, 8));
    } else if app.has_suspicion() && canvas.height() > y + 5 {
        let height = if roomy { 4 } else { 3 };
        y += u16::from(roomy);
        let width = canvas.width();
        draw_odds(&mut canvas.part(2, y, width - 2, height), app, usize::from(height) - 1);
        y += height;
    }
    y += u16::from(roomy) + u16::from(wide);
    y += draw_trials(&mut canvas.below(y), app) + u16::from(roomy);
    draw_parts(&mut canvas.below(y), app);
}

fn draw_card(canvas: &mut Canvas<'_>, app: &App, width: u16) -> u16 {
    let theme = canvas.theme;
    let Some(advice) = &app.facts.advice else { return draw_nothing_known(canvas, app, width) };
    let name = |serial: &str| app.facts.name_of(serial);
    let mut y = 0;
    if app.has_suspicion() {
        y = canvas.paragraph(2, 0, width, theme.strong(), &leading(&advice.odds, &name)) + 1;
    }
    match &advice.verdict {
        Verdict::NothingToFind => {
            let words = "No run of this job found an error, so there is no part to look for. A longer run finds rarer faults: \
                         3 chooses the depth.";
            y += canvas.paragraph(2, y, width, theme.text(), words);
        }
        Verdict::Named(odds) => {
            let part = suspect_words(&odds.suspect, &name);
            let (why, then) = verdict_words(&odds.suspect);
            canvas.put(2, y, theme.attention(), "FOUND");
            let words = format!("{part}, {}. {why}", band(odds.probability));
            y += canvas.paragraph(9, y, width - 7, theme.strong(), &words);
            y += canvas.paragraph(9, y, width - 7, theme.text(), then);
        }
        Verdict::Open { next, if_errors, if_clean } => {
            y = draw_step(canvas, app, next, y, width);
            let lead = |forecast: &revisum_core::isolate::Forecast| {
                let words = suspect_words(&forecast.leader.suspect, &name);
                format!("{words}: {}", band(forecast.leader.probability))
            };
            canvas.put(2, y, theme.error(), "if errors");
            canvas.put(13, y, theme.text(), &lead(if_errors));
            canvas.put(2, y + 1, theme.clean(), "if clean");
            canvas.put(13, y + 1, theme.text(), &lead(if_clean));
            y += 2;
        }
    }
    if app.facts.offered.len() > 1 {
        let words =
            format!("settings in force: {}; the firmware offers {}", app.facts.settings, app.facts.offered.join(", "));
        canvas.put(2, y, theme.attention(), "s");
        y += canvas.paragraph(4, y, width - 2, theme.text(), &words);
    }
    if let Some(sign) = &app.facts.dark {
        canvas.put(2, y, theme.error(), "dark");
        y += canvas.paragraph(8, y, width - 6, theme.text(), &format!("The machine does not start: {sign}."));
    }
    if app.moved_since_last_run() {
        canvas.put(2, y, theme.attention(), "Enter");
        y += canvas.paragraph(
            8,
            y,
            width - 6,
            theme.text(),
            "runs with the modules as they are fitted now, whatever was advised.",
        );
    }
    y
}

/// Why the verdict holds, and what follows from it.
fn verdict_words(suspect: &Suspect) -> (&'static str, &'static str) {
    match suspect {
        Suspect::Slot(_) => (
            "Errors stayed with the slot while modules moved, and without it the rest ran clean.",
            "Leave the slot empty if another one is free, else the mainboard is the part. Let a survey prove it.",
        ),
        Suspect::NoPart => (
            "After the modules were touched everything ran clean, fitted as it was at first.",
            "No part is named. Let it run overnight before handing it back: a contact can come loose again.",
        ),
        _ => (
            "It failed more than once, and without it the rest ran clean.",
            "Replace it, fit everything that stays, and let a survey prove the repair.",
        ),
    }
}

fn draw_nothing_known(canvas: &mut Canvas<'_>, app: &App, width: u16) -> u16 {
    let theme = canvas.theme;
    let words = if app.facts.board.slots.is_empty() {
        "The firmware's tables cannot be read, so modules cannot be told apart here. By hand: switch off and unplug, take \
         out all modules but one, run, and do the same with each of the others. Write down which one was in; the log of \
         each run is kept under 8."
    } else {
        "Nothing was run in this job yet. Run all modules together first: only errors give something to look for."
    };
    canvas.paragraph(2, 0, width, theme.text(), words)
}

fn draw_step(canvas: &mut Canvas<'_>, app: &App, next: &Experiment, y: u16, width: u16) -> u16 {
    let theme = canvas.theme;
    let steps = steps(app, next);
    canvas.put(2, y, theme.attention(), "NEXT");
    canvas.put(8, y, theme.strong(), &headline(app, next));
    let effort =
        format!("about {:.0} min of hands, {} of machine", next.hands_minutes, duration_text(next.minutes * 60.0));
    canvas.put(8, y + 1, theme.label(), &effort);
    let mut y = y + 2;
    for (number, step) in (1..).zip(&steps) {
        canvas.put(8, y, theme.attention(), &format!("{number}"));
        y += canvas.paragraph(11, y, width.saturating_sub(9), theme.text(), step);
    }
    y
}

fn headline(app: &App, next: &Experiment) -> String {
    let placed: Vec<String> =
        next.placement.iter().map(|(slot, serial)| format!("{} in {slot}", app.facts.name_of(serial))).collect();
    let alone = if placed.len() == 1 { " alone" } else { "" };
    if next.placement == app.facts.board.placement() {
        return "Run again, nothing touched".to_owned();
    }
    format!("Try {}{alone}", placed.join(", "))
}

/// What to do with one's hands, in order.
fn steps(app: &App, next: &Experiment) -> Vec<String> {
    let now = app.facts.board.placement();
    let name = |serial: &String| app.facts.name_of(serial);
    let mut steps = Vec::new();
    let stays = |serial: &String| next.placement.iter().any(|(_, wanted)| wanted == serial);
    let out: Vec<String> = now
        .iter()
        .filter(|(_, serial)| !stays(serial))
        .map(|(slot, serial)| format!("{} out of {slot}", name(serial)))
        .collect();
    if !out.is_empty() {
        steps.push(format!("Take {}. Keep it at hand.", out.join(" and ")));
    }
    for (slot, serial) in &next.placement {
        match now.iter().find(|(_, fitted)| fitted == serial) {
            Some((before, _)) if before != slot => {
                steps.push(format!("Move {} from {before} to {slot}.", name(serial)))
            }
            Some(_) => {}
            None => steps.push(format!("Put {} into {slot}.", name(serial))),
        }
    }
    let touched = !steps.is_empty();
    if touched {
        let off = "Switch off, unplug, wait ten seconds. On a laptop take the battery out.";
        let first = if app.facts.can_move { "The simulation moves the modules for you." } else { off };
        steps.insert(0, first.to_owned());
    }
    let passes = if next.passes == 1 { "1 pass".to_owned() } else { format!("{} passes", next.passes) };
    steps.push(if app.facts.can_move {
        format!("Enter runs {passes}.")
    } else if touched {
        format!(
            "Press each module until its latches close. Switch on, start Revisum, run {passes}: this job carries on."
        )
    } else {
        format!("Run {passes}: 3 sets the number, Enter starts.")
    });
    steps
}

/// Suspects as bars with their bands; nothing while no run has failed. Returns the rows it took.
fn draw_odds(canvas: &mut Canvas<'_>, app: &App, most: usize) -> u16 {
    let theme = canvas.theme;
    let Some(advice) = app.facts.advice.as_ref().filter(|_| app.has_suspicion()) else { return 0 };
    let shown: Vec<&Odds> = advice.odds.iter().filter(|odds| odds.probability >= 0.005).take(most).collect();
    canvas.put(0, 0, theme.label(), "suspicion");
    for (y, odds) in (1u16..).zip(&shown) {
        let leads = y == 1;
        let words = suspect_words(&odds.suspect, &|serial| app.facts.name_of(serial));
        let style = if leads { theme.strong() } else { theme.label() };
        canvas.put(0, y, style, &format!("{words:<26.26}"));
        let filled = (odds.probability * f64::from(BAR)).round() as u16;
        let bar = if leads { theme.error() } else { theme.label() };
        canvas.put(NAME, y, bar, &"█".repeat(usize::from(filled)));
        canvas.put(NAME + filled, y, theme.faint(), &"·".repeat(usize::from(BAR - filled.min(BAR))));
        canvas.put(NAME + BAR + 1, y, style, band(odds.probability));
    }
    1 + shown.len() as u16
}

/// What was tried, oldest first; returns the rows it took.
fn draw_trials(canvas: &mut Canvas<'_>, app: &App) -> u16 {
    let theme = canvas.theme;
    if app.facts.trials.is_empty() || canvas.height() < 2 {
        return 0;
    }
    let slots: Vec<&str> = app.facts.board.slots.iter().map(|slot| slot.id.as_str()).take(6).collect();
    let column = if canvas.width() >= WIDE { 13 } else { 9 };
    canvas.put(2, 0, theme.label(), "run");
    for (at, slot) in (0u16..).zip(&slots) {
        canvas.put(7 + at * column, 0, theme.label(), slot);
    }
    let rest = 7 + slots.len() as u16 * column;
    canvas.put(rest, 0, theme.label(), "long");
    canvas.put(rest + 13, 0, theme.label(), "outcome");
    let room = usize::from(canvas.height()) - 1;
    let skipped = app.facts.trials.len().saturating_sub(room);
    for (y, (at, trial)) in (1u16..).zip(app.facts.trials.iter().enumerate().skip(skipped)) {
        canvas.put(2, y, theme.text(), &(at + 1).to_string());
        draw_trial(canvas, app, trial, &slots, column, y);
        canvas.put(rest, y, theme.text(), &duration_text(trial.seconds));
        let (mut words, style) = outcome_words(trial, canvas);
        if app.facts.offered.len() > 1 {
            words = format!("{words}, {}", trial.settings);
        }
        canvas.put(rest + 13, y, style, &words);
    }
    1 + (app.facts.trials.len() - skipped) as u16
}

/// Every module of the job with what it went through.
fn draw_parts(canvas: &mut Canvas<'_>, app: &App) {
    let theme = canvas.theme;
    if app.facts.history.is_empty() || usize::from(canvas.height()) < 1 + app.facts.history.len() {
        return;
    }
    canvas.put(2, 0, theme.label(), "parts");
    for (y, (serial, past)) in (1u16..).zip(&app.facts.history) {
        canvas.put(2, y, theme.text(), &app.facts.name_of(serial));
        canvas.put(20, y, theme.label(), serial);
        canvas.put(36, y, theme.text(), &past_words(past));
    }
}

fn past_words(past: &[PastRun]) -> String {
    let failed = past.iter().filter(|run| run.errors > 0).count();
    let slots: std::collections::BTreeSet<&str> = past.iter().map(|run| run.slot.as_str()).collect();
    let places: Vec<&str> = slots.into_iter().collect();
    match past.len() as u64 {
        0 => "not run yet".to_owned(),
        runs => format!("{} in {}, errors placed on it in {failed}", counted(runs, "run"), places.join(" and ")),
    }
}

fn draw_trial(canvas: &mut Canvas<'_>, app: &App, trial: &Trial, slots: &[&str], column: u16, y: u16) {
    let theme = canvas.theme;
    for (at, slot) in (0u16..).zip(slots) {
        let fitted = trial.placement.iter().find(|(used, _)| used == slot);
        let blamed = trial.slots.iter().any(|named| named == slot);
        let (words, style) = match fitted {
            Some((_, serial)) => (app.facts.name_of(serial), if blamed { theme.error() } else { theme.text() }),
            None => (theme.marks.open.to_owned(), theme.faint()),
        };
        let words: String = words.chars().take(usize::from(column) - 2).collect();
        canvas.put(7 + at * column, y, style, &words);
    }
}

fn outcome_words(trial: &Trial, canvas: &Canvas<'_>) -> (String, ratatui::style::Style) {
    let theme = canvas.theme;
    let marks = &theme.marks;
    if trial.errors > 0 {
        let place = trial.slots.join(" or ");
        return (format!("{} {}, {place}", marks.failed, counted(trial.errors, "error")), theme.error());
    }
    match trial.outcome {
        Outcome::Clean => {
            let passes = count_text(u64::from(trial.passes));
            (
                format!("{} clean, {passes} pass{}", marks.passed, if trial.passes == 1 { "" } else { "es" }),
                theme.clean(),
            )
        }
        other => (format!("{} {}", marks.open, other.words()), theme.attention()),
    }
}
