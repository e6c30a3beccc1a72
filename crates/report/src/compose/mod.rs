//! From what is known to what is said, in reading order: the answer, the next step, the story, the parts, the detail.

mod answer;
mod board;
mod course;
mod detail;
mod logged;
mod notes;
mod parts;
mod speed;
mod story;

use crate::document::{Block, Document};
use crate::input::Input;
use crate::keys::Key;
use crate::written::written;
use revisum_diagnose::isolate::{QUESTIONS, Question};
use revisum_record::journal::Intake;
use revisum_words::{Texts, intake as asked, speaking};

/// The report of a job.
pub fn compose(input: &Input<'_>, texts: &Texts) -> Document {
    speaking(texts.language, || written(composed(input, texts), texts))
}

fn composed(input: &Input<'_>, texts: &Texts) -> Document {
    let mut letterhead = vec![input.shop.name.clone()];
    letterhead.extend(input.shop.lines.iter().cloned());
    letterhead.retain(|line| !line.is_empty());
    let mut blocks = Vec::new();
    if input.is_simulated() {
        blocks.push(Block::Small(texts.say(Key::Simulated)));
    }
    blocks.extend(answer::blocks(input, texts));
    blocks.extend(board::blocks(input, texts));
    blocks.extend(notes::blocks(input, texts));
    blocks.extend(course::blocks(input, texts));
    blocks.extend(story::blocks(input, texts));
    blocks.extend(speed::blocks(input, texts));
    blocks.extend(logged::blocks(input, texts));
    blocks.extend(parts::blocks(input, texts));
    blocks.extend(detail::blocks(input, texts));
    Document {
        title: texts.say(Key::Report),
        letterhead,
        facts: facts(input, texts),
        blocks,
        foot: format!(
            "{}   {}",
            input.id,
            texts.put(Key::Page, &[("page", "{page}".into()), ("pages", "{pages}".into())])
        ),
        language: texts.language.tag(),
    }
}

/// Picked answers of this kind, each behind its question.
fn answers(intake: &Intake, of_kind: impl Fn(&str) -> bool) -> String {
    let picked = |question: &Question| {
        let names = question.answers.iter().filter(|name| intake.picked.contains(**name) && of_kind(name));
        let words: Vec<&str> = names.map(|name| asked::answer(name).unwrap_or(name)).collect();
        (!words.is_empty()).then(|| format!("{} {}.", asked::question(question.name), words.join(", ")))
    };
    QUESTIONS.iter().filter_map(picked).collect::<Vec<_>>().join(" ")
}

fn facts(input: &Input<'_>, texts: &Texts) -> Vec<(String, String)> {
    let mut made = texts.put(Key::Made, &[("when", input.made.into())]);
    if !input.shop.technician.is_empty() {
        made.push_str(&format!(" {}", texts.put(Key::By, &[("technician", input.shop.technician.as_str().into())])));
    }
    let board = input.job.looked.as_ref().map(|looked| looked.board.mainboard.as_str()).unwrap_or_default();
    let machine = match board {
        "" => input.job.machine.clone(),
        board => format!("{}, {board}", input.job.machine),
    };
    let mut facts = vec![(texts.say(Key::Machine), machine)];
    if let Some(intake) = &input.job.intake {
        let told = [&intake.symptom, &intake.words];
        let told: Vec<&str> = told.iter().map(|part| part.trim()).filter(|part| !part.is_empty()).collect();
        facts.push((texts.say(Key::Owner), intake.owner.clone()));
        facts.push((texts.say(Key::Told), told.join(" ")));
        facts.push((texts.say(Key::Changed), intake.changed.clone()));
        facts.push((texts.say(Key::Tried), intake.tried.clone()));
        facts.push((texts.say(Key::Said), answers(intake, |name| !intake.seen.contains(name))));
        facts.push((texts.say(Key::Seen), answers(intake, |name| intake.seen.contains(name))));
    }
    facts.push((texts.say(Key::Job), format!("{}. {made}", input.id)));
    facts.retain(|(_, value)| !value.trim().is_empty());
    facts
}
