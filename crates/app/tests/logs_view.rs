//! The Logs view in a real terminal: what the machine's own system logged, a module's life, a run's time.

mod common;

use common::{Screen, revisum, run, run_json};

const SIZE: (u16, u16) = (128, 40);

fn opened(data: &std::path::Path, machine: &str, size: (u16, u16)) -> Screen {
    let (program, data) = (revisum(), data.display());
    let screen = Screen::open(
        size,
        &format!("{} demo --machine {machine} --pace 400 --data {data}; echo left-$?", program.display()),
    );
    screen.wait("? keys");
    screen
}

#[rstest::rstest]
#[case(SIZE)]
#[case((80, 25))]
fn what_the_system_logged_is_found_and_kept(#[case] size: (u16, u16)) {
    let data = tempfile::tempdir().unwrap();
    let screen = opened(data.path(), "archive", size);
    screen.keys(&["8"]);
    screen.wait("system logs");
    screen.keys(&["s"]);
    screen.wait_all(&["corrected error", "a40f b600", "Enter keep as evidence", "112 CE memory read error"]);
    screen.keys(&["Enter"]);
    screen.wait_gone("Enter keep as evidence");
    screen.keys(&["Escape"]);
    screen.wait("machine");
    screen.keys(&["q"]);
    screen.wait("left-0");
    let (code, case) = run_json(data.path(), &["swap", "archive", "--json"]);
    assert_eq!(code, 0);
    assert!(case.to_string().contains("0E904403"));
    let folder = data.path().join("out");
    run(data.path(), &["report", "archive", "--output", folder.to_str().unwrap()]);
    let report = std::fs::read_to_string(folder.join("report.md")).unwrap();
    assert!(report.contains("Logs of the computer's own system") && report.contains("132"), "{report}");
}

#[test]
fn a_modules_life_is_shown_and_a_run_stepped_through() {
    let data = tempfile::tempdir().unwrap();
    let screen = opened(data.path(), "dome-1", SIZE);
    screen.keys(&["Enter"]);
    screen.wait_all(&["took", "Most suspect: module red dot"]);
    screen.keys(&["2", "Down", "Down", "h"]);
    screen.wait_all(&["history of red dot", "4A220094", "memory errors", "not decided yet"]);
    screen.keys(&["Enter"]);
    screen.wait_all(&["log of", "memory errors"]);
    screen.keys(&["Left", "Left"]);
    screen.wait("state after");
    // To the very beginning: nothing was found yet.
    (0..40).for_each(|_| screen.keys(&["Left"]));
    screen.wait_all(&["state after 0", "clean so far"]);
    (0..41).for_each(|_| screen.keys(&["Right"]));
    screen.wait_gone("state after");
    screen.wait("memory errors");
    screen.keys(&["Escape"]);
    screen.wait("history of");
    screen.keys(&["Escape"]);
    screen.wait_gone("history of");
    screen.keys(&["q"]);
    screen.wait("left-0");
}

#[test]
fn logs_of_a_suspect_disk_are_read_and_kept() {
    let (data, disk) = (tempfile::tempdir().unwrap(), tempfile::tempdir().unwrap());
    let logs = disk.path().join("var/log");
    std::fs::create_dir_all(&logs).unwrap();
    let line =
        "2031-04-12T13:31:00Z host kernel: EDAC MC0: 2 UE memory read error on x\u{1b}[2J (page:0x10 offset:0x0)\n";
    std::fs::write(logs.join("kern.log.1"), line.repeat(3)).unwrap();
    std::fs::write(logs.join("damaged.gz"), b"\x1f\x8bnothing").unwrap();
    let root = disk.path().to_str().unwrap();
    let (code, found) = run_json(data.path(), &["system-log", root, "--json"]);
    let entry = &found["entries"][0];
    assert_eq!((code, &entry["kind"], &entry["count"]), (0, &"uncorrected".into(), &6.into()), "{found}");
    assert_eq!(entry["address"], "0x10000");
    assert_eq!(found["trouble"].as_array().unwrap().len(), 1, "{found}");
    let told = run(data.path(), &["system-log", root]);
    assert!(!told.stdout.contains(&0x1b) && String::from_utf8_lossy(&told.stdout).contains("memory error"));
    let kept = run(data.path(), &["system-log", root, "--keep", "nobody"]);
    assert_eq!(kept.status.code(), Some(2), "{}", String::from_utf8_lossy(&kept.stderr));
    run(data.path(), &["check", "--sim", "dome-1"]);
    let none = run(data.path(), &["system-log", root, "--find", "nothing like it"]);
    assert!(String::from_utf8_lossy(&none.stdout).contains("No entry is about memory"));
}

