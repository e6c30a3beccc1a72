//! 1 Intake: what is told of a machine that comes in, picked from lists; nothing is required.

use revisum_diagnose::isolate::QUESTIONS;
use revisum_diagnose::speed::{speed_findings};
use revisum_records::wall_time;
use revisum_words as words;

use crate::say;
use crate::kit::canvas::{Canvas, Target};
use crate::shared::state::Shared;

use super::Intake;

/// The latest notes are shown.
const MOST_NOTES: usize = 3;
/// Columns of a list, and between lists.
const COLUMN: u16 = 40;

/// Draws the view.
pub fn draw(canvas: &mut Canvas<'_>, screen: &Intake, shared: &Shared) {
    let theme = canvas.theme;
    let intake = &shared.facts.intake;
    let width = canvas.width().saturating_sub(4);
    let mut y = 0;
    for (label, words) in
        [(say::intake_owner(), &intake.owner), (say::intake_says(), &intake.symptom), (say::intake_changed(), &intake.changed), (say::intake_tried(), &intake.tried)]
    {
        if !words.is_empty() {
            y += canvas.paragraph(12, y, width.saturating_sub(10), theme.text(), words).max(1);
            canvas.put(2, y - 1, theme.label(), label);
        }
    }
    canvas.put(2, y, theme.label(), say::intake_words());
    let words = if intake.words.is_empty() { say::intake_w_to_add() } else { &intake.words };
    let style = if intake.words.is_empty() { theme.faint() } else { theme.text() };
    y += canvas.paragraph(12, y, width.saturating_sub(10), style, words);
    let zone = wall_time::zone(shared.facts.simulated);
    for (at, note) in shared.facts.notes.iter().rev().take(MOST_NOTES).rev() {
        canvas.put(2, y, theme.label(), say::intake_note());
        let words = format!("{}  {note}", wall_time::date_and_time(*at, &zone));
        y += canvas.paragraph(12, y, width.saturating_sub(10), theme.text(), &words);
    }
    if let Some((name, at)) = screen.chosen().and_then(|name| Some((name, *intake.times.get(name)?))) {
        let words = words::intake::answer(name).unwrap_or(name);
        let words = if intake.seen.contains(name) { say::intake_was_seen(words) } else { say::intake_was_said(words) };
        canvas.put(2, y, theme.label(), say::intake_answered());
        let words = format!("{}  {words}", wall_time::date_and_time(at, &zone));
        y += canvas.paragraph(12, y, width.saturating_sub(10), theme.text(), &words);
    }
    if let Some(words) = shared.proposed_run().filter(|_| !shared.facts.elsewhere) {
        canvas.put(2, y, theme.label(), say::next());
        y += canvas.paragraph(12, y, width.saturating_sub(10), theme.strong(), &words);
    }
    if intake.picked.contains("slow") {
        canvas.put(2, y, theme.label(), say::intake_slow());
        let (words, bad) = speed_words(shared);
        let style = if bad { theme.attention() } else { theme.text() };
        y += canvas.paragraph(12, y, width.saturating_sub(10), style, &words);
    }
    y += 1;
    let columns = usize::from((canvas.width() / COLUMN).clamp(1, 3));
    lists(&mut canvas.below(y), screen, shared, columns);
}

/// What is known of a machine that is said to be slow, and whether memory may be why.
fn speed_words(shared: &Shared) -> (String, bool) {
    let measured = shared.facts.speed.as_ref().filter(|speed| speed.is_of(&shared.facts.board, &shared.facts.settings));
    let Some(speed) = measured else {
        return (say::intake_speed().to_owned(), false);
    };
    match speed_findings(speed).first() {
        Some(finding) => (format!("{}. {}", words::board::found(finding), words::board::advice(finding)), true),
        None => (words::speed::sentence(speed), false),
    }
}

/// A line of the lists: a question, or an answer with its number.
struct Line {
    x: u16,
    y: u16,
    answer: Option<(usize, &'static str)>,
    words: &'static str,
}

/// The lists side by side, each under its question, the next one where there is most room.
fn layout(columns: usize) -> Vec<Line> {
    let mut below = vec![0u16; columns];
    let mut lines = Vec::new();
    let mut number = 0;
    for question in &QUESTIONS {
        let (column, top) = below.iter().copied().enumerate().min_by_key(|(_, rows)| *rows).unwrap_or((0, 0));
        let x = 2 + column as u16 * COLUMN;
        lines.push(Line { x, y: top, answer: None, words: words::intake::question(question.name) });
        for (y, name) in (top + 1..).zip(question.answers) {
            let words = words::intake::answer(name).unwrap_or(name);
            lines.push(Line { x, y, answer: Some((number, name)), words });
            number += 1;
        }
        below[column] = top + question.answers.len() as u16 + 2;
    }
    lines
}

fn lists(canvas: &mut Canvas<'_>, screen: &Intake, shared: &Shared, columns: usize) {
    let lines = layout(columns);
    let chosen = lines.iter().find(|line| line.answer.is_some_and(|(number, _)| number == screen.answer));
    // Where not all fits, what is above the chosen answer moves out of the screen.
    let hidden = chosen.map_or(0, |line| (line.y + 2).saturating_sub(canvas.height()));
    for line in lines {
        let Some(y) = line.y.checked_sub(hidden) else { continue };
        match line.answer {
            None => {
                let style = canvas.theme.strong();
                canvas.put(line.x, y, style, line.words);
            }
            Some((number, name)) => {
                let intake = &shared.facts.intake;
                let seen = intake.seen.contains(name);
                let words = if seen { say::intake_was_seen(line.words) } else { line.words.to_owned() };
                canvas.target(line.x, y, COLUMN - 4, Target::Line(number));
                answer(canvas, (line.x, y), &words, number == screen.answer, intake.picked.contains(name));
            }
        }
    }
}

fn answer(canvas: &mut Canvas<'_>, (x, y): (u16, u16), words: &str, here: bool, picked: bool) {
    let theme = canvas.theme;
    if here {
        canvas.put(x - 2, y, theme.attention(), theme.marks.here);
    }
    let (mark, style) = if picked { (theme.marks.passed, theme.strong()) } else { (theme.marks.open, theme.text()) };
    canvas.put(x, y, if picked { theme.clean() } else { theme.faint() }, mark);
    canvas.put(x + 2, y, style, words);
}
