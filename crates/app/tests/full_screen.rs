//! The full screen in a real terminal: the whole walk, leaving in every way, small screens, mashed keys.

mod common;

use common::{Screen, revisum, run_json};
use rstest::rstest;
use serde_json::json;

const SIZE: (u16, u16) = (128, 40);
/// Simulated seconds in a real second: fast enough to wait for, slow enough to act in between.
const FAST: u32 = 400;
const SLOW: u32 = 1;

fn demo(data: &tempfile::TempDir) -> String {
    format!(
        "{} demo --machine dome-1 --pace {FAST} --data {}; echo left-$?",
        revisum().display(),
        data.path().display()
    )
}

/// The demonstration on its first screen, with empty records.
fn started(size: (u16, u16), pace: u32) -> (tempfile::TempDir, Screen) {
    let data = tempfile::tempdir().unwrap();
    let screen = Screen::open(size, &demo(&data).replace(&format!("--pace {FAST}"), &format!("--pace {pace}")));
    screen.wait("Enter run triage");
    (data, screen)
}

/// A module that was named is called so on every screen, and after the next start.
#[test]
fn a_mark_stays() {
    let (data, screen) = started(SIZE, FAST);
    screen.keys(&["Down", "Down", "m"]);
    screen.wait("Mark red dot in B1");
    screen.keys(&["k", "9", "Enter"]);
    screen.wait_gone("Mark red dot");
    assert!(!screen.wait("k9").contains("red dot"));
    screen.keys(&["i"]);
    screen.wait("checksums are right");
    screen.keys(&["Escape", "q"]);
    screen.wait("left-0");
    let again = Screen::open(SIZE, &demo(&data));
    again.wait("k9");
    again.keys(&["q"]);
    again.wait("left-0");
}

/// The same walk in German: the language is asked for, and every screen of the way speaks it.
#[rstest]
#[case(SIZE)]
#[case((80, 25))]
fn the_walk_in_german(#[case] size: (u16, u16)) {
    let data = tempfile::tempdir().unwrap();
    let screen = Screen::open(size, &demo(&data).replace(" demo ", " --language de demo "));
    screen.wait_all(&["Schnelltest starten", "simuliert", "Steckplatz wählen", "Tasten"]);
    screen.keys(&["Enter"]);
    screen.wait("dauerte");
    screen.wait_all(&["Am verdächtigsten: Modul red dot", "24 Speicherfehler", "DQ 19 liest 1 statt 0"]);
    screen.keys(&["Enter"]);
    screen.wait_all(&["WEITER", "Handarbeit", "wahrscheinlich"]);
    screen.keys(&["Down", "Down", "Space"]);
    screen.wait_all(&["entnommen:", "diese Bestückung testen"]);
    screen.keys(&["Enter"]);
    screen.wait_gone("diese Bestückung testen");
    screen.wait("dauerte");
    screen.wait_all(&["zu wenig, um etwas", "Am verdächtigsten: Modul red dot ("]);
    screen.keys(&["8"]);
    screen.wait_all(&["Ergebnis", "24 Speicherfehler"]);
    screen.keys(&["Down", "Enter"]);
    screen.wait_all(&["Protokoll von", "Schon ein Speicherfehler bedeutet einen Defekt."]);
    screen.keys(&["Escape"]);
    screen.wait("öffnen");
    // A key changes the language at once, and the next start keeps the last one.
    screen.keys(&["l"]);
    screen.wait_all(&["24 memory errors", "open"]);
    screen.keys(&["l"]);
    screen.wait_all(&["24 Speicherfehler", "öffnen"]);
    screen.keys(&["q"]);
    screen.wait("left-0");
    let (_, logs) = run_json(data.path(), &["logs", "--json"]);
    let outcomes: Vec<_> = logs["runs"].as_array().unwrap().iter().map(|run| run["outcome"].clone()).collect();
    assert_eq!(outcomes, [json!("clean"), json!("errors-found"), json!("errors-found")]);
    let again = Screen::open(size, &demo(&data));
    again.wait("nächsten Schritt zeigen");
    again.keys(&["q"]);
    again.wait("left-0");
}

