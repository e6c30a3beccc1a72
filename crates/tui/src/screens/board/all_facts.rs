//! Everything told of the machine and who tells it, as lines: for looking up, and for a second opinion.

use revisum_diagnose::board::{Fact, Told};
use revisum_engine::units::{PhysAddr, bytes_text};
use revisum_words as words;
use revisum_words::Said as _;

use crate::say;
use crate::shared::state::Shared;

/// How a line is meant.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Kind {
    /// A heading.
    Heading,
    /// A fact.
    Fact,
    /// A fact that sources disagree on.
    Disputed,
    /// A sentence.
    Words,
}

/// One line: label, value, source.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Line {
    /// How it is meant.
    pub kind: Kind,
    /// What it is.
    pub label: String,
    /// Its value.
    pub value: String,
    /// Who says so.
    pub source: String,
}

fn line(kind: Kind, label: &str, value: impl Into<String>, source: &str) -> Line {
    Line { kind, label: label.to_owned(), value: value.into(), source: source.to_owned() }
}

fn heading(words: &str) -> Line {
    line(Kind::Heading, words, "", "")
}

/// All lines, the chosen slot first.
pub fn lines(shared: &Shared) -> Vec<Line> {
    let mut lines = Vec::new();
    if !shared.facts.findings.is_empty() {
        lines.push(heading(say::facts_findings()));
    }
    for finding in &shared.facts.findings {
        lines.push(line(Kind::Words, "", format!("{}. {}", words::board::found(finding), words::board::advice(finding)), ""));
    }
    let slots = &shared.facts.board.slots;
    let chosen = slots.get(shared.slot);
    for slot in chosen.into_iter().chain(slots.iter().filter(|slot| Some(*slot) != chosen)) {
        let words = if slot.module.is_some() { slot.id.clone() } else { say::facts_empty(&slot.id) };
        lines.push(heading(&words));
        lines.extend(shared.facts.inventory.facts.about(&slot.id).flat_map(told));
    }
    for name in &shared.facts.inventory.unplaced {
        lines.push(heading(name));
        lines.extend(shared.facts.inventory.facts.about(name).flat_map(told));
    }
    lines.push(heading(say::facts_machine()));
    lines.extend(shared.facts.inventory.facts.about("").flat_map(told));
    for reading in &shared.facts.temperatures {
        lines.push(line(Kind::Fact, say::facts_temperature(), format!("{:.0} °C", reading.celsius), &reading.sensor));
    }
    for count in &shared.facts.counters {
        let value = say::facts_counts(count.corrected, count.uncorrected);
        lines.push(line(Kind::Fact, say::facts_counted(), value, &count.label));
    }
    for event in &shared.facts.inventory.events {
        lines.push(line(Kind::Disputed, say::facts_logged(), event.text.clone(), event.source.said()));
    }
    lines.extend(memory(shared));
    lines.push(heading(say::unknown()));
    lines.extend(shared.facts.inventory.unknown.iter().map(|unknown| line(Kind::Words, "", words::board::unknown(unknown), "")));
    lines
}

/// One line where all sources agree, else one for each.
fn told(fact: &Fact) -> Vec<Line> {
    if fact.is_agreed() {
        let sources: Vec<&str> = fact.told.iter().map(|told| told.source.as_str()).collect();
        return vec![line(Kind::Fact, &words::facts::name(&fact.name), words::facts::value(fact.value()), &sources.join(", "))];
    }
    let one = |(at, told): (usize, &Told)| {
        let name = if at == 0 { words::facts::name(&fact.name) } else { String::new() };
        line(Kind::Disputed, &name, words::facts::value(&told.value), &told.source)
    };
    fact.told.iter().enumerate().map(one).collect()
}

/// Every part of the memory with its ranges.
fn memory(shared: &Shared) -> Vec<Line> {
    let coverage = &shared.facts.coverage;
    let mut lines = vec![heading(&say::facts_memory(bytes_text(coverage.whole_bytes), coverage.whole.said()))];
    for part in &coverage.parts {
        let value = format!("{}, {:.1} %", bytes_text(part.bytes), part.percent);
        lines.push(line(Kind::Fact, &words::board::part(part), value, ""));
        for range in part.ranges.ranges().iter().take(MOST_RANGES) {
            let (first, last) = (PhysAddr(range.start), PhysAddr(range.end - 1));
            lines.push(line(Kind::Fact, "", say::first_to_last(first.to_string(), last.to_string()), ""));
        }
    }
    lines
}

/// Ranges listed of each part: more than any memory map has.
const MOST_RANGES: usize = 64;
