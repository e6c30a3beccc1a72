//! What `--help` says, in the language that is spoken.
//!
//! Every command and argument has its text in the catalogue, under the path of the command and the name of the argument; a test holds the
//! two against each other.

use clap::{Arg, Command};
use revisum_words::text;

/// Layout of a page, with headings in the language that is spoken.
fn template() -> String {
    let [usage, arguments] = ["help-usage", "help-all"].map(heading);
    format!("{{about-with-newline}}\n{usage} {{usage}}\n\n{arguments}\n{{all-args}}{{after-help}}")
}

fn heading(id: &str) -> &'static str {
    text(id).unwrap_or_default()
}

/// The commands with their help in the language that is spoken.
pub fn localized(mut command: Command) -> Command {
    command = command.disable_help_subcommand(true);
    command.build();
    told(command, "help")
}

fn told(command: Command, path: &str) -> Command {
    let mut command = command.help_template(template().replace("\n\n\n", "\n\n"));
    if let Some(about) = text(path) {
        let long = text(&format!("{path}-long")).map(|long| format!("{about}\n\n{long}"));
        command = command.about(about);
        if let Some(long) = long {
            command = command.long_about(long);
        }
    }
    let names: Vec<String> = command.get_subcommands().map(|sub| sub.get_name().to_owned()).collect();
    for name in names {
        let path = format!("{path}-{name}");
        command = command.mut_subcommand(name, |sub| told(sub, &path));
    }
    command.mut_args(|arg| told_arg(arg, path))
}

/// An argument: its own text in this command, or the one that it has everywhere.
fn told_arg(arg: Arg, path: &str) -> Arg {
    match text(&id_of(&arg, path)).or_else(|| text(&id_of(&arg, "help"))) {
        Some(words) => arg.help(words).long_help(words),
        None => arg,
    }
}

fn id_of(arg: &Arg, path: &str) -> String {
    format!("{path}--{}", arg.get_id().as_str().replace('_', "-"))
}

#[cfg(test)]
mod tests {
    use std::collections::BTreeSet;

    use clap::CommandFactory;
    use revisum_words::{Language, entries, speaking};

    use super::*;
    use crate::cli::Cli;

    /// Ids of a command and of what is below it.
    fn ids(command: &Command, path: &str, into: &mut BTreeSet<String>) {
        into.insert(path.to_owned());
        if command.get_long_about().is_some() {
            into.insert(format!("{path}-long"));
        }
        let own = |arg: &&Arg| !arg.is_global_set() || path == "help";
        for arg in command.get_arguments().filter(own) {
            let everywhere = ["help", "version"].contains(&arg.get_id().as_str());
            into.insert(id_of(arg, if everywhere { "help" } else { path }));
        }
        for sub in command.get_subcommands() {
            ids(sub, &format!("{path}-{}", sub.get_name()), into);
        }
    }

    /// Each command and argument has its text, and the catalogue has no others.
    #[test]
    fn everything_has_help() {
        let mut command = Cli::command().disable_help_subcommand(true);
        command.build();
        let mut expected: BTreeSet<String> = ["help-usage", "help-all"].map(str::to_owned).into();
        ids(&command, "help", &mut expected);
        let known: BTreeSet<String> = entries(Language::EN, Some("help")).unwrap().into_keys().collect();
        let missing: Vec<_> = expected.difference(&known).collect();
        let more: Vec<_> = known.difference(&expected).collect();
        assert!(missing.is_empty() && more.is_empty(), "missing: {missing:#?}\nmore: {more:#?}");
    }

    #[test]
    fn help_speaks_the_language() {
        let german = Language::tagged("de").unwrap();
        let help = speaking(german, || localized(Cli::command()).render_long_help().to_string());
        assert!(help.contains("Aufruf:") && help.contains("Vollbild"), "{help}");
        let english = localized(Cli::command()).render_help().to_string();
        assert!(english.contains("Usage:") && english.contains("--data"), "{english}");
    }
}