/// Start, triage, errors at B1, take it out, run, clean, outcome sentence, open the log.
#[rstest]
#[case(SIZE)]
#[case((80, 25))]
fn from_start_to_named_module(#[case] size: (u16, u16)) {
    let (data, screen) = started(size, FAST);
    screen.wait("simulated");
    screen.keys(&["Enter"]);
    screen.wait("took");
    let run = screen.wait_all(&["Most suspect: module red dot", "memory errors", "DQ 19 reads 1 for 0"]);
    let slot = run.lines().find(|line| line.trim_start().starts_with("B1")).unwrap();
    assert!(slot.contains(" errors"), "{slot}");
    screen.keys(&["Enter"]);
    screen.wait("NEXT");
    // Against the advice: the suspect is simply taken out.
    screen.keys(&["Down", "Down", "Space"]);
    screen.wait("removed:");
    screen.wait("test this arrangement");
    screen.keys(&["Enter"]);
    screen.wait_gone("test this arrangement");
    screen.wait("took");
    screen.wait_all(&["too little to rule anything out", "Most suspect: module red dot"]);
    screen.keys(&["8"]);
    screen.wait("memory errors");
    screen.keys(&["Down", "Enter"]);
    screen.wait_all(&["log of", "memory errors"]);
    screen.keys(&["Escape", "q"]);
    screen.wait("left-0");
    let (_, logs) = run_json(data.path(), &["logs", "--json"]);
    let outcomes: Vec<_> = logs["runs"].as_array().unwrap().iter().map(|run| run["outcome"].clone()).collect();
    // The oldest one was made before the machine came to the bench.
    assert_eq!(outcomes, [json!("clean"), json!("errors-found"), json!("errors-found")]);
}

/// What the Swap view says once the run that was begun is over.
fn after_the_run(screen: &Screen) -> String {
    screen.keys(&["6"]);
    // A screen may be seen while it is being drawn: what is seen twice in a row, without a run in its first lines, counts.
    let mut before = String::new();
    common::wait_within(3 * common::PATIENCE, "the Swap view without a run", || {
        let text = screen.text();
        let keys = text.lines().find(|line| line.contains("? keys") && line.trim_start().starts_with("Enter "));
        let over = keys.is_some_and(|keys| !keys.contains("watch the run"));
        let running = text.lines().take(3).any(|line| line.contains("run: "));
        let still = std::mem::replace(&mut before, text.clone()) == text;
        (over && !running && still && text.contains("remove, insert")).then_some(text)
    })
}

/// Once the part is named, Enter asks what replaces it, installs and proves it, has the rest confirmed, and hands the computer over: at the
/// size of a booted machine as well, where nothing of what is to be done may lie below the screen.
#[rstest]
#[case((128, 47))]
#[case((80, 25))]
fn the_repair_is_proved_and_the_computer_handed_over(#[case] size: (u16, u16)) {
    let data = tempfile::tempdir().unwrap();
    let line = format!("{} demo --machine dome-1 --pace 4000 --data {}", revisum().display(), data.path().display());
    let screen = Screen::open(size, &line);
    screen.wait("Enter run triage");
    screen.keys(&["Enter"]);
    for _ in 0..20 {
        let swap = after_the_run(&screen);
        screen.keys(&["Enter"]);
        if swap.contains("Enter settle replacement") {
            screen.wait("What goes in place of red dot?");
            screen.keys(&["Down", "Enter"]);
            screen.wait_gone("What goes in place");
            screen.wait("Enter install, prove");
        } else if swap.contains("Enter files checked") {
            for asked in ["backup advised", "boot order restored", "boot drive removed", "hand over, report"] {
                screen.wait(&format!("Enter {asked}"));
                screen.keys(&["Enter"]);
            }
            screen.wait("Written to");
            screen.keys(&["Escape"]);
            screen.wait("Memory report");
            screen.keys(&["6"]);
            screen.wait_all(&["✓ handed over", "show report"]);
            return;
        } else {
            screen.wait_gone("remove, insert");
        }
    }
    panic!("not handed over:\n{}", screen.text());
}

