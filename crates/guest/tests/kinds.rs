//! Guests of every kind, left alone from power-on to a verdict; what is printed is the table in the guide to the boot drive. Hours, so by hand:
//! `cargo xtask guests --kinds`, with `REVISUM_KINDS=TEXT` only those whose name has it.

mod common;

use std::path::{Path, PathBuf};
use std::time::Duration;

use common::{image, kept_on_a_late_drive, run_of, wait_for_runs, wait_longer_for_runs};
use revisum_drive::{Begin, DriveSettings};
use revisum_engine::recipe::Depth;
use revisum_engine::units::MIB;
use revisum_guest::{Booted, Chipset, Display, FromDrive, Medium, Start};
use revisum_record::outcome::Judgement;
use revisum_record::run_state::RunState;
use revisum_words::result;
use rstest::rstest;

/// How much faster the clocks of the guest that is left alone for ten hours go.
const HASTE: u32 = 8;
/// Longer than the night takes with all that comes before it, by our clock.
const NIGHT: Duration = Duration::from_secs(16 * 3600 / HASTE as u64);
/// Alone, from the first run to the end of the last, by its own clock.
const HOURS: f64 = 10.0;

/// Its loader is told over the serial line to give the kernel no more points than this; the emulator's firmware always offers more.
const SMALL: &str = "640x480";

/// A kind, and its name in the table.
fn kinds() -> Vec<(String, FromDrive)> {
    let mut kinds = Vec::new();
    let mut add = |name: &str, computer: FromDrive| {
        let settings = DriveSettings { begin: Begin::AtOnce, ..computer.settings.clone() };
        kinds.push((name.to_owned(), FromDrive { settings, ..computer }));
    };
    let usual = FromDrive::default;
    for memory_mib in [256, 512, 1024, 2048, 6144] {
        add(&format!("bios-pc-{memory_mib}"), FromDrive { memory_mib, ..usual() });
        // With less, Debian's signed loader has no memory for the kernel; there is hardly a computer of that kind.
        if memory_mib >= 512 {
            let uefi = FromDrive { start: Start::Uefi, chipset: Chipset::Q35, memory_mib, ..usual() };
            add(&format!("uefi-q35-{memory_mib}"), uefi);
        }
    }
    add("disk-bios", FromDrive { medium: Medium::Disk, ..usual() });
    add("disk-uefi", FromDrive { medium: Medium::Disk, start: Start::Uefi, chipset: Chipset::Q35, ..usual() });
    add("one-core", FromDrive { cores: 1, ..usual() });
    add("four-cores", FromDrive { cores: 4, ..usual() });
    add("secure-boot", FromDrive { start: Start::SecureBoot, chipset: Chipset::Q35, memory_mib: 2048, ..usual() });
    add("uefi-32", FromDrive { start: Start::Uefi32, chipset: Chipset::Q35, ..usual() });
    add(SMALL, usual());
    add("serial-only", FromDrive { display: Display::None, ..usual() });
    add("text-screen", FromDrive { entry: Some("text"), ..usual() });
    kinds
}

/// Seconds after the kernel's start at which the screen was there and the drive was found, and the start itself, from the drive's own note.
fn start_of(booted: &Booted) -> (i64, f64, f64) {
    let text = booted.file("starts.txt").map(|bytes| String::from_utf8_lossy(&bytes).into_owned()).unwrap_or_default();
    let value = |name: &str| text.split_whitespace().find_map(|word| word.strip_prefix(name)).unwrap_or_default();
    let start: jiff::Timestamp = value("start=").parse().unwrap_or_default();
    (start.as_millisecond(), value("screen=").parse().unwrap_or(0.0), value("drive=").parse().unwrap_or(0.0))
}

/// Milliseconds of a run until its first sweep had begun.
fn first_sweep_ms(journal: &[u8]) -> Option<u64> {
    let text = String::from_utf8_lossy(journal);
    let line = text.lines().find(|line| line.contains("\"test-began\""))?;
    let (_, rest) = line.split_once("\"t_ms\":")?;
    rest.split(|letter: char| !letter.is_ascii_digit()).next()?.parse().ok()
}

/// A picture of its screen, where it has one.
fn picture(booted: &Booted, name: &str) -> PathBuf {
    let folder = std::env::var("REVISUM_SCREENS").map_or(PathBuf::from(env!("CARGO_TARGET_TMPDIR")), PathBuf::from);
    let file = Path::new(&folder).join(format!("{name}.png"));
    // A computer without a display has none.
    let _ = booted.picture(&file);
    file
}

