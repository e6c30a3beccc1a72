//! How a boot drive starts: a small file on its room for results, that anybody can change with a text editor.

use std::ops::RangeInclusive;

use serde::{Deserialize, Serialize};
use thiserror::Error;

/// Its name there.
pub const SETTINGS_FILE: &str = "settings.toml";
/// Bytes that the image keeps for it: it is written over where it lies.
pub const SETTINGS_BYTES: usize = 8192;
/// The first line, by which its place in an image is found.
pub const SETTINGS_MARK: &str = "# REVISUM DRIVE SETTINGS\n";
/// Numbers that a drive can have.
pub const NUMBERS: RangeInclusive<u16> = 1..=999;
/// Keyboard layouts that a drive has, by country, with the language after it where a country has several.
pub const KEYBOARDS: [&str; 18] =
    ["be", "ch", "ch-fr", "cz", "de", "dk", "es", "fi", "fr", "hu", "it", "nl", "no", "pl", "pt", "se", "uk", "us"];
/// What can stand in it, for those who open it.
const EXPLAINED: &str = include_str!("settings.txt");
/// Letters of a shop's name at most.
const LONGEST_SHOP: usize = 60;
/// Letters of a language's or a layout's name at most.
const LONGEST_TAG: usize = 16;

/// When testing begins.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub enum Begin {
    /// After a moment in which any key stops it.
    #[default]
    Countdown,
    /// At once.
    AtOnce,
    /// When somebody presses a key.
    Key,
}

/// Where the screen is.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub enum Where {
    /// On the display, or on the serial line where there is none.
    #[default]
    Found,
    /// On the first serial line.
    Serial,
}

/// How large text is.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub enum Text {
    /// As large as the screen allows.
    #[default]
    Fitting,
    /// Small.
    Small,
    /// Large.
    Large,
}

/// How a drive starts. What is not said is as usual.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize)]
#[serde(default, deny_unknown_fields)]
pub struct DriveSettings {
    /// Its number, shown large, so that equal machines and their drives are not mixed up.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub number: Option<u16>,
    /// When testing begins.
    pub begin: Begin,
    /// Where the screen is.
    pub screen: Where,
    /// How large text is.
    pub text: Text,
    /// Tag of the language.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub language: Option<String>,
    /// Name of the keyboard's layout.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub keyboard: Option<String>,
    /// A sound when errors show and when a run is over.
    pub sound: bool,
    /// The shop's name, in the header of every screen.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub shop: Option<String>,
    /// The card by which the shop's counter knows it.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub card: Option<toml::Table>,
}

/// What is wrong with settings.
#[derive(Clone, Debug, Error, PartialEq, Eq)]
pub enum SettingsError {
    /// They cannot be read.
    #[error("{0}")]
    Unreadable(String),
    /// No drive has this number.
    #[error("a drive's number is from 1 to 999, not {0}")]
    Number(u16),
    /// A name is too long or is none.
    #[error("{what} is to be at most {most} letters on one line")]
    Name {
        /// Which.
        what: &'static str,
        /// Letters.
        most: usize,
    },
    /// All of it is longer than there is room for.
    #[error("the settings are longer than there is room for on the drive")]
    TooLong,
}

impl DriveSettings {
    /// Reads them.
    ///
    /// # Errors
    /// When something is not as it should be, with the line.
    pub fn parse(text: &str) -> Result<Self, SettingsError> {
        let settings: Self =
            toml::from_str(text).map_err(|error| SettingsError::Unreadable(error.to_string().trim().to_owned()))?;
        settings.checked()
    }

    /// The same, where everything is in its bounds.
    ///
    /// # Errors
    /// With what is not.
    pub fn checked(self) -> Result<Self, SettingsError> {
        if let Some(number) = self.number.filter(|number| !NUMBERS.contains(number)) {
            return Err(SettingsError::Number(number));
        }
        let names = [
            ("the shop's name", &self.shop, LONGEST_SHOP),
            ("the language", &self.language, LONGEST_TAG),
            ("the keyboard", &self.keyboard, LONGEST_TAG),
        ];
        for (what, name, most) in names {
            let good = |name: &String| {
                !name.trim().is_empty() && name.chars().count() <= most && !name.chars().any(char::is_control)
            };
            if name.as_ref().is_some_and(|name| !good(name)) {
                return Err(SettingsError::Name { what, most });
            }
        }
        Ok(self)
    }

