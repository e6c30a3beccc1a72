//! Sweeps against the machine's limit: reference and candidate back to back on neighbouring cold slices, many pairs,
//! the median of their ratios with its interval. Ratios, not seconds: what else the machine does hits both alike.

mod flood;
mod plateau;
mod reference;

use std::time::Instant;

use anyhow::{Context, Result, bail};
use clap::Args;
use revisum_engine::march::Op;
use revisum_engine::memory::{LeaseRequest, Memory};
use revisum_engine::pattern::WordRule;
use revisum_engine::sweep::{ElementWork, Kernels};
use revisum_engine::units::{MIB, bytes_text, parse_bytes};
use revisum_linux::Pool;

/// Arguments of the measurement.
#[derive(Args)]
pub struct SpeedArgs {
    /// Memory to sweep; far more than the caches hold
    #[arg(long, default_value = "2G", value_parser = parse_bytes)]
    memory: u64,
    /// Only lines with this text in their name, or "plateau", "flood" or "redraw" alone
    #[arg(long, value_name = "TEXT")]
    only: Option<String>,
    /// Pairs for each line of the table
    #[arg(long, default_value_t = 40)]
    pairs: usize,
}

impl SpeedArgs {
    /// Only the drawing of a view is asked for.
    pub fn is_redraw(&self) -> bool {
        self.only.as_deref() == Some("redraw")
    }
}

/// Bytes that one core sweeps at a time.
const SLICE: u64 = 32 * MIB;

/// Slices that are as large as the caches of most machines.
const SETTLING: usize = 2;

/// A bare loop in assembly that shows what the machine can do.
#[derive(Clone, Copy)]
enum Limit {
    Write,
    Read,
    ReadWrite,
    /// With every line put back into memory behind the loop.
    PutBack,
}

/// One line of the table.
struct Line {
    name: &'static str,
    limit: Limit,
    rule: WordRule,
    ops: fn(bool) -> Vec<Op>,
    down: bool,
}

fn write(inverse: bool) -> Vec<Op> {
    vec![Op::Write { inverse }]
}

fn read(inverse: bool) -> Vec<Op> {
    vec![Op::Read { inverse }]
}

fn read_write(inverse: bool) -> Vec<Op> {
    vec![Op::Read { inverse }, Op::Write { inverse: !inverse }]
}

fn three_read_writes(inverse: bool) -> Vec<Op> {
    [read_write(inverse), read_write(!inverse), read_write(inverse)].concat()
}

const RANDOM: WordRule = WordRule::Random { seed: 0x5eed };
const SOLID: WordRule = WordRule::Constant(0);

const LINES: [Line; 11] = [
    Line { name: "fill constant", limit: Limit::Write, rule: SOLID, ops: write, down: false },
    Line { name: "fill address", limit: Limit::Write, rule: WordRule::Address, ops: write, down: false },
    Line { name: "fill random", limit: Limit::Write, rule: RANDOM, ops: write, down: false },
    Line { name: "verify constant", limit: Limit::Read, rule: SOLID, ops: read, down: false },
    Line { name: "verify address", limit: Limit::Read, rule: WordRule::Address, ops: read, down: false },
    Line { name: "verify random", limit: Limit::Read, rule: RANDOM, ops: read, down: false },
    Line { name: "read-write up", limit: Limit::ReadWrite, rule: SOLID, ops: read_write, down: false },
    Line { name: "read-write down", limit: Limit::ReadWrite, rule: SOLID, ops: read_write, down: true },
    Line { name: "read-write up", limit: Limit::PutBack, rule: SOLID, ops: read_write, down: false },
    Line { name: "read-write down", limit: Limit::PutBack, rule: SOLID, ops: read_write, down: true },
    // Goes over the memory three times: a third of the limit is all that there is.
    Line { name: "three read-writes", limit: Limit::PutBack, rule: SOLID, ops: three_read_writes, down: false },
];

