//! Runs that go on where they were, runs that repeat what one showed, and one headline wherever a run is shown.

mod common;

use std::path::Path;

use common::driven::Driven;
use common::{Screen, command, revisum, run, run_json, wait_for};
use revisum_record::journal::read_journal;
use revisum_record::run_state::RunState;
use rstest::rstest;
use serde_json::{Value, json};

const SIZE: (u16, u16) = (128, 40);

fn data() -> tempfile::TempDir {
    tempfile::tempdir().unwrap()
}

fn newest(data: &Path) -> Value {
    run_json(data, &["logs", "--json"]).1["runs"][0].clone()
}

/// A run of real memory that was killed after some passes, with its id.
fn killed(data: &Path, arguments: &[&str], after: u64) -> String {
    let mut child = command(data, arguments).stdout(std::process::Stdio::null()).spawn().unwrap();
    let id = wait_for("a pass on record", || {
        let path = std::fs::read_dir(data.join("runs")).ok()?.flatten().map(|file| file.path()).max()?;
        let text = std::fs::read_to_string(&path).ok()?;
        let passes = text.matches("\"record\":\"pass-ended\"").count() as u64;
        (passes >= after).then(|| path.file_stem().unwrap().to_string_lossy().into_owned())
    });
    child.kill().unwrap();
    child.wait().unwrap();
    id
}

/// On this machine's own memory: killed, gone on with, and all of it counted once.
#[test]
fn a_killed_run_of_real_memory_goes_on_where_it_was() {
    let data = data();
    let data = data.path();
    let plan = ["check", "--memory", "16M", "--passes", "400", "--tests", "random,march-c-"];
    let id = killed(data, &plan, 3);
    let (code, before) = run_json(data, &["log", &id, "--json"]);
    assert_eq!((code, &before["outcome"], &before["ended_by"]), (0, &json!("interrupted"), &json!("broke-off")));
    let done = before["passes"].as_u64().unwrap();
    assert!((3..400).contains(&done), "{done}");
    assert_eq!(newest(data)["headline"], before["headline"]);
    let (code, after) = run_json(data, &["check", "--continue", &id, "--json"]);
    assert_eq!((code, &after["outcome"], &after["complete"]), (0, &json!("clean"), &json!(true)), "{after}");
    assert_eq!((&after["passes"], &after["continues"]), (&json!(400), &json!(id)));
    let own = after["tests"][0]["passes"].as_u64().unwrap();
    assert_eq!(own, 400 - done, "every pass is full on one memory");
    assert!(after["elapsed_s"].as_f64() > before["elapsed_s"].as_f64());
    // What is over or gone on with cannot be gone on with.
    let again = run(data, &["check", "--continue", &id]);
    assert_eq!(again.status.code(), Some(2));
    assert!(String::from_utf8_lossy(&again.stderr).contains("was continued already"));
    let over = run(data, &["check", "--continue", "last"]);
    assert_eq!(over.status.code(), Some(2));
    assert!(String::from_utf8_lossy(&over.stderr).contains("nothing left"));
}

/// Going on on another machine, or with other modules, is refused in words.
#[test]
fn a_run_goes_on_only_where_it_was_made() {
    let data = data();
    let id = killed(data.path(), &["check", "--memory", "16M", "--passes", "400", "--tests", "random"], 1);
    let other = run(data.path(), &["check", "--continue", &id, "--sim", "dome-1"]);
    assert_eq!(other.status.code(), Some(2));
    assert!(String::from_utf8_lossy(&other.stderr).contains("was made on"), "{other:?}");
    let both = run(data.path(), &["check", "--continue", &id, "--passes", "3"]);
    assert_eq!(both.status.code(), Some(2), "what it is to do is known already");
}

fn demo(data: &Path, machine: &str, pace: u32) -> String {
    format!("{} demo --machine {machine} --pace {pace} --data {}; echo left-$?", revisum().display(), data.display())
}

/// In a terminal: the demonstration is killed in a run, and Enter goes on with it.
#[test]
fn enter_goes_on_with_a_run_that_broke_off() {
    let data = data();
    let screen = Screen::open(SIZE, &demo(data.path(), "frontdesk", 4));
    screen.wait("Enter run survey");
    screen.keys(&["3"]);
    screen.wait("Enter run triage");
    screen.keys(&["Enter"]);
    wait_for("a test on record", || {
        // The machine had a run before this job.
        let mut paths: Vec<_> =
            std::fs::read_dir(data.path().join("runs")).ok()?.flatten().map(|file| file.path()).collect();
        paths.sort();
        let own = paths.get(1)?;
        std::fs::read_to_string(own).ok()?.contains("\"record\":\"test-ended\"").then_some(())
    });
    let pattern = data.path().display().to_string();
    std::process::Command::new("pkill").args(["-KILL", "-f", &pattern]).status().unwrap();
    screen.wait("left-137");
    let screen = Screen::open(SIZE, &demo(data.path(), "frontdesk", 400));
    screen.wait("What happened?");
    screen.keys(&["Down", "Down", "Down", "Enter"]);
    screen.wait_gone("What happened?");
    screen.keys(&["4"]);
    screen.wait("Enter continue the run");
    screen.keys(&["Enter"]);
    screen.wait_all(&["took", "Clean."]);
    screen.keys(&["q"]);
    screen.wait("left-0");
    let (_, result) = run_json(data.path(), &["log", "last", "--json"]);
    assert_eq!((&result["headline"], &result["complete"]), (&json!("Clean"), &json!(true)), "{result}");
    assert!(
        result["continues"].is_string() && result["tests"].as_array().unwrap().iter().any(|test| test["passes"] == 0)
    );
}

