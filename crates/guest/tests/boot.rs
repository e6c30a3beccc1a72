//! The boot drive on virtual computers: it boots with every firmware, bad memory that is spoiled from outside is reported exactly, and its
//! records survive.

mod common;

use std::collections::BTreeMap;
use std::path::PathBuf;
use std::sync::atomic::{AtomicBool, Ordering};
use std::time::{Duration, Instant};

use common::{MIB, at_the_board, image, kept_on_a_late_drive, run_of, run_with_forced, wait_for_runs};
use revisum_drive::{Begin, DriveSettings};
use revisum_engine::units::RangeSet;
use revisum_guest::{Booted, Chipset, FromDrive, Shared, Spoiled, Start};
use revisum_record::journal::{Entry, read_journal};
use revisum_record::outcome::{Judgement, Outcome};
use revisum_record::run_state::RunState;
use revisum_words::result;
use rstest::rstest;

fn computer(start: Start, chipset: Chipset, memory_mib: u64, entry: Option<&'static str>) -> FromDrive {
    FromDrive { start, chipset, memory_mib, entry, ..FromDrive::default() }
}

/// Boots over serial with each firmware, makes a first look at all memory, and leaves by the menu; the results are on the drive.
#[rstest]
// The one of every test is small: an emulated processor takes a minute for a GiB.
#[case::bios(Start::Bios, Chipset::Pc, 640, "serial", 0.70)]
#[case::uefi(Start::Uefi, Chipset::Q35, 1024, "serial", 0.70)]
#[case::secure_boot(Start::SecureBoot, Chipset::Q35, 1024, "serial-pool", 0.60)]
#[ignore = "boots a guest: cargo xtask guests runs it"]
fn it_boots_tests_and_keeps_its_results(
    #[case] start: Start,
    #[case] chipset: Chipset,
    #[case] memory_mib: u64,
    #[case] entry: &'static str,
    #[case] least: f64,
) {
    let booted = at_the_board(&computer(start, chipset, memory_mib, Some(entry)));
    booted.keys(b"\r").unwrap();
    booted.wait(&["took"]).unwrap();
    booted.keys(b"q").unwrap();
    let offered = booted.wait(&["switch the machine off"]).unwrap();
    // Where memory is left to be tested that comes first.
    booted.keys(if offered.contains("test the other") { b"\x1b[B\r" } else { b"\r" }).unwrap();
    let left = booted.wait_off().unwrap();
    let journals = left.journals().unwrap();
    let [(_, journal)] = &journals[..] else { panic!("{} journals", journals.len()) };
    let run = run_of(journal);
    assert_eq!(
        Judgement::of(&run, false).outcome,
        Outcome::Clean,
        "{:?}",
        result::sentence(&Judgement::of(&run, false))
    );
    let share = run.held.bytes as f64 / run.begin.usable_bytes as f64;
    println!("{start:?}: {:.1} % of usable memory in one start of {memory_mib} MiB", share * 100.0);
    assert!(share >= least, "{share}");
    assert!(run.held.addresses_known && run.held.ranges.bytes() == run.held.bytes);
    // Of a controller that is not known nothing but its identifier is read.
    let host = if matches!(chipset, Chipset::Pc) { "12378086" } else { "29c08086" };
    let read: Vec<&str> = run.begin.registers.lines().filter(|line| !line.starts_with("sum ")).collect();
    assert_eq!(read, [format!("config 00.0 000 {host}")]);
}

