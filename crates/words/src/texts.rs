//! Texts by name in one language.

use fluent_bundle::{FluentArgs, FluentBundle, FluentResource, FluentValue};
use unic_langid::LanguageIdentifier;

use crate::{Catalogue, Language};

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

/// All words of one language.
pub struct Texts {
    /// Which.
    pub language: Language,
    bundle: FluentBundle<FluentResource>,
}

impl Texts {
    /// The words of a language.
    pub fn new(language: Language) -> Self {
        let id: Option<LanguageIdentifier> = language.tag().parse().ok();
        let mut bundle = FluentBundle::new(id.into_iter().collect());
        // Marks around what is put in would be printed.
        bundle.set_use_isolating(false);
        for catalogue in Catalogue::ALL {
            // What cannot be read is missing, which a test finds; the rest is used.
            let source = catalogue.source(language).to_owned();
            let resource = FluentResource::try_new(source).unwrap_or_else(|(resource, _)| resource);
            let _ = bundle.add_resource(resource);
        }
        Self { language, bundle }
    }

    /// The words under a name.
    pub fn say(&self, name: impl Name) -> String {
        self.put(name, &[])
    }

    /// The words under a name with values put in. Tests hold that every name has words in every language.
    pub fn put(&self, name: impl Name, values: &[(&str, FluentValue<'_>)]) -> String {
        self.found(name.id(), None, values)
    }

    /// The words under an id, or a further text there.
    pub(crate) fn found(&self, id: &str, attribute: Option<&str>, values: &[(&str, FluentValue<'_>)]) -> String {
        let message = self.bundle.get_message(id);
        let pattern = match attribute {
            None => message.as_ref().and_then(|message| message.value()),
            Some(name) => message.as_ref().and_then(|message| Some(message.get_attribute(name)?.value())),
        };
        let Some(pattern) = pattern else { return id.to_owned() };
        let mut args = FluentArgs::new();
        values.iter().for_each(|(name, value)| args.set(*name, value.clone()));
        self.bundle.format_pattern(pattern, Some(&args), &mut Vec::new()).into_owned()
    }

    /// A number with its decimals, as this language writes it.
    pub fn decimal(&self, number: f64, decimals: usize) -> String {
        self.language.decimal(number, decimals)
    }
}
