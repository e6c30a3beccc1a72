//! Words for people, in each language: catalogues in `texts/LANGUAGE/*.ftl` (Fluent), and what looks a text up in them.
//!
//! A package that says something has a catalogue of its own; its build script makes a function of each text (`revisum-words-build`), so that
//! the compiler knows them all and warns of one that is never said. What is the case is said here in words for all of them: what the
//! computation found, advises and refuses, which has no words of its own.
//!
//! A further language is a folder of catalogues and nothing else: one file with all texts will do. Tests hold it against English.

// What the build script writes names this package as others do.
extern crate self as revisum_words;

pub mod advice;
pub mod board;
pub mod card;
mod catalogue;
pub mod compare;
pub mod damage;
pub mod facts;
mod glossary;
pub mod intake;
mod language;
pub mod locate;
pub mod logged;
pub mod odds;
mod open_step;
mod order;
pub mod proposed;
mod put;
pub mod refused;
pub mod result;
mod said;
mod say;
pub mod speed;
pub mod tests_of;
mod texts;

pub use catalogue::{Entry, entries};
pub use fluent_bundle::FluentValue;
pub use glossary::{Term, glossary};
pub use language::{Language, speak, speak_as_asked, speak_as_kept, speaking, spoken};
pub use open_step::open_step;
pub use order::order;
pub use put::Put;
pub use said::Said;
pub use texts::{Name, Texts, fixed, put, text};
