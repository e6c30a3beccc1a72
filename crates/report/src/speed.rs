//! A measurement of speed as a document.

use revisum_diagnose::speed::{expected, speed_findings};
use revisum_drawing::{Chart, speed_charts};
use revisum_engine::speed::{Cache, Kind, Spread};
use revisum_engine::units::{bytes_text, latency_text, rate_text};
use revisum_record::speed::SpeedRecord;
use revisum_words::{Said as _, Texts, board, speed, spoken, tests_of};

use crate::document::{Block, Document, Figure, Table};
use crate::keys::Key;
use crate::written::written;

/// The measurement for printing.
pub fn speed_document(record: &SpeedRecord, other: Option<&SpeedRecord>, when: &str) -> Document {
    let texts = Texts::of(spoken());
    let findings = speed_findings(record);
    let sentence = speed::sentence(record);
    let answer = findings.first().map_or_else(|| sentence.clone(), |finding| format!("{}.", board::found(finding)));
    let beneath = match findings.first() {
        Some(finding) => vec![board::advice(finding), sentence],
        None => Vec::new(),
    };
    let mut facts = vec![
        (
            texts.say(Key::Machine),
            match record.simulated {
                true => texts.put(Key::SpeedSimulated, &[("machine", record.machine.as_str().into())]),
                false => record.machine.clone(),
            },
        ),
        (texts.say(Key::ColMeasured), when.to_owned()),
        (texts.say(Key::SpeedProcessor), record.processor.clone()),
        (texts.say(Key::SpeedCaches), caches_words(&record.caches, texts)),
        (texts.say(Key::SpeedRepeats), repeats_words(record, texts)),
    ];
    if let Some(share) = record.large_pages {
        let share = texts.put(Key::SpeedLargeShare, &[("percent", format!("{:.0}", share * 100.0).into())]);
        facts.push((texts.say(Key::SpeedLargePages), share));
    }
    facts.retain(|(_, value)| !value.is_empty());
    let mut blocks = vec![
        Block::Answer { words: answer, bad: !findings.is_empty(), beneath },
        Block::Heading(texts.say(Key::SpeedDoes)),
        Block::Table(memory_table(record, other, texts)),
        Block::Small(texts.say(Key::SpeedTableNote)),
    ];
    if let Ok(expected) = expected(&record.board) {
        let ns = expected.row_ns.map_or_else(|| "none".to_owned(), |ns| format!("{ns:.0}"));
        let values = [
            ("channels", (expected.channels as u64).into()),
            ("speed", expected.speed.to_string().into()),
            ("rate", rate_text(expected.most()).into()),
            ("ns", ns.into()),
        ];
        blocks.push(Block::Paragraph(texts.put(Key::SpeedExpected, &values)));
    }
    blocks.push(Block::Heading(texts.say(Key::SpeedCharts)));
    let figure = |chart: Chart| Figure { name: chart.name.to_owned(), caption: chart.caption, scene: chart.scene };
    blocks.extend(speed_charts(record, other).into_iter().map(figure).map(Block::Figure));
    let document = Document {
        title: texts.say(Key::Speed),
        letterhead: Vec::new(),
        facts,
        blocks,
        foot: format!(
            "{}   {}",
            record.machine,
            texts.put(Key::Page, &[("page", "{page}".into()), ("pages", "{pages}".into())])
        ),
        language: texts.language.tag(),
    };
    written(document, texts)
}

fn repeats_words(record: &SpeedRecord, texts: &Texts) -> String {
    let key = if record.complete { Key::SpeedEachOnce } else { Key::SpeedStopped };
    texts.put(key, &[("repeats", record.repeats.to_string().into())])
}

fn caches_words(caches: &[Cache], texts: &Texts) -> String {
    let one = |cache: &Cache| {
        let cache_words = format!("L{} {}", cache.level, bytes_text(cache.bytes));
        match cache.shared_by > 1 {
            true => {
                let values = [("cache", cache_words.into()), ("cores", cache.shared_by.to_string().into())];
                texts.put(Key::SpeedShared, &values)
            }
            false => cache_words,
        }
    };
    caches.iter().map(one).collect::<Vec<_>>().join(", ")
}

fn memory_table(record: &SpeedRecord, other: Option<&SpeedRecord>, texts: &Texts) -> Table {
    let counts = record.core_counts();
    let mut columns = vec![String::new()];
    columns.extend(counts.iter().map(|cores| tests_of::cores(*cores)));
    columns.extend(other.map(|_| texts.say(Key::SpeedCompared)));
    let row = |kind: Kind| {
        let text = |spread: Option<Spread>| spread.map_or("-".to_owned(), |spread| spread_text(kind, &spread));
        let mut row = vec![kind.said().to_owned()];
        row.extend(counts.iter().map(|cores| text(record.of_memory(kind, *cores))));
        row.extend(other.map(|other| {
            let most = other.core_counts().last().copied().unwrap_or(1);
            text(other.of_memory(kind, most))
        }));
        row
    };
    let share = 1.0 / columns.len() as f32;
    Table { shares: vec![share; columns.len()], columns, rows: Kind::ALL.into_iter().map(row).collect() }
}

/// A value with its spread: `21.5 GB/s (21.3 to 21.7)`.
pub fn spread_text(kind: Kind, spread: &Spread) -> String {
    let text = text(kind);
    let number = |value: f64| text(value).split(' ').next().unwrap_or_default().to_owned();
    let unit = |value: f64| text(value).split(' ').nth(1).unwrap_or_default().to_owned();
    let same = unit(spread.low) == unit(spread.value) && unit(spread.high) == unit(spread.value);
    let text = |value: f64| if same { number(value) } else { text(value) };
    let values = [
        ("value", self::text(kind)(spread.value).into()),
        ("low", text(spread.low).into()),
        ("high", text(spread.high).into()),
    ];
    Texts::of(spoken()).put(Key::SpeedSpread, &values)
}

fn text(kind: Kind) -> fn(f64) -> String {
    if kind == Kind::Latency { latency_text } else { rate_text }
}

#[cfg(test)]
mod tests {
    use revisum_engine::speed::{Point, Width, Work};

    use super::*;

    /// Reading over two working sets: enough for a chart.
    fn record() -> SpeedRecord {
        let point = |bytes: u64, value: f64| Point {
            work: Work { kind: Kind::Read, width: Width::W256, stride: 32, bytes, cores: 1 },
            samples: vec![value],
        };
        SpeedRecord {
            machine: "bench".into(),
            points: vec![point(4096, 1e11), point(8192, 5e10)],
            ..SpeedRecord::default()
        }
    }

    #[test]
    fn the_document_says_what_it_came_to() {
        let document = speed_document(&record(), None, "2031-04-12 13:16");
        let Block::Answer { words, .. } = &document.blocks[0] else { panic!("no answer in front") };
        assert!(words.contains("is not known"), "{words}");
        assert!(crate::pdf(&document).unwrap().starts_with(b"%PDF"));
        let spread = Spread { value: 21.5e9, low: 21.3e9, high: 21.7e9 };
        assert_eq!(spread_text(Kind::Read, &spread), "21.5 GB/s (21.3 to 21.7)");
        assert_eq!(
            spread_text(Kind::Latency, &Spread { value: 1e-9, low: 9e-10, high: 1.1e-9 }),
            "1.0 ns (0.9 to 1.1)"
        );
    }
}
