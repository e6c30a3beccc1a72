//! The parts: where it failed, with the drawing of the board, and what becomes of each module.

use revisum_diagnose::isolate::{Disposition, Verdict, dispositions};
use revisum_drawing::board_scene;
use revisum_engine::places::Certainty;
use revisum_engine::units::bytes_text;
use revisum_record::journal::Stage;
use revisum_record::outcome::Grade;

use crate::document::{Block, Figure, Table};
use crate::input::{Input, Reached};
use crate::keys::Key;
use revisum_words::locate::data_lines;
use revisum_words::{Said as _, Texts};

pub(super) fn blocks(input: &Input<'_>, texts: &Texts) -> Vec<Block> {
    let mut blocks = located(input, texts);
    blocks.extend(modules(input, texts));
    blocks
}

fn located(input: &Input<'_>, texts: &Texts) -> Vec<Block> {
    let Some((state, location)) = input.located else { return Vec::new() };
    let number = input.runs.iter().position(|run| std::ptr::eq(run.state, state)).map_or(0, |at| at + 1);
    let mut blocks = vec![Block::Heading(texts.say(Key::Where))];
    if let Some(signature) = &location.signature {
        let shapes: Vec<String> = signature.shapes.iter().take(3).map(|shape| shape.said().to_owned()).collect();
        let shape = match &shapes[..] {
            [one] => one.clone(),
            several => texts.put(Key::ShapeSeveral, &[("shapes", several.join("; ").into())]),
        };
        let slots: Vec<&str> = location.slots.keys().map(String::as_str).filter(|slots| !slots.is_empty()).collect();
        let lanes = if signature.lanes.len() > 8 { String::new() } else { data_lines(&signature.lanes) };
        let slots = if slots.is_empty() { "?".to_owned() } else { slots.join("; ") };
        let values = [("shape", shape.into()), ("slots", slots.into()), ("lanes", lanes.into())];
        blocks.push(Block::Paragraph(texts.put(Key::WhereWords, &values)));
    }
    let certainty = match location.certainty {
        Some(Certainty::Certain) => Key::CertaintyCertain,
        Some(Certainty::Told) => Key::CertaintyTold,
        Some(Certainty::Assumed) => Key::CertaintyAssumed,
        Some(Certainty::OneOf) => Key::CertaintyOneOf,
        Some(Certainty::Unknown) | None => Key::CertaintyUnknown,
    };
    // What would make it surer is the shop's to do; the owner reads how sure it is.
    blocks.push(Block::Paragraph(texts.say(certainty)));
    blocks.push(Block::Figure(Figure {
        name: "board".to_owned(),
        caption: texts.put(Key::ChartBoard, &[("run", number.into())]),
        scene: board_scene(state),
    }));
    blocks.extend(after(input, texts, number));
    blocks
}

/// The board of the last run, where it came after the failing one and ran clean: what was done shows beside what was.
fn after(input: &Input<'_>, texts: &Texts, failing: usize) -> Option<Block> {
    let (at, last) = input.runs.iter().enumerate().rfind(|(_, run)| run.struck.is_none())?;
    let is_clean = last.judgement.grade == Grade::Clean;
    (is_clean && at + 1 > failing).then(|| {
        Block::Figure(Figure {
            name: "board-after".to_owned(),
            caption: texts.put(Key::ChartAfter, &[("run", (at + 1).into())]),
            scene: board_scene(last.state),
        })
    })
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
        let mut end = match end {
            Some(Disposition::Keep) if is_left_out(input, &known.id) => texts.say(Key::EndKeepOut),
            Some(Disposition::NotAtFault) if is_left_out(input, &known.id) => texts.say(Key::EndNotAtFaultOut),
            end => end.map_or_else(|| texts.say(Key::EndUnknown), |end| end.said().to_owned()),
        };
        if known.known_good {
            end = format!("{end}; {}", texts.say(Key::Good));
        }
        let serial = if module.serial.is_empty() { texts.say(Key::Unnamed) } else { module.serial.clone() };
        let kind = format!("{} {}", module.maker, module.part);
        vec![(input.name)(&known.id), kind.trim().to_owned(), bytes_text(module.bytes), serial, end]
    };
    let columns = [Key::ColModule, Key::ColKind, Key::ColSize, Key::ColSerial, Key::ColOutcome];
    let table = Table {
        columns: columns.iter().map(|key| texts.say(*key)).collect(),
        shares: vec![0.2, 0.25, 0.1, 0.17, 0.28],
        rows: input.case.modules.iter().map(row).collect(),
    };
    let mut blocks = vec![Block::Heading(texts.say(Key::Modules)), Block::Table(table)];
    if input.job.looked.as_ref().is_some_and(|looked| looked.board.is_declared()) {
        blocks.push(Block::Small(texts.say(Key::Declared)));
    }
    blocks
}

/// The machine leaves without this module: it was fitted as it leaves, and the last run was without it.
fn is_left_out(input: &Input<'_>, id: &str) -> bool {
    let is_fitted = input.course.iter().any(|(known, _)| *known == Reached::Stage(Stage::Fitted));
    let last = input.runs.iter().rfind(|run| run.struck.is_none());
    is_fitted && last.is_some_and(|run| run.state.begin.board.modules().all(|(_, module)| module.serial != id))
}
