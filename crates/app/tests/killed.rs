//! Killed at any moment: every journal opens, none is called clean, none says less than what was written.

mod common;

use common::{command, run_json, spawn, wait_for};
use serde_json::json;

/// A fixed sequence of lengths: the moments differ from each other, and the test can be run again.
fn lengths() -> impl Iterator<Item = u64> {
    (1u64..).map(|number| number.wrapping_mul(0x9e37_79b9_7f4a_7c15) >> 40)
}

/// As many kills as are asked for, else twenty.
#[test]
fn every_kill_leaves_an_interrupted_run() {
    let kills = std::env::var("REVISUM_KILLS").map_or(20, |kills| kills.parse().unwrap());
    for (round, random) in lengths().take(kills).enumerate() {
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
        // Records are only ever added; the space behind them is filled up, and then stays.
        assert!(left.starts_with(&seen), "what was once written stays, round {round}");
        let (code, logs) = run_json(data.path(), &["logs", "--json"]);
        assert_eq!((code, &logs["runs"][0]["outcome"]), (0, &json!("interrupted")), "round {round}");
        let log = command(data.path(), &["log", "last"]).output().unwrap();
        let words = String::from_utf8_lossy(&log.stdout).into_owned();
        assert!(
            words.contains("broken off by power loss, hang or restart\n") && words.contains("The record breaks off"),
            "{words}"
        );
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
    assert_eq!(
        (&logs["runs"][0]["outcome"], &logs["runs"][0]["ended_by"]),
        (&json!("errors-found"), &json!("broke-off"))
    );
    assert!(logs["runs"][0]["errors"].as_u64().unwrap() > 0);
}

/// The medium is full at every length that the journal can have: the run's result is complete and exact, and says that it was not recorded.
#[test]
fn a_full_medium_at_any_length_changes_no_result() {
    let limited = |blocks: Option<u32>| {
        let data = tempfile::tempdir().unwrap();
        let program = command(data.path(), &["check", "--sim", "dome-1", "--json"]);
        let limit = blocks.map_or_else(|| "unlimited".to_owned(), |blocks| blocks.to_string());
        // The program is refused the write, as on a full medium; the signal that comes with it ends nothing.
        let mut shell = std::process::Command::new("bash");
        shell.args(["-c", &format!("ulimit -f {limit}; exec \"$0\" \"$@\"")]);
        let output = shell.arg(program.get_program()).args(program.get_args()).output().unwrap();
        let mut result: serde_json::Value = serde_json::from_slice(&output.stdout).unwrap();
        let told = String::from_utf8_lossy(&output.stderr).to_lowercase().contains("not recorded");
        let result = result.as_object_mut().unwrap();
        // What differs is where it was recorded.
        result.retain(|name, _| !["journal", "recorded"].contains(&name.as_str()));
        (output.status.code(), result.clone(), told)
    };
    let whole = limited(None);
    assert!(!whole.2);
    for blocks in 0..40 {
        let (code, result, told) = limited(Some(blocks));
        assert_eq!((code, &result), (whole.0, &whole.1), "{blocks} KiB");
        assert!(told || blocks > 20, "{blocks} KiB: not told");
    }
}