/// Measures and prints the table.
pub fn measure(args: &SpeedArgs) -> Result<()> {
    if !reference::is_supported() {
        bail!("the reference loops need a processor with AVX2");
    }
    if args.pairs < 5 {
        bail!("fewer than 5 pairs have no interval; ask for at least 5");
    }
    let cores = std::thread::available_parallelism().map_or(1, usize::from);
    let request = LeaseRequest { bytes: Some(args.memory), ..LeaseRequest::default() };
    let pool = Pool::lease(&request, &|_, _| true).context("no memory to measure on")?;
    let least = SLICE * 4 * cores as u64;
    if args.memory < least {
        bail!(
            "{} are too few to stay clear of the caches; ask for at least {}",
            bytes_text(args.memory),
            bytes_text(least)
        );
    }
    println!("{} of memory, {} pairs a line, kernels {:?}\n", bytes_text(args.memory), args.pairs, Kernels::detect());
    println!("| sweep | limit | one core | {cores} cores |");
    println!("|---|---|---|---|");
    let wanted = |line: &&Line| args.only.as_ref().is_none_or(|text| line.name.contains(text.as_str()));
    for line in LINES.iter().filter(wanted) {
        let limit = match line.limit {
            Limit::Write => "write",
            Limit::Read => "read",
            Limit::ReadWrite => "read-write",
            Limit::PutBack => "read-write, put back",
        };
        let one = Bench::new(&pool, line, 1).ratio(args.pairs);
        let all = Bench::new(&pool, line, cores).ratio(args.pairs);
        println!("| {} | {limit} | {one} | {all} |", line.name);
    }
    let asked = |name: &str| args.only.as_ref().is_none_or(|text| text == name);
    if asked("plateau") {
        plateau::measure(&pool, args.pairs, cores)?;
    }
    if asked("flood") { flood::measure(pool) } else { Ok(()) }
}

/// One line on a number of cores.
struct Bench<'a> {
    pool: &'a Pool,
    line: &'a Line,
    cores: usize,
    /// For each slice: whether it holds the inverse at the moment.
    inverse: Vec<bool>,
    next: usize,
}

impl<'a> Bench<'a> {
    fn new(pool: &'a Pool, line: &'a Line, cores: usize) -> Self {
        let slices = (pool.layout().bytes() / SLICE) as usize;
        let mut bench = Self { pool, line, cores, inverse: vec![false; slices], next: 0 };
        bench.fill();
        bench
    }

    /// Writes what the sweeps expect.
    fn fill(&mut self) {
        let work = ElementWork {
            rule: self.line.rule,
            down: false,
            ops: write(false),
            path: revisum_engine::path::Path::Linear,
            moved: 0,
        };
        for slice in 0..self.inverse.len() {
            sweep(self.pool, slice, &work);
        }
        self.inverse.fill(false);
    }

    fn ratio(mut self, pairs: usize) -> Interval {
        let mut ratios = Vec::new();
        for pair in 0..pairs {
            // Who goes first alternates, so that a drift favours nobody.
            let (reference, candidate) = if pair % 2 == 0 {
                let reference = self.settled(Self::reference);
                (reference, self.settled(Self::candidate))
            } else {
                let candidate = self.settled(Self::candidate);
                (self.settled(Self::reference), candidate)
            };
            ratios.push(reference / candidate);
        }
        Interval::of(ratios)
    }

    /// Seconds of a loop that finds the caches as it leaves them itself. What a loop wrote and left there goes back into the memory while
    /// the next one runs: without this the one that puts its lines back would pay for the other as well.
    fn settled(&mut self, mut timed: impl FnMut(&mut Self) -> f64) -> f64 {
        if matches!(self.line.limit, Limit::ReadWrite | Limit::PutBack) {
            for _ in 0..SETTLING.div_ceil(self.cores) {
                timed(self);
            }
        }
        timed(self)
    }

    /// The next slices, one a core; the last ones touched are the longest away.
    fn take_slices(&mut self) -> Vec<usize> {
        (0..self.cores)
            .map(|_| {
                let slice = self.next;
                self.next = (self.next + 1) % self.inverse.len();
                slice
            })
            .collect()
    }

    fn reference(&mut self) -> f64 {
        let slices = self.take_slices();
        let limit = self.line.limit;
        let pool = self.pool;
        let seconds = timed(pool, &slices, |slice| {
            for (ptr, len) in pieces(pool, slice) {
                match limit {
                    Limit::Write => reference::write(ptr, len),
                    Limit::Read => reference::read(ptr, len),
                    Limit::ReadWrite => reference::invert(ptr, len),
                    Limit::PutBack => reference::invert_and_put_back(ptr, len),
                }
            }
        });
        if matches!(limit, Limit::ReadWrite | Limit::PutBack) {
            for slice in slices {
                self.inverse[slice] = !self.inverse[slice];
            }
        }
        seconds
    }

