//! The documents: links lead somewhere, generated parts are as the program has them, and the README speaks plainly.

use std::path::{Path, PathBuf};

use revisum_words::{Language, Texts, glossary};
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

#[test]
fn the_glossary_is_as_the_program_has_it() {
    let mut text = "# Glossary\n\nThe same terms are under `?`, then `t`, in the full screen. This page is generated: \
                    `REVISUM_WRITE_DOCS=1 cargo test -p revisum --test docs` writes it.\n\n| term | meaning |\n|---|---|\n"
        .to_owned();
    for term in glossary(Texts::of(Language::EN)) {
        text.push_str(&format!("| {} | {} |\n", term.name, term.meaning));
    }
    let file = root().join("docs/reference/glossary.md");
    if std::env::var_os(WRITE).is_some() {
        std::fs::create_dir_all(file.parent().unwrap()).unwrap();
        std::fs::write(&file, &text).unwrap();
    }
    assert_eq!(std::fs::read_to_string(&file).unwrap(), text, "{WRITE}=1 writes it anew");
}

/// Words that a reader at a bench has to read twice.
#[rstest]
fn the_readme_speaks_plainly(
    #[values(
        "hardly",
        "stands",
        "beside",
        "the way",
        "lets one expect",
        "in this sitting",
        "went through",
        "speaks for",
        "by itself",
        "wrong words",
        "stopgap",
        "struck out"
    )]
    banned: &str,
) {
    let text = std::fs::read_to_string(root().join("README.md")).unwrap().to_lowercase();
    let words: Vec<&str> = text.split(|c: char| !c.is_alphanumeric()).filter(|word| !word.is_empty()).collect();
    let text = format!(" {} ", words.join(" "));
    let at = text.find(&format!(" {banned} "));
    assert!(at.is_none(), "…{}…", &text[at.unwrap_or(0).saturating_sub(60)..][..120]);
}
