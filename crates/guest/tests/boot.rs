//! The boot drive on virtual computers: it boots with every firmware, bad memory that is spoiled from outside is reported exactly, and its
//! records survive.

use std::path::PathBuf;
use std::sync::OnceLock;
use std::sync::atomic::{AtomicBool, Ordering};

use revisum_core::journal::{Entry, read_journal};
use revisum_core::run_state::{Outcome, RunState};
use revisum_guest::{Booted, Chipset, FromDrive, Shared, Start};
use rstest::rstest;

const MIB: u64 = 1 << 20;

/// Made once for all tests.
fn image() -> PathBuf {
    static IMAGE: OnceLock<PathBuf> = OnceLock::new();
    let image = IMAGE.get_or_init(|| {
        let image = PathBuf::from(env!("CARGO_TARGET_TMPDIR")).join("revisum-boot.img");
        revisum_image::make(&image).unwrap_or_else(|error| panic!("{error:#}"));
        image
    });
    image.clone()
}

fn computer(start: Start, chipset: Chipset, memory_mib: u64, entry: Option<&'static str>) -> FromDrive {
    FromDrive { start, chipset, memory_mib, entry, structures: Vec::new() }
}

/// On, with the full screen there; nothing begins by itself.
fn at_the_board(computer: &FromDrive) -> Booted {
    let booted = computer.switch_on(&image()).unwrap();
    let first = booted.wait(&["Enter run triage", "virtual machine"]).unwrap();
    assert!(first.contains("begins by itself") || !first.contains("0 s"), "{first}");
    // A key that does nothing here.
    booted.keys(b"g").unwrap();
    booted
}

fn run_of(journal: &[u8]) -> RunState {
    let mut state = RunState::default();
    read_journal::<Entry>(&mut &*journal, |framed| state.apply(&framed)).unwrap();
    state
}

/// Boots over serial with each firmware, makes a first look at all memory, and leaves by the menu; the results are on the drive.
#[rstest]
#[case::bios(Start::Bios, Chipset::Pc, "serial", 0.70)]
#[case::uefi(Start::Uefi, Chipset::Q35, "serial", 0.70)]
#[case::secure_boot(Start::SecureBoot, Chipset::Q35, "serial-pool", 0.60)]
#[ignore = "boots a guest: cargo xtask guests runs it"]
fn it_boots_tests_and_keeps_its_results(
    #[case] start: Start,
    #[case] chipset: Chipset,
    #[case] entry: &'static str,
    #[case] least: f64,
) {
    let booted = at_the_board(&computer(start, chipset, 1024, Some(entry)));
    booted.keys(b"\r").unwrap();
    booted.wait(&["With 95 % confidence"]).unwrap();
    booted.keys(b"q").unwrap();
    booted.wait(&["switch the machine off"]).unwrap();
    booted.keys(b"\r").unwrap();
    let left = booted.wait_off().unwrap();
    let journals = left.journals().unwrap();
    let [(_, journal)] = &journals[..] else { panic!("{} journals", journals.len()) };
    let run = run_of(journal);
    assert_eq!(run.outcome(false), Outcome::Clean, "{:?}", run.sentence(false));
    let share = run.held.bytes as f64 / run.begin.usable_bytes as f64;
    println!("{start:?}: {:.1} % of usable memory in one start of 1 GiB", share * 100.0);
    assert!(share >= least, "{share}");
    assert!(run.held.addresses_known && run.held.ranges.bytes() == run.held.bytes);
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
        let seen = booted.wait(&["words read wrong"]).or_else(|_| booted.wait(&["word read wrong"]));
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
