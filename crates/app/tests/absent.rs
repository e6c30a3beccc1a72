//! A machine that stands elsewhere and does not start: its job at the counter's computer, by starts alone.

mod common;

use common::driven::Driven;

/// Steps until it is known.
const MOST_STEPS: usize = 20;

fn typed(screen: &Driven, words: &str) {
    for letter in words.chars() {
        let mut bytes = [0; 4];
        screen.keys(&[if letter == ' ' { "Space" } else { letter.encode_utf8(&mut bytes) }]);
    }
    screen.keys(&["Enter"]);
}

/// What Enter does.
fn enter(text: &str) -> &str {
    let footer = text.lines().rev().find(|line| line.contains("? keys")).unwrap_or_default();
    footer.trim_start().strip_prefix("Enter ").unwrap_or_default()
}

/// The module called dead is; the machine starts whenever it is in no slot.
#[test]
fn a_dead_module_is_named_without_a_run() {
    let data = tempfile::tempdir().unwrap();
    let screen = Driven::open(data.path(), "dome-1", (128, 47));
    screen.keys(&["0"]);
    screen.wait("start new job");
    screen.keys(&["o"]);
    screen.wait("not here:");
    typed(&screen, "west 7");
    screen.wait("e declare slots");
    screen.keys(&["e"]);
    screen.wait("How many memory slots");
    screen.keys(&["Down", "Enter"]);
    for (slot, label) in [("A1", "8G good one"), ("B1", "8G dead one")] {
        screen.wait("e declare module");
        screen.keys(&["e"]);
        screen.wait(&format!("module in {slot}"));
        typed(&screen, label);
        screen.keys(&["Down"]);
    }
    screen.keys(&["6"]);
    let mut starts = 0;
    for _ in 0..MOST_STEPS {
        let text = screen.until("a step", |text| enter(text).len() > 2 && text.contains("west 7"));
        screen.keys(&["Enter"]);
        if screen.text().contains("nothing can be run on it") {
            break;
        }
        if enter(&text).starts_with("write step down") {
            screen.wait("written down");
            screen.keys(&["Enter"]);
        } else if enter(&text).starts_with("does it start?") {
            screen.wait("does the machine start?");
            let board = text.lines().filter(|line| line.contains("0   1   2   3"));
            let dark = board.into_iter().any(|line| line.contains("dead one"));
            screen.keys(if dark { &["Enter"] } else { &["End", "Enter"] });
            starts += 1;
        }
    }
    screen.keys(&["Escape"]);
    let text = screen.text();
    assert!(text.contains("Most suspect: module dead one (very likely)"), "after {starts} starts:\n{text}");
    assert!(starts <= 5, "{starts} starts:\n{text}");
    screen.leave();
}
