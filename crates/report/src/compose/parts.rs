//! The parts: where it failed, with the drawing of the board, and what becomes of each module.

use revisum_diagnose::isolate::{Disposition, Verdict, dispositions};
use revisum_diagnose::signature::Shape;
use revisum_drawing::board_scene;
use revisum_engine::places::Certainty;
use revisum_engine::units::bytes_text;

use crate::document::{Block, Figure, Table};
use crate::input::Input;
use crate::texts::Texts;

pub(super) fn blocks(input: &Input<'_>, texts: &Texts) -> Vec<Block> {
    let mut blocks = located(input, texts);
    blocks.extend(modules(input, texts));
    blocks
}

fn located(input: &Input<'_>, texts: &Texts) -> Vec<Block> {
    let Some((state, location)) = input.located else { return Vec::new() };
    let number = input.runs.iter().position(|run| std::ptr::eq(run.state, state)).map_or(0, |at| at + 1);
    let mut blocks = vec![Block::Heading(texts.say("where"))];
    if let Some(signature) = &location.signature {
        let shapes: Vec<String> =
            signature.shapes.iter().take(3).map(|shape| texts.say(&format!("shape-{}", word(*shape)))).collect();
        let shape = match &shapes[..] {
            [one] => one.clone(),
            several => texts.put("shape-several", &[("shapes", several.join("; ").into())]),
        };
        let slots: Vec<&str> = location.slots.keys().map(String::as_str).filter(|slots| !slots.is_empty()).collect();
        let lanes: Vec<String> = signature.lanes.iter().map(u8::to_string).collect();
        let lanes = if lanes.is_empty() || lanes.len() > 8 { "none".to_owned() } else { lanes.join(", ") };
        let slots = if slots.is_empty() { "?".to_owned() } else { slots.join("; ") };
        let values = [("shape", shape.into()), ("slots", slots.into()), ("lanes", lanes.into())];
        blocks.push(Block::Paragraph(texts.put("where-words", &values)));
    }
    let certainty = match location.certainty {
        Some(Certainty::Certain) => "certain",
        Some(Certainty::Assumed) => "assumed",
        Some(Certainty::OneOf) => "one-of",
        Some(Certainty::Unknown) | None => "unknown",
    };
    blocks.push(Block::Paragraph(texts.say(&format!("certainty-{certainty}"))));
    blocks.push(Block::Figure(Figure {
        name: "board".to_owned(),
        caption: texts.put("chart-board", &[("run", number.into())]),
        scene: board_scene(state),
    }));
    blocks
}

/// The word of a shape in keys.
fn word(shape: Shape) -> &'static str {
    match shape {
        Shape::Cell => "cell",
        Shape::Column => "column",
        Shape::Row => "row",
        Shape::Bank => "bank",
        Shape::Lane => "lane",
        Shape::LanePair => "lane-pair",
        Shape::ByteLane => "byte-lane",
        Shape::AddressLine => "address-line",
        Shape::HalfModule => "half-module",
        Shape::WholeModule => "whole-module",
        Shape::Channel => "channel",
        Shape::DecoderDoubles => "decoder-doubles",
        Shape::Scattered => "scattered",
        Shape::Machine => "machine",
    }
}

fn modules(input: &Input<'_>, texts: &Texts) -> Vec<Block> {
    if input.case.modules.is_empty() {
        return Vec::new();
    }
    let ends = match input.advice.map(|advice| &advice.verdict) {
        Some(Verdict::Done { named, reason }) => dispositions(input.case, named, *reason),
        Some(Verdict::NothingToFind) => dispositions(input.case, &[], revisum_diagnose::isolate::Reason::Confident),
        _ => Vec::new(),
    };
    let row = |known: &revisum_diagnose::isolate::KnownModule| {
        let module = input.module(&known.id).cloned().unwrap_or_default();
        let end = ends.iter().find(|(id, _)| *id == known.id).map(|(_, end)| *end);
        let mut end = texts.say(match end {
            Some(Disposition::Replace) => "end-replace",
            Some(Disposition::Elsewhere) => "end-elsewhere",
            Some(Disposition::InQuestion) => "end-in-question",
            Some(Disposition::Keep) => "end-keep",
            Some(Disposition::Untested) => "end-untested",
            None => "end-unknown",
        });
        if known.known_good {
            end = format!("{end}; {}", texts.say("good"));
        }
        let serial = if module.serial.is_empty() { texts.say("unnamed") } else { module.serial.clone() };
        let kind = format!("{} {}", module.maker, module.part);
        vec![(input.name)(&known.id), kind.trim().to_owned(), bytes_text(module.bytes), serial, end]
    };
    let columns = ["col-module", "col-kind", "col-size", "col-serial", "col-outcome"];
    let table = Table {
        columns: columns.iter().map(|key| texts.say(key)).collect(),
        shares: vec![0.2, 0.25, 0.1, 0.17, 0.28],
        rows: input.case.modules.iter().map(row).collect(),
    };
    vec![Block::Heading(texts.say("modules")), Block::Table(table)]
}
