//! What was found by attacking the program, and must not come back: each of these once made it say too much, hang or destroy something.

mod common;

use std::io::Write as _;
use std::os::unix::fs::MetadataExt as _;
use std::path::Path;
use std::process::Command;
use std::time::{Duration, Instant};

use common::{command, journal, run, run_json, spawn, wait_for};
use revisum_record::journal::{Entry, read_journal};
use rstest::rstest;
use rustix::process::{Pid, Signal, kill_process};
use serde_json::Value;

fn text(bytes: &[u8]) -> String {
    String::from_utf8_lossy(bytes).into_owned()
}

/// A machine with a fault, tested once.
fn faulty() -> tempfile::TempDir {
    let data = tempfile::tempdir().unwrap();
    let (code, _) = run_json(data.path(), &["check", "--sim", "dome-1", "--json"]);
    assert_eq!(code, 1);
    data
}

/// Every line of a file that holds this has one bit of its first byte after that turned over.
fn turn(path: &Path, holding: &str) {
    let text = std::fs::read_to_string(path).unwrap();
    let lines = text.lines().map(|line| match line.find(holding) {
        Some(at) => {
            let mut bytes = line.as_bytes().to_vec();
            bytes[at + holding.len()] ^= 1;
            String::from_utf8(bytes).unwrap()
        }
        None => line.to_owned(),
    });
    std::fs::write(path, lines.collect::<Vec<_>>().join("\n") + "\n").unwrap();
}

/// Whatever is left of a record says that there were errors, where any of it does.
#[rstest]
#[case::the_errors(&["\"record\":\"errors"])]
#[case::errors_and_ends_of_tests(&["\"record\":\"errors", "\"record\":\"test-ended"])]
#[case::all_but_the_end(&["\"record\":\"errors", "\"record\":\"test-ended", "\"record\":\"pass-ended", "\"record\":\"progress"])]
fn damage_does_not_make_errors_clean(#[case] lost: &[&str]) {
    let data = faulty();
    let record = journal(data.path());
    lost.iter().for_each(|holding| turn(&record, holding));
    let (_, told) = run_json(data.path(), &["log", "last", "--json"]);
    assert_eq!((&told["outcome"], &told["complete"]), (&"errors-found".into(), &false.into()), "{told}");
    assert!(told["errors"].as_u64().unwrap() > 0 && told["damage"].is_string());
    let (_, listed) = run_json(data.path(), &["logs", "--json"]);
    assert_eq!(listed["runs"][0]["outcome"], "errors-found");
    let words = text(&run(data.path(), &["log", "last"]).stdout);
    assert!(
        words.contains("record damaged") && words.contains("There may be more errors than are counted here"),
        "{words}"
    );
}

/// With nothing left of what told of errors, nothing is claimed, by any command.
#[test]
fn a_record_that_lost_all_it_told_is_no_clean_run() {
    let data = faulty();
    let record = journal(data.path());
    let kept: Vec<String> = std::fs::read_to_string(&record).unwrap().lines().take(4).map(str::to_owned).collect();
    std::fs::write(&record, kept.join("\n") + "\nrubbish\n").unwrap();
    // The job wrote down what the run had come to.
    let swap = text(&run(data.path(), &["swap", "dome-1"]).stdout);
    assert!(!swap.contains("No run of this job found an error") && swap.contains("not whole"), "{swap}");
    // Without the job's word there are only the remains.
    let job = data.path().join("jobs/dome-1.job");
    turn(&job, "\"record\":\"sealed");
    let (_, told) = run_json(data.path(), &["log", "last", "--json"]);
    assert_eq!((&told["outcome"], &told["grade"]), (&"not-whole".into(), &"reduced".into()), "{told}");
    let swap = text(&run(data.path(), &["swap", "dome-1"]).stdout);
    assert!(
        swap.contains("Records of this job are damaged") && !swap.contains("found an error, so there is no part"),
        "{swap}"
    );
    assert_eq!(run(data.path(), &["report", "dome-1"]).status.code(), Some(0));
    let report = std::fs::read_to_string(data.path().join("reports/dome-1/report.md")).unwrap();
    assert!(report.contains("records of this job are damaged or missing"), "{report}");
    let told: Value =
        serde_json::from_slice(&std::fs::read(data.path().join("reports/dome-1/job.json")).unwrap()).unwrap();
    assert!(!told["damage"].as_array().unwrap().is_empty());
}

