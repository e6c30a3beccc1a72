//! The ledger against the journals themselves: finding one of fifty thousand runs, and taking them in, beside a plain scan and a plain copy of
//! the same files in the same sitting.

use std::io;
use std::path::Path;
use std::process::{Command, Stdio};
use std::sync::{Arc, Mutex, PoisonError};
use std::time::Instant;

use anyhow::{Context, Result, ensure};
use clap::Args;
use revisum_record::journal::JournalStore;
use revisum_record::journal::{Entry, Framed, JournalWriter, read_journal};

/// Arguments of the measurement.
#[derive(Args)]
pub struct LedgerArgs {
    /// Journals
    #[arg(long, default_value_t = 50_000)]
    journals: u32,
}

/// The program that is measured.
pub const PROGRAM: &str = "target/release/revisum";
/// What is looked for: a serial number, a machine with an outcome, two letters, nothing.
pub const FINDS: [&str; 4] = ["SN0040007", "bench-17 errors", "b1", ""];
/// How often each question is asked; the median counts.
pub const REPEATS: usize = 5;
/// How often the journals are copied and imported; the median counts.
const ROUNDS: usize = 5;

#[derive(Clone, Default)]
struct InMemory(Arc<Mutex<Vec<u8>>>);

impl JournalStore for InMemory {
    fn append(&mut self, bytes: &[u8]) -> io::Result<()> {
        self.0.lock().unwrap_or_else(PoisonError::into_inner).extend_from_slice(bytes);
        Ok(())
    }

    fn sync(&mut self) -> io::Result<()> {
        Ok(())
    }
}

/// Measures and prints.
///
/// # Errors
/// When the program cannot be run or a file cannot be written.
pub fn measure(args: &LedgerArgs) -> Result<()> {
    crate::cargo(&["build", "--release", "--package", "revisum"])?;
    let place = tempfile::tempdir()?;
    let drive = place.path().join("drive");
    std::fs::create_dir(&drive)?;
    let bytes = generate(args.journals, &place.path().join("template"), &drive)?;
    println!("{} journals, {:.1} KiB each", args.journals, bytes as f64 / f64::from(args.journals) / 1024.0);
    let text = |path: &Path| path.display().to_string();
    let (from, mut to) = (text(&drive), String::new());
    // In turns, each when all before it is on the disk, and nothing is deleted in between: a file system that has just deleted many files is slow to
    // make new ones.
    let mut ratios = Vec::new();
    for round in 1..=ROUNDS {
        let (copy, data) = (place.path().join(format!("copy-{round}")), place.path().join(format!("data-{round}")));
        std::fs::create_dir(&copy)?;
        to = text(&data);
        settled()?;
        let copying = timed(|| copied(&drive, &copy))?;
        settled()?;
        let importing = timed(|| asked(&["logs", "--json", "--most", "1", "--import", &from, "--data", &to]))?;
        println!(
            "copy and checksum {copying:.1} s, import {importing:.1} s: at {:.2} of the speed",
            copying / importing
        );
        ratios.push(copying / importing);
    }
    ratios.sort_by(f64::total_cmp);
    println!("import with the ledger, median: at {:.2} of the speed of copying and checksumming", ratios[ROUNDS / 2]);
    for find in FINDS {
        let scan = timed(|| asked(&["logs", &from, "--find", find, "--json", "--most", "50"]))?;
        let mut times = Vec::new();
        for _ in 0..REPEATS {
            times.push(timed(|| asked(&["logs", "--find", find, "--json", "--most", "50", "--data", &to]))?);
        }
        times.sort_by(f64::total_cmp);
        let ledger = times[REPEATS / 2];
        println!("find {find:?}: scan {scan:.2} s, ledger {:.1} ms: {:.0} times as fast", ledger * 1e3, scan / ledger);
    }
    Ok(())
}

/// So many runs on record in this data folder; what is made on the way lies beside it.
///
/// # Errors
/// When the program cannot be run or a file cannot be written.
pub fn fill(journals: u32, place: &Path, data: &Path) -> Result<()> {
    let drive = place.join("drive");
    std::fs::create_dir(&drive)?;
    generate(journals, &place.join("template"), &drive)?;
    let text = |path: &Path| path.display().to_string();
    asked(&["logs", "--json", "--most", "1", "--import", &text(&drive), "--data", &text(data)])
}

/// How long work takes, in seconds.
pub fn timed(work: impl FnOnce() -> Result<()>) -> Result<f64> {
    let begin = Instant::now();
    work()?;
    Ok(begin.elapsed().as_secs_f64())
}

fn settled() -> Result<()> {
    ensure!(Command::new("sync").status()?.success(), "sync failed");
    Ok(())
}

fn asked(arguments: &[&str]) -> Result<()> {
    let status = Command::new(PROGRAM).args(arguments).stdout(Stdio::null()).status();
    ensure!(status?.success(), "{arguments:?} failed");
    Ok(())
}

fn copied(from: &Path, to: &Path) -> Result<()> {
    for file in std::fs::read_dir(from)? {
        let file = file?;
        let bytes = std::fs::read(file.path())?;
        let target = to.join(file.file_name());
        std::fs::write(&target, &bytes)?;
        ensure!(crc32c::crc32c(&std::fs::read(&target)?) == crc32c::crc32c(&bytes), "a copy differs");
    }
    Ok(())
}

/// Journals like that of a real run with errors, each of another machine, time and pair of modules.
pub fn generate(count: u32, template: &Path, into: &Path) -> Result<u64> {
    let text = template.display().to_string();
    let _ = Command::new(PROGRAM)
        .args(["check", "--sim", "dome-1", "--json", "--data", &text])
        .stdout(Stdio::null())
        .status()?;
    let mut journals = std::fs::read_dir(template.join("runs"))?;
    let journal = journals.next().context("the template run left no journal")??.path();
    let mut entries: Vec<Framed<Entry>> = Vec::new();
    read_journal::<Entry>(&mut io::BufReader::new(std::fs::File::open(journal)?), |framed| entries.push(framed))?;
    let mut all = 0;
    for number in 0..count {
        let store = InMemory::default();
        let id = format!("2031-{number:06}-bench-{}", number % 40);
        let mut writer = JournalWriter::new(Box::new(store.clone()), &id);
        for framed in &entries {
            let mut entry = framed.entry.clone();
            if let Entry::Begin(begin) = &mut entry {
                begin.machine = format!("bench-{}", number % 40);
                begin.wall_ms += i64::from(number) * 600_000;
                let modules = begin.board.slots.iter_mut().filter_map(|slot| slot.module.as_mut());
                modules
                    .enumerate()
                    .for_each(|(at, module)| module.serial = format!("SN{:07}", number * 10 + at as u32));
            }
            writer.append(framed.t_ms, &entry)?;
        }
        let bytes = store.0.lock().unwrap_or_else(PoisonError::into_inner).clone();
        all += bytes.len() as u64;
        std::fs::write(into.join(format!("{id}.journal")), bytes)?;
    }
    Ok(all)
}
