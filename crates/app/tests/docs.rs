//! The documents: links lead somewhere, generated parts are as the program has them, and the README speaks plainly.

use std::path::{Path, PathBuf};

use revisum_engine::catalog::CATALOG;
use revisum_words::{Language, Texts, glossary, tests_of};
use rstest::rstest;

/// Set to write generated parts anew.
const WRITE: &str = "REVISUM_WRITE_DOCS";

fn root() -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR")).join("../..").canonicalize().unwrap()
}

fn documents() -> Vec<PathBuf> {
    fn in_folder(folder: &Path, into: &mut Vec<PathBuf>) {
        for entry in std::fs::read_dir(folder).unwrap() {
            let path = entry.unwrap().path();
            match path.is_dir() {
                true => in_folder(&path, into),
                false if path.extension().is_some_and(|extension| extension == "md") => into.push(path),
                false => {}
            }
        }
    }
    let mut all: Vec<PathBuf> =
        ["README.md", "ARCHITECTURE.md", "CONTRIBUTING.md", "CHANGELOG.md"].map(|name| root().join(name)).into();
    in_folder(&root().join("docs"), &mut all);
    all
}

/// Targets of links and pictures: `[words](target)`.
fn targets(text: &str) -> Vec<String> {
    let parts = text.split("](").skip(1);
    parts.filter_map(|part| part.split_once(')')).map(|(target, _)| target.to_owned()).collect()
}

#[test]
fn every_link_leads_somewhere() {
    let mut looked_at = 0;
    for document in documents() {
        let text = std::fs::read_to_string(&document).unwrap();
        for target in targets(&text).iter().filter(|target| !target.contains("://")) {
            let file = target.split('#').next().unwrap();
            if file.is_empty() {
                continue;
            }
            let path = document.parent().unwrap().join(file);
            assert!(path.exists(), "{}: {target} leads nowhere", document.display());
            looked_at += 1;
        }
    }
    assert!(looked_at > 30, "{looked_at}");
}

/// Compares a generated page with the program, or writes it.
fn generated(name: &str, page: &str) {
    let file = root().join("docs/reference").join(name);
    let page = format!("{}\n", page.trim_end());
    if std::env::var_os(WRITE).is_some() {
        std::fs::write(&file, &page).unwrap();
    }
    assert_eq!(std::fs::read_to_string(&file).unwrap(), page, "{WRITE}=1 writes it anew");
}

const GENERATED: &str = "This page is generated: `cargo xtask docs --write` writes it.";

#[test]
fn the_glossary_is_as_the_program_has_it() {
    let mut page = format!(
        "# Glossary\n\nThe same terms are under `?`, then `t`, in the full screen. {GENERATED}\n\n| term | meaning |\n|---|---|\n"
    );
    for term in glossary(Texts::of(Language::EN)) {
        page.push_str(&format!("| {} | {} |\n", term.name, term.meaning));
    }
    generated("glossary.md", &page);
}

fn help_of(path: &[&str]) -> String {
    let mut command = std::process::Command::new(env!("CARGO_BIN_EXE_revisum"));
    let output = command.args(path).arg("--help").env("LC_ALL", "C").output().unwrap();
    assert!(output.status.success(), "{path:?}");
    String::from_utf8(output.stdout).unwrap()
}

/// Commands below this one, as its help lists them.
fn below(help: &str) -> Vec<String> {
    let list = help.lines().skip_while(|line| *line != "Commands:").skip(1);
    let own = list.filter(|line| line.starts_with("  ") && !line.starts_with("   "));
    own.filter_map(|line| line.split_whitespace().next()).map(str::to_owned).collect()
}

#[test]
fn the_page_of_commands_is_as_the_program_has_it() {
    let mut page = format!("# Commands\n\nWhat `--help` of each command says. {GENERATED}\n");
    let mut count = 0;
    let mut add = |path: &[&str]| {
        let help = help_of(path);
        let name = [&["revisum"], path].concat().join(" ");
        page.push_str(&format!("\n## {name}\n\n```text\n{}\n```\n", help.trim_end()));
        count += 1;
        below(&help)
    };
    for command in add(&[]) {
        for sub in add(&[&command]) {
            add(&[&command, &sub]);
        }
    }
    assert!(count > 15, "{count}");
    let page = page.lines().map(str::trim_end).collect::<Vec<_>>().join("\n");
    generated("commands.md", &page);
}

#[test]
fn the_page_of_tests_is_as_the_program_has_it() {
    let mut page = format!(
        "# Tests\n\nThe tests of the catalogue, by their name in recipes and on the command line. `revisum tests NAME` shows what one \
         detects, computed on a small array. {GENERATED}\n"
    );
    for spec in CATALOG.iter() {
        let (name, title) = (&spec.name, tests_of::title(spec));
        page.push_str(&format!("\n## {name}\n\n"));
        let rows = [
            ("on the screen", title),
            ("purpose", tests_of::purpose(spec)),
            ("memory sees", tests_of::sees(spec)),
            ("cannot say", tests_of::limits(spec).to_owned()),
            ("source", spec.literature.to_string()),
        ];
        page.push_str("| | |\n|---|---|\n");
        rows.iter().for_each(|(label, text)| page.push_str(&format!("| {label} | {} |\n", text.replace('|', "\\|"))));
    }
    generated("tests.md", &page);
}

/// Words that a reader at a bench has to read twice.
#[rstest]
fn the_documents_speak_plainly(
    #[values(
        "hardly",
        "lets one expect",
        "in this sitting",
        "went through",
        "speaks for",
        "by itself",
        "wrong words",
        "stopgap",
        "struck out",
        "taken out of use",
        "moved most",
        "gets likelier",
        "leaves the account",
        "what of it",
        "best the same",
        "told"
    )]
    banned: &str,
) {
    let mut found = Vec::new();
    for document in documents() {
        let text = std::fs::read_to_string(&document).unwrap().to_lowercase();
        for (number, line) in (1..).zip(text.lines()) {
            // What is between backticks is a name in a program.
            let prose: String = line.split('`').step_by(2).collect();
            let words: Vec<&str> =
                prose.split(|c: char| !c.is_alphanumeric()).filter(|word| !word.is_empty()).collect();
            if format!(" {} ", words.join(" ")).contains(&format!(" {banned} ")) {
                found.push(format!("{}:{number}", document.strip_prefix(root()).unwrap().display()));
            }
        }
    }
    assert!(found.is_empty(), "{banned:?} in {}", found.join(", "));
}

/// The page that everybody reads first keeps stricter words.
#[rstest]
fn the_readme_speaks_plainly(#[values("stands", "beside", "the way")] banned: &str) {
    let text = std::fs::read_to_string(root().join("README.md")).unwrap().to_lowercase();
    let words: Vec<&str> = text.split(|c: char| !c.is_alphanumeric()).filter(|word| !word.is_empty()).collect();
    assert!(!format!(" {} ", words.join(" ")).contains(&format!(" {banned} ")));
}