#[test]
fn a_digest_answers_where_the_ledger_is_not() {
    let (shop, drive) = (tempfile::tempdir().unwrap(), tempfile::tempdir().unwrap());
    run(shop.path(), &["check", "--sim", "dome-1"]);
    let file = drive.path().join("digest.json");
    let written = run(shop.path(), &["logs", "--digest", file.to_str().unwrap()]);
    assert!(written.status.success(), "{}", String::from_utf8_lossy(&written.stderr));
    let screen = Screen::open(
        SIZE,
        &format!("{} demo --machine dome-1 --data {}; echo left-$?", revisum().display(), drive.path().display()),
    );
    screen.wait("Enter run triage");
    screen.keys(&["Down", "Down"]);
    // One run before the machine came to the bench, and the one of the shop's ledger.
    screen.wait("2 runs, errors in");
    screen.keys(&["q"]);
    screen.wait("left-0");
}

/// In the demonstration two drives can be written; one of them does not keep what it is given.
#[test]
fn a_boot_drive_is_made_on_the_screen() {
    let data = tempfile::tempdir().unwrap();
    let screen = opened(data.path(), "dome-1", SIZE);
    screen.keys(&["0", "d"]);
    screen.wait_all(&["Make a boot drive", "Kestrel Pocket 16", "not offered", "a simulated image"]);
    screen.keys(&["Enter"]);
    screen.wait_all(&["Everything on Kestrel Pocket 16 will be erased", "STAR CHARTS"]);
    screen.keys(&["x", "Enter"]);
    screen.wait("The name does not match");
    screen.keys(&["Escape"]);
    screen.wait_gone("The name does not match");
    screen.keys(&["Enter"]);
    screen.wait("Type its name");
    screen.type_text("Kestrel Pocket 16");
    screen.keys(&["Enter"]);
    screen.wait("read back in");
    screen.keys(&["Down", "Enter"]);
    screen.wait("Everything on Lantern Worn 8 will be erased");
    screen.type_text("Lantern Worn 8");
    screen.keys(&["Enter"]);
    screen.wait("gives back something else");
    screen.keys(&["Escape"]);
    screen.wait("purpose");
    screen.keys(&["q"]);
    screen.wait("left-0");
}

/// Records of another drive, a run and its job, come into the list; what cannot be read is said, and nothing that is here is lost.
#[rstest::rstest]
#[case(SIZE)]
#[case((80, 25))]
fn records_are_brought_in_from_a_folder(#[case] size: (u16, u16)) {
    let (data, drive) = (tempfile::tempdir().unwrap(), tempfile::tempdir().unwrap());
    run(drive.path(), &["check", "--sim", "stacker", "--json"]);
    let screen = opened(data.path(), "dome-1", size);
    screen.keys(&["8"]);
    screen.wait("system logs");
    screen.keys(&["i"]);
    screen.wait("No mounted drive has records");
    screen.type_line("/nowhere/at/all");
    screen.wait_all(&["could not be imported", "/nowhere/at/all cannot be read"]);
    screen.keys(&["Space"]);
    screen.wait_gone("could not be imported");
    screen.keys(&["i"]);
    screen.wait("type a folder");
    screen.type_line(&drive.path().display().to_string());
    screen.wait("Imported: 2 copied, 0 had grown, 0 were here already.");
    screen.keys(&["Space"]);
    screen.wait_all(&["stacker", "memory error"]);
    screen.keys(&["i"]);
    screen.wait("type a folder");
    screen.type_line(&drive.path().display().to_string());
    screen.wait("Imported: 0 copied, 0 had grown, 2 were here already.");
    screen.keys(&["Space", "q"]);
    screen.wait("left-0");
}