/// A run that the job no longer knows of, or that is gone, is missed.
#[test]
fn a_run_that_is_gone_is_missed() {
    let data = faulty();
    std::fs::remove_file(journal(data.path())).unwrap();
    let swap = text(&run(data.path(), &["swap", "dome-1"]).stdout);
    assert!(swap.contains("cannot be opened") && swap.contains("Records of this job are damaged"), "{swap}");
}

/// A part of a record in the place of which something else stands.
#[test]
fn a_part_that_cannot_be_read_hides_nothing() {
    let data = faulty();
    let record = journal(data.path());
    let text = std::fs::read_to_string(&record).unwrap();
    let half = text[..text.len() / 2].rfind('\n').unwrap() + 1;
    std::fs::write(&record, &text[..half]).unwrap();
    std::fs::create_dir(record.with_extension("journal-2")).unwrap();
    std::fs::write(record.with_extension("journal-3"), &text[half..]).unwrap();
    let (_, told) = run_json(data.path(), &["log", "last", "--json"]);
    assert_eq!(told["outcome"], "errors-found");
    assert!(told["damage"].as_str().unwrap().contains("1 file of it cannot be read"), "{told}");
}

/// The records are taken away while a run goes on: its result is told, and that it is not kept.
#[test]
fn a_run_whose_records_are_taken_away_says_so() {
    let data = tempfile::tempdir().unwrap();
    let child = spawn(data.path(), &["check", "--memory", "8M", "--for", "2s", "--json"]);
    let record = journal(data.path());
    wait_for("the first test", || std::fs::read_to_string(&record).ok()?.contains("test-began").then_some(()));
    std::fs::remove_dir_all(data.path()).unwrap();
    let output = child.wait_with_output().unwrap();
    let told: Value = serde_json::from_slice(&output.stdout).unwrap();
    assert_eq!((&told["recorded"], &told["journal"]), (&false.into(), &Value::Null), "{told}");
    assert_eq!(output.status.code(), Some(3), "what is not kept is not clean");
}

/// Time in which the program was stopped is no time of testing.
#[test]
fn stopped_time_is_no_evidence() {
    let data = tempfile::tempdir().unwrap();
    let child = spawn(data.path(), &["check", "--memory", "8M", "--for", "3s", "--json"]);
    let pid = Pid::from_raw(child.id() as i32).unwrap();
    let record = journal(data.path());
    wait_for("the first test", || std::fs::read_to_string(&record).ok()?.contains("test-began").then_some(()));
    kill_process(pid, Signal::STOP).unwrap();
    let stopped = Instant::now();
    wait_for("two seconds of standing still", || (stopped.elapsed() >= Duration::from_secs(2)).then_some(()));
    kill_process(pid, Signal::CONT).unwrap();
    let output = child.wait_with_output().unwrap();
    let told: Value = serde_json::from_slice(&output.stdout).unwrap();
    let seconds = |name: &str| told[name].as_f64().unwrap();
    assert!(seconds("stalled_s") >= 1.8, "{told}");
    let ran = told["done"]["seconds"].as_f64().unwrap();
    assert!(ran >= 2.9 && ran <= seconds("elapsed_s") - seconds("stalled_s") + 0.01, "{told}");
    let (mut bytes, mut stalls) = (&*std::fs::read(&record).unwrap(), 0);
    read_journal(&mut bytes, |framed| stalls += u32::from(matches!(framed.entry, Entry::Stalled { .. }))).unwrap();
    assert!(stalls >= 1, "the record tells of it");
}

/// A record that a newer program wrote, with kinds of records that nobody here knows.
#[test]
fn what_is_not_understood_is_not_clean() {
    let data = tempfile::tempdir().unwrap();
    run(data.path(), &["check", "--sim", "frontdesk", "--json"]);
    let record = journal(data.path());
    let lines = std::fs::read_to_string(&record).unwrap();
    let signed = |line: &str| {
        let body = line.split(",\"crc\":").next().unwrap().replace("\"format\":2", "\"format\":9") + "}";
        let body = body.replace("\"record\":\"errors", "\"record\":\"faults");
        format!("{},\"crc\":\"{:08x}\"}}\n", &body[..body.len() - 1], crc32c::crc32c(body.as_bytes()))
    };
    std::fs::write(&record, lines.lines().filter(|line| line.starts_with('{')).map(signed).collect::<String>())
        .unwrap();
    let (_, told) = run_json(data.path(), &["log", "last", "--json"]);
    assert_ne!(told["outcome"], "clean", "{told}");
    let words = text(&command(data.path(), &["log", "last"]).output().unwrap().stdout);
    assert!(words.contains("newer program"), "{words}");
}

