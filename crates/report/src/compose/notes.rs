//! Notes of the job that are meant for its owner too: those that begin with a plus sign.

use crate::document::Block;
use crate::input::Input;
use crate::keys::Key;
use revisum_words::Texts;

/// What a note for the owner begins with.
const FOR_OWNER: char = '+';

pub(super) fn blocks(input: &Input<'_>, texts: &Texts) -> Vec<Block> {
    let shown = |(when, words): &(String, &str)| {
        let words = words.strip_prefix(FOR_OWNER)?.trim();
        (!words.is_empty()).then(|| format!("{when}: {words}"))
    };
    let notes: Vec<String> = input.notes.iter().filter_map(shown).collect();
    match notes.is_empty() {
        true => Vec::new(),
        false => vec![Block::Heading(texts.say(Key::Notes)), Block::Bullets(notes)],
    }
}
