//! What the computer's own system had logged about memory, where that was kept in the job.

use revisum_engine::units::count_text;

use crate::document::{Block, Table};
use crate::input::Input;
use crate::keys::Key;
use revisum_words::{Said as _, Texts};

/// Entries in the table; the newest come first.
const MOST: usize = 12;

pub(super) fn blocks(input: &Input<'_>, texts: &Texts) -> Vec<Block> {
    if input.logged.is_empty() {
        return Vec::new();
    }
    let rows = input.logged.iter().take(MOST).map(|(when, entry)| {
        let kind = entry.kind.said().to_owned();
        let address = entry.address.map(|address| address.to_string()).unwrap_or_default();
        vec![when.clone(), kind, count_text(entry.count), entry.slots.join(", "), address]
    });
    let columns = [Key::ColLast, Key::ColLogged, Key::ColCount, Key::ColSlot, Key::ColAddress];
    let mut blocks = vec![
        Block::Heading(texts.say(Key::Logged)),
        Block::Table(Table {
            columns: columns.iter().map(|key| texts.say(*key)).collect(),
            shares: vec![0.2, 0.36, 0.1, 0.14, 0.2],
            rows: rows.collect(),
        }),
    ];
    if input.logged.len() > MOST {
        let more = (input.logged.len() - MOST) as u64;
        blocks.push(Block::Small(texts.put(Key::LoggedMore, &[("count", more.into())])));
    }
    blocks
}
