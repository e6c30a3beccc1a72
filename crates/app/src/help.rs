//! What `--help` says, in the language that is spoken.
//!
//! Every command and argument has its text in the catalogue, under the path of the command and the name of the argument; a test holds the
//! two against each other.

use clap::{Arg, Command};
use revisum_words::text;

/// Layout of a page, with headings in the language that is spoken: only those that have something below them.
fn template(command: &Command) -> String {
    let options = command.get_arguments().any(|arg| !arg.is_positional());
    let parts = [
        (command.get_positionals().next().is_some(), "help-arguments", "positionals"),
        (options, "help-options", "options"),
        (command.get_subcommands().next().is_some(), "help-commands", "subcommands"),
    ];
    let parts = parts.into_iter().filter(|(any, ..)| *any);
    let parts: String = parts.map(|(_, id, tag)| format!("\n\n{}\n{{{tag}}}", heading(id))).collect();
    format!("{{about-with-newline}}\n{} {{usage}}{parts}{{after-help}}", heading("help-usage"))
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
    let mut command = command.mut_args(|arg| told_arg(arg, path)).subcommand_value_name(heading("help-a-command"));
    let usage = command.render_usage().to_string().replace("[OPTIONS]", heading("help-some-options"));
    let layout = template(&command);
    command = command.help_template(layout).override_usage(usage.trim_start_matches("Usage:").trim().to_owned());
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
    command
}

/// An argument: its own text in this command, or the one that it has everywhere.
fn told_arg(arg: Arg, path: &str) -> Arg {
    let Some((id, words)) = [path, "help"].map(|path| id_of(&arg, path)).into_iter().find_map(with_text) else {
        return arg;
    };
    let default = arg.get_default_values().first().filter(|_| arg.get_action().takes_values());
    let default = default.map(|value| format!(" [{} {}]", heading("help-default"), value.to_string_lossy()));
    let words = format!("{words}{}", default.unwrap_or_default());
    let values: Vec<String> = values(&arg).collect();
    let explained = values.iter().map(|value| format!("\n- {value}: {}", heading(&format!("{id}--{value}"))));
    let (short, long) = match values.as_slice() {
        [] => (words.clone(), words),
        all => (
            format!("{words}: {}", all.join(", ")),
            format!("{words}\n\n{}{}", heading("help-values"), explained.collect::<String>()),
        ),
    };
    let takes: Vec<&str> = value_names(&arg).iter().filter_map(|name| text(&takes_id(name))).collect();
    let arg = if takes.is_empty() { arg } else { arg.value_names(takes) };
    arg.help(short).long_help(long).hide_possible_values(true).hide_default_value(true)
}

/// What it takes by name; nothing for a flag.
fn value_names(arg: &Arg) -> Vec<String> {
    match arg.get_value_names() {
        Some(names) => names.iter().map(ToString::to_string).collect(),
        None if arg.get_action().takes_values() => vec![arg.get_id().as_str().replace('_', "-")],
        None => Vec::new(),
    }
}

fn with_text(id: String) -> Option<(String, &'static str)> {
    text(&id).map(|words| (id, words))
}

/// The text for what an option takes, as in `<SIZE>`; there is none for `<HH:MM>`, which stays as it is.
fn takes_id(name: &str) -> String {
    format!("help-takes-{}", name.to_lowercase().replace("..", "-").replace('|', "-"))
}

/// The values that there are, where those are few.
fn values(arg: &Arg) -> impl Iterator<Item = String> {
    let all = if arg.get_action().takes_values() { arg.get_possible_values() } else { Vec::new() };
    all.into_iter().map(|value| value.get_name().to_owned())
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

    const HEADINGS: [&str; 8] = [
        "help-default",
        "help-usage",
        "help-arguments",
        "help-options",
        "help-commands",
        "help-values",
        "help-some-options",
        "help-a-command",
    ];

    /// Ids of a command and of what is below it.
    fn ids(command: &Command, path: &str, into: &mut BTreeSet<String>) {
        into.insert(path.to_owned());
        if command.get_long_about().is_some() {
            into.insert(format!("{path}-long"));
        }
        let own = |arg: &&Arg| !arg.is_global_set() || path == "help";
        for arg in command.get_arguments().filter(own) {
            let everywhere = ["help", "version"].contains(&arg.get_id().as_str());
            let id = id_of(arg, if everywhere { "help" } else { path });
            into.extend(values(arg).map(|value| format!("{id}--{value}")));
            let names = value_names(arg).into_iter().map(|name| takes_id(&name));
            into.extend(names.filter(|id| text(id).is_some()));
            into.insert(id);
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
        let mut expected: BTreeSet<String> = HEADINGS.map(str::to_owned).into();
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
