//! The languages that there are, and which one is spoken.

use std::cell::Cell;
use std::sync::atomic::{AtomicBool, AtomicU8, Ordering};

use serde::{Deserialize, Deserializer};

/// A folder of catalogues.
pub(crate) struct Source {
    pub(crate) tag: &'static str,
    /// Name and content of each file.
    pub(crate) files: &'static [(&'static str, &'static str)],
}

const SOURCES: &[Source] = include!(concat!(env!("OUT_DIR"), "/sources.rs"));

/// A language: one of the folders of catalogues that the program was built with.
#[derive(Clone, Copy, Default, PartialEq, Eq)]
pub struct Language(u8);

impl Language {
    /// English, which the others are held against.
    pub const EN: Self = Self(0);

    /// All of them, English first.
    pub fn all() -> impl ExactSizeIterator<Item = Self> + DoubleEndedIterator {
        (0..SOURCES.len()).map(|index| Self(index as u8))
    }

    pub(crate) fn index(self) -> usize {
        usize::from(self.0)
    }

    pub(crate) fn source(self) -> &'static Source {
        &SOURCES[self.index()]
    }

    /// Its tag, by BCP 47.
    pub fn tag(self) -> &'static str {
        self.source().tag
    }

    /// What it calls itself. The rest of its catalogues is not read for that.
    pub fn name(self) -> &'static str {
        let own = self.source().files.iter().find(|(name, _)| *name == "language.ftl");
        let mut lines = own.map_or("", |(_, text)| *text).lines();
        lines.find_map(|line| line.strip_prefix("language-name = ")).unwrap_or(self.tag())
    }

    /// The language with this tag.
    pub fn tagged(tag: &str) -> Option<Self> {
        Self::all().find(|language| language.tag() == tag)
    }

    /// The language of a locale as the system names it, as in `de_AT.UTF-8`.
    pub fn of_locale(locale: &str) -> Option<Self> {
        Self::tagged(&locale.split(['_', '.', '@', '-']).next()?.to_ascii_lowercase())
    }

    /// The one after it, and the first after the last.
    pub fn next(self) -> Self {
        Self((self.0 + 1) % SOURCES.len() as u8)
    }
}

impl std::fmt::Debug for Language {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        f.write_str(self.tag())
    }
}

impl<'de> Deserialize<'de> for Language {
    fn deserialize<D: Deserializer<'de>>(deserializer: D) -> Result<Self, D::Error> {
        let tag = String::deserialize(deserializer)?;
        Self::tagged(&tag).ok_or_else(|| {
            let known: Vec<&str> = Self::all().map(Self::tag).collect();
            serde::de::Error::custom(format!("there is no language {tag:?}; there are {}", known.join(", ")))
        })
    }
}

static SPOKEN: AtomicU8 = AtomicU8::new(0);
/// Somebody asked for the language when the program was started.
static ASKED: AtomicBool = AtomicBool::new(false);

thread_local! {
    static HERE: Cell<Option<Language>> = const { Cell::new(None) };
}

/// From now on the program speaks this language; on a thread within [`speaking`] that thread does.
pub fn speak(language: Language) {
    match HERE.get() {
        Some(_) => HERE.set(Some(language)),
        None => SPOKEN.store(language.0, Ordering::Relaxed),
    }
}

/// The same because somebody asked for it: what was kept from an earlier time does not count then.
pub fn speak_as_asked(language: Language) {
    ASKED.store(true, Ordering::Relaxed);
    speak(language);
}

/// From now on the program speaks the language that was kept from an earlier time, unless another one was asked for.
pub fn speak_as_kept(language: Language) {
    if !ASKED.load(Ordering::Relaxed) {
        speak(language);
    }
}

/// The language that is spoken: the program's, or on a thread within [`speaking`] the one given there.
pub fn spoken() -> Language {
    HERE.get().unwrap_or(Language(SPOKEN.load(Ordering::Relaxed)))
}

/// Does something in a language, on this thread only: a report for an owner who speaks another one.
pub fn speaking<R>(language: Language, something: impl FnOnce() -> R) -> R {
    struct Before(Option<Language>);
    impl Drop for Before {
        fn drop(&mut self) {
            HERE.set(self.0);
        }
    }
    let _before = Before(HERE.replace(Some(language)));
    something()
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;

    #[rstest]
    #[case("de_AT.UTF-8", Some("de"))]
    #[case("de", Some("de"))]
    #[case("en_GB", Some("en"))]
    #[case("C", None)]
    #[case("", None)]
    fn the_system_names_a_language(#[case] locale: &str, #[case] expected: Option<&str>) {
        assert_eq!(Language::of_locale(locale).map(Language::tag), expected);
    }

    #[test]
    fn another_language_is_spoken_for_a_while() {
        let german = Language::tagged("de").unwrap();
        let said = speaking(german, || (spoken(), speaking(Language::EN, spoken), spoken()));
        assert_eq!(said, (german, Language::EN, german));
        assert_eq!(spoken(), Language::EN);
        let broken = std::panic::catch_unwind(|| speaking(german, || panic!("in German")));
        assert!(broken.is_err());
        assert_eq!(spoken(), Language::EN);
    }

    #[test]
    fn every_language_is_reached_by_going_on() {
        let all: Vec<Language> = std::iter::successors(Some(Language::EN), |language| Some(language.next()))
            .take(Language::all().len() + 1)
            .collect();
        assert_eq!(all.last(), Some(&Language::EN));
        assert_eq!(all[..all.len() - 1], Language::all().collect::<Vec<_>>());
    }
}
