//! The catalogues: a file for each part of the program and language.

use std::collections::BTreeMap;

use fluent_syntax::ast::{self, InlineExpression, Pattern, PatternElement};
use fluent_syntax::parser::parse;

use crate::Language;

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

/// Every text of a language by its id, or of one of its files.
///
/// # Errors
/// When a file is no Fluent, or an id is there twice.
pub fn entries(language: Language, file: Option<&str>) -> Result<BTreeMap<String, Entry>, String> {
    let mut all = BTreeMap::new();
    for (name, source) in language.source().files {
        if file.is_none_or(|file| file == *name) {
            read_file(source, &mut all).map_err(|error| format!("{language:?}, {name}: {error}"))?;
        }
    }
    Ok(all)
}

fn read_file(source: &str, all: &mut BTreeMap<String, Entry>) -> Result<(), String> {
    let resource = parse(source).map_err(|(_, errors)| format!("{errors:?}"))?;
    for entry in &resource.body {
        let ast::Entry::Message(message) = entry else { continue };
        let mut found = Entry::default();
        let attributes = message.attributes.iter().map(|attribute| &attribute.value);
        message.value.iter().chain(attributes).for_each(|pattern| read(pattern, &mut found));
        found.values.sort();
        found.values.dedup();
        found.attributes = message.attributes.iter().map(|attribute| attribute.id.name.to_owned()).collect();
        if all.insert(message.id.name.to_owned(), found).is_some() {
            return Err(format!("{} is there twice", message.id.name));
        }
    }
    Ok(())
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
    use super::*;

    /// The same ids, with the same values and further texts, in every language.
    #[test]
    fn every_language_is_complete() {
        let shape = |language| {
            let all = entries(language, None).unwrap();
            assert!(all.values().all(|entry| !entry.words.trim().is_empty() || !entry.values.is_empty()));
            all.into_iter().map(|(id, entry)| (id, (entry.values, entry.attributes))).collect::<BTreeMap<_, _>>()
        };
        let english = shape(Language::EN);
        assert!(english.len() >= 30 && Language::all().len() >= 2);
        for language in Language::all() {
            let other = shape(language);
            for (id, expected) in &english {
                assert_eq!(other.get(id), Some(expected), "{id} in {language:?}");
            }
            assert_eq!(other.keys().find(|id| !english.contains_key(*id)), None, "{language:?} has more than English");
        }
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

    #[test]
    fn banned_words_are_nowhere() {
        for (id, entry) in entries(Language::EN, None).unwrap() {
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
