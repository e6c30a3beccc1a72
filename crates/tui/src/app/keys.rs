//! The page of all keys in the documents is made from the commands themselves.

use std::collections::BTreeMap;
use std::path::Path;

use super::states;
use super::*;

/// Set to write the page anew.
const WRITE: &str = "REVISUM_WRITE_DOCS";

/// A key and all that it does somewhere on a screen.
type Row = (String, Vec<String>);

/// Steps of the walk that meets the commands.
const STEPS: usize = 6000;

/// Commands of every screen in all states of a walk, and those that are there everywhere.
fn rows() -> (Vec<Row>, BTreeMap<char, Vec<Row>>) {
    let (mut common, mut own): (Vec<Row>, BTreeMap<char, Vec<Row>>) = Default::default();
    let mut meet = |app: &App| {
        for known in app.commands() {
            let rows = match known.taker {
                Taker::Common(_) => &mut common,
                Taker::Screen => own.entry(app.view.digit()).or_default(),
            };
            add(rows, known.key.name, &known.key.words);
        }
    };
    for seed in 1..=6 {
        states::visit(seed, STEPS, &mut meet);
    }
    (common, own)
}

/// Numbers of the moment are left out.
fn add(rows: &mut Vec<Row>, name: &str, words: &str) {
    let words = words.split(' ').map(|word| if word.parse::<f64>().is_ok() { "…" } else { word });
    let words = &words.collect::<Vec<_>>().join(" ");

    let name = if name.is_empty() { "Enter" } else { name };
    match rows.iter_mut().find(|(known, _)| known == name) {
        Some((_, all)) if all.iter().any(|said| said == words) => {}
        Some((_, all)) => all.push(words.clone()),
        None => rows.push((name.to_owned(), vec![words.clone()])),
    }
}

fn table(page: &mut String, rows: &[Row]) {
    page.push_str("| key | action |\n|---|---|\n");
    for (name, words) in rows {
        page.push_str(&format!("| {} | {} |\n", name.replace('|', "\\|"), words.join("; ")));
    }
    page.push('\n');
}

#[test]
fn the_page_of_keys_is_as_the_program_has_it() {
    let (common, own) = rows();
    let mut page =
        "# Keys\n\nWhat each key does, by screen; actions that depend on what is known are separated by semicolons. \
                    This page is generated: `cargo xtask docs --write` writes it.\n\n## On every screen\n\n"
            .to_owned();
    table(&mut page, &common);
    for view in View::ALL {
        page.push_str(&format!("## {} {}\n\n", view.digit(), view.name()));
        table(&mut page, &own[&view.digit()]);
    }
    let page = format!("{}\n", page.trim_end());
    let file = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../docs/reference/keys.md");
    if std::env::var_os(WRITE).is_some() {
        std::fs::write(&file, &page).unwrap();
    }
    assert_eq!(std::fs::read_to_string(&file).unwrap(), page, "{WRITE}=1 writes it anew");
}
