//! The course of the job: stages that were reached and what was confirmed, each with when.

use crate::document::{Block, Table};
use crate::input::{Input, Reached};
use crate::keys::Key;
use revisum_diagnose::isolate::{Reason, Verdict};
use revisum_record::journal::Stage;
use revisum_words::{Said as _, Texts};

pub(super) fn blocks(input: &Input<'_>, texts: &Texts) -> Vec<Block> {
    // That the machine came in is no news.
    if input.course.len() < 2 {
        return Vec::new();
    }
    let open_end = matches!(input.advice.map(|advice| &advice.verdict), Some(Verdict::Done { reason, .. }) if *reason != Reason::Confident);
    let row = |(reached, when): &(Reached, String)| {
        let words = match reached {
            Reached::Stage(Stage::Found) if open_end => texts.say(Key::NarrowedDown),
            Reached::Stage(stage) => stage.said().to_owned(),
            Reached::Tick(tick) => tick.said().to_owned(),
        };
        vec![when.clone(), words]
    };
    vec![
        Block::Heading(texts.say(Key::Course)),
        Block::Table(Table {
            columns: vec![texts.say(Key::ColDate), texts.say(Key::ColStage)],
            shares: vec![0.25, 0.75],
            rows: input.course.iter().map(row).collect(),
        }),
    ]
}