/// Keys every half second from the end of the boot loader's menu: from the first one that is seen on, all are shown in the order in which they were
/// pressed. What is printed is how long each took, and how many came while the first screen gave way.
#[rstest]
#[case::serial_line("serial")]
// Its own keyboard, and a text screen, which is read out of its graphics card.
#[case::keyboard("text")]
#[ignore = "boots a guest: cargo xtask guests runs it"]
fn keys_are_taken_at_any_moment_of_the_start(#[case] entry: &'static str) {
    // Keys that only look elsewhere.
    const ROUND: std::ops::RangeInclusive<char> = '1'..='9';
    let booted = computer(Start::Bios, Chipset::Pc, 1024, Some(entry)).switch_on(&image()).unwrap();
    let is_displayed = entry == "text";
    let shown = || if is_displayed { booted.displayed().unwrap() } else { booted.text() };
    let press = |key: char| {
        let key = key.to_string();
        if is_displayed { booted.press(&key).unwrap() } else { booted.keys(key.as_bytes()).unwrap() }
    };
    let taken = |text: &str| -> Option<String> {
        let (_, keys) = text.split_once("as soon as the drive is found: ")?;
        Some(keys.split_whitespace().take_while(|key| key.len() == 1).collect())
    };
    // A key stops the boot loader's menu, as it should; these are for what comes after it.
    booted.wait_for("the menu", |text| text.contains("highlighted")).unwrap();
    booted.wait_for("the end of the menu", |text| !text.contains("highlighted")).unwrap();
    let (mut sent, mut pressed, mut seen, mut longest) = (String::new(), Vec::new(), String::new(), Duration::ZERO);
    let (begin, mut first) = (Instant::now(), None);
    for key in ROUND.cycle() {
        if shown().contains("0 Jobs") {
            break;
        }
        assert!(begin.elapsed() < Duration::from_secs(300), "the screen never came:\n{}", shown());
        press(key);
        sent.push(key);
        let now = Instant::now();
        pressed.push(now);
        while now.elapsed() < Duration::from_millis(500) {
            if let Some(shown) = taken(&shown())
                && shown.len() > seen.len()
            {
                let at = sent.rfind(&shown).unwrap_or_else(|| panic!("{shown} is not what was pressed: {sent}"));
                let key = pressed[at + shown.len() - 1];
                // What came before the screen was there could not be answered.
                if *first.get_or_insert_with(Instant::now) < key {
                    longest = longest.max(key.elapsed());
                }
                seen = shown;
            }
            std::thread::sleep(Duration::from_millis(10));
        }
    }
    let at = sent.rfind(&seen).unwrap();
    println!(
        "{entry}: {} keys, {} of them shown on the first screen, each within {} ms; then {} until the board was there",
        sent.len(),
        seen.len(),
        longest.as_millis(),
        sent.len() - at - seen.len()
    );
    assert!(seen.len() > 3, "{sent} {seen}");
    press('3');
    let begin = Instant::now();
    while !shown().contains("one pass") {
        assert!(begin.elapsed() < Duration::from_secs(60), "the page of tests never came:\n{}", shown());
        std::thread::sleep(Duration::from_millis(10));
    }
}

/// Left alone, on the framebuffer: it begins by itself. `REVISUM_SCREENS=DIR` keeps a picture of each screen.
#[rstest]
#[case::bios(Start::Bios, Chipset::Pc, 1024, "bios-pc-1")]
#[case::uefi(Start::Uefi, Chipset::Q35, 2048, "uefi-q35-2")]
#[case::uefi_large(Start::Uefi, Chipset::Q35, 6144, "uefi-q35-6")]
#[case::secure_boot(Start::SecureBoot, Chipset::Q35, 2048, "secure-q35-2")]
#[ignore = "boots a guest: cargo xtask guests runs it"]
fn left_alone_it_begins_by_itself(
    #[case] start: Start,
    #[case] chipset: Chipset,
    #[case] memory_mib: u64,
    #[case] name: &str,
) {
    let booted = computer(start, chipset, memory_mib, None).switch_on(&image()).unwrap();
    let begin = Instant::now();
    // The drive is read while it is written to: what cannot be read yet can be a moment later.
    let held = || {
        let journals = booted.journals().unwrap_or_default();
        journals.first().map_or(0, |(_, journal)| run_of(journal).held.bytes)
    };
    while held() == 0 {
        assert!(begin.elapsed() < Duration::from_secs(300), "no run began by itself");
        std::thread::sleep(Duration::from_secs(1));
    }
    let folder = std::env::var("REVISUM_SCREENS").map_or(PathBuf::from(env!("CARGO_TARGET_TMPDIR")), PathBuf::from);
    let file = folder.join(format!("{name}.png"));
    booted.picture(&file).unwrap();
    println!("{} MiB with {start:?}: {} MiB are being tested, {}", memory_mib, held() / MIB, file.display());
    assert!(held() > memory_mib * MIB / 2);
}

