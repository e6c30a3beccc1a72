//! The story: every run, what was fitted, and what it showed.

use revisum_engine::units::{count_text, duration_text};
use revisum_record::run_state::Outcome;

use crate::document::{Block, Table};
use crate::input::{Input, Ran};
use crate::keys::Key;
use crate::texts::Texts;

pub(super) fn blocks(input: &Input<'_>, texts: &Texts) -> Vec<Block> {
    let heading = Block::Heading(texts.say(Key::Story));
    if input.runs.is_empty() {
        return vec![heading, Block::Paragraph(texts.say(Key::StoryNone))];
    }
    let settings = input.runs.iter().any(|run| run.state.begin.settings != input.runs[0].state.begin.settings);
    let mut columns = vec![(Key::ColRun, 0.05), (Key::ColWhen, 0.18), (Key::ColFitted, 0.3)];
    if settings {
        columns.push((Key::ColSettings, 0.1));
    }
    columns.extend([(Key::ColLong, 0.12), (Key::ColPasses, 0.09), (Key::ColResult, 0.26)]);
    let rows = (1..).zip(input.runs).map(|(number, run)| row(input, texts, number, run, settings));
    vec![
        heading,
        Block::Table(Table {
            columns: columns.iter().map(|(key, _)| texts.say(*key)).collect(),
            shares: columns.iter().map(|(_, share)| *share).collect(),
            rows: rows.collect(),
        }),
    ]
}

fn row(input: &Input<'_>, texts: &Texts, number: u32, run: &Ran<'_>, settings: bool) -> Vec<String> {
    let state = run.state;
    let fitted = state
        .begin
        .board
        .known_placement()
        .into_iter()
        .map(|(slot, id)| texts.put(Key::FittedIn, &[("module", (input.name)(&id).into()), ("slot", slot.into())]));
    let when = match state.begin.wall_doubtful {
        true => texts.put(Key::DoubtfulClock, &[("when", run.when.into())]),
        false => run.when.to_owned(),
    };
    let mut cells = vec![number.to_string(), when, fitted.collect::<Vec<_>>().join(", ")];
    if settings {
        cells.push(state.begin.settings.clone());
    }
    let result = match run.struck {
        Some(reason) => texts.put(Key::StruckOut, &[("result", result(texts, run).into()), ("reason", reason.into())]),
        None => result(texts, run),
    };
    cells.extend([duration_text(state.running_seconds()), state.full_passes.to_string(), result]);
    cells
}

fn result(texts: &Texts, run: &Ran<'_>) -> String {
    let state = run.state;
    let ended = match run.outcome {
        Outcome::Clean => Some(Key::Clean),
        Outcome::CleanSoFar => Some(Key::Running),
        Outcome::CutShort => Some(Key::CutShort),
        Outcome::Interrupted => Some(Key::Interrupted),
        Outcome::CheckingFailed => Some(Key::CheckingFailed),
        Outcome::ErrorsFound => None,
    };
    let mut parts: Vec<String> = ended
        .filter(|key| *key != Key::CutShort || !state.has_errors())
        .map(|key| texts.say(key))
        .into_iter()
        .collect();
    if state.errors.words > 0 {
        let slots: Vec<&str> =
            state.errors.slots.keys().map(String::as_str).filter(|slots| !slots.is_empty()).collect();
        let slots = if slots.is_empty() { "none".to_owned() } else { slots.join("; ") };
        let shown = count_text(state.errors.words);
        let values = [("count", state.errors.words.into()), ("shown", shown.into()), ("slots", slots.into())];
        parts.push(texts.put(Key::ErrorsFound, &values));
    }
    if state.miscalculated > 0 {
        parts.push(texts.say(Key::ErrorsLoad));
    }
    if state.hardware.corrected + state.hardware.uncorrected > 0 {
        parts.push(texts.say(Key::ErrorsHardware));
    }
    parts.join("; ")
}
