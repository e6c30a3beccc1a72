//! The image that the tests boot, and what is read off a drive.

#![allow(dead_code, reason = "each file of tests uses some of it")]

use std::path::PathBuf;
use std::sync::OnceLock;
use std::sync::atomic::{AtomicBool, Ordering};
use std::time::{Duration, Instant};

use revisum_guest::{Booted, FromDrive, journals_on};
use revisum_record::journal::{Entry, read_journal};
use revisum_record::run_state::RunState;

pub const MIB: u64 = 1 << 20;
pub const GIB: u64 = 1 << 30;
/// Longest time until a guest that is left alone has done something.
const PATIENCE: Duration = Duration::from_secs(2400);

/// Made once for all tests of a file. `REVISUM_IMAGE` names one that is made already.
pub fn image() -> PathBuf {
    static IMAGE: OnceLock<PathBuf> = OnceLock::new();
    let make = || {
        if let Some(image) = std::env::var_os("REVISUM_IMAGE") {
            return PathBuf::from(image);
        }
        let image = PathBuf::from(env!("CARGO_TARGET_TMPDIR")).join("revisum-boot.img");
        revisum_image::make(&image, &|_| ()).unwrap_or_else(|error| panic!("{error:#}"));
        image
    };
    IMAGE.get_or_init(make).clone()
}

/// On, with the full screen there; nothing begins automatically.
pub fn at_the_board(computer: &FromDrive) -> Booted {
    let booted = computer.switch_on(&image()).unwrap();
    booted.wait(&["Enter run triage", "virtual machine", "starts automatically"]).unwrap();
    // A key that does nothing here.
    booted.keys(b"g").unwrap();
    booted
}

pub fn run_of(journal: &[u8]) -> RunState {
    let mut state = RunState::default();
    read_journal::<Entry>(&mut &*journal, |framed| state.apply(&framed)).unwrap();
    state
}

/// Begins a run while these bits, `(address, mask)`, are held at 1 from outside, until the random test is over: random words and their inverse hold
/// each bit at 0 once, so that every one has shown by then.
pub fn run_with_forced(booted: &Booted, bits: &[(u64, u64)]) {
    let (memory, over) = (booted.memory().unwrap(), AtomicBool::new(false));
    let forced: Vec<(u64, u64)> = bits.iter().map(|(at, mask)| (booted.offset_of(*at), *mask)).collect();
    let seen = std::thread::scope(|scope| {
        scope.spawn(|| {
            while !over.load(Ordering::Relaxed) {
                forced.iter().for_each(|(offset, mask)| memory.force(*offset, *mask, *mask));
            }
        });
        booted.keys(b"\r").unwrap();
        let seen = booted.wait_for("the end of the random test, with errors", |text| {
            text.lines().any(|line| line.contains("random") && line.contains('✗'))
        });
        over.store(true, Ordering::Relaxed);
        seen
    });
    seen.unwrap();
}

/// The runs on a drive that is in use, the oldest first: what cannot be read yet can be a moment later.
pub fn runs(booted: &Booted) -> Vec<RunState> {
    let mut runs: Vec<RunState> =
        booted.journals().unwrap_or_default().iter().map(|(_, journal)| run_of(journal)).collect();
    // One that is being written may have no beginning yet.
    runs.retain(|run| run.begin.wall_ms > 0 && run.begin.usable_bytes > 0);
    runs.sort_by_key(|run| run.begin.wall_ms);
    runs
}

/// Waits until the runs on the drive are as wanted; `what` says how.
pub fn wait_for_runs(booted: &Booted, what: &str, wanted: impl Fn(&[RunState]) -> bool) -> Vec<RunState> {
    wait_longer_for_runs(booted, PATIENCE, what, wanted)
}

/// The same with other patience.
pub fn wait_longer_for_runs(
    booted: &Booted,
    patience: Duration,
    what: &str,
    wanted: impl Fn(&[RunState]) -> bool,
) -> Vec<RunState> {
    let begin = Instant::now();
    loop {
        let runs = runs(booted);
        if wanted(&runs) {
            return runs;
        }
        assert!(begin.elapsed() < patience, "{what} never came; there are {} runs", runs.len());
        std::thread::sleep(Duration::from_secs(1));
    }
}

/// While a run is not recorded another drive is plugged in: it is recorded then, and after the run the computer is left by its menu. The run, as it is on
/// that drive.
pub fn kept_on_a_late_drive(booted: Booted) -> RunState {
    let drive = booted.plug_in(&image()).unwrap();
    let is_kept = |text: &str| text.contains("recorded") && !text.contains("NOT RECORDED");
    booted.wait_for("that it is recorded", is_kept).unwrap();
    booted.wait(&["took"]).unwrap();
    booted.keys(b"q").unwrap();
    let question = booted.wait(&["switch the machine off"]).unwrap();
    assert!(!question.contains("NOT RECORDED"), "{question}");
    booted.keys(b"\r").unwrap();
    // The drive lies in the folder of the computer.
    let _left = booted.wait_off().unwrap();
    let journals = journals_on(&drive).unwrap();
    let [(_, journal)] = &journals[..] else { panic!("{} journals", journals.len()) };
    run_of(journal)
}
