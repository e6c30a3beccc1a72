//! The story: every run, what was fitted, and what it showed.

use revisum_engine::units::duration_text;

use super::headline;
use crate::document::{Block, Table};
use crate::input::{Input, Ran};
use crate::keys::Key;
use revisum_words::Texts;

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
    cells.extend([duration_text(run.judgement.times.ran), run.judgement.done.passes.to_string(), result]);
    cells
}

fn result(texts: &Texts, run: &Ran<'_>) -> String {
    let words = headline::words(&run.judgement.told(), texts);
    let slots: Vec<&str> =
        run.state.errors.slots.keys().map(String::as_str).filter(|slots| !slots.is_empty()).collect();
    match slots.is_empty() {
        true => words,
        false => texts.put(Key::InSlots, &[("told", words.into()), ("slots", slots.join("; ").into())]),
    }
}