/// When a run showed its first error, in milliseconds since it began.
fn first_error_ms(data: &Path, id: &str) -> u64 {
    let path = data.join("runs").join(format!("{id}.journal"));
    let mut state = RunState::default();
    let mut source = std::io::BufReader::new(std::fs::File::open(path).unwrap());
    read_journal(&mut source, |framed| state.apply(&framed)).unwrap();
    state.first_error_ms.unwrap()
}

fn id_of(run: &Value) -> String {
    run["id"].as_str().unwrap().to_owned()
}

/// On the screen: what only computing shows is shown again by one key, within a tenth of the time.
#[test]
fn one_key_repeats_what_failed() {
    let data = data();
    let screen = Driven::open(data.path(), "heliostat", SIZE);
    screen.keys(&["3", "Down", "Down", "Enter", "Up", "Up", "Enter"]);
    screen.until("the end of the run", |text| text.contains("took") && text.contains("memory errors"));
    let found = id_of(&newest(data.path()));
    screen.keys(&["4", "r"]);
    screen.until("the end of the repeat", |text| text.contains("took") && text.contains("Shown again: "));
    let again = newest(data.path());
    assert!(again["headline"].as_str().unwrap().starts_with("Shown again: "), "{again}");
    let (found_ms, again_ms) = (first_error_ms(data.path(), &found), first_error_ms(data.path(), &id_of(&again)));
    assert!(
        found != id_of(&again) && again_ms * 10 <= found_ms,
        "first after {found_ms} ms, again after {again_ms} ms"
    );
}

/// A machine that was switched off in between is cold again: the repeat takes the time to become warm, and says at what it was shown.
#[test]
fn a_cold_machine_becomes_warm_in_a_repeat() {
    let data = data();
    let (code, _) = run_json(data.path(), &["check", "--sim", "meteo", "--for", "1h", "--stop-after", "1", "--json"]);
    assert_eq!(code, 1);
    let (code, again) = run_json(data.path(), &["check", "--repeat", "last", "--json"]);
    assert_eq!(code, 1, "{again}");
    assert!(again["headline"].as_str().unwrap().starts_with("Shown again: "), "{again}");
}

#[test]
fn a_run_that_showed_nothing_has_nothing_to_repeat() {
    let data = data();
    run_json(data.path(), &["check", "--sim", "frontdesk", "--json"]);
    let refused = run(data.path(), &["check", "--repeat", "last"]);
    assert_eq!(refused.status.code(), Some(2));
    assert!(String::from_utf8_lossy(&refused.stderr).contains("showed no error"));
}

/// A run from the command line belongs to the machine's job: the other commands know of it.
#[test]
fn a_run_from_the_command_line_is_in_the_job() {
    let data = data();
    run_json(data.path(), &["check", "--sim", "dome-1", "--json"]);
    run_json(data.path(), &["check", "--sim", "dome-1", "--json"]);
    let told = run(data.path(), &["swap", "dome-1"]);
    let told = String::from_utf8_lossy(&told.stdout).into_owned();
    assert!(told.contains("2 runs") && told.contains("red dot"), "{told}");
}

/// One headline on the screen, in the list, in the log, in JSON, and in the report; and the exit code that goes with it.
#[rstest]
#[case::clean("frontdesk", &[], "Clean", 0)]
#[case::a_part("frontdesk", &["--memory", "256M"], "Clean on 256 MiB of 8 GiB", 0)]
#[case::a_range("frontdesk", &["--range", "1G..1280M"], "Clean on 256 MiB of 8 GiB", 0)]
#[case::errors("dome-1", &[], "24 memory errors", 1)]
#[case::only_corrected("archive", &[], "Only corrected errors: 48 in B1", 1)]
fn one_headline_everywhere(#[case] machine: &str, #[case] more: &[&str], #[case] headline: &str, #[case] exit: i32) {
    let data = data();
    let data = data.path();
    let (code, result) = run_json(data, &[&["check", "--sim", machine, "--json"], more].concat());
    assert_eq!((code, &result["headline"]), (exit, &json!(headline)), "{result}");
    let (_, log) = run_json(data, &["log", "last", "--json"]);
    assert_eq!((&log["headline"], &log["sentence"]), (&result["headline"], &result["sentence"]));
    assert_eq!(newest(data)["headline"], json!(headline));
    let text = |arguments: &[&str]| String::from_utf8_lossy(&run(data, arguments).stdout).into_owned();
    assert!(text(&["log", "last"]).starts_with(&format!("{headline}  (simulated)\n")));
    assert!(text(&["logs"]).contains(&format!("{headline}\n")));
    run(data, &["report", machine]);
    let folder = data.join("reports").join(machine);
    let report = std::fs::read_to_string(folder.join("report.md")).unwrap();
    assert!(report.contains(headline), "{report}");
    let job: Value = serde_json::from_slice(&std::fs::read(folder.join("job.json")).unwrap()).unwrap();
    assert_eq!(job["runs"][0]["headline"], json!(headline));
    let screen = Screen::open(SIZE, &demo(data, machine, 400));
    screen.wait("? keys");
    screen.keys(&["8"]);
    screen.wait(headline);
    screen.keys(&["Enter"]);
    screen.wait_all(&["log of", &format!("{headline}.")]);
    screen.keys(&["q"]);
    screen.wait("left-0");
}
