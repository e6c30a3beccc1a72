//! Every single call of the file system fails once, fails from then on, or takes only half; memory and threads that the program wants for itself are
//! refused at every place: no fault makes a result better, nothing that was said to be kept is lost, and every command ends.

mod common;

use std::path::{Path, PathBuf};
use std::process::{Command, Output};
use std::sync::OnceLock;

use common::image::small_image;
use common::{command, run, run_json};
use revisum_drive::{Content, content_of};
use rstest::rstest;
use serde_json::Value;

/// What stands between the program and the C library, compiled once.
fn shim() -> &'static Path {
    static SHIM: OnceLock<PathBuf> = OnceLock::new();
    SHIM.get_or_init(|| {
        let library = Path::new(env!("CARGO_TARGET_TMPDIR")).join("faults.so");
        let part = library.with_extension(std::process::id().to_string());
        let source = Path::new(env!("CARGO_MANIFEST_DIR")).join("tests/faults/shim.c");
        let made =
            Command::new("cc").args(["-shared", "-fPIC", "-O1", "-o"]).arg(&part).arg(source).arg("-ldl").status();
        assert!(made.is_ok_and(|made| made.success()), "the C compiler that links Rust programs compiles this too");
        std::fs::rename(part, &library).unwrap();
        library
    })
}

/// Runs with a fault at a call, counted from 1, of those below a folder; with how many calls there were.
fn faulty(below: &Path, data: &Path, arguments: &[&str], fault: Option<(&str, u64)>) -> (Output, u64) {
    faulty_of("files", below, data, arguments, fault)
}

/// The same with a fault in calls of this kind.
fn faulty_of(of: &str, below: &Path, data: &Path, arguments: &[&str], fault: Option<(&str, u64)>) -> (Output, u64) {
    let count = data.with_extension("calls");
    let program = command(data, arguments);
    let mut bounded = Command::new("timeout");
    // The program alone has the shim before it, not what bounds it.
    let set = |name: &str, value: &std::ffi::OsStr| {
        let mut set = std::ffi::OsString::from(name);
        set.push("=");
        set.push(value);
        set
    };
    bounded.args(["60", "env"]).arg(set("LD_PRELOAD", shim().as_os_str())).arg(set("FAULT_PREFIX", below.as_os_str()));
    bounded.arg(set("FAULT_COUNT", count.as_os_str())).arg(format!("FAULT_OF={of}"));
    if let Some((kind, at)) = fault {
        bounded.arg(format!("FAULT_KIND={kind}")).arg(format!("FAULT_AT={at}"));
    }
    bounded.arg(program.get_program()).args(program.get_args());
    let output = bounded.output().unwrap();
    let calls = std::fs::read_to_string(&count).ok().and_then(|text| text.parse().ok()).unwrap_or(0);
    (output, calls)
}

/// The calls that are tried: every one when that is asked for, else a sample.
fn calls(of: u64) -> impl Iterator<Item = u64> {
    let every = if std::env::var_os("REVISUM_ALL_FAULTS").is_some() { 1 } else { 9 };
    (1..=of).step_by(every)
}

/// It ended by itself, in one of the ways in which it ends.
fn ended(what: &str, output: &Output) -> i32 {
    let words = String::from_utf8_lossy(&output.stderr).into_owned();
    let code = output.status.code().unwrap_or_else(|| panic!("{what}: {:?} {words}", output.status));
    assert!((0..=4).contains(&code) && !words.contains("panicked"), "{what}: {code} {words}");
    code
}

