//! A folder full of things that look like journals and are not: listed, searched and opened without harm.

mod common;

use std::os::unix::ffi::OsStrExt as _;
use std::os::unix::fs::symlink;
use std::path::Path;
use std::process::Command;

use common::{command, run, run_json};
use rstest::rstest;

/// Memory that the program may take for any of it, in KiB.
const MOST_KIB: u32 = 256 << 10;

fn put(folder: &Path, name: &[u8], bytes: &[u8]) {
    std::fs::write(folder.join(std::ffi::OsStr::from_bytes(name)), bytes).unwrap();
}

/// One good run, and everything else.
fn hostile() -> tempfile::TempDir {
    let data = tempfile::tempdir().unwrap();
    run(data.path(), &["check", "--sim", "dome-1", "--json"]);
    let runs = data.path().join("runs");
    put(&runs, b"huge-line.journal", &[b'x'; 9 << 20]);
    put(&runs, b"deep.journal", "[".repeat(1 << 20).as_bytes());
    put(&runs, b"deep-object.journal", "{\"a\":".repeat(1 << 18).as_bytes());
    put(&runs, b"binary.journal", &(0..=255u8).cycle().take(70_000).collect::<Vec<_>>());
    put(&runs, b"empty.journal", b"");
    put(&runs, b"blank.journal", b"   \n\n\n   \n");
    put(&runs, b"\x1b[2J\x07name\xff\n.journal", b"\x1b]0;title\x07");
    put(
        &runs,
        b"wrong.journal",
        b"{\"journal\":\"j\",\"seq\":0,\"t_ms\":0,\"record\":\"paused\",\"crc\":\"00000000\"}\n",
    );
    put(
        &runs,
        b"no-begin.journal",
        line(r#"{"journal":"j","seq":18446744073709551615,"t_ms":18446744073709551615,"record":"paused"}"#).as_bytes(),
    );
    let escape = r#"{"journal":"j\u001b[2J","seq":0,"t_ms":0,"record":"begin","machine":"\u001b[2Jx\u0007","wall_ms":9223372036854775807,"after_ms":9223372036854775807}"#;
    put(&runs, b"escape.journal", line(escape).as_bytes());
    std::fs::File::create(runs.join("sparse.journal")).unwrap().set_len(1 << 40).unwrap();
    std::fs::create_dir(runs.join("folder.journal")).unwrap();
    symlink(&runs, runs.join("round")).unwrap();
    symlink(runs.join("itself.journal"), runs.join("itself.journal")).unwrap();
    symlink("/dev/zero", runs.join("zero.journal")).unwrap();
    symlink("/nowhere", runs.join("nowhere.journal")).unwrap();
    assert!(Command::new("mkfifo").arg(runs.join("pipe.journal")).status().unwrap().success());
    for number in 0..3000 {
        put(&runs, format!("many-{number}.journal").as_bytes(), b"nothing\n");
    }
    data
}

fn line(body: &str) -> String {
    let crc = crc32c::crc32c(body.as_bytes());
    format!("{},\"crc\":\"{crc:08x}\"}}\n", &body[..body.len() - 1])
}

/// Runs with a limit on memory: what cannot be had ends the program with a failure.
fn limited(data: &Path, arguments: &[&str]) -> (Option<i32>, Vec<u8>) {
    let program = command(data, arguments);
    let mut shell = Command::new("bash");
    shell.args(["-c", &format!("ulimit -v {MOST_KIB}; exec \"$0\" \"$@\"")]);
    let output = shell.arg(program.get_program()).args(program.get_args()).output().unwrap();
    (output.status.code(), [output.stdout, output.stderr].concat())
}

#[test]
fn it_is_listed_and_searched_without_harm() {
    let data = hostile();
    let (code, logs) = run_json(data.path(), &["logs", "--json"]);
    assert_eq!((code, &logs["count"]), (0, &serde_json::json!(3)), "the good run, and two that say little");
    let folder = data.path().join("runs");
    let folder = folder.to_str().unwrap();
    let searches: [&[&str]; 5] = [
        &["logs"],
        &["logs", "--find", "dome"],
        &["logs", folder],
        &["logs", "--rebuild"],
        &["report", "--output", "/dev/null"],
    ];
    for arguments in searches {
        let (code, text) = limited(data.path(), arguments);
        assert!(code.is_some_and(|code| code <= 4), "{arguments:?}: {code:?} {}", String::from_utf8_lossy(&text));
        let control = |byte: &u8| byte.is_ascii_control() && *byte != b'\n';
        assert!(!text.iter().any(control), "{arguments:?} lets control characters through");
        assert!(String::from_utf8_lossy(&text).contains("dome") || arguments[0] == "report", "{arguments:?}");
    }
}

#[rstest]
#[case("huge-line")]
#[case("deep")]
#[case("deep-object")]
#[case("binary")]
#[case("empty")]
#[case("wrong")]
#[case("no-begin")]
#[case("escape")]
#[case("sparse")]
#[case("zero")]
#[case("pipe")]
fn each_is_opened_with_a_clear_word(#[case] name: &str) {
    let data = hostile();
    let path = data.path().join(format!("runs/{name}.journal"));
    let (code, text) = limited(data.path(), &["log", path.to_str().unwrap()]);
    let text = String::from_utf8_lossy(&text).into_owned();
    assert!(code.is_some_and(|code| code <= 4) && !text.trim().is_empty(), "{code:?} {text}");
    assert!(!text.contains('\u{1b}') && !text.contains("panicked"), "{text}");
}

#[test]
fn it_is_imported_without_harm() {
    let (from, to) = (hostile(), tempfile::tempdir().unwrap());
    let (code, _) = limited(to.path(), &["logs", "--import", from.path().to_str().unwrap()]);
    assert_eq!(code, Some(0));
    let (_, logs) = run_json(to.path(), &["logs", "--json"]);
    assert_eq!(logs["count"], serde_json::json!(3));
}