/// Every other step is somebody's own: the suspects' neighbours are moved, runs are repeated. The answer is the same, only later.
#[test]
fn ignoring_the_advice_half_of_the_time_still_ends_with_the_answer() {
    let data = tempfile::tempdir().unwrap();
    let line = format!("{} demo --machine stacker --pace 4000 --data {}", revisum().display(), data.path().display());
    let screen = Screen::open((128, 47), &line);
    screen.wait("Enter run triage");
    screen.keys(&["Enter"]);
    for step in 0..40 {
        let swap = after_the_run(&screen);
        if swap.contains("FOUND  white 4 with others installed") {
            return;
        }
        assert!(!swap.contains("FOUND"), "another answer:\n{swap}");
        if step % 2 == 1 && swap.contains("other steps") {
            // What is learnt while a list is open closes it: whoever sees that presses once more.
            common::wait_for("other steps", || {
                screen.keys(&["a"]);
                screen.text().contains("Other steps").then_some(())
            });
            screen.keys(&["Down", "Enter"]);
        } else {
            screen.keys(&["Enter"]);
        }
        screen.wait_gone("effect");
    }
    panic!("no answer:\n{}", screen.text());
}

/// A run is struck out and counts again; a module is known to be good; answers are picked; all of it is there at the next start.
#[test]
fn what_was_decided_stays() {
    let (data, screen) = started(SIZE, FAST);
    screen.keys(&["1"]);
    screen.wait("What does it do?");
    screen.keys(&["Right", "w"]);
    screen.wait("Anything else");
    screen.keys(&["h", "o", "t", "Enter"]);
    screen.wait("hot");
    screen.keys(&["6"]);
    screen.wait("suspicion");
    screen.keys(&["u"]);
    screen.wait("Exclude a run");
    screen.keys(&["Enter"]);
    screen.wait("excluded by hand");
    screen.keys(&["b"]);
    screen.wait("What else is known");
    screen.keys(&["Enter"]);
    screen.wait_gone("What else is known");
    screen.wait("known-good");
    screen.keys(&["q"]);
    screen.wait("left-0");
    screen.type_line(&demo(&data));
    screen.wait("Enter run triage");
    screen.keys(&["6"]);
    screen.wait_all(&["known-good", "excluded by hand"]);
    screen.keys(&["u", "Enter"]);
    screen.wait_gone("excluded by hand");
    screen.keys(&["1"]);
    screen.wait_all(&["What does it do?", "✓ freezes", "hot"]);
    screen.keys(&["q"]);
}

#[test]
fn the_job_carries_on_at_the_next_start() {
    let (data, screen) = started(SIZE, FAST);
    screen.keys(&["6", "Down", "Down", "Space"]);
    screen.wait("removed:");
    screen.keys(&["q"]);
    screen.wait("left-0");
    screen.type_line(&demo(&data));
    screen.wait("removed: red dot");
    screen.keys(&["q"]);
    screen.wait_gone("removed:");
}

/// A run that has no end is asked for at the next start, and that the machine hung counts.
#[test]
fn a_run_that_broke_off_is_asked_for() {
    let (data, screen) = started(SIZE, SLOW);
    screen.keys(&["Enter"]);
    screen.wait("pass 1 of 1");
    signal_program(&data.path().display().to_string(), "KILL");
    screen.wait("left-137");
    // The terminal of the killed program is in no state to go on with.
    let screen = Screen::open(SIZE, &demo(&data));
    screen.wait_all(&["has no end", "it hung"]);
    // No answer is chosen: a key that is pressed out of habit answers nothing.
    screen.keys(&["Enter"]);
    screen.keys(&["Enter"]);
    assert!(screen.text().contains("What happened?"), "{}", screen.text());
    screen.keys(&["Down", "Enter"]);
    screen.wait_gone("What happened?");
    let swap = after_the_run(&screen);
    assert!(swap.contains("no full pass"), "{swap}");
    screen.keys(&["c"]);
    screen.wait("This job is closed");
    // The next job of the machine begins with nothing, and what was answered is not asked again.
    screen.keys(&["0"]);
    screen.wait("new job");
    screen.keys(&["n"]);
    screen.wait("Enter run triage");
    assert!(!screen.text().contains("has no end"));
    screen.keys(&["6"]);
    screen.wait("Nothing was run in this job yet");
    screen.keys(&["q"]);
}

