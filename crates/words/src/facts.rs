//! Names of facts about a board.

use revisum_diagnose::board::fact_names;

use crate::say;
use crate::texts::lookup;

/// What a fact is called: those of the tables by the catalogue, others as their source names them.
pub fn name(name: &str) -> String {
    // A second one of a kind is numbered.
    let (plain, number) = match name.split_once(" (") {
        Some((plain, number)) => (plain, format!(" ({number}")),
        None => (name, String::new()),
    };
    lookup(&id(plain), None).map_or_else(|| name.to_owned(), |said| format!("{said}{number}"))
}

/// What is said of it: words of the tables by the catalogue, all else as its source has it.
pub fn value(value: &str) -> String {
    match value.strip_prefix(fact_names::SUMS_WRONG) {
        Some(sections) => say::fact_value_wrong(sections),
        None if value == fact_names::SUMS_RIGHT => say::fact_value_right().to_owned(),
        None => lookup(&format!("value-{}", slug(value)), None).unwrap_or(value).to_owned(),
    }
}

fn id(name: &str) -> String {
    format!("fact-{}", slug(name))
}

fn slug(name: &str) -> String {
    let words: Vec<String> = name
        .split(|c: char| !c.is_ascii_alphanumeric())
        .filter(|word| !word.is_empty())
        .map(str::to_lowercase)
        .collect();
    words.join("-")
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn facts_have_names() {
        let names = [fact_names::SERIAL, fact_names::MOST_MEMORY, "serial number (2)", "L9 cache", "SPD"].map(name);
        let values = ["sums-right", "sums-wrong base, module", "16 GiB", "corrects single bits"].map(value);
        assert_eq!(values, ["checksums are right", "checksum wrong: base, module", "16 GiB", "corrects single bits"]);
        assert_eq!(names, ["serial number", "maximum memory", "serial number (2)", "L9 cache", "SPD"]);
    }
}