/// Runs in a shell that sets limits first.
fn limited(data: &Path, limits: &str, arguments: &[&str]) -> std::process::Output {
    let program = command(data, arguments);
    let mut shell = Command::new("bash");
    shell.args(["-c", &format!("{limits}; exec \"$0\" \"$@\"")]);
    shell.arg(program.get_program()).args(program.get_args()).output().unwrap()
}

/// A log that unpacks to a thousand times its length, every line of it an error at another place.
#[test]
fn a_packed_log_takes_little_memory() {
    let data = tempfile::tempdir().unwrap();
    let log = data.path().join("kern.log.gz");
    let mut packed = flate2::write::GzEncoder::new(std::fs::File::create(&log).unwrap(), flate2::Compression::best());
    for number in 0..400_000u32 {
        let line = format!(
            "Nov  2 10:11:12 pc kernel: EDAC MC0: 1 CE memory read error on DIMM_{number} (channel:1 slot:0 page:{number:#x} offset:0x600)\n"
        );
        packed.write_all(line.as_bytes()).unwrap();
    }
    packed.finish().unwrap();
    // 256 MiB of addresses: the program itself, its libraries and stacks are most of it.
    let done = limited(data.path(), "ulimit -v 262144", &["system-log", log.to_str().unwrap(), "--json"]);
    assert_eq!(done.status.code(), Some(0), "{}", text(&done.stderr));
    let told: Value = serde_json::from_slice(&done.stdout).unwrap();
    let entries = told["entries"].as_array().unwrap();
    let counted: u64 = entries.iter().map(|entry| entry["count"].as_u64().unwrap()).sum();
    assert!(entries.len() < 3_000 && counted == 400_000, "{} entries, {counted} errors", entries.len());
}

/// Limits of the system are refused in words, never by an abort.
#[rstest]
#[case::length_of_files("ulimit -f 4", &["check", "--sim", "dome-1"], &[1])]
#[case::open_files("ulimit -n 20", &["log", "last"], &[0, 3])]
#[case::open_files_of_a_list("ulimit -n 12", &["logs"], &[0, 3])]
#[case::address_space("ulimit -v 400000", &["check", "--memory", "1G"], &[2, 3])]
fn limits_of_the_system_are_said(#[case] limits: &str, #[case] arguments: &[&str], #[case] codes: &[i32]) {
    let data = faulty();
    let done = limited(data.path(), limits, arguments);
    let words = text(&[done.stdout, done.stderr].concat());
    let code = done.status.code().unwrap_or_else(|| panic!("it died: {words}"));
    assert!(codes.contains(&code) && !words.contains("panicked"), "{code} {words}");
}

/// A user who may have no more processes: as nobody, since root has no such limit.
#[test]
fn no_thread_to_be_had_is_said() {
    let data = tempfile::tempdir().unwrap();
    let place = data.path().join("program");
    std::fs::copy(common::revisum(), &place).unwrap();
    for path in [data.path(), &place] {
        std::fs::set_permissions(path, std::os::unix::fs::PermissionsExt::from_mode(0o777)).unwrap();
    }
    let mut shell = Command::new("setpriv");
    shell.args([
        "--reuid=12345",
        "--clear-groups",
        "bash",
        "-c",
        "ulimit -u 1; exec \"$0\" check --sim frontdesk --data \"$1\"",
    ]);
    let done = shell.arg(&place).arg(data.path().join("data")).output().unwrap();
    let words = text(&[done.stdout, done.stderr].concat());
    assert!(
        done.status.code() == Some(3) && words.contains("no thread can be had") && !words.contains("panicked"),
        "{words}"
    );
}

/// Pipes, endless and huge files among the records.
#[test]
fn what_waits_or_does_not_end_among_the_records_stops_nothing() {
    let data = faulty();
    let at = |name: &str| data.path().join(name);
    for name in ["jobs/pipe.job", "runs/pipe.journal"] {
        assert!(Command::new("mkfifo").arg(at(name)).status().unwrap().success());
    }
    for name in ["jobs/zero.job", "runs/zero.journal"] {
        std::os::unix::fs::symlink("/dev/zero", at(name)).unwrap();
    }
    std::fs::File::create(at("jobs/sparse.job")).unwrap().set_len(1 << 40).unwrap();
    for arguments in [
        &["logs"][..],
        &["swap", "dome-1"],
        &["report", "dome-1"],
        &["swap", "pipe"],
        &["swap", "zero"],
        &["report", "sparse"],
    ] {
        let done = Command::new("timeout")
            .arg("30")
            .arg(common::revisum())
            .args(arguments)
            .arg("--data")
            .arg(data.path())
            .output()
            .unwrap();
        assert!(
            done.status.code().is_some_and(|code| code <= 4),
            "{arguments:?}: {:?} {}",
            done.status,
            text(&done.stderr)
        );
    }
}

