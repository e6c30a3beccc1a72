//! How fast memory was, where that was measured.

use revisum_diagnose::speed::speed_signs;
use revisum_engine::speed::Kind;
use revisum_engine::units::{latency_text, rate_text};
use revisum_record::speed::SpeedRecord;

use crate::document::{Block, Table};
use crate::input::Input;
use crate::keys::Key;
use revisum_words::{Texts, speed};

/// Measurements in the table: the latest ones.
const MOST: usize = 6;

pub(super) fn blocks(input: &Input<'_>, texts: &Texts) -> Vec<Block> {
    let Some((_, latest)) = input.speeds.last() else { return Vec::new() };
    let mut blocks = vec![Block::Heading(texts.say(Key::Speed))];
    let signs = speed_signs(latest);
    blocks.extend(signs.iter().map(|sign| Block::Paragraph(format!("{}. {}", speed::sign(sign), speed::advice(sign)))));
    if signs.is_empty() && latest.guest {
        blocks.push(Block::Paragraph(texts.say(Key::SpeedGuest)));
    }
    let shown = &input.speeds[input.speeds.len().saturating_sub(MOST)..];
    let columns = [Key::ColMeasured, Key::ColSpeeds, Key::ColRead, Key::ColLatency];
    blocks.push(Block::Table(Table {
        columns: columns.iter().map(|key| texts.say(*key)).collect(),
        shares: vec![0.24, 0.4, 0.18, 0.18],
        rows: shown.iter().map(|(when, record)| row(when, record)).collect(),
    }));
    blocks.push(Block::Small(texts.say(Key::SpeedSmall)));
    blocks
}

fn row(when: &str, record: &SpeedRecord) -> Vec<String> {
    let most = record.core_counts().last().copied().unwrap_or(1);
    let slots = record.board.modules().map(|(slot, module)| match module.speed {
        Some(speed) => format!("{} {speed}", slot.id),
        None => slot.id.clone(),
    });
    let fitted = slots.collect::<Vec<_>>().join(", ");
    let value = |kind| record.of_memory(kind, most).map(|spread| spread.value);
    let read = value(Kind::Read).map(rate_text).unwrap_or_default();
    vec![when.to_owned(), fitted, read, value(Kind::Latency).map(latency_text).unwrap_or_default()]
}