/// Every test of the catalogue on memory that is right, and one past the caches in windows that are mapped so.
#[rstest]
#[case::every_test(
    "tests = [\"random\", \"address-lines\", \"address-as-data\", \"mats-plus\", \"march-c-\", \"lane-groups\", \"stripes\", \
     \"crosstalk\", \"row-hopping\", \"copies\", \"march-lr\", \"march-ss\", \"walking\", \"computing\", \"load-steps\", \"idle\", \
     \"row-disturbance\"]\npasses = 1\nidle = \"5s\"\nmemory = \"512 MiB\"\n"
)]
#[case::past_the_caches("tests = [\"random\"]\npasses = 1\nmemory = \"64 MiB\"\ncaches = \"flush\"\n")]
#[ignore = "boots a guest: cargo xtask guests runs it"]
fn memory_that_is_right_stays_clean(#[case] recipe: &'static str) {
    let run = run_by(recipe, Start::Bios, Chipset::Pc);
    assert_eq!(
        Judgement::of(&run, false).outcome,
        Outcome::Clean,
        "{:?}",
        result::sentence(&Judgement::of(&run, false))
    );
    println!(
        "{}: {:?}",
        result::sentence(&Judgement::of(&run, false)),
        run.begin.recipe.as_ref().map(|recipe| (&recipe.tests, recipe.caches))
    );
}

/// While cores compute all memory but the reserve is held: what they compute in has to fit there, however many they are.
#[test]
#[ignore = "boots a guest: cargo xtask guests runs it"]
fn computing_leaves_the_system_its_memory() {
    let recipe = Some("tests = [\"computing\"]\npasses = 1\n");
    let run = run_of_recipe(&FromDrive { recipe, cores: 4, ..computer(Start::Bios, Chipset::Pc, 512, Some("serial")) });
    let judgement = Judgement::of(&run, false);
    assert!(judgement.complete && judgement.outcome == Outcome::Clean, "{:?}", result::sentence(&judgement));
}

/// The virtual machine goes to sleep with the run in its memory, and its clock wakes it, whatever firmware leads it back. The emulator's older chipset
/// does not come back; with old firmware the newer one does, but then has no registers to go to sleep by: the second sleep fails, and the run is not
/// called clean.
#[rstest]
#[case::bios(Start::Bios, 1, Outcome::CutShort)]
#[case::uefi(Start::Uefi, 2, Outcome::Clean)]
#[ignore = "boots a guest: cargo xtask guests runs it"]
fn it_sleeps_and_wakes_and_its_memory_kept_everything(
    #[case] start: Start,
    #[case] times: u64,
    #[case] outcome: Outcome,
) {
    let recipe = "tests = [\"sleep\"]\npasses = 1\nidle = \"20s\"\nmemory = \"128 MiB\"\n";
    let run = run_by(recipe, start, Chipset::Q35);
    let judgement = Judgement::of(&run, false);
    assert_eq!((judgement.outcome, run.errors.words), (outcome, 0), "{:?}", result::sentence(&judgement));
    println!("{start:?}: slept for {} ms in all", run.slept_ms);
    // Going to sleep takes a few seconds of the time until the alarm.
    assert!((10_000 * times..30_000 * times).contains(&run.slept_ms));
}

/// What a run by this recipe came to, the power cut after its end.
fn run_by(recipe: &'static str, start: Start, chipset: Chipset) -> RunState {
    run_of_recipe(&FromDrive { recipe: Some(recipe), ..computer(start, chipset, 768, Some("serial")) })
}

/// The same on any computer.
fn run_of_recipe(computer: &FromDrive) -> RunState {
    let booted = at_the_board(computer);
    booted.keys(b"3").unwrap();
    booted.wait(&["passes"]).unwrap();
    booted.keys(b"o").unwrap();
    booted.wait(&["Which recipe?"]).unwrap();
    booted.keys(b"\r").unwrap();
    booted.wait(&["changed"]).unwrap();
    booted.keys(b"\r").unwrap();
    booted.wait(&["took"]).unwrap();
    run_of(&booted.cut_power().unwrap().journals().unwrap()[0].1)
}

/// Forces a bit while the guest runs, until told to stop.
fn force(memory: &Shared, offset: u64, mask: u64, value: u64, over: &AtomicBool) {
    while !over.load(Ordering::Relaxed) {
        memory.force(offset, mask, value);
    }
}

