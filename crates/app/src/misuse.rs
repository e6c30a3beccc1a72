//! What is wrong with a command line, in the language that is spoken: what cannot be read, what there is instead, and where to look.

use std::error::Error as _;
use std::num::ParseIntError;

use clap::error::{ContextKind, ContextValue, ErrorKind};
use clap::{CommandFactory, Error};

use crate::cli::Cli;
use crate::say;

/// Shows help, or says what is wrong, and ends the program.
pub fn exit(error: &Error) -> ! {
    use ErrorKind::{DisplayHelp, DisplayHelpOnMissingArgumentOrSubcommand, DisplayVersion};
    if matches!(error.kind(), DisplayHelp | DisplayHelpOnMissingArgumentOrSubcommand | DisplayVersion) {
        error.exit();
    }
    let arguments: Vec<String> = std::env::args_os().map(|argument| argument.to_string_lossy().into_owned()).collect();
    crate::tell!("revisum: {}", said(error, &arguments));
    std::process::exit(error.exit_code())
}

/// What is wrong, and what to do about it.
fn said(error: &Error, arguments: &[String]) -> String {
    let what = what(error).unwrap_or_else(|| say::arg_not_understood().to_owned());
    let meant = suggested(error).map(|this| format!(" {}", say::arg_meant(this))).unwrap_or_default();
    let more = say::arg_see_help(format!("`{} --help`", command(arguments)));
    format!("{what}{meant}\n{more}")
}

fn what(error: &Error) -> Option<String> {
    let argument = || in_words(error, ContextKind::InvalidArg);
    let value = || in_words(error, ContextKind::InvalidValue).filter(|value| !value.is_empty());
    Some(match error.kind() {
        ErrorKind::UnknownArgument => say::arg_unknown(argument()?),
        ErrorKind::InvalidSubcommand => say::arg_no_command(in_words(error, ContextKind::InvalidSubcommand)?),
        ErrorKind::MissingRequiredArgument => say::arg_missing(argument()?),
        ErrorKind::ArgumentConflict => match in_words(error, ContextKind::PriorArg)? {
            other if Some(&other) == argument().as_ref() => say::arg_twice(other),
            other => say::arg_not_both(argument()?, other),
        },
        ErrorKind::ValueValidation => match error.source() {
            Some(why) if !why.is::<ParseIntError>() => say::arg_refused(argument()?, why.to_string()),
            _ => say::arg_not_a_value(format!("{:?}", value()?), argument()?),
        },
        ErrorKind::InvalidValue => match (value(), in_words(error, ContextKind::ValidValue)) {
            (None, _) => say::arg_without_value(argument()?),
            (Some(value), Some(known)) => say::arg_not_one(format!("{value:?}"), argument()?, known),
            (Some(value), None) => say::arg_not_a_value(format!("{value:?}"), argument()?),
        },
        _ => return None,
    })
}

fn suggested(error: &Error) -> Option<String> {
    [ContextKind::SuggestedSubcommand, ContextKind::SuggestedArg, ContextKind::SuggestedValue]
        .into_iter()
        .find_map(|kind| in_words(error, kind))
}

/// The command whose help has the answer, with the program's name.
fn command(arguments: &[String]) -> String {
    let all = Cli::command();
    let mut at = &all;
    let mut name = at.get_name().to_owned();
    for argument in arguments {
        if let Some(below) = at.find_subcommand(argument) {
            name = format!("{name} {argument}");
            at = below;
        }
    }
    name
}

fn in_words(error: &Error, kind: ContextKind) -> Option<String> {
    Some(match error.get(kind)? {
        ContextValue::String(word) => word.clone(),
        ContextValue::Strings(words) if words.is_empty() => return None,
        ContextValue::Strings(words) => words.join(", "),
        ContextValue::StyledStr(words) => words.to_string(),
        _ => return None,
    })
}

#[cfg(test)]
mod tests {
    use revisum_words::{Language, speaking};
    use rstest::rstest;

    use super::*;

    fn refusal(arguments: &str) -> String {
        let command = crate::help::localized(Cli::command());
        let all: Vec<String> = format!("revisum {arguments}").split(' ').map(str::to_owned).collect();
        said(&command.try_get_matches_from(&all).unwrap_err(), &all)
    }

    #[rstest]
    #[case("check --memory lots", "\"lots\" is not an amount of memory.", "\"lots\" ist keine Speichermenge.")]
    #[case("check --memory", "A value is missing after --memory <SIZE>.", "Nach --memory <GRÖSSE> fehlt ein Wert.")]
    #[case("check --depth deep", "Possible: triage, survey, overnight.", "Möglich: triage, survey, overnight.")]
    #[case("check --memry 3M", "Did you mean --memory?", "War --memory gemeint?")]
    #[case("chek", "There is no command chek. Did you mean check?", "Einen Befehl chek gibt es nicht.")]
    #[case("log", "Missing: <RUN>.", "Es fehlt: <LAUF>.")]
    #[case("check --for 3h --until 07:00", "Leave one of them out.", "Eines davon weglassen.")]
    #[case("check --for 3h --for 2h", "more than once", "mehr als einmal")]
    #[case("check --passes x", "\"x\" is not a value for --passes <N>.", "\"x\" ist kein Wert für --passes <N>.")]
    #[case("speed --widths 3", "3 is not a width of a load.", "3 ist keine Breite eines Ladebefehls.")]
    #[case("speed --repeats 0", "it is a number from 1 to 100", "das ist eine Zahl von 1 bis 100")]
    #[case("check --range 6G..4G", "its end must be above its start", "Das Ende muss über dem Anfang liegen")]
    fn what_is_wrong_is_said_in_both_languages(#[case] typed: &str, #[case] english: &str, #[case] german: &str) {
        let said = refusal(typed);
        assert!(said.contains(english), "{said}");
        let said = speaking(Language::tagged("de").unwrap(), || refusal(typed));
        assert!(said.contains(german), "{said}");
    }

    #[test]
    fn the_help_that_has_the_answer_is_named() {
        assert!(refusal("check --memory").ends_with("`revisum check --help` lists what there is."));
        assert!(refusal("chek").ends_with("`revisum --help` lists what there is."));
    }
}