#[rstest]
#[case::errors("dome-1", 1)]
#[case::clean("frontdesk", 0)]
fn a_run_is_never_told_better_than_it_was(
    #[case] machine: &str,
    #[case] truth: i32,
    #[values("once", "on", "short")] kind: &str,
) {
    let arguments = ["check", "--sim", machine, "--tests", "random", "--passes", "1", "--memory", "64M", "--json"];
    // The fault of this machine is in the first cells: all of its memory is swept.
    let arguments = if truth == 1 { &[&arguments[..7], &arguments[9..]].concat()[..] } else { &arguments[..] };
    let folder = tempfile::tempdir().unwrap();
    let (whole, count) = faulty(&folder.path().join("whole"), &folder.path().join("whole"), arguments, None);
    assert_eq!(ended("without a fault", &whole), truth);
    assert!(count > 20, "{count} calls");
    for at in calls(count) {
        let data = folder.path().join(format!("{at}"));
        let (output, _) = faulty(&data, &data, arguments, Some((kind, at)));
        let what = format!("{machine} {kind} {at}");
        let code = ended(&what, &output);
        let Ok(told) = serde_json::from_slice::<Value>(&output.stdout) else {
            // It never began, and says so.
            assert!(code >= 2 && !output.stderr.is_empty(), "{what}");
            continue;
        };
        assert!(truth == 0 || code == 1, "{what}: {told}");
        if told["recorded"] == true {
            assert_eq!(code, truth, "{what}");
            let (_, kept) = run_json(&data, &["log", "last", "--json"]);
            assert_eq!((&kept["outcome"], &kept["errors"]), (&told["outcome"], &told["errors"]), "{what}");
        } else {
            assert!(truth == 1 || code == 3, "{what}: not kept is not clean");
        }
    }
}

/// Allocations before the program's own beginning: those of the C library and of the language's start.
const BEFORE_IT_BEGINS: u64 = 40;

/// What the program cannot have for itself is said in words, and never makes a result better.
#[rstest]
fn what_the_program_itself_lacks_improves_nothing(
    #[values("memory", "threads")] of: &str,
    #[values("once", "on")] kind: &str,
    #[values(("dome-1", 1), ("frontdesk", 0))] (machine, truth): (&str, i32),
) {
    let arguments = ["check", "--sim", machine, "--tests", "random", "--passes", "1", "--json"];
    let folder = tempfile::tempdir().unwrap();
    let whole = folder.path().join("whole");
    let (done, count) = faulty_of(of, &whole, &whole, &arguments, None);
    assert_eq!(ended("without a fault", &done), truth);
    // The beginning and a sample of the rest: there are hundreds of thousands of allocations.
    let (beginning, samples) = if std::env::var_os("REVISUM_ALL_FAULTS").is_some() { (500, 1500) } else { (50, 24) };
    let early = (1..=count.min(beginning)).step_by(if beginning == 50 { 5 } else { 1 });
    for at in early.chain((beginning + 1..=count).step_by((count / samples + 1) as usize)) {
        let data = folder.path().join(format!("{at}"));
        let (output, _) = faulty_of(of, &data, &data, &arguments, Some((kind, at)));
        let what = format!("{machine} {of} {kind} {at} of {count}");
        if of == "memory" && at <= BEFORE_IT_BEGINS && output.status.code().is_none_or(|code| code > 4) {
            assert!(output.stdout.is_empty(), "{what}");
            continue;
        }
        let code = ended(&what, &output);
        assert!(code == truth || (code > truth && !output.stderr.is_empty()), "{what}: {code}");
        let told = serde_json::from_slice::<Value>(&output.stdout).unwrap_or_default();
        assert!(told["outcome"] != "clean" || truth == 0, "{what}: {told}");
        let kept = run(&data, &["log", "last", "--json"]);
        let kept = serde_json::from_slice::<Value>(&kept.stdout).unwrap_or_default();
        assert!(kept["outcome"] != "clean" || truth == 0, "{what}: {kept}");
        if told["recorded"] == true {
            assert_eq!((&kept["outcome"], &kept["errors"]), (&told["outcome"], &told["errors"]), "{what}");
        }
    }
}

