//! The real machine, where nothing reports slots and modules: they are declared, one real run is made, a module is moved, and there is a report.

mod common;

use std::path::Path;

use common::{Screen, revisum, run};

/// A real run of a moment.
const RECIPE: &str = "tests = [\"march-c-\"]\npasses = 1\nmemory = \"16 MiB\"\n";
/// Where the system shows the firmware's tables.
const TABLES: &str = "/sys/firmware/dmi";

/// The program on this machine without its tables; where there are any, they are covered in a mount namespace of its own.
fn without_tables(data: &Path) -> String {
    let program = format!("{} --data {}", revisum().display(), data.display());
    match Path::new(TABLES).exists() {
        false => program,
        true => format!("unshare --mount sh -c 'mount -t tmpfs none {TABLES} && exec {program}'"),
    }
}

fn keys_of(typed: &str) -> Vec<String> {
    typed.chars().map(|letter| if letter == ' ' { "Space".to_owned() } else { letter.to_string() }).collect()
}

fn declare(screen: &Screen, slot: &str, label: &str) {
    screen.wait("e declare module");
    screen.keys(&["e"]);
    screen.wait(&format!("module in {slot}"));
    let typed = keys_of(label);
    screen.keys(&typed.iter().map(String::as_str).collect::<Vec<_>>());
    screen.keys(&["Enter", "Down"]);
    screen.wait_gone("What the label");
}

#[test]
fn declared_modules_come_to_a_report() {
    let data = tempfile::tempdir().unwrap();
    std::fs::create_dir_all(data.path().join("recipes")).unwrap();
    std::fs::write(data.path().join("recipes/moment.toml"), RECIPE).unwrap();
    let screen = Screen::open((128, 40), &format!("{}; echo left-$?", without_tables(data.path())));
    screen.wait("e declare slots");
    screen.keys(&["e"]);
    screen.wait("How many memory slots");
    screen.keys(&["Down", "Enter"]);
    declare(&screen, "A1", "8G 12ab34cd");
    declare(&screen, "B1", "8G red dot");
    screen.wait_all(&["34cd", "red dot", "declared"]);
    screen.keys(&["3", "o"]);
    screen.wait("moment");
    screen.keys(&["Enter"]);
    screen.wait("16 MiB");
    screen.keys(&["6", "Enter"]);
    screen.wait("took");
    screen.keys(&["6"]);
    screen.wait_all(&["result", "Space remove, insert"]);
    screen.keys(&["Space"]);
    screen.wait("removed:");
    // Power off and on again: what was declared is known.
    screen.keys(&["q"]);
    screen.wait("left-0");
    let again = Screen::open((128, 40), &format!("{}; echo left-$?", without_tables(data.path())));
    again.wait_all(&["removed:", "red dot", "declared"]);
    again.keys(&["9"]);
    again.wait("Memory report");
    again.keys(&["Enter"]);
    again.wait("Written to");
    again.keys(&["Enter", "q"]);
    again.wait("left-0");
    let done = run(data.path(), &["report"]);
    assert!(done.status.success(), "{}", String::from_utf8_lossy(&done.stderr));
    let reports: Vec<_> = std::fs::read_dir(data.path().join("reports")).unwrap().flatten().collect();
    let text = std::fs::read_to_string(reports[0].path().join("report.md")).unwrap();
    for words in ["12ab34cd", "red dot", "as a person declared them", "16 MiB"] {
        assert!(text.contains(words), "{words}: {text}");
    }
    let labels = std::fs::read_to_string(reports[0].path().join("labels.txt")).unwrap();
    assert_eq!(labels.lines().count(), 2, "{labels}");
}
