//! The course of the job: stages that were reached and what was confirmed, each with when.

use crate::document::{Block, Table};
use crate::input::{Input, Reached};
use crate::keys::Key;
use revisum_words::{Said as _, Texts};

pub(super) fn blocks(input: &Input<'_>, texts: &Texts) -> Vec<Block> {
    // That the machine came in is no news.
    if input.course.len() < 2 {
        return Vec::new();
    }
    let row = |(reached, when): &(Reached, String)| {
        let words = match reached {
            Reached::Stage(stage) => stage.said(),
            Reached::Tick(tick) => tick.said(),
        };
        vec![when.clone(), words.to_owned()]
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
