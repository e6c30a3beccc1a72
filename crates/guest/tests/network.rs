//! Booted computers on the wall: from a drive with a card of the shop, and over the network without any drive.

mod common;

use std::path::{Path, PathBuf};
use std::sync::{Arc, Mutex};
use std::time::{Duration, Instant};

use common::{image, wait_for_runs};
use revisum_drive::{Begin, DriveSettings, network_files};
use revisum_guest::{Chipset, Display, FromDrive, Medium, Network, Start};
use revisum_link::{BenchNow, Card, Counter, Shop};
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
}

/// Settings of a drive, or of machines without one, that begin at once.
fn settings(card: Card) -> DriveSettings {
    let card = toml::Table::try_from(card).unwrap();
    DriveSettings { begin: Begin::AtOnce, card: Some(card), ..DriveSettings::default() }
}

/// Left alone to a verdict; what the counter has at the end are the drive's own bytes.
#[rstest]
#[case::bios(Network::Usual)]
#[case::virtual_card(Network::Virtual)]
#[ignore = "boots a guest: cargo xtask guests runs it"]
fn a_booted_machine_is_on_the_wall(#[case] network: Network) {
    let place = Place::open();
    let card = place.shop.issue(Some(7), Some(&place.address())).unwrap();
    let computer = FromDrive { network: Some(network), settings: settings(card), ..FromDrive::default() };
    let booted = computer.switch_on(&image()).unwrap();
    let first = place.wait("its run", |bench, state| bench.standing.number == Some(7) && state.records > 0);
    assert!(!first.standing.waits, "it is at work");
    wait_for_runs(&booted, "the end", |runs| runs.first().is_some_and(|run| run.end.is_some()));
    place.wait("the end at the counter", |_, state| state.end.is_some());
    let journals = booted.journals().unwrap();
    let (name, bytes) = journals.first().unwrap();
    let begin = Instant::now();
    let copy = place.folder.path().join("runs").join(name);
    // Of a run that goes on after it the drive may know more by now; of the first one there is no more.
    while std::fs::read(&copy).ok().as_ref() != Some(bytes) {
        assert!(begin.elapsed() < PATIENCE, "{name} is not the same");
        std::thread::sleep(Duration::from_millis(200));
    }
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