#[test]
#[ignore = "boots a guest: cargo xtask guests runs it"]
fn a_bit_that_is_stuck_is_reported_with_its_address() {
    let booted = at_the_board(&computer(Start::Bios, Chipset::Pc, 1024, Some("serial")));
    let (memory, over) = (booted.memory().unwrap(), AtomicBool::new(false));
    let (address, mask) = (700 * MIB + 0x1238, 1 << 19);
    std::thread::scope(|scope| {
        scope.spawn(|| force(&memory, booted.offset_of(address), mask, mask, &over));
        booted.keys(b"\r").unwrap();
        let seen = booted.wait(&["memory error"]);
        over.store(true, Ordering::Relaxed);
        seen.unwrap();
    });
    // Its power is cut: what was on the screen is on the drive.
    let left = booted.cut_power().unwrap();
    let run = run_of(&left.journals().unwrap()[0].1);
    assert!(run.errors.words > 0);
    let sample = &run.errors.samples[0];
    assert_eq!((sample.address.unwrap().0, sample.expected.0 ^ sample.actual.0), (address, mask));
    assert!(run.errors.samples.iter().all(|one| one.address == sample.address), "{:?}", run.errors.samples);
}

fn holds(ranges: &RangeSet, at: u64) -> bool {
    ranges.ranges().iter().any(|range| range.contains(at))
}

/// Memory that a run holds in this start of a guest of 4 GiB, and what its firmware gives; the run itself is not waited for.
fn held_in_4_gib(start: Start, chipset: Chipset, entry: &'static str) -> (RangeSet, u64) {
    let booted = at_the_board(&computer(start, chipset, 4096, Some(entry)));
    booted.keys(b"\r").unwrap();
    booted.wait(&["clean so far"]).unwrap();
    let memory = booted.memory().unwrap();
    let left = |booted: Booted| booted.cut_power().unwrap().journals().unwrap();
    let watched = words_that_change(&booted, &memory);
    let journals = left(booted);
    let run = run_of(&journals[0].1);
    let ranges = run.held.ranges.clone();
    // Words of chance within what the journal says is held: each was written by the test.
    let unwritten: Vec<u64> =
        watched.iter().filter(|(_, changed)| !changed).map(|(at, _)| *at).filter(|at| holds(&ranges, *at)).collect();
    assert!(watched.iter().filter(|(at, _)| holds(&ranges, *at)).count() > 1000);
    assert!(unwritten.is_empty(), "{} words were never written, the first at {:#x}", unwritten.len(), unwritten[0]);
    (ranges, run.begin.usable_bytes)
}

/// Addresses of chance over all memory, and whether each was seen to change while the guest ran.
fn words_that_change(booted: &Booted, memory: &Shared) -> Vec<(u64, bool)> {
    let addresses: Vec<u64> =
        (1..=2000u64).map(|number| (number.wrapping_mul(0x9e37_79b9_7f4a_7c15) % (5 << 30)) & !7).collect();
    let there: Vec<u64> = addresses.into_iter().filter(|at| booted.has_memory_at(*at)).collect();
    let value = |at: u64| memory.word(booted.offset_of(at)).load(Ordering::Relaxed);
    let before: Vec<u64> = there.iter().map(|at| value(*at)).collect();
    let mut changed = vec![false; there.len()];
    // Two passes over everything: each word was written with something else than before.
    let mut look = || {
        for ((at, before), changed) in there.iter().zip(&before).zip(&mut changed) {
            *changed |= value(*at) != *before;
        }
        changed.iter().filter(|changed| **changed).count()
    };
    let (mut count, mut quiet) = (look(), 0);
    for _ in 0..900 {
        std::thread::sleep(Duration::from_secs(1));
        let now = look();
        quiet = if now == count && now * 2 >= there.len() { quiet + 1 } else { 0 };
        count = now;
        if quiet == 60 {
            break;
        }
    }
    there.into_iter().zip(changed).collect()
}

#[test]
#[ignore = "boots a guest: cargo xtask guests runs it"]
fn two_starts_reach_nearly_all_of_4_gib() {
    let (low, usable) = held_in_4_gib(Start::Bios, Chipset::Pc, "serial");
    let (high, _) = held_in_4_gib(Start::Bios, Chipset::Pc, "serial-b");
    let both: RangeSet = low.ranges().iter().chain(high.ranges()).copied().collect();
    let share = |bytes: u64| bytes as f64 / usable as f64 * 100.0;
    println!(
        "of 4 GiB: entry a {:.2} %, entry b {:.2} %, both {:.3} %",
        share(low.bytes()),
        share(high.bytes()),
        share(both.bytes())
    );
    assert!(share(low.bytes()) >= 96.0 && share(both.bytes()) >= 99.9);
}

