//! Words for people, in each language: catalogues in `texts/LANGUAGE/*.ftl` (Fluent), and what looks a text up in them.
//!
//! A package that says something has a catalogue of its own; its build script makes a function of each text (`revisum-words-build`), so that
//! the compiler knows them all and warns of one that is never said. What is the case is said here in words for all of them: what the
//! computation found, advises and refuses, which has no words of its own.
//!
//! A further language is a folder of catalogues and nothing else: one file with all texts will do. Tests hold it against English.

mod catalogue;
mod glossary;
mod language;
mod put;
mod texts;

pub use catalogue::{Entry, entries};
pub use fluent_bundle::FluentValue;
pub use glossary::{Term, glossary};
pub use language::{Language, speak, speaking, spoken};
pub use put::Put;
pub use texts::{Name, Texts, fixed, put};