    fn candidate(&mut self) -> f64 {
        let slices = self.take_slices();
        let (pool, line) = (self.pool, self.line);
        let inverse = &self.inverse;
        let seconds = timed(pool, &slices, |slice| {
            let work = ElementWork {
                rule: line.rule,
                down: line.down,
                ops: (line.ops)(inverse[slice]),
                path: revisum_engine::path::Path::Linear,
                moved: 0,
            };
            sweep(pool, slice, &work);
        });
        if matches!(line.limit, Limit::ReadWrite | Limit::PutBack) {
            for slice in slices {
                self.inverse[slice] = !self.inverse[slice];
            }
        }
        seconds
    }
}

/// Runs a piece of work on each slice, each on a core of its own, and times them together.
fn timed(pool: &Pool, slices: &[usize], work: impl Fn(usize) + Sync) -> f64 {
    if let [only] = slices {
        let begin = Instant::now();
        work(*only);
        return begin.elapsed().as_secs_f64();
    }
    // Each worker looks at the clock itself: another thread that did would have to wait for a core.
    let barrier = std::sync::Barrier::new(slices.len());
    let times: Vec<(Instant, Instant)> = std::thread::scope(|scope| {
        let run = |(core, slice): (usize, &usize)| {
            let (work, barrier, slice) = (&work, &barrier, *slice);
            scope.spawn(move || {
                pool.enter_worker(core);
                barrier.wait();
                let begin = Instant::now();
                work(slice);
                (begin, Instant::now())
            })
        };
        let threads: Vec<_> = slices.iter().enumerate().map(run).collect();
        threads.into_iter().filter_map(|thread| thread.join().ok()).collect()
    });
    let (first, last) = (times.iter().map(|time| time.0).min(), times.iter().map(|time| time.1).max());
    first.zip(last).map_or(f64::NAN, |(first, last)| (last - first).as_secs_f64())
}

/// The contiguous pieces of a slice.
fn pieces(pool: &Pool, slice: usize) -> Vec<(*mut u8, usize)> {
    let held = slice as u64 * SLICE..(slice as u64 + 1) * SLICE;
    let parts = pool.layout().parts(held);
    parts
        .map(|(at, _, skip, len)| (pool.ptr().wrapping_add((pool.parts()[at].virt + skip) as usize), len as usize))
        .collect()
}

struct Silent;

impl revisum_engine::memory::MismatchSink for Silent {
    fn mismatch(
        &mut self,
        word: revisum_engine::sweep::BadWord,
        _again: &mut dyn revisum_engine::sweep::second_look::WordAccess,
    ) {
        eprintln!("this memory reads wrong while it is measured: {word:?}");
    }
    fn looks_again(&self) -> bool {
        true
    }
    fn line(&mut self, offset: u64, line: &revisum_engine::sweep::BadLine) {
        eprintln!("this memory reads wrong while it is measured: {line:?} at {offset:#x}");
    }
    fn stretch(&mut self, _stretch: &revisum_engine::memory::BadStretch) {}
}

fn sweep(pool: &Pool, slice: usize, work: &ElementWork) {
    pool.sweep(slice as u64 * SLICE..(slice as u64 + 1) * SLICE, work, &mut Silent);
}

/// A median with its 95 % interval by order statistics (Hahn and Meeker, Statistical Intervals, 1991).
struct Interval {
    low: f64,
    median: f64,
    high: f64,
}

impl Interval {
    fn of(mut values: Vec<f64>) -> Self {
        values.sort_by(f64::total_cmp);
        let count = values.len();
        let half = 0.98 * (count as f64).sqrt();
        let low = (count as f64 / 2.0 - half).floor().max(0.0) as usize;
        let high = ((count as f64 / 2.0 + half).ceil() as usize).min(count - 1);
        Self { low: values[low], median: values[count / 2], high: values[high] }
    }
}

impl std::fmt::Display for Interval {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        write!(f, "{:.2} ({:.2} to {:.2})", self.median, self.low, self.high)
    }
}

#[cfg(test)]
mod tests {
    use super::Interval;

    #[test]
    fn the_interval_holds_the_median() {
        let interval = Interval::of((1..=41).map(f64::from).collect());
        assert_eq!((interval.low, interval.median, interval.high), (14.0 + 1.0, 21.0, 28.0));
    }
}
