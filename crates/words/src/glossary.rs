//! The glossary: what a technician may want to look up, a line each.

use crate::{Language, Texts, entries};

/// A term and what it is.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Term {
    /// The term.
    pub name: String,
    /// What it is, in a sentence.
    pub meaning: String,
}

/// All terms of the catalogue in the order of their names in this language.
pub fn glossary(texts: &Texts) -> Vec<Term> {
    // A catalogue that cannot be read has no terms, which a test finds.
    let ids = entries(Language::EN, Some("glossary")).unwrap_or_default();
    let term = |id: &String| Term {
        name: texts.found(id, None, std::iter::empty()),
        meaning: texts.found(id, Some("is"), std::iter::empty()),
    };
    let mut all: Vec<Term> = ids.keys().map(term).collect();
    all.sort_by_key(|term| term.name.to_lowercase());
    all
}

#[cfg(test)]
mod tests {
    use super::*;

    /// A line each: what is longer is no glossary.
    #[test]
    fn every_term_has_a_short_meaning() {
        for language in Language::all() {
            let all = glossary(Texts::of(language));
            assert!(all.len() >= 30, "{language:?} has {} terms", all.len());
            for term in all {
                let words = term.meaning.split_whitespace().count();
                assert!((3..=22).contains(&words), "{term:?} has {words} words");
                assert!(!term.name.starts_with("term-"), "{term:?}");
            }
        }
    }
}
