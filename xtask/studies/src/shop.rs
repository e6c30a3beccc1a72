//! A thousand benches against one counter, all on this machine: processor, memory and how long a record takes to arrive.

use std::collections::VecDeque;
use std::fs::{File, OpenOptions};
use std::io::{self, Write as _};
use std::path::{Path, PathBuf};
use std::process::{Child, Command, Stdio};
use std::time::{Duration, Instant};

use anyhow::{Context, Result, bail};
use clap::Args;
use revisum_engine::news::Progress;
use revisum_link::{At, Bench, Shop, Source, Standing};
use revisum_record::journal::{Begin, Entry, JournalStore, JournalWriter};

/// Time for all links to be there.
const PATIENCE: Duration = Duration::from_secs(180);
/// Records whose arrival is waited for, of so many.
const SAMPLED: usize = 10;

/// Arguments of `shop`.
#[derive(Args)]
pub struct ShopArgs {
    /// Benches
    #[arg(long, default_value_t = 1000)]
    benches: usize,
    /// Seconds in which each writes a record a second
    #[arg(long, default_value_t = 60)]
    seconds: u64,
}

/// Ends the counter when dropped.
struct Counter(Child);

impl Drop for Counter {
    fn drop(&mut self) {
        // It may have ended already.
        let _ = self.0.kill();
        let _ = self.0.wait();
    }
}

/// A bench: its link, its journal, and how long that is.
struct Simulated {
    link: Bench,
    standing: Standing,
    writer: JournalWriter,
    own: PathBuf,
    copy: PathBuf,
}

struct Store(File);

impl JournalStore for Store {
    fn append(&mut self, bytes: &[u8]) -> io::Result<()> {
        self.0.write_all(bytes)
    }

    fn sync(&mut self) -> io::Result<()> {
        Ok(())
    }
}

/// Measures.
///
/// # Errors
/// When the counter cannot be started or benches do not link.
pub fn measure(args: &ShopArgs) -> Result<()> {
    revisum_linux::allow_many_files();
    super::cargo(&["build", "--release", "--quiet", "--package", "revisum"])?;
    let folder = tempfile::tempdir()?;
    let data = folder.path().join("counter");
    let shop = Shop::open_or_found(&data.join("link"), "Corner")?;
    let program = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../target/release/revisum");
    const ADDRESS: &str = "127.0.0.1:7913";
    let child = Command::new(program)
        .args(["wall", "--plain", "--listen", ADDRESS, "--data"])
        .arg(&data)
        .stdout(Stdio::null())
        .spawn()
        .context("the counter cannot be started")?;
    let counter = Counter(child);
    let begin = Instant::now();
    let mut benches = Vec::new();
    for number in 0..args.benches {
        benches.push(bench(folder.path(), &data, &shop, number, ADDRESS)?);
    }
    wait("all links", || benches.iter().all(|bench| length(&bench.copy) == length(&bench.own)))?;
    println!("{} benches linked after {:.1} s", benches.len(), begin.elapsed().as_secs_f64());
    let (before, own_before, start) = (processor(counter.0.id())?, processor(std::process::id())?, Instant::now());
    let bytes_before: u64 = benches.iter().map(|bench| length(&bench.own)).sum();
    let mut lags = write(&mut benches, args.seconds)?;
    let elapsed = start.elapsed().as_secs_f64();
    let of = |seconds: f64| seconds / elapsed * 100.0;
    println!(
        "counter: {:.0} % of one core, {:.0} MiB resident; all benches together: {:.0} % of one core",
        of(processor(counter.0.id())? - before),
        resident_mib(counter.0.id())?,
        of(processor(std::process::id())? - own_before)
    );
    lags.sort_by(f64::total_cmp);
    let at = |share: f64| lags[((lags.len() - 1) as f64 * share) as usize] * 1000.0;
    println!(
        "{} records sampled: there after {:.0} ms at the median, {:.0} ms in 99 of 100, {:.0} ms at most",
        lags.len(),
        at(0.5),
        at(0.99),
        at(1.0)
    );
    wait("the last record", || benches.iter().all(|bench| same(&bench.copy, &bench.own)))?;
    let bytes: u64 = benches.iter().map(|bench| length(&bench.own)).sum::<u64>() - bytes_before;
    let records = args.seconds * args.benches as u64;
    let year = bytes as f64 / records as f64 * 3600.0 * 8.0 * 250.0 / (1u64 << 30) as f64;
    println!(
        "all {} journals are the same at the counter; {:.0} bytes a record, {year:.1} GiB a bench and year of 250 days of 8 hours",
        benches.len(),
        bytes as f64 / records as f64
    );
    Ok(())
}

