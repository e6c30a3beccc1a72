//! The catalogues: a file for each part of the program and language.

use std::collections::BTreeMap;

use fluent_syntax::ast::{self, InlineExpression, Pattern, PatternElement};
use fluent_syntax::parser::parse;

use crate::Language;

/// A part of the program whose words stand in a file of their own.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Catalogue {
    /// Terms of the trade and of the program.
    Glossary,
    /// The report.
    Report,
}

impl Catalogue {
    /// All of them.
    pub const ALL: [Self; 2] = [Self::Glossary, Self::Report];

    pub(crate) fn source(self, language: Language) -> &'static str {
        match (self, language) {
            (Self::Glossary, Language::En) => include_str!("../texts/en/glossary.ftl"),
            (Self::Glossary, Language::De) => include_str!("../texts/de/glossary.ftl"),
            (Self::Report, Language::En) => include_str!("../texts/en/report.ftl"),
            (Self::Report, Language::De) => include_str!("../texts/de/report.ftl"),
        }
    }
}

/// What a catalogue has under an id.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Entry {
    /// Values that are put into the words, each once, in the order of their names.
    pub values: Vec<String>,
    /// Names of further texts under the same id.
    pub attributes: Vec<String>,
    /// The words as written, without what is chosen or put in.
    pub words: String,
}

/// Every text of a catalogue by its id.
///
/// # Errors
/// When the file is no Fluent, or has an id twice.
pub fn entries(catalogue: Catalogue, language: Language) -> Result<BTreeMap<String, Entry>, String> {
    let resource = parse(catalogue.source(language)).map_err(|(_, errors)| format!("{language:?}: {errors:?}"))?;
    let mut all = BTreeMap::new();
    for entry in &resource.body {
        let ast::Entry::Message(message) = entry else { continue };
        let mut found = Entry::default();
        let attributes = message.attributes.iter().map(|attribute| &attribute.value);
        message.value.iter().chain(attributes).for_each(|pattern| read(pattern, &mut found));
        found.values.sort();
        found.values.dedup();
        found.attributes = message.attributes.iter().map(|attribute| attribute.id.name.to_owned()).collect();
        if all.insert(message.id.name.to_owned(), found).is_some() {
            return Err(format!("{language:?}: {} twice", message.id.name));
        }
    }
    Ok(all)
}

/// Words and values of a pattern, those of nested choices too.
fn read(pattern: &Pattern<&str>, into: &mut Entry) {
    for element in &pattern.elements {
        match element {
            PatternElement::TextElement { value } => {
                into.words.push_str(value);
                into.words.push(' ');
            }
            PatternElement::Placeable { expression: ast::Expression::Inline(inline) } => read_value(inline, into),
            PatternElement::Placeable { expression: ast::Expression::Select { selector, variants } } => {
                read_value(selector, into);
                variants.iter().for_each(|variant| read(&variant.value, into));
            }
        }
    }
}

fn read_value(inline: &InlineExpression<&str>, into: &mut Entry) {
    if let InlineExpression::VariableReference { id } = inline {
        into.values.push(id.name.to_owned());
    }
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;

    /// The same ids, with the same values and further texts, in every language.
    #[rstest]
    fn every_language_is_complete(
        #[values(Catalogue::Glossary, Catalogue::Report)] catalogue: Catalogue,
        #[values(Language::De)] language: Language,
    ) {
        let shape = |language| {
            let all = entries(catalogue, language).unwrap();
            assert!(all.values().all(|entry| !entry.words.trim().is_empty() || !entry.values.is_empty()));
            all.into_iter().map(|(id, entry)| (id, entry.values, entry.attributes)).collect::<Vec<_>>()
        };
        let english = shape(Language::En);
        assert!(english.len() >= 30);
        assert_eq!(english, shape(language));
    }

    /// An id names one text, whichever file it stands in.
    #[test]
    fn no_id_is_in_two_catalogues() {
        let mut all: Vec<String> = Catalogue::ALL
            .iter()
            .flat_map(|catalogue| entries(*catalogue, Language::En).unwrap().into_keys())
            .collect();
        let count = all.len();
        all.sort();
        all.dedup();
        assert_eq!(all.len(), count);
    }

    /// Words that a technician at a bench has to read twice.
    const BANNED: [&str; 21] = [
        "hardly",
        "told",
        "tells",
        "stands",
        "beside",
        "the way",
        "lets one expect",
        "moved most",
        "gets likelier",
        "likelier",
        "in this sitting",
        "taken out of use",
        "went through",
        "speaks for",
        "leaves the account",
        "by itself",
        "what of it",
        "best the same",
        "wrong words",
        "stopgap",
        "struck out",
    ];

    #[rstest]
    fn banned_words_are_nowhere(#[values(Catalogue::Glossary, Catalogue::Report)] catalogue: Catalogue) {
        for (id, entry) in entries(catalogue, Language::En).unwrap() {
            let letters = |c: char| c.is_alphanumeric() || c == '\'';
            let words: Vec<String> = entry
                .words
                .to_lowercase()
                .split(|c| !letters(c))
                .filter(|word| !word.is_empty())
                .map(str::to_owned)
                .collect();
            let text = format!(" {} ", words.join(" "));
            for banned in BANNED {
                assert!(!text.contains(&format!(" {banned} ")), "{id} says {banned:?}: {}", entry.words);
            }
        }
    }
}
