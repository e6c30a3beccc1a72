//! How drives that are written start: what was given, what was asked, and a number for each.

use std::io::{BufRead as _, IsTerminal as _};

use anyhow::Result;
use revisum_drive::{Begin, DriveSettings, KEYBOARDS, NUMBERS, Text, Where};
use revisum_link::Shop;
use revisum_records::WrongUse;
use revisum_words::Language;

use crate::cli::SettingsArgs;
use crate::say;

/// The settings of the first drive; nothing where nobody says anything of them.
///
/// # Errors
/// When something is said that is no setting, or is to be asked where nobody answers.
pub(super) fn first(args: &SettingsArgs) -> Result<Option<DriveSettings>> {
    let given = DriveSettings {
        number: args.number,
        begin: args.begin.map(Into::into).unwrap_or_default(),
        screen: args.screen.map(Into::into).unwrap_or_default(),
        text: args.text.map(Into::into).unwrap_or_default(),
        language: args.speak.clone(),
        keyboard: args.keyboard.clone(),
        sound: args.sound,
        shop: args.shop_name.clone(),
        card: None,
    };
    let settings = if args.ask { asked(given)? } else { given };
    let settings = settings.checked().map_err(|error| WrongUse(error.to_string()))?;
    if let Some(keyboard) = settings.keyboard.as_ref().filter(|keyboard| !KEYBOARDS.contains(&keyboard.as_str())) {
        return Err(WrongUse(say::drive_no_keyboard(keyboard, KEYBOARDS.join(" "))).into());
    }
    Ok((args.ask || settings != DriveSettings::default()).then_some(settings))
}

/// The same for the drive at this place: its number counts on.
///
/// # Errors
/// When there are no numbers left.
pub(super) fn at(first: &DriveSettings, place: usize) -> Result<DriveSettings> {
    let number = match first.number {
        None => None,
        Some(number) => {
            let number = u16::try_from(place).ok().and_then(|place| number.checked_add(place));
            let number = number.filter(|number| NUMBERS.contains(number));
            Some(number.ok_or_else(|| WrongUse(say::drive_no_number(*NUMBERS.end())))?)
        }
    };
    Ok(DriveSettings { number, ..first.clone() })
}

/// The same with a card of this shop.
///
/// # Errors
/// When no card can be made.
pub(super) fn with_card(settings: DriveSettings, shop: &Shop, args: &SettingsArgs) -> Result<DriveSettings> {
    let card = shop.issue(settings.number, args.counter.as_deref())?;
    Ok(DriveSettings { card: Some(toml::Table::try_from(card)?), ..settings })
}

/// The same with a card that several machines share.
///
/// # Errors
/// When no card can be made.
pub(super) fn with_shared_card(settings: DriveSettings, shop: &Shop, args: &SettingsArgs) -> Result<DriveSettings> {
    let card = shop.issue_shared(args.counter.as_deref())?;
    Ok(DriveSettings { card: Some(toml::Table::try_from(card)?), ..settings })
}

/// Asks for each setting; an empty answer leaves what stands in brackets.
fn asked(given: DriveSettings) -> Result<DriveSettings> {
    if !std::io::stdin().is_terminal() {
        return Err(WrongUse(say::drive_nobody_answers().to_owned()).into());
    }
    let languages = Language::all().map(Language::tag).collect::<Vec<_>>().join(" ");
    Ok(DriveSettings {
        number: answer(say::drive_ask_number(), &NUMBERS.start().to_string(), given.number, |text| text.parse().ok())?,
        begin: choice(
            say::drive_ask_begin(),
            given.begin,
            &[("countdown", Begin::Countdown), ("at-once", Begin::AtOnce), ("key", Begin::Key)],
        )?,
        screen: choice(say::drive_ask_screen(), given.screen, &[("found", Where::Found), ("serial", Where::Serial)])?,
        text: choice(
            say::drive_ask_text(),
            given.text,
            &[("fitting", Text::Fitting), ("small", Text::Small), ("large", Text::Large)],
        )?,
        language: answer(say::drive_ask_language(), &languages, given.language, |text| {
            Language::tagged(text).map(|_| text.to_owned())
        })?,
        keyboard: answer(say::drive_ask_keyboard(), &KEYBOARDS.join(" "), given.keyboard, |text| {
            KEYBOARDS.contains(&text).then(|| text.to_owned())
        })?,
        sound: choice(say::drive_ask_sound(), given.sound, &[("no", false), ("yes", true)])?,
        shop: answer(say::drive_ask_shop(), "", given.shop, |text| Some(text.to_owned()))?,
        card: given.card,
    })
}

fn choice<T: Copy + PartialEq>(question: &str, given: T, all: &[(&str, T)]) -> Result<T> {
    let names = all.iter().map(|(name, _)| *name).collect::<Vec<_>>().join(" ");
    let of = |text: &str| all.iter().find(|(name, _)| *name == text).map(|(_, value)| *value);
    Ok(answer(question, &names, Some(given), of)?.unwrap_or(given))
}

/// Asks until the answer is one, or empty.
fn answer<T>(question: &str, possible: &str, given: Option<T>, of: impl Fn(&str) -> Option<T>) -> Result<Option<T>> {
    loop {
        eprint!("{}", say::drive_question(question, possible));
        let mut line = String::new();
        if std::io::stdin().lock().read_line(&mut line)? == 0 || line.trim().is_empty() {
            return Ok(given);
        }
        if let Some(value) = of(line.trim()) {
            return Ok(Some(value));
        }
        crate::tell!("{}", say::drive_no_answer(format!("{:?}", line.trim())));
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn numbers_count_on_and_end() {
        let first = DriveSettings { number: Some(998), sound: true, ..DriveSettings::default() };
        assert_eq!(at(&first, 1).unwrap(), DriveSettings { number: Some(999), ..first.clone() });
        assert!(at(&first, 2).is_err());
        assert_eq!(at(&DriveSettings::default(), 5).unwrap(), DriveSettings::default());
    }

    #[test]
    fn nothing_said_is_nothing_written() {
        assert_eq!(first(&SettingsArgs::default()).unwrap(), None);
        let sound = SettingsArgs { sound: true, ..SettingsArgs::default() };
        assert_eq!(first(&sound).unwrap().unwrap(), DriveSettings { sound: true, ..DriveSettings::default() });
        let keyboard = SettingsArgs { keyboard: Some("xx".into()), ..SettingsArgs::default() };
        assert!(first(&keyboard).unwrap_err().to_string().contains("ch-fr"));
    }
}