#[test]
#[ignore = "boots a guest: cargo xtask guests runs it"]
fn secure_boot_reaches_most_of_4_gib() {
    let (held, usable) = held_in_4_gib(Start::SecureBoot, Chipset::Q35, "serial-pool");
    let share = held.bytes() as f64 / usable as f64 * 100.0;
    println!("of 4 GiB under Secure Boot: {share:.2} %");
    assert!(share >= 93.0);
}

/// Cut power at moments of chance, over and over with the same drive: every journal can be read, nothing that was written is damaged, and the
/// next start asks what happened.
#[test]
#[ignore = "boots a guest: cargo xtask guests runs it"]
fn power_cuts_lose_nothing() {
    let cuts: u64 = std::env::var("REVISUM_CUTS").map_or(3, |cuts| cuts.parse().unwrap());
    let computer = computer(Start::Bios, Chipset::Pc, 768, Some("serial"));
    let mut booted = at_the_board(&computer);
    for cut in 1..=cuts {
        booted.keys(b"\r").unwrap();
        booted.wait(&["clean so far"]).unwrap();
        // More passes than the longest wait takes.
        booted.keys(b"aaaaaaaaa").unwrap();
        booted.wait(&["of 10"]).unwrap();
        let chance = cut.wrapping_mul(0x9e37_79b9_7f4a_7c15) >> 40;
        std::thread::sleep(Duration::from_millis(chance % 25_000));
        let left = booted.cut_power().unwrap();
        let journals = left.journals().unwrap();
        assert_eq!(journals.len() as u64, cut);
        for (name, journal) in &journals {
            let mut run = RunState::default();
            let damage = read_journal::<Entry>(&mut journal.as_slice(), |framed| run.apply(&framed)).unwrap().damage;
            assert_eq!((damage.damaged, damage.missing), (0, 0), "{name}: {damage:?}");
            assert_eq!(Judgement::of(&run, false).outcome, Outcome::Interrupted, "{name}");
            assert!(run.held.bytes > 0, "{name}");
        }
        booted = left.switch_on(&computer).unwrap();
        booted.wait(&["What happened?", "the power went"]).unwrap();
        // Nothing is chosen before somebody chooses.
        booted.keys(b"\r").unwrap();
        booted.wait(&["What happened?"]).unwrap();
        booted.keys(b"\x1b[B\x1b[B\x1b[B\r").unwrap();
        booted.wait(&["Enter run triage"]).unwrap();
    }
    println!("{cuts} power cuts, {cuts} journals whole");
}

/// A drive that takes no results: that stands on every screen and in the farewell, the run is made all the same, and the tester neither ends by itself
/// nor accuses the machine.
#[rstest]
#[case::bios_full(Spoiled::Full)]
#[case::write_protected(Spoiled::WriteProtected)]
#[ignore = "boots a guest: cargo xtask guests runs it"]
fn a_drive_that_takes_nothing_is_said_on_every_screen(#[case] spoiled: Spoiled) {
    let plain = computer(Start::Bios, Chipset::Pc, 512, Some("serial"));
    let booted = at_the_board(&FromDrive { spoiled: Some(spoiled), ..plain });
    booted.wait(&["NOT RECORDED"]).unwrap();
    booted.keys(b"\r").unwrap();
    booted.wait(&["took", "NOT RECORDED"]).unwrap();
    left_without_a_record(booted);
}

/// What was found is in the report, and leaving says that it is lost.
fn left_without_a_record(booted: Booted) {
    booted.keys(b"9").unwrap();
    let report = booted.wait(&["NOT RECORDED", "Report"]).unwrap();
    assert!(!report.contains("Nothing was tested yet"), "{report}");
    booted.keys(b"q").unwrap();
    let question = booted.wait(&["switch the machine off", "NOT RECORDED"]).unwrap();
    assert!(!question.contains("Everything is written") && question.contains("What was found is lost"), "{question}");
    booted.keys(b"\r").unwrap();
    booted.wait(&["NOT RECORDED", "Still to do"]).unwrap();
    booted.wait_off().unwrap();
}

