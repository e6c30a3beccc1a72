//! Which language is spoken.

use std::ffi::OsString;

use revisum_words::{Language, speak, speak_as_asked};

/// Chooses the language: the one that is asked for with `--language`, else the system's. The full screen may know one that was chosen in it.
pub fn choose() {
    let asked = asked_for(std::env::args_os()).and_then(|tag| Language::tagged(&tag));
    match asked {
        Some(language) => speak_as_asked(language),
        None => of_system(|name| std::env::var(name).ok()).into_iter().for_each(speak),
    }
}

/// What follows `--language`, before all else is read: help and errors are to be in that language too.
fn asked_for(args: impl Iterator<Item = OsString>) -> Option<String> {
    let mut args = args.filter_map(|arg| arg.into_string().ok());
    while let Some(arg) = args.next() {
        match arg.strip_prefix("--language") {
            Some("") => return args.next(),
            Some(rest) if rest.starts_with('=') => return Some(rest[1..].to_owned()),
            _ => {}
        }
    }
    None
}

/// The first of the system's settings that is there decides (`locale(7)`).
fn of_system(value: impl Fn(&str) -> Option<String>) -> Option<Language> {
    let locale =
        ["LC_ALL", "LC_MESSAGES", "LANG"].iter().filter_map(|name| value(name)).find(|locale| !locale.is_empty());
    Language::of_locale(&locale?)
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;

    #[rstest]
    #[case(&["revisum", "--language", "de", "demo"], Some("de"))]
    #[case(&["revisum", "check", "--language=de"], Some("de"))]
    #[case(&["revisum", "report", "--owner-language", "de"], None)]
    #[case(&["revisum", "--language"], None)]
    fn a_language_is_asked_for(#[case] args: &[&str], #[case] expected: Option<&str>) {
        assert_eq!(asked_for(args.iter().map(OsString::from)).as_deref(), expected);
    }

    #[rstest]
    #[case(&[("LANG", "de_DE.UTF-8")], Some("de"))]
    #[case(&[("LANG", "de_DE.UTF-8"), ("LC_ALL", "C")], None)]
    #[case(&[("LANG", "de_DE.UTF-8"), ("LC_ALL", "")], Some("de"))]
    #[case(&[], None)]
    fn the_system_decides(#[case] set: &[(&str, &str)], #[case] expected: Option<&str>) {
        let value = |name: &str| set.iter().find(|(known, _)| *known == name).map(|(_, value)| (*value).to_owned());
        assert_eq!(of_system(value).map(Language::tag), expected);
    }
}
