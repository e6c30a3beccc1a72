//! A measurement of speed as a document.

use revisum_diagnose::speed::{expected, speed_findings, speed_sentence};
use revisum_drawing::{Chart, speed_charts};
use revisum_engine::speed::{Cache, Kind, Spread};
use revisum_engine::units::{bytes_text, cores_text, counted, latency_text, rate_text};
use revisum_record::speed::SpeedRecord;

use crate::document::{Block, Document, Figure, Table};

/// The measurement for printing.
pub fn speed_document(record: &SpeedRecord, other: Option<&SpeedRecord>, when: &str) -> Document {
    let findings = speed_findings(record);
    let answer = findings.first().map_or_else(|| speed_sentence(record), |finding| format!("{}.", finding.what));
    let beneath = match findings.first() {
        Some(finding) => vec![finding.advice.clone(), speed_sentence(record)],
        None => Vec::new(),
    };
    let mut facts = vec![
        (
            "machine".to_owned(),
            if record.simulated { format!("{}, simulated", record.machine) } else { record.machine.clone() },
        ),
        ("measured".to_owned(), when.to_owned()),
        ("processor".to_owned(), record.processor.clone()),
        ("caches".to_owned(), caches_words(&record.caches)),
        ("repeats".to_owned(), repeats_words(record)),
    ];
    if let Some(share) = record.large_pages {
        facts.push(("large pages".to_owned(), format!("{:.0} % of what was gone over", share * 100.0)));
    }
    facts.retain(|(_, value)| !value.is_empty());
    let mut blocks = vec![
        Block::Answer { words: answer, bad: !findings.is_empty(), beneath },
        Block::Heading("What the memory does".to_owned()),
        Block::Table(memory_table(record, other)),
        Block::Small(
            "Over working sets that no cache holds; in brackets the lowest and the highest of all repeats. A copied byte counts once."
                .to_owned(),
        ),
    ];
    if let Ok(expected) = expected(&record.board) {
        let row = expected.row_ns.map(|ns| format!(" A word of another row takes at least {ns:.0} ns by the modules' own timings at their base speed, plus the path to the processor and back."));
        blocks.push(Block::Paragraph(format!(
            "{} at {} MT/s could carry {}.{}",
            counted(expected.channels as u64, "channel"),
            expected.speed,
            rate_text(expected.most()),
            row.unwrap_or_default()
        )));
    }
    blocks.push(Block::Heading("Charts".to_owned()));
    let figure = |chart: Chart| Figure { name: chart.name.to_owned(), caption: chart.caption, scene: chart.scene };
    blocks.extend(speed_charts(record, other).into_iter().map(figure).map(Block::Figure));
    Document {
        title: "How fast this memory is".to_owned(),
        letterhead: Vec::new(),
        facts,
        blocks,
        foot: format!("{}   {{page}} of {{pages}}", record.machine),
        language: "en",
    }
}

fn repeats_words(record: &SpeedRecord) -> String {
    let whole = if record.complete { "" } else { ", stopped before all of them" };
    format!("{}, each loop once before any of them again{whole}", record.repeats)
}

fn caches_words(caches: &[Cache]) -> String {
    let one = |cache: &Cache| {
        let shared = if cache.shared_by > 1 { format!(" for {} cores", cache.shared_by) } else { String::new() };
        format!("L{} {}{shared}", cache.level, bytes_text(cache.bytes))
    };
    caches.iter().map(one).collect::<Vec<_>>().join(", ")
}

fn memory_table(record: &SpeedRecord, other: Option<&SpeedRecord>) -> Table {
    let counts = record.core_counts();
    let mut columns = vec![String::new()];
    columns.extend(counts.iter().map(|cores| cores_text(*cores)));
    columns.extend(other.map(|_| "compared".to_owned()));
    let row = |kind: Kind| {
        let text = |spread: Option<Spread>| spread.map_or("-".to_owned(), |spread| spread_text(kind, &spread));
        let mut row = vec![kind.words().to_owned()];
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
    let text: fn(f64) -> String = if kind == Kind::Latency { latency_text } else { rate_text };
    let number = |value: f64| text(value).split(' ').next().unwrap_or_default().to_owned();
    let unit = |value: f64| text(value).split(' ').nth(1).unwrap_or_default().to_owned();
    let same = unit(spread.low) == unit(spread.value) && unit(spread.high) == unit(spread.value);
    if same {
        format!("{} ({} to {})", text(spread.value), number(spread.low), number(spread.high))
    } else {
        format!("{} ({} to {})", text(spread.value), text(spread.low), text(spread.high))
    }
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
