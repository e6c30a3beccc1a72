//! The ledger of many, asked from the command line.

mod common;

use std::path::Path;

use common::run;
use revisum_server::Server;

/// What it says on stdout and on stderr, and how it ends.
fn asked(data: &Path, arguments: &[&str]) -> (String, String, Option<i32>) {
    let output = run(data, arguments);
    let text = |bytes: &[u8]| String::from_utf8_lossy(bytes).into_owned();
    (text(&output.stdout), text(&output.stderr), output.status.code())
}

/// What one shop found the other one knows; what lies where is said, and a server that is gone too.
#[test]
#[ignore = "needs PostgreSQL, which `cargo xtask test` installs"]
fn shared_by_two_shops() {
    let mut server = Server::start().unwrap();
    let (north, south) = (tempfile::tempdir().unwrap(), tempfile::tempdir().unwrap());
    let checked = |data: &Path, machine: &str| asked(data, &["check", "--sim", machine, "--json"]);
    checked(north.path(), "dome-1");
    checked(south.path(), "stacker");
    for (data, name) in [(&north, "North"), (&south, "South street")] {
        let (out, err, code) = asked(data.path(), &["ledger", "share", &server.address(), "--name", name]);
        assert_eq!((code, err.as_str()), (Some(0), ""), "{out}");
        assert!(out.contains(&format!("{name} (this folder)")), "{out}");
    }
    let (listed, _, _) = asked(north.path(), &["logs"]);
    assert!(listed.contains("stacker") && listed.contains("in the records of South street"), "{listed}");
    let (_, err, code) = asked(north.path(), &["log", "2031-04-12-131600-stacker"]);
    assert!(err.contains("are kept by South street"), "{err}");
    assert_eq!(code, Some(2));
    server.kill().unwrap();
    let (listed, err, code) = asked(north.path(), &["logs"]);
    assert!(listed.contains("dome-1") && !listed.contains("stacker"), "{listed}");
    assert!(err.contains("runs of other folders are missing") && err.contains("does not answer"), "{err}");
    assert_eq!(code, Some(0));
    let (out, err, _) = asked(north.path(), &["ledger", "own"]);
    assert!(err.contains("still on the server") && out.contains("ledger.sqlite"), "{out}{err}");
    assert_eq!(asked(north.path(), &["logs"]).1, "");
}
