//! Killed at any moment: every journal opens, none is called clean, none says less than what was written.

mod common;

use common::{command, run_json, spawn, wait_for};
use serde_json::json;

/// A fixed sequence of lengths: the moments differ from each other, and the test can be run again.
fn lengths() -> impl Iterator<Item = u64> {
    (1u64..).map(|number| number.wrapping_mul(0x9e37_79b9_7f4a_7c15) >> 40)
}

#[test]
fn twenty_kills_leave_twenty_interrupted_runs() {
    for (round, random) in lengths().take(20).enumerate() {
        let data = tempfile::tempdir().unwrap();
        let mut child = spawn(data.path(), &["check", "--memory", "6M", "--passes", "1000000", "--json"]);
        let journal = common::journal(data.path());
        // Killed once the journal has reached a length of chance: anything from the first record to many passes.
        let length = 1 + random % 60_000;
        let seen = wait_for("a long enough journal", || {
            let text = std::fs::read(&journal).ok()?;
            (text.len() as u64 >= length).then_some(text)
        });
        child.kill().unwrap();
        child.wait().unwrap();
        let left = std::fs::read(&journal).unwrap();
        assert!(left.starts_with(&seen), "what was once written stays, round {round}");
        let (code, logs) = run_json(data.path(), &["logs", "--json"]);
        assert_eq!((code, &logs["runs"][0]["outcome"]), (0, &json!("interrupted")), "round {round}");
        let log = command(data.path(), &["log", "last"]).output().unwrap();
        let words = String::from_utf8_lossy(&log.stdout).into_owned();
        assert!(words.starts_with("INTERRUPTED") && words.contains("broke off"), "{words}");
    }
}

#[test]
fn a_killed_run_tells_the_errors_that_it_had_found() {
    let data = tempfile::tempdir().unwrap();
    let mut child = spawn(data.path(), &["check", "--sim", "dome-1", "--passes", "1000000", "--json"]);
    let journal = common::journal(data.path());
    wait_for("an error", || std::fs::read_to_string(&journal).ok()?.contains("\"errors\"").then_some(()));
    child.kill().unwrap();
    child.wait().unwrap();
    let (_, logs) = run_json(data.path(), &["logs", "--json"]);
    assert_eq!(logs["runs"][0]["outcome"], json!("interrupted"));
    assert!(logs["runs"][0]["errors"].as_u64().unwrap() > 0);
}