/// Started from a drive that takes nothing: what was found meanwhile is on the drive that is plugged in then, and so is what comes after.
#[test]
#[ignore = "boots a guest: cargo xtask guests runs it"]
fn a_drive_that_is_plugged_in_later_takes_what_was_found() {
    let plain = computer(Start::Bios, Chipset::Pc, 768, Some("serial"));
    let booted = at_the_board(&FromDrive { spoiled: Some(Spoiled::WriteProtected), ..plain });
    booted.keys(b"\r").unwrap();
    booted.wait(&["NOT RECORDED", "clean so far"]).unwrap();
    let judgement = Judgement::of(&kept_on_a_late_drive(booted), false);
    assert!(judgement.complete && judgement.outcome == Outcome::Clean, "{}", result::headline(&judgement));
}

#[test]
#[ignore = "boots a guest: cargo xtask guests runs it"]
fn a_damaged_file_system_for_results_is_said() {
    let plain = computer(Start::Bios, Chipset::Pc, 768, Some("serial"));
    let booted = at_the_board(&FromDrive { spoiled: Some(Spoiled::TwoTables), ..plain });
    booted.wait(&["recorded on REVISUM", "make the drive anew", "its two tables of files differ"]).unwrap();
}

#[test]
#[ignore = "boots a guest: cargo xtask guests runs it"]
fn a_drive_that_is_pulled_is_said_and_the_run_goes_on() {
    let booted = at_the_board(&computer(Start::Bios, Chipset::Pc, 768, Some("serial")));
    booted.wait(&["recorded on REVISUM"]).unwrap();
    booted.keys(b"\r").unwrap();
    booted.wait(&["clean so far"]).unwrap();
    booted.pull_drive().unwrap();
    booted.wait(&["NOT RECORDED"]).unwrap();
    booted.wait(&["took"]).unwrap();
    left_without_a_record(booted);
}

/// What is written on the keys of the country's keyboard is what is noted: two letters that stand elsewhere, and two that only it has.
#[test]
#[ignore = "boots a guest: cargo xtask guests runs it"]
fn typing_follows_the_keyboard_of_the_country() {
    let settings = DriveSettings { begin: Begin::Key, keyboard: Some("de".into()), ..DriveSettings::default() };
    let computer = FromDrive { settings, ..computer(Start::Bios, Chipset::Pc, 768, None) };
    let booted = computer.switch_on(&image()).unwrap();
    // Its screen is on the display, so it is followed by what is on the drive.
    let until = |what: &str, seen: &dyn Fn(&str) -> bool| {
        let begin = Instant::now();
        loop {
            let jobs = booted.jobs().unwrap_or_default();
            if seen(&jobs) {
                return;
            }
            assert!(begin.elapsed() < Duration::from_secs(300), "{what}: {jobs}");
            std::thread::sleep(Duration::from_secs(1));
        }
    };
    until("the job of this machine", &|jobs| jobs.contains("opened"));
    // Swap, a note, and keys by what a keyboard of the United States has on them.
    ["6", "n", "y", "z", "semicolon", "minus", "ret"].iter().for_each(|key| booted.press(key).unwrap());
    until("the note", &|jobs| jobs.contains("zyöß"));
}

/// Pulled during a run and put back: what came meanwhile is written then, and the record is whole.
#[test]
#[ignore = "boots a guest: cargo xtask guests runs it"]
fn a_drive_that_comes_back_takes_what_came_meanwhile() {
    let booted = at_the_board(&computer(Start::Bios, Chipset::Pc, 768, Some("serial")));
    booted.keys(b"\r").unwrap();
    booted.wait(&["recorded on REVISUM", "clean so far"]).unwrap();
    booted.pull_drive().unwrap();
    booted.wait(&["NOT RECORDED"]).unwrap();
    booted.put_back_drive().unwrap();
    let is_kept = |text: &str| text.contains("recorded on REVISUM") && !text.contains("NOT RECORDED");
    booted.wait_for("that it is recorded again", is_kept).unwrap();
    booted.wait(&["took"]).unwrap();
    booted.keys(b"q").unwrap();
    let offered = booted.wait(&["switch the machine off"]).unwrap();
    assert!(!offered.contains("NOT RECORDED"), "{offered}");
    booted.keys(if offered.contains("test the other") { b"\x1b[B\r" } else { b"\r" }).unwrap();
    let left = booted.wait_off().unwrap();
    let journals = left.journals().unwrap();
    let [(_, journal)] = &journals[..] else { panic!("{} journals", journals.len()) };
    let judgement = Judgement::of(&run_of(journal), false);
    assert!(judgement.complete && judgement.outcome == Outcome::Clean, "{}", result::headline(&judgement));
}