/// What is on record after an import is what was brought in, or the import says what is missing.
#[rstest]
fn an_import_loses_nothing_in_silence(#[values("once", "on", "short")] kind: &str) {
    let folder = tempfile::tempdir().unwrap();
    let from = folder.path().join("from");
    for machine in ["dome-1", "frontdesk"] {
        run(&from, &["check", "--sim", machine, "--tests", "random", "--passes", "1", "--json"]);
    }
    let outcomes = |data: &Path| -> Vec<(String, String)> {
        let (_, listed) = run_json(data, &["logs", "--json"]);
        let text = |run: &Value, name: &str| run[name].as_str().unwrap().to_owned();
        listed["runs"].as_array().unwrap().iter().map(|run| (text(run, "id"), text(run, "outcome"))).collect()
    };
    let truth = outcomes(&from);
    let arguments = ["logs", "--import", from.to_str().unwrap()];
    let whole = folder.path().join("whole");
    let (done, count) = faulty(&whole, &whole, &arguments, None);
    assert_eq!((ended("without a fault", &done), outcomes(&whole)), (0, truth.clone()));
    for at in calls(count) {
        let to = folder.path().join(format!("{at}"));
        let (output, _) = faulty(&to, &to, &arguments, Some((kind, at)));
        let code = ended(&format!("import {kind} {at}"), &output);
        let words = String::from_utf8_lossy(&[output.stdout, output.stderr].concat()).into_owned();
        let there = outcomes(&to);
        assert!(there.iter().all(|run| truth.contains(run)), "{kind} {at}: {there:?}");
        let said = code != 0 || words.contains("not copied");
        assert!(there == truth || said, "{kind} {at}: {there:?} {words}");
    }
}

/// A report is whole, or it is said that there is none.
#[rstest]
fn a_report_is_whole_or_refused(#[values("once", "on", "short")] kind: &str) {
    let folder = tempfile::tempdir().unwrap();
    let data = folder.path().join("data");
    run(&data, &["check", "--sim", "dome-1", "--tests", "random", "--passes", "1", "--json"]);
    let reports = data.join("reports/dome-1");
    let (whole, count) = faulty(&data, &data, &["report", "dome-1"], None);
    assert_eq!(ended("without a fault", &whole), 0);
    let names = ["report.md", "errors.csv"];
    let read = || names.map(|name| std::fs::read(reports.join(name)).ok());
    let truth = read();
    for at in calls(count) {
        std::fs::remove_dir_all(&reports).unwrap_or_default();
        let (output, _) = faulty(&data, &data, &["report", "dome-1"], Some((kind, at)));
        let code = ended(&format!("report {kind} {at}"), &output);
        let now = read();
        // A run that cannot be read is missed in the report, and its errors in the table; a record that cannot be read again leaves it without a checksum.
        let says = |words: &str| now[0].as_ref().is_some_and(|text| String::from_utf8_lossy(text).contains(words));
        let missed = says("damaged or missing") || says("cannot all be read now");
        for (name, (now, then)) in names.iter().zip(now.iter().zip(&truth)) {
            assert!(now == then || now.is_none() || missed, "{kind} {at} {name}");
            assert!(code != 0 || now.is_some(), "{kind} {at} {name}: said to be written");
        }
    }
}

/// A drive is finished, or known as one that is not.
#[rstest]
fn a_drive_is_finished_or_known_as_unfinished(#[values("once", "on", "short")] kind: &str) {
    let folder = tempfile::tempdir().unwrap();
    let (image, bench) = (small_image(), folder.path().join("bench"));
    std::fs::create_dir(&bench).unwrap();
    let file = folder.path().join("image");
    std::fs::write(&file, &image).unwrap();
    let drive = bench.join("stick");
    let blank = || std::fs::write(&drive, vec![9; 10 << 20]).unwrap();
    let arguments = ["drive", "write", file.to_str().unwrap(), drive.to_str().unwrap(), "--name", "stick"];
    blank();
    let (whole, count) = faulty(&bench, &folder.path().join("data"), &arguments, None);
    assert_eq!(ended("without a fault", &whole), 0);
    for at in calls(count) {
        blank();
        let (output, _) = faulty(&bench, &folder.path().join("data"), &arguments, Some((kind, at)));
        let code = ended(&format!("drive {kind} {at}"), &output);
        let there = std::fs::read(&drive).unwrap();
        if code == 0 {
            assert!(there[..image.len()] == image[..], "{kind} {at}: said to be written");
            continue;
        }
        let content = content_of(&mut |bytes, at| {
            bytes.copy_from_slice(&there[at as usize..at as usize + bytes.len()]);
            Ok(())
        });
        // A drive that fails for good after its last byte was written can be whole: nobody can take that byte away again.
        let whole = there[..image.len()] == image[..];
        assert!(!matches!(content, Content::BootDrive { .. }) || whole, "{kind} {at}: half of it boots");
    }
}