fn bench(folder: &Path, data: &Path, shop: &Shop, number: usize, address: &str) -> Result<Simulated> {
    let (here, id) = (folder.join(format!("bench{number}")), format!("2031-04-12-132600-bench-{number}"));
    std::fs::create_dir_all(here.join("runs"))?;
    let name = format!("runs/{id}.journal");
    let own = here.join(&name);
    let file = OpenOptions::new().create(true).append(true).open(&own)?;
    let mut writer = JournalWriter::new(Box::new(Store(file)), &id);
    let machine = format!("bench {number}");
    let begin = Begin { machine: machine.clone(), wall_ms: 5, usable_bytes: 1 << 33, ..Begin::default() };
    writer.append(0, &Entry::Begin(Box::new(begin)))?;
    let card = shop.issue(None, Some(address))?;
    let link = Bench::start(card, Source { data: here, machine: String::new(), ordered: Box::new(|_| ()) })?;
    let standing = Standing { machine, run: Some(id), ..Standing::default() };
    link.stand(standing.clone());
    Ok(Simulated { link, standing, writer, own, copy: data.join(name) })
}

/// Each bench writes a record a second, evenly spread; how long sampled ones took to be at the counter, in seconds.
fn write(benches: &mut [Simulated], seconds: u64) -> Result<Vec<f64>> {
    let step = Duration::from_secs(1) / benches.len() as u32;
    let (mut lags, mut waiting) = (Vec::new(), VecDeque::new());
    let begin = Instant::now();
    for number in 0..seconds as usize * benches.len() {
        let due = begin + step * number as u32;
        loop {
            waiting.retain(|(copy, length, since): &(PathBuf, u64, Instant)| {
                let there = self::length(copy) >= *length;
                if there {
                    lags.push(since.elapsed().as_secs_f64());
                }
                !there
            });
            let left = due.saturating_duration_since(Instant::now());
            if left.is_zero() {
                break;
            }
            std::thread::sleep(left.min(Duration::from_millis(2)));
        }
        let at = number % benches.len();
        let bench = &mut benches[at];
        let t_ms = begin.elapsed().as_millis() as u64;
        let progress = Progress {
            pass: 1,
            test: "march-c-".into(),
            notation: "down(r0,w1)".into(),
            done: number as u64 * 4096,
            ..Progress::default()
        };
        let at = At { pass: 1, test: progress.test.clone(), test_ppm: number as u32 };
        bench.writer.append(t_ms, &Entry::Progress(progress))?;
        bench.link.stand(Standing { at: Some(at), ..bench.standing.clone() });
        bench.link.recorded();
        if number % SAMPLED == 0 {
            waiting.push_back((bench.copy.clone(), length(&bench.own), Instant::now()));
        }
    }
    Ok(lags)
}

fn length(file: &Path) -> u64 {
    file.metadata().map_or(0, |meta| meta.len())
}

fn same(a: &Path, b: &Path) -> bool {
    std::fs::read(a).ok() == std::fs::read(b).ok()
}

fn wait(what: &str, holds: impl Fn() -> bool) -> Result<()> {
    let begin = Instant::now();
    while !holds() {
        if begin.elapsed() > PATIENCE {
            bail!("{what} never came");
        }
        std::thread::sleep(Duration::from_millis(100));
    }
    Ok(())
}

/// Seconds of processor time that a process has had (`proc(5)`, fields 14 and 15 of `stat`).
fn processor(id: u32) -> Result<f64> {
    let text = std::fs::read_to_string(format!("/proc/{id}/stat"))?;
    let (_, after) = text.rsplit_once(')').context("no such process")?;
    let fields: Vec<&str> = after.split_whitespace().collect();
    let ticks = |at: usize| fields.get(at).and_then(|field| field.parse::<f64>().ok()).unwrap_or(0.0);
    Ok((ticks(11) + ticks(12)) / rustix::param::clock_ticks_per_second() as f64)
}

fn resident_mib(id: u32) -> Result<f64> {
    let text = std::fs::read_to_string(format!("/proc/{id}/status"))?;
    let line = text.lines().find_map(|line| line.strip_prefix("VmRSS:")).context("no such process")?;
    Ok(line.trim().trim_end_matches(" kB").trim().parse::<f64>()? / 1024.0)
}