/// Names from firmware and files steer no terminal, no table and no document.
#[test]
fn foreign_text_steers_nothing() {
    let data = faulty();
    let record = journal(data.path());
    let nasty = "A\\u202eB\\u2066\\u200b\\u2028\\u0007=1";
    let lines = std::fs::read_to_string(&record).unwrap();
    // Every record again with a slot of another name, right checksums and a right chain.
    let mut prev = None;
    let signed = |line: &str| {
        let mut body = line.split(",\"crc\":").next().unwrap().replace("\"B1\"", &format!("\"{nasty}\"")) + "}";
        if let (Some(at), Some(crc)) = (body.find("\"prev\":\""), prev) {
            body.replace_range(at + 8..at + 16, &format!("{crc:08x}"));
        }
        let crc = crc32c::crc32c(body.as_bytes());
        prev = Some(crc);
        format!("{},\"crc\":\"{crc:08x}\"}}\n", &body[..body.len() - 1])
    };
    let mut seen = std::collections::BTreeSet::new();
    let once = |line: &&str| line.starts_with('{') && seen.insert(line.to_string());
    std::fs::write(&record, lines.lines().filter(once).map(signed).collect::<String>()).unwrap();
    run(data.path(), &["report", "dome-1"]);
    let mut outputs: Vec<(String, Vec<u8>)> = [
        &["log", "last"][..],
        &["log", "last", "--json"],
        &["locate", "last"],
        &["locate", "last", "--json"],
        &["swap", "dome-1"],
    ]
    .into_iter()
    .map(|arguments| {
        let done = run(data.path(), arguments);
        (arguments.join(" "), [done.stdout, done.stderr].concat())
    })
    .collect();
    let folder = data.path().join("reports/dome-1");
    for file in std::fs::read_dir(&folder).unwrap().flatten() {
        if file.path().extension().is_some_and(|ending| ending != "pdf") {
            outputs.push((file.path().display().to_string(), std::fs::read(file.path()).unwrap()));
        }
    }
    assert!(outputs.iter().any(|(_, bytes)| text(bytes).contains("AB")), "the name is shown somewhere");
    for (name, bytes) in outputs {
        let steering = text(&bytes).chars().find(|c| {
            (c.is_control() && *c != '\n')
                || matches!(*c, '\u{200b}'..='\u{200f}' | '\u{2028}'..='\u{202e}' | '\u{2060}'..='\u{2069}')
        });
        assert_eq!(steering, None, "{name}");
    }
}

/// Planted links in the place of files that root writes.
#[test]
fn planted_links_are_not_followed() {
    let data = faulty();
    let victim = data.path().join("victim");
    std::fs::write(&victim, "precious").unwrap();
    let link = |name: &str| {
        let path = data.path().join(name);
        std::fs::create_dir_all(path.parent().unwrap()).unwrap();
        let _ = std::fs::remove_file(&path);
        std::os::unix::fs::symlink(&victim, &path).unwrap();
        // Somebody else's.
        std::os::unix::fs::lchown(&path, Some(12_345), None).unwrap();
    };
    link("reports/dome-1/report.md");
    link("reports/dome-1/job.json");
    link("facts/DMI");
    link("facts/system.json");
    link("moments.toml");
    link("drawing.svg");
    run(data.path(), &["report", "dome-1"]);
    run(data.path(), &["board", "--save", data.path().join("facts").to_str().unwrap()]);
    run(data.path(), &["log", "last", "--svg", data.path().join("drawing.svg").to_str().unwrap()]);
    run(data.path(), &["check", "--memory", "4M", "--passes", "1", "--json"]);
    assert_eq!(std::fs::read_to_string(&victim).unwrap(), "precious");
}

