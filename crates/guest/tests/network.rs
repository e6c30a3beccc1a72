//! Booted computers on the wall: from a drive with a card of the shop, and over the network without any drive.

mod common;

use std::path::{Path, PathBuf};
use std::sync::{Arc, Mutex};
use std::time::{Duration, Instant};

use common::{image, wait_for_runs};
use revisum_drive::{Begin, DriveSettings, network_files};
use revisum_guest::{Chipset, Display, FromDrive, Medium, Network, Start};
use revisum_link::{BenchNow, Card, Counter, Shop, Silence};
use revisum_linux::ImageFile;
use revisum_record::run_state::RunState;
use rstest::rstest;

/// The computer that emulates, as a guest sees it.
const HOST: &str = "10.0.2.2";
/// Longest time until a guest that is left alone has done something.
const PATIENCE: Duration = Duration::from_secs(900);

struct Place {
    folder: tempfile::TempDir,
    shop: Shop,
    counter: Counter,
}

impl Place {
    fn open() -> Self {
        let folder = tempfile::tempdir().unwrap();
        let shop = Shop::open_or_found(&folder.path().join("link"), "Corner").unwrap();
        let counter = Counter::open(&shop, folder.path(), ([0, 0, 0, 0], 0).into(), false, Arc::new(|| ())).unwrap();
        Self { folder, shop, counter }
    }

    fn address(&self) -> String {
        format!("{HOST}:{}", self.counter.address().port())
    }

    fn wait(&self, what: &str, wanted: impl Fn(&BenchNow, &RunState) -> bool) -> BenchNow {
        let begin = Instant::now();
        loop {
            let found = self.counter.benches().into_iter().find(|bench| {
                let run = bench.run.clone().unwrap_or_else(|| Arc::new(Mutex::default()));
                let state = run.lock().unwrap().clone();
                wanted(bench, &state)
            });
            if let Some(bench) = found {
                return bench;
            }
            assert!(begin.elapsed() < PATIENCE, "{what} never came");
            std::thread::sleep(Duration::from_millis(200));
        }
    }

    /// Waits until the records hold these bytes under this name, or one that was given to a second run of that name.
    fn wait_for_copy(&self, name: &str, bytes: &[u8]) {
        let begin = Instant::now();
        let is_copy = |file: &Path| std::fs::read(file).is_ok_and(|copy| copy == bytes);
        let copies = || std::fs::read_dir(self.folder.path().join("runs")).unwrap().flatten().map(|file| file.path());
        while !copies().any(|file| is_copy(&file)) {
            assert!(begin.elapsed() < PATIENCE, "{name} is not the same");
            std::thread::sleep(Duration::from_millis(200));
        }
    }
}

/// Settings of a drive, or of machines without one, that begin at once.
fn settings(card: Card) -> DriveSettings {
    let card = toml::Table::try_from(card).unwrap();
    DriveSettings { begin: Begin::AtOnce, card: Some(card), ..DriveSettings::default() }
}

/// How long nothing is heard of a machine until the wall says so.
const SILENT: Duration = Duration::from_secs(4);

/// Two at once, left alone to a verdict, while now one's cable is pulled and now the other's: what the counter has at the end are the drives' own
/// bytes.
#[test]
#[ignore = "boots two guests: cargo xtask guests runs it"]
fn booted_machines_are_on_the_wall() {
    let place = Place::open();
    let machines = [(7, Network::Usual), (8, Network::Virtual)].map(|(number, network)| {
        let card = place.shop.issue(Some(number), Some(&place.address())).unwrap();
        let settings = settings(card);
        let computer = FromDrive { network: Some(network), memory_mib: 512, settings, ..FromDrive::default() };
        (number, computer.switch_on(&image()).unwrap())
    });
    let of = |number: u16, bench: &BenchNow| bench.standing.number == Some(number);
    for (number, _) in &machines {
        let first = place.wait("its run", |bench, state| of(*number, bench) && state.records > 0);
        assert!(!first.standing.waits, "{number} is at work");
    }
    for (number, booted) in machines.iter().chain(&machines) {
        booted.plug(false).unwrap();
        let last = place.wait("its silence", |bench, _| of(*number, bench) && heard(bench).elapsed() > SILENT);
        booted.plug(true).unwrap();
        place.wait("a word of it", |bench, _| of(*number, bench) && heard(bench) > heard(&last));
    }
    for (number, booted) in &machines {
        wait_for_runs(booted, "the end", |runs| runs.first().is_some_and(|run| run.end.is_some()));
        place.wait("the end at the counter", |bench, state| of(*number, bench) && state.end.is_some());
        // Of a run that goes on after it the drive may know more by now; of the first one there is no more.
        let (name, bytes) = booted.journals().unwrap().into_iter().next().unwrap();
        place.wait_for_copy(&name, &bytes);
    }
}

fn heard(bench: &BenchNow) -> Instant {
    let (Silence::Linked(at) | Silence::Broken(at)) = bench.silence;
    at
}

/// What a server hands out, beside the image.
fn served(image: &Path, card: Card) -> PathBuf {
    let folder = image.with_file_name("network");
    let _ = std::fs::remove_dir_all(&folder);
    for (name, bytes) in network_files(&mut ImageFile::open(image).unwrap(), &settings(card)).unwrap() {
        let file = folder.join(name);
        std::fs::create_dir_all(file.parent().unwrap()).unwrap();
        std::fs::write(file, bytes).unwrap();
    }
    folder
}

/// Without any drive, from files that are served, to the first test; its records are at the counter.
#[rstest]
#[case::bios(Start::Bios, Chipset::Pc, Network::Usual)]
#[case::uefi(Start::Uefi, Chipset::Q35, Network::Virtual)]
#[ignore = "boots a guest: cargo xtask guests runs it"]
fn a_machine_starts_over_the_network(#[case] start: Start, #[case] chipset: Chipset, #[case] network: Network) {
    let place = Place::open();
    served(&image(), place.shop.issue_shared(Some(&place.address())).unwrap());
    let medium = Medium::Network;
    let computer =
        FromDrive { start, chipset, network: Some(network), medium, display: Display::Usual, ..FromDrive::default() };
    let booted = computer.switch_on(&image()).unwrap();
    let bench = place.wait("the first test", |_, state| state.tests.iter().any(|test| test.passes > 0));
    assert!(bench.standing.not_recorded.is_some(), "it has no drive, and says so");
    assert!(booted.text().is_empty() || !booted.text().contains("grub>"));
}
