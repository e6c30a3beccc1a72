//! Picking answers when a machine comes in, and writing words beside them.

use crossterm::event::{KeyCode, KeyEvent};
use revisum_diagnose::isolate::QUESTIONS;
use revisum_engine::text::cleaned;
use revisum_record::journal::{Intake, JobEntry};
use tui_input::Input;

use super::effect::Effect;
use super::state::{App, Overlay};
use super::typing::typed;

/// Longest words.
const LONGEST: usize = 400;

/// How many answers there are.
pub fn answers() -> usize {
    QUESTIONS.iter().map(|question| question.answers.len()).sum()
}

/// Picks the chosen answer, or takes it back.
pub fn pick(app: &mut App) -> Vec<Effect> {
    let mut all = QUESTIONS.iter().flat_map(|question| question.answers);
    let Some((name, _)) = all.nth(app.answer) else { return Vec::new() };
    let mut intake = app.facts.intake.clone();
    if !intake.picked.remove(*name) {
        intake.picked.insert((*name).to_owned());
    }
    kept(intake)
}

/// Asks for words.
pub fn open_words(app: &mut App) {
    app.overlay = Some(Overlay::Words(Input::new(app.facts.intake.words.clone())));
}

/// Takes one key press while words are typed.
pub fn key(app: &mut App, key: KeyEvent, mut input: Input) -> Vec<Effect> {
    match key.code {
        KeyCode::Esc => return Vec::new(),
        KeyCode::Enter => {
            let words = cleaned(input.value(), LONGEST);
            return kept(Intake { words, ..app.facts.intake.clone() });
        }
        _ => typed(&mut input, key, LONGEST),
    }
    app.overlay = Some(Overlay::Words(input));
    Vec::new()
}

fn kept(intake: Intake) -> Vec<Effect> {
    vec![Effect::Decide(Box::new(JobEntry::TakenIn { intake }))]
}