/// Bits at twenty places, one in each run: below and above 4 GiB, single and as many as a row holds.
#[test]
#[ignore = "boots a guest: cargo xtask guests runs it"]
fn twenty_forced_places_are_reported_exactly() {
    let booted = at_the_board(&computer(Start::Bios, Chipset::Pc, 5120, Some("serial")));
    const GIB: u64 = 1 << 30;
    let place = |number: u64| {
        let chance = number.wrapping_mul(0x9e37_79b9_7f4a_7c15) >> 8;
        let (base, span) = if number.is_multiple_of(2) { (GIB, GIB) } else { (4 * GIB, GIB) };
        ((base + chance % span) & !7, 1u64 << (chance % 64))
    };
    let places: Vec<(u64, u64)> = (1..=20).map(place).collect();
    // The last one is a row's worth: 8 KiB with the same lane.
    let row = (0..1024).map(|word| ((2 * GIB + 0x40_0000) + word * 8, 1u64 << 7));
    let all: Vec<(u64, u64)> = places.iter().copied().chain(row).collect();
    run_with_forced(&booted, &all);
    let run = run_of(&booted.cut_power().unwrap().journals().unwrap()[0].1);
    let found: BTreeMap<u64, u64> =
        run.errors.samples.iter().filter_map(|one| Some((one.address?.0, one.expected.0 ^ one.actual.0))).collect();
    let known: BTreeMap<u64, u64> = all.iter().copied().collect();
    assert!(found.iter().all(|(at, bits)| known.get(at) == Some(bits)), "nothing else: {found:x?}");
    let seen = places.iter().filter(|(at, bits)| found.get(at) == Some(bits)).count();
    println!("{seen} of 20 places with exact address and bits, {} words in all", run.errors.words);
    assert_eq!(seen, 20);
}

/// The second start needs no firmware: the kernel hands the machine to itself, the memory that it lay in is tested, and the next start is the usual
/// one again.
#[rstest]
#[case::old_firmware(Start::Bios, Chipset::Pc, 1024)]
#[case::uefi(Start::Uefi, Chipset::Q35, 1024)]
#[ignore = "boots a guest: cargo xtask guests runs it"]
fn the_second_start_tests_the_rest(#[case] start: Start, #[case] chipset: Chipset, #[case] memory_mib: u64) {
    let booted = at_the_board(&computer(start, chipset, memory_mib, Some("serial")));
    booted.keys(b"\r").unwrap();
    booted.wait(&["took"]).unwrap();
    booted.keys(b"q").unwrap();
    let offered = booted.wait(&["switch the machine off", "test the"]).unwrap();
    // What is not tested yet comes first.
    assert!(offered.find("test the").unwrap() < offered.find("switch the machine off").unwrap(), "{offered}");
    booted.keys(b"\r").unwrap();
    let runs =
        wait_for_runs(&booted, "the run of the second start", |runs| runs.get(1).is_some_and(|run| run.held.bytes > 0));
    let (first, second) = (&runs[0].held.ranges, &runs[1].held.ranges);
    let both: RangeSet = first.ranges().iter().chain(second.ranges()).copied().collect();
    let share = |ranges: &RangeSet| ranges.bytes() as f64 / runs[0].begin.usable_bytes as f64 * 100.0;
    println!(
        "{start:?} {memory_mib} MiB: {:.1} % in one start, {:.1} % in the second, {:.2} % in both",
        share(first),
        share(second),
        share(&both)
    );
    assert!((99.9..=100.0).contains(&share(&both)), "{:.2} %", share(&both));
    let next = booted.file("next.env").unwrap();
    assert!(!String::from_utf8_lossy(&next).contains("next_entry"), "the next start is the usual one");
}