#[rstest]
#[case::q(&["q"], None)]
#[case::control_c(&["C-c"], None)]
#[case::sigterm(&[], Some("TERM"))]
#[case::sighup(&[], Some("HUP"))]
fn leaving_gives_the_terminal_back(#[case] keys: &[&str], #[case] signal: Option<&str>) {
    let (data, screen) = started(SIZE, FAST);
    if !keys.is_empty() {
        screen.keys(keys);
    }
    if let Some(signal) = signal {
        signal_program(&data.path().display().to_string(), signal);
    }
    screen.wait("left-0");
    terminal_is_usable(&screen);
}

fn signal_program(pattern: &str, signal: &str) {
    let processes = std::fs::read_dir("/proc").unwrap().flatten();
    for process in processes {
        let Ok(line) = std::fs::read(process.path().join("cmdline")) else { continue };
        let line = String::from_utf8_lossy(&line).replace('\0', " ");
        if line.contains(" demo ") && line.contains(pattern) && !line.contains("echo") {
            let pid = process.file_name().to_string_lossy().into_owned();
            let sent = std::process::Command::new("kill").args([format!("-{signal}"), pid]).status();
            assert!(sent.unwrap().success());
        }
    }
}

/// The shell echoes again, lines are lines again, and the cursor is where the shell wants it.
fn terminal_is_usable(screen: &Screen) {
    screen.type_line("stty -a | tr ' ;' '\\n\\n' | grep -x -e icanon -e echo | sort | tr '\\n' +");
    screen.wait("echo+icanon+");
}

#[cfg(debug_assertions)]
#[test]
fn a_panic_gives_the_terminal_back_and_leaves_the_run_recorded() {
    let (_data, screen) = started(SIZE, FAST);
    screen.keys(&["F12"]);
    screen.wait("left-101");
    screen.wait("panicked");
    terminal_is_usable(&screen);
}

#[test]
fn leaving_during_a_run_asks_and_records() {
    let (data, screen) = started(SIZE, SLOW);
    screen.keys(&["Enter"]);
    screen.wait("pass 1");
    screen.keys(&["Space"]);
    screen.wait("paused after");
    screen.keys(&["q"]);
    screen.wait("Leaving stops it.");
    screen.keys(&["Escape"]);
    screen.wait("paused after");
    screen.keys(&["q", "Enter"]);
    screen.wait("left-0");
    let (_, logs) = run_json(data.path(), &["logs", "--json"]);
    let outcome = logs["runs"][0]["outcome"].as_str().unwrap().to_owned();
    assert!(["cut-short", "errors-found"].contains(&outcome.as_str()), "{outcome}");
}

#[test]
fn skipping_and_stopping_still_give_a_result() {
    let (_data, screen) = started(SIZE, SLOW);
    screen.keys(&["Enter"]);
    screen.wait("pass 1");
    screen.keys(&["n"]);
    screen.wait("skipped");
    screen.keys(&["x"]);
    screen.wait("took");
    screen.keys(&["q"]);
    screen.wait("left-0");
}

#[test]
fn tiny_terminals_say_what_they_need_and_grow_back() {
    let data = tempfile::tempdir().unwrap();
    let screen = Screen::open((20, 5), &demo(&data));
    screen.wait("enlarge to");
    screen.resize(128, 40);
    screen.wait("Enter run triage");
    screen.resize(20, 5);
    screen.wait("enlarge to");
    screen.keys(&["q"]);
    screen.resize(80, 25);
    screen.wait("left-0");
}