#[test]
#[ignore = "boots many guests: cargo xtask guests --kinds runs it"]
fn every_kind_comes_to_a_verdict() {
    let wanted = std::env::var("REVISUM_KINDS").unwrap_or_default();
    let mut bad = Vec::new();
    println!("| guest | screen | drive | first sweep | memory reached | verdict |\n|---|---|---|---|---|---|");
    for (name, computer) in kinds().into_iter().filter(|(name, _)| name.contains(&wanted)) {
        let display = computer.display;
        let booted = computer.switch_on(&image()).unwrap();
        if name == SMALL {
            // Its own command line, and back to the menu.
            booted.wait_for("the menu", |text| text.contains("highlighted")).unwrap();
            booted.keys(b"c").unwrap();
            booted.wait(&["grub>"]).unwrap();
            booted.keys(format!("set gfxpayload={SMALL}x32\r\x1b").as_bytes()).unwrap();
            booted.wait_for("the menu", |text| text.contains("highlighted")).unwrap();
            booted.keys(b"\r").unwrap();
        }
        if display == Display::None {
            booted.wait(&["lean so far"]).unwrap();
        }
        let over = |runs: &[RunState]| runs.first().is_some_and(|run| run.end.is_some());
        let runs = wait_for_runs(&booted, &format!("the first run of {name}"), over);
        let (start, screen, drive) = start_of(&booted);
        let journals = booted.journals().unwrap();
        let sweep = journals.iter().find_map(|(_, journal)| {
            let run = run_of(journal);
            (run.begin.wall_ms == runs[0].begin.wall_ms).then(|| first_sweep_ms(journal)).flatten()
        });
        let sweep = (runs[0].begin.wall_ms - start) as f64 / 1000.0 + sweep.unwrap_or(0) as f64 / 1000.0;
        let run = &runs[0];
        let judgement = Judgement::of(run, false);
        let share = run.held.bytes as f64 / run.begin.usable_bytes as f64 * 100.0;
        println!(
            "| {name} | {screen:.1} s | {drive:.1} s | {sweep:.1} s | {share:.1} % of {} MiB | {} |",
            run.begin.usable_bytes / MIB,
            result::headline(&judgement)
        );
        picture(&booted, &name);
        if run.errors.words > 0 || !judgement.complete {
            bad.push(name);
        }
    }
    assert!(bad.is_empty(), "not clean: {bad:?}");
}

/// A disc holds no results: the run is made all the same, and the screen says that nothing is recorded; what was found meanwhile is on the drive that is
/// plugged in then.
#[rstest]
#[case::old_firmware(Start::Bios, Chipset::Pc)]
#[case::uefi(Start::Uefi, Chipset::Q35)]
#[ignore = "boots a guest: cargo xtask guests --kinds runs it"]
fn a_disc_records_on_a_drive_that_is_plugged_in_later(#[case] start: Start, #[case] chipset: Chipset) {
    let computer = FromDrive { medium: Medium::Disc, display: Display::None, start, chipset, ..FromDrive::default() };
    let booted = computer.switch_on(&image()).unwrap();
    booted.wait(&["NOT RECORDED", "lean so far"]).unwrap();
    // Somebody comes: from then on nothing begins by itself.
    booted.keys(b"\x1b").unwrap();
    let judgement = Judgement::of(&kept_on_a_late_drive(booted), false);
    assert!(judgement.complete, "{}", result::headline(&judgement));
}

/// A night without anybody: first look and survey, both again on the rest by a second start, then the night; each recorded and come to its end, all
/// in one job with one report, and nothing asked that nobody answers. A computer as slow as this one does not finish a survey in its hour. Its clocks go faster than ours, so that its ten hours end while somebody waits.
#[test]
#[ignore = "boots a guest for more than an hour: cargo xtask guests --kinds --only ten_hours runs it"]
fn ten_hours_alone_end_in_one_report() {
    let settings = DriveSettings { begin: Begin::AtOnce, ..DriveSettings::default() };
    let computer = FromDrive { settings, memory_mib: 512, cores: 1, haste: HASTE, ..FromDrive::default() };
    let booted = computer.switch_on(&image()).unwrap();
    let is_over = |runs: &[RunState]| {
        let last = runs.last().filter(|run| run.end.is_some());
        last.is_some_and(|run| run.begin.recipe.as_ref().is_some_and(|recipe| recipe.depth == Depth::Overnight))
    };
    let runs = wait_longer_for_runs(&booted, NIGHT, "the end of the night", is_over);
    let depth = |run: &RunState| run.begin.recipe.as_ref().map(|recipe| recipe.depth);
    let end_ms = |run: &RunState| run.begin.wall_ms + run.t_ms as i64;
    for run in &runs {
        let judgement = Judgement::of(run, false);
        println!("{:?}, {:.0} s: {}", depth(run), run.running_seconds(), result::headline(&judgement));
        assert!(run.end.is_some() && run.errors.words == 0);
    }
    let hours = (end_ms(runs.last().unwrap()) - runs[0].begin.wall_ms) as f64 / 3.6e6;
    println!("{hours:.1} hours by its clock");
    assert!(hours >= HOURS, "the night was over after {hours:.1} hours");
    let depths: Vec<_> = runs.iter().filter_map(depth).collect();
    assert_eq!(depths, [Depth::Triage, Depth::Survey, Depth::Triage, Depth::Survey, Depth::Overnight]);
    picture(&booted, "ten-hours");
    let left = booted.cut_power().unwrap();
    let jobs = left.files("revisum/jobs").unwrap();
    let jobs: Vec<&str> = jobs.keys().filter_map(|name| name.strip_suffix(".job")).collect();
    let [job] = jobs[..] else { panic!("{jobs:?}") };
    let reports = left.files(&format!("revisum/reports/{job}")).unwrap();
    println!("{:?}", reports.keys());
    assert_eq!(reports.keys().filter(|name| name.ends_with(".pdf")).count(), 1);
}
