//! Texts by name in one language.

use std::collections::HashMap;
use std::sync::OnceLock;

use fluent_bundle::concurrent::FluentBundle;
use fluent_bundle::{FluentArgs, FluentResource, FluentValue};
use fluent_syntax::ast::Entry;
use unic_langid::LanguageIdentifier;

use crate::put::shown;
use crate::{Language, Put, spoken};

/// The name of a text.
pub trait Name: Copy {
    /// As the catalogues write it.
    fn id(self) -> &'static str;
}

/// An enumeration of the texts that somebody shows. One that is never said is warned of by the compiler.
#[macro_export]
macro_rules! names {
    ($(#[$about:meta])* $visibility:vis enum $name:ident { $($key:ident = $id:literal),* $(,)? }) => {
        $(#[$about])*
        #[derive(Clone, Copy, Debug, PartialEq, Eq)]
        $visibility enum $name { $($key),* }

        impl $crate::Name for $name {
            fn id(self) -> &'static str {
                match self { $(Self::$key => $id),* }
            }
        }

        #[cfg(test)]
        impl $name {
            /// All of them, for holding them against the catalogue.
            const ALL: &[Self] = &[$(Self::$key),*];
        }
    };
}

/// The id of a text, and the names of further ones under it.
fn names_in(entry: &Entry<&str>) -> Option<(String, Vec<String>)> {
    let Entry::Message(message) = entry else { return None };
    let attributes = message.attributes.iter().map(|attribute| attribute.id.name.to_owned()).collect();
    Some((message.id.name.to_owned(), attributes))
}

/// All words of one language.
pub struct Texts {
    /// Which.
    pub language: Language,
    bundle: FluentBundle<FluentResource>,
    /// The texts into which nothing is put.
    fixed: HashMap<String, &'static str>,
}

impl Texts {
    /// The words of a language, which are read once.
    pub fn of(language: Language) -> &'static Self {
        static READ: OnceLock<Vec<OnceLock<Texts>>> = OnceLock::new();
        let all = READ.get_or_init(|| Language::all().map(|_| OnceLock::new()).collect());
        all[language.index()].get_or_init(|| Self::read(language))
    }

    fn read(language: Language) -> Self {
        let id: Option<LanguageIdentifier> = language.tag().parse().ok();
        let mut bundle = FluentBundle::new_concurrent(id.into_iter().collect());
        // Marks around what is put in would be printed.
        bundle.set_use_isolating(false);
        bundle.set_formatter(Some(|value, _| shown(value)));
        let mut ids: Vec<(String, Vec<String>)> = Vec::new();
        // English first: what a language lacks is said in it. Each file is read once, because reading takes a moment on a slow machine.
        for one in [Language::EN, language].iter().take(if language == Language::EN { 1 } else { 2 }) {
            for (_, file) in one.source().files {
                // What cannot be read is missing, which a test finds; the rest is used.
                let resource = FluentResource::try_new((*file).to_owned()).unwrap_or_else(|(resource, _)| resource);
                if *one == Language::EN {
                    ids.extend(resource.entries().filter_map(names_in));
                }
                bundle.add_resource_overriding(resource);
            }
        }
        let mut texts = Self { language, bundle, fixed: HashMap::new() };
        for (id, attributes) in ids {
            let further = attributes.iter().map(|name| (format!("{id}.{name}"), texts.alone(&id, Some(name))));
            let all: Vec<_> = further.chain([(id.clone(), texts.alone(&id, None))]).collect();
            texts.fixed.extend(all.into_iter().filter_map(|(id, said)| Some((id, said?))));
        }
        texts
    }

    /// A text into which nothing is put, kept as long as the program runs.
    fn alone(&self, id: &str, attribute: Option<&str>) -> Option<&'static str> {
        let message = self.bundle.get_message(id)?;
        let pattern = match attribute {
            None => message.value()?,
            Some(name) => message.get_attribute(name)?.value(),
        };
        let mut errors = Vec::new();
        let said = self.bundle.format_pattern(pattern, None, &mut errors).into_owned();
        errors.is_empty().then(|| &*said.leak())
    }

    /// The words under a name.
    pub fn say(&self, name: impl Name) -> String {
        self.put(name, &[])
    }

    /// The words under a name with values put in. Tests hold that every name has words in every language.
    pub fn put(&self, name: impl Name, values: &[(&str, FluentValue<'_>)]) -> String {
        self.found(name.id(), None, values.iter().map(|(name, value)| (*name, value.clone())))
    }

    /// The words under an id, or a further text there.
    pub(crate) fn found<'v>(
        &self,
        id: &str,
        attribute: Option<&str>,
        values: impl Iterator<Item = (&'v str, FluentValue<'v>)>,
    ) -> String {
        let message = self.bundle.get_message(id);
        let pattern = match attribute {
            None => message.as_ref().and_then(|message| message.value()),
            Some(name) => message.as_ref().and_then(|message| Some(message.get_attribute(name)?.value())),
        };
        let Some(pattern) = pattern else { return id.to_owned() };
        let args: FluentArgs<'_> = values.collect();
        self.bundle.format_pattern(pattern, Some(&args), &mut Vec::new()).into_owned()
    }

    /// A date as this language writes it on paper; month and day count from 1.
    pub fn date(&self, year: u32, month: u32, day: u32) -> String {
        let values = [("day", day.into()), ("month", month.into()), ("year", year.to_string().into())];
        self.found("language-date", None, values.into_iter())
    }

    /// A number with its decimals, as this language writes it.
    pub fn decimal(&self, number: f64, decimals: usize) -> String {
        format!("{number:.decimals$}").replace('.', self.fixed.get("language-decimal-sign").unwrap_or(&"."))
    }
}

/// A text into which nothing is put, in the language that is spoken.
pub fn fixed(id: &'static str) -> &'static str {
    Texts::of(spoken()).fixed.get(id).copied().unwrap_or(id)
}

/// A text whose id is put together, in the language that is spoken; nothing where there is none.
pub(crate) fn lookup(id: &str, attribute: Option<&str>) -> Option<&'static str> {
    let fixed = &Texts::of(spoken()).fixed;
    attribute.map_or_else(|| fixed.get(id), |attribute| fixed.get(&format!("{id}.{attribute}"))).copied()
}

/// A text into which nothing is put, under an id that is put together, in the language that is spoken; nothing where there is none.
pub fn text(id: &str) -> Option<&'static str> {
    lookup(id, None)
}

/// A text with what is put into it, in the language that is spoken.
pub fn put(id: &'static str, values: &[(&str, Put<'_>)]) -> String {
    Texts::of(spoken()).found(id, None, values.iter().map(|(name, value)| (*name, value.0.clone())))
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::speaking;

    #[test]
    fn a_text_is_said_in_the_language_that_is_spoken() {
        let name = || fixed("language-name");
        let german = Language::tagged("de").unwrap();
        assert_eq!((name(), speaking(german, name)), ("English", "Deutsch"));
        assert_eq!(Texts::of(german).decimal(1.5, 2), "1,50");
        assert_eq!(Texts::of(german).date(2031, 3, 9), "9. März 2031");
        assert_eq!(Texts::of(Language::EN).date(2031, 12, 31), "31 Dec 2031");
        assert_eq!(put("language-name", &[("nothing", Put::from(1_u64))]), "English");
        assert_eq!(fixed("no-such-text"), "no-such-text");
    }
}