/// Records and what is made from them are for their owner, unless they are shared on purpose.
#[rstest]
#[case::own(&[], 0o600, 0o700)]
#[case::shared(&["--share"], 0o644, 0o755)]
fn records_are_for_their_owner(#[case] more: &[&str], #[case] file_mode: u32, #[case] folder_mode: u32) {
    let data = tempfile::tempdir().unwrap();
    let root = data.path().join("data");
    run(&root, &[&["check", "--sim", "dome-1", "--json"], more].concat());
    run(&root, &[&["report", "dome-1"], more].concat());
    run(&root, &[&["logs"], more].concat());
    let mut folders = vec![root];
    while let Some(folder) = folders.pop() {
        assert_eq!(std::fs::metadata(&folder).unwrap().mode() & 0o777, folder_mode, "{}", folder.display());
        for entry in std::fs::read_dir(&folder).unwrap().flatten() {
            match entry.file_type().unwrap().is_dir() {
                true => folders.push(entry.path()),
                false => assert_eq!(entry.metadata().unwrap().mode() & 0o777, file_mode, "{}", entry.path().display()),
            }
        }
    }
}

/// As root: nobody else may lead its files elsewhere.
#[test]
fn a_folder_that_others_may_write_to_is_refused_to_root() {
    let data = tempfile::tempdir().unwrap();
    let open = data.path().join("open");
    std::fs::create_dir(&open).unwrap();
    std::fs::set_permissions(&open, std::os::unix::fs::PermissionsExt::from_mode(0o777)).unwrap();
    let done = run(&open.join("data"), &["check", "--sim", "frontdesk"]);
    let words = text(&done.stderr);
    assert!(
        done.status.code() == Some(2) && words.contains("others than root may write") && words.contains("--data DIR"),
        "{words}"
    );
}

/// A record that was changed in place, at the same length.
#[test]
fn a_list_notices_records_that_changed_in_place() {
    let data = faulty();
    let listed = || run_json(data.path(), &["logs", "--json"]).1["runs"][0].clone();
    assert_eq!(listed()["damage"], Value::Null);
    let record = journal(data.path());
    let mut bytes = std::fs::read(&record).unwrap();
    let at = bytes.windows(9).position(|window| window == b"\"errors\":").unwrap();
    bytes[at + 2] ^= 1;
    let file = std::fs::OpenOptions::new().write(true).open(&record).unwrap();
    std::os::unix::fs::FileExt::write_all_at(&file, &bytes, 0).unwrap();
    drop(file);
    assert!(listed()["damage"].is_string(), "{}", listed());
}

#[rstest]
#[case(&["check", "--sim", "frontdesk", "--stop-after", "0"], "stopping after 0 errors")]
#[case(&["check", "--sim", "frontdesk", "--memory", "999999"], "at least 1 MiB")]
#[case(&["check", "--sim", "frontdesk", "--range", "1G..0x40000100"], "at least 1 MiB")]
fn what_would_test_nothing_is_refused(#[case] arguments: &[&str], #[case] expected: &str) {
    let data = tempfile::tempdir().unwrap();
    let done = run(data.path(), arguments);
    assert!(done.status.code() == Some(2) && text(&done.stderr).contains(expected), "{}", text(&done.stderr));
}

/// Where the result cannot be told errors stay errors, and nothing is clean.
#[rstest]
#[case("dome-1", 1)]
#[case("frontdesk", 3)]
fn a_result_that_cannot_be_told_is_no_clean_one(#[case] machine: &str, #[case] code: i32) {
    let data = tempfile::tempdir().unwrap();
    let full = std::fs::OpenOptions::new().write(true).open("/dev/full").unwrap();
    let done = command(data.path(), &["check", "--sim", machine]).stdout(full).output().unwrap();
    assert_eq!(done.status.code(), Some(code), "{}", text(&done.stderr));
    assert!(text(&done.stderr).contains("cannot be shown"));
}

/// Before it reads or tests anything it has given up what it never needs: rights of root to other processes, modules and raw networks among that.
#[test]
fn what_is_never_needed_is_given_up() {
    let data = tempfile::tempdir().unwrap();
    let mut child = spawn(data.path(), &["check", "--memory", "8M", "--for", "60s"]);
    journal(data.path());
    let status = std::fs::read_to_string(format!("/proc/{}/status", child.id())).unwrap();
    child.kill().unwrap();
    child.wait().unwrap();
    let value = |name: &str| status.lines().find_map(|line| line.strip_prefix(name)).unwrap_or_default().trim();
    assert_eq!((value("NoNewPrivs:"), value("Seccomp:")), ("1", "2"), "{status}");
    let (processes, modules, raw_networks) = (1 << 19, 1 << 16, 1 << 13);
    let rights = u64::from_str_radix(value("CapEff:"), 16).unwrap();
    assert_eq!(rights & (processes | modules | raw_networks), 0, "{status}");
}