#[test]
fn everything_can_be_reached_with_arrows_enter_escape_and_digits() {
    let (_data, screen) = started(SIZE, FAST);
    screen.keys(&["Escape"]);
    let actions = screen.wait("type to narrow down");
    let leave = actions.lines().filter(|line| line.contains("q")).count();
    assert!(leave > 0, "{actions}");
    screen.keys(&["Down"; 20]);
    screen.keys(&["Enter"]);
    screen.wait("left-0");
}

/// The report is shown before it is written, in both languages, and runs are found and set side by side.
#[test]
fn reports_are_previewed_and_runs_compared() {
    let (data, screen) = started(SIZE, FAST);
    screen.keys(&["Enter"]);
    screen.wait("took");
    screen.keys(&["9"]);
    screen.wait_all(&["Memory report", "What to do next", "Most suspect so far"]);
    screen.keys(&["o"]);
    screen.wait_all(&["Bericht", "Was als Nächstes zu tun ist", "owner's language"]);
    screen.keys(&["Enter"]);
    screen.wait_all(&["Written to", "report.pdf"]);
    assert!(data.path().join("reports/dome-1/report.pdf").is_file());
    screen.keys(&["Escape"]);
    screen.wait_gone("Written to");
    screen.keys(&["2", "h"]);
    screen.wait_all(&["history of", "2 runs"]);
    screen.keys(&["8", "/"]);
    screen.keys(&["0", "9", "-", "2", "3", "1", "6", "Enter"]);
    screen.wait("1 found");
    screen.keys(&["/", "Escape"]);
    screen.wait_gone("/ 09-2316");
    screen.keys(&["Space", "Down", "Space"]);
    screen.wait("Enter compare 2 runs");
    screen.keys(&["Enter"]);
    screen.wait_all(&["compared", "in slots", "failed in more than one of them"]);
    screen.keys(&["Escape", "q"]);
    screen.wait("left-0");
}

/// A closed job stays as it is; the machine comes back and gets another one, and a module that another job found good can be borrowed.
#[test]
fn jobs_stand_side_by_side_and_lend_modules() {
    let data = tempfile::tempdir().unwrap();
    let screen = Screen::open((128, 47), &demo(&data).replace("--machine dome-1 ", ""));
    screen.wait("Enter open dome-1");
    screen.keys(&["Enter"]);
    screen.wait("Enter run triage");
    screen.keys(&["6", "b"]);
    screen.wait("What else is known");
    screen.keys(&["Enter"]);
    screen.wait_gone("What else is known");
    screen.wait("known-good");
    screen.keys(&["c"]);
    screen.wait("This job is closed");
    screen.keys(&["0", "n"]);
    screen.wait("Enter run triage");
    screen.keys(&["0"]);
    screen.wait_all(&["closed after 1 run", "not run yet"]);
    screen.keys(&["Home", "Down", "Down"]);
    screen.wait("Enter open spectro");
    screen.keys(&["Enter"]);
    screen.wait("C5710411");
    screen.keys(&["6", "b"]);
    screen.wait("Borrow");
    screen.keys(&["Down"; 40]);
    screen.keys(&["Enter"]);
    screen.wait_gone("What else is known");
    screen.wait_all(&["removed:", "green dot"]);
    screen.keys(&["q"]);
    screen.wait("left-0");
}

#[test]
fn another_machine_is_chosen_from_the_list() {
    let data = tempfile::tempdir().unwrap();
    let screen = Screen::open(SIZE, &demo(&data).replace("--machine dome-1 ", ""));
    screen.wait_all(&["Enter open dome-1", "purpose", "tracker"]);
    screen.keys(&["Down", "Down", "Down"]);
    screen.wait("Enter open spectro");
    screen.keys(&["Enter"]);
    screen.wait("C5710411");
    screen.keys(&["Enter"]);
    screen.wait("took");
    screen.wait("Most suspect");
    screen.keys(&["0"]);
    screen.wait_all(&["shown, 2 runs, on the bench", "21 memory errors"]);
    screen.keys(&["q"]);
    screen.wait("left-0");
}
