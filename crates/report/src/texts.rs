//! The words of the report, by key, in each language. They stand in `texts/*.ftl` and nowhere else.

use fluent_bundle::{FluentArgs, FluentBundle, FluentResource, FluentValue};
use unic_langid::LanguageIdentifier;

/// A language of the report.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, serde::Deserialize)]
#[serde(rename_all = "lowercase")]
pub enum Language {
    /// English.
    #[default]
    En,
    /// German.
    De,
}

impl Language {
    /// All of them.
    pub const ALL: [Self; 2] = [Self::En, Self::De];

    /// Its tag.
    pub fn tag(self) -> &'static str {
        match self {
            Self::En => "en",
            Self::De => "de",
        }
    }

    /// The language with this tag.
    pub fn tagged(tag: &str) -> Option<Self> {
        Self::ALL.into_iter().find(|language| language.tag() == tag)
    }

    fn source(self) -> &'static str {
        match self {
            Self::En => include_str!("../texts/en.ftl"),
            Self::De => include_str!("../texts/de.ftl"),
        }
    }
}

/// All words of one language.
pub struct Texts {
    /// Which.
    pub language: Language,
    bundle: FluentBundle<FluentResource>,
}

impl Texts {
    /// The words of a language.
    pub fn new(language: Language) -> Self {
        let source = language.source();
        let id: Option<LanguageIdentifier> = language.tag().parse().ok();
        let mut bundle = FluentBundle::new(id.into_iter().collect());
        // Marks around what is put in would be printed.
        bundle.set_use_isolating(false);
        // What cannot be read is missing, which a test finds; the rest is used.
        let resource = FluentResource::try_new(source.to_owned()).unwrap_or_else(|(resource, _)| resource);
        let _ = bundle.add_resource(resource);
        Self { language, bundle }
    }

    /// The words under a key.
    pub fn say(&self, key: &str) -> String {
        self.put(key, &[])
    }

    /// The words under a key with values put in; the key itself where there are none.
    pub fn put(&self, key: &str, values: &[(&str, FluentValue<'_>)]) -> String {
        let Some(pattern) = self.bundle.get_message(key).and_then(|message| message.value()) else {
            return key.to_owned();
        };
        let mut args = FluentArgs::new();
        values.iter().for_each(|(name, value)| args.set(*name, value.clone()));
        self.bundle.format_pattern(pattern, Some(&args), &mut Vec::new()).into_owned()
    }

    /// A number with its decimals, as this language writes it.
    pub fn decimal(&self, number: f64, decimals: usize) -> String {
        let plain = format!("{number:.decimals$}");
        if self.language == Language::De { plain.replace('.', ",") } else { plain }
    }
}

#[cfg(test)]
mod tests {
    use std::collections::BTreeMap;

    use fluent_syntax::ast::{Entry, InlineExpression, Pattern, PatternElement};
    use fluent_syntax::parser::parse;

    use super::*;

    /// Variables of a pattern, those of nested choices too.
    fn variables(pattern: &Pattern<&str>, into: &mut Vec<String>) {
        for element in &pattern.elements {
            let PatternElement::Placeable { expression } = element else { continue };
            match expression {
                fluent_syntax::ast::Expression::Inline(InlineExpression::VariableReference { id }) => {
                    into.push(id.name.to_owned());
                }
                fluent_syntax::ast::Expression::Inline(_) => {}
                fluent_syntax::ast::Expression::Select { selector, variants } => {
                    if let InlineExpression::VariableReference { id } = selector {
                        into.push(id.name.to_owned());
                    }
                    variants.iter().for_each(|variant| variables(&variant.value, into));
                }
            }
        }
    }

    fn keys(language: Language) -> BTreeMap<String, Vec<String>> {
        let resource = parse(language.source()).unwrap_or_else(|(_, errors)| panic!("{language:?}: {errors:?}"));
        let mut keys = BTreeMap::new();
        for entry in &resource.body {
            let Entry::Message(message) = entry else { continue };
            let mut names = Vec::new();
            variables(message.value.as_ref().unwrap(), &mut names);
            names.sort();
            names.dedup();
            assert!(keys.insert(message.id.name.to_owned(), names).is_none(), "{} twice", message.id.name);
        }
        keys
    }

    #[test]
    fn both_languages_are_complete_and_put_in_the_same_values() {
        let (english, german) = (keys(Language::En), keys(Language::De));
        assert!(english.len() > 100);
        assert_eq!(english, german);
    }

    /// Every key that the code asks for by name exists.
    #[test]
    fn every_key_that_is_used_is_there() {
        let known = keys(Language::En);
        let code = [include_str!("charts.rs"), include_str!("pdf.rs"), include_str!("markdown.rs")]
            .into_iter()
            .chain(crate::compose::SOURCES);
        for part in
            code.flat_map(|code| code.split("say(\"").skip(1).chain(code.split("put(\"").skip(1)).collect::<Vec<_>>())
        {
            let key = part.split('"').next().unwrap();
            assert!(known.contains_key(key), "{key}");
        }
    }

    /// No key is left over, except those whose names are put together: `prefix-{kind}`.
    #[test]
    fn every_key_that_is_there_is_used() {
        let code: String = [include_str!("charts.rs")].into_iter().chain(crate::compose::SOURCES).collect();
        let prefixes = ["verdict-", "part-", "band-", "shape-", "certainty-", "log-"];
        for key in keys(Language::En).keys() {
            let put_together = prefixes.iter().any(|prefix| {
                let kind = key.strip_prefix(prefix);
                kind.is_some_and(|kind| code.contains(&format!("\"{kind}\"")))
            });
            assert!(put_together || code.contains(&format!("\"{key}\"")), "{key}");
        }
    }

    /// Every cause, shape and certainty has its words.
    #[test]
    fn what_is_put_together_is_there() {
        let known = keys(Language::En);
        let sources = crate::compose::SOURCES.concat();
        let kinds = |from: &str, prefixes: &[&str]| {
            let arms = sources.lines().filter(|line| line.trim_start().starts_with(from) && line.contains("=> \""));
            let words: Vec<&str> = arms.filter_map(|line| line.split('"').nth(1)).collect();
            assert!(words.len() > 3, "{from}");
            for (word, prefix) in words.iter().flat_map(|word| prefixes.iter().map(move |prefix| (word, prefix))) {
                assert!(known.contains_key(&format!("{prefix}-{word}")), "{prefix}-{word}");
            }
        };
        kinds("Suspect::", &["verdict", "part"]);
        kinds("Shape::", &["shape"]);
        kinds("Some(Certainty::", &["certainty"]);
        kinds("LogKind::", &["log"]);
        for band in ["099", "095", "080", "050", "005", "000"] {
            assert!(known.contains_key(&format!("band-{band}")));
        }
    }

    #[test]
    fn numbers_choose_words() {
        let texts = Texts::new(Language::De);
        let words = |count: u64| {
            texts.put(
                "errors-found",
                &[("count", count.into()), ("shown", count.to_string().into()), ("slots", "none".into())],
            )
        };
        assert_eq!((words(1).as_str(), words(2).as_str()), ("ein falsches Wort", "2 falsche Wörter"));
        assert_eq!(texts.decimal(98.7, 1), "98,7");
        assert_eq!(texts.say("no such key"), "no such key");
    }
}
