//! Names of facts about a board.

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

fn id(name: &str) -> String {
    let words: Vec<String> = name
        .split(|c: char| !c.is_ascii_alphanumeric())
        .filter(|word| !word.is_empty())
        .map(str::to_lowercase)
        .collect();
    format!("fact-{}", words.join("-"))
}

#[cfg(test)]
mod tests {
    use revisum_diagnose::board::fact_names;

    use super::*;

    #[test]
    fn facts_have_names() {
        let names = [fact_names::SERIAL, fact_names::MOST_MEMORY, "serial number (2)", "L9 cache", "SPD"].map(name);
        assert_eq!(names, ["serial number", "maximum memory", "serial number (2)", "L9 cache", "SPD"]);
    }
}
