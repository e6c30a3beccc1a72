//! Words for people, in each language: catalogues in `texts/LANGUAGE/*.ftl` (Fluent), and what looks a text up in them.
//!
//! Whoever shows words names those that it needs with [`names!`]: the compiler warns of a name that is never said, and a test beside it holds
//! the names against the catalogue of every language. A third language is a folder of catalogues and a line in [`Language`].

mod catalogue;
mod glossary;
mod language;
mod texts;

pub use catalogue::{Catalogue, Entry, entries};
pub use fluent_bundle::FluentValue;
pub use glossary::{Term, glossary};
pub use language::Language;
pub use texts::{Name, Texts};