    /// The file, as long as the image keeps room for it, with what can stand in it.
    ///
    /// # Errors
    /// When it would be longer.
    pub fn file(&self) -> Result<Vec<u8>, SettingsError> {
        self.explained(EXPLAINED)
    }

    fn explained(&self, explained: &str) -> Result<Vec<u8>, SettingsError> {
        let values = toml::to_string(self).map_err(|error| SettingsError::Unreadable(error.to_string()))?;
        let mut bytes = SETTINGS_MARK.as_bytes().to_vec();
        let lines = explained.lines().map(|line| format!("# {line}").trim_end().to_owned() + "\n");
        bytes.extend(lines.collect::<String>().bytes());
        bytes.extend(values.bytes());
        if bytes.len() > SETTINGS_BYTES {
            return Err(SettingsError::TooLong);
        }
        // Empty lines: an editor shows nothing strange.
        bytes.resize(SETTINGS_BYTES, b'\n');
        Ok(bytes)
    }
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;

    #[test]
    fn what_is_written_is_read_again_and_has_its_length() {
        let settings = DriveSettings {
            number: Some(7),
            begin: Begin::AtOnce,
            screen: Where::Serial,
            text: Text::Large,
            language: Some("de".into()),
            keyboard: Some("ch-fr".into()),
            sound: true,
            shop: Some("Hafen & Söhne \"PC\"".into()),
            card: Some(toml::Table::from_iter([("key".to_owned(), "one\ntwo\n".into())])),
        };
        let file = settings.explained("one\n\ntwo").unwrap();
        assert_eq!(file.len(), SETTINGS_BYTES);
        let text = String::from_utf8(file).unwrap();
        assert!(
            text.starts_with("# REVISUM DRIVE SETTINGS\n# one\n#\n# two\nnumber = 7\nbegin = \"at-once\"\n"),
            "{text}"
        );
        assert_eq!(DriveSettings::parse(&text).unwrap(), settings);
    }

    #[test]
    fn every_line_that_is_explained_is_one() {
        let file = String::from_utf8(DriveSettings::default().file().unwrap()).unwrap();
        assert_eq!(DriveSettings::parse(&file).unwrap(), DriveSettings::default());
        for keyboard in KEYBOARDS {
            assert!(file.contains(&format!(" {keyboard}")), "{keyboard}");
        }
        for name in ["number", "begin", "screen", "text", "language", "keyboard", "sound", "shop"] {
            assert!(file.contains(&format!("\n# {name} = ")), "{name}");
        }
    }

    #[rstest]
    #[case::nothing("", true)]
    #[case::only_a_number("number = 12\n", true)]
    #[case::windows_lines("begin = \"key\"\r\nsound = true\r\n", true)]
    #[case::no_number("number = 0", false)]
    #[case::too_large("number = 1000", false)]
    #[case::a_word_that_is_none("begin = \"soon\"", false)]
    #[case::a_line_that_is_none("colour = \"red\"", false)]
    #[case::damaged("number = \u{0}1", false)]
    #[case::two_lines("shop = \"a\\nb\"", false)]
    #[case::empty("shop = \" \"", false)]
    fn only_what_is_meant_is_taken(#[case] text: &str, #[case] taken: bool) {
        assert_eq!(DriveSettings::parse(text).is_ok(), taken, "{:?}", DriveSettings::parse(text));
    }

    #[test]
    fn what_does_not_fit_is_said() {
        let explained = "x".repeat(SETTINGS_BYTES);
        assert_eq!(DriveSettings::default().explained(&explained), Err(SettingsError::TooLong));
    }
}
