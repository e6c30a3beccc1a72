//! What a flood costs: the same run on memory that reads right and on memory of which every word reads wrong.

use std::ops::Range;
use std::sync::Arc;
use std::sync::atomic::{AtomicU64, Ordering};
use std::time::Instant;

use anyhow::{Context, Result, bail};
use revisum_diagnose::address::Locator;
use revisum_diagnose::machine::Machine;
use revisum_engine::catalog::OwnTest;
use revisum_engine::estimate::Rates;
use revisum_engine::march::Op;
use revisum_engine::memory::{Changes, Layout, Memory, MismatchSink};
use revisum_engine::news::News;
use revisum_engine::pattern::WordRule;
use revisum_engine::recipe::{Depth, Recipe};
use revisum_engine::run::{Control, RunSetup, StartAt, run};
use revisum_engine::sweep::ElementWork;
use revisum_engine::units::{PhysAddr, count_text};
use revisum_linux::Pool;

use super::Interval;

/// Reads over all memory in one run.
const READS: u64 = 4;
/// Pairs of runs.
const PAIRS: usize = 15;

/// Memory of which every word reads wrong: reads compare with other random words than those that were written, and with
/// others in each sweep, because a second look writes what was expected.
struct Drowned(Arc<Pool>, AtomicU64);

impl Memory for Drowned {
    fn layout(&self) -> &Layout {
        self.0.layout()
    }
    fn is_concurrent(&self) -> bool {
        true
    }
    fn sweep(&self, held: Range<u64>, work: &ElementWork, sink: &mut dyn MismatchSink) {
        let reads = work.ops.iter().any(|op| matches!(op, Op::Read { .. }));
        let rule = match work.rule {
            WordRule::Random { seed } if reads => {
                WordRule::Random { seed: seed ^ 1 << 40 ^ self.1.fetch_add(1, Ordering::Relaxed) }
            }
            rule => rule,
        };
        self.0.sweep(held, &ElementWork { rule, ..work.clone() }, sink);
    }
    fn flush(&self, held: Range<u64>, down: bool) {
        self.0.flush(held, down);
    }
    fn poke(&self, offset: u64, word: u64) -> u64 {
        self.0.poke(offset, word)
    }
    fn peek(&self, offset: u64) -> u64 {
        self.0.peek(offset)
    }
    fn copy(&self, from: Range<u64>, to: u64, rule: WordRule) {
        self.0.copy(from, to, rule);
    }
    fn activate(&self, offsets: &[u64], times: u32) {
        self.0.activate(offsets, times);
    }
    fn address_of(&self, offset: u64) -> Option<PhysAddr> {
        self.0.address_of(offset)
    }
    fn enter_worker(&self, core: usize) {
        self.0.enter_worker(core);
    }
    fn changes(&self) -> Changes {
        self.0.changes()
    }
}

/// Measures and prints what a flood costs.
pub fn measure(pool: Pool) -> Result<()> {
    let pool = Arc::new(pool);
    let machine = revisum_linux::this_machine();
    let words = pool.layout().bytes() / 8;
    let before = resident_bytes()?;
    let (mut ratios, mut grown) = (Vec::new(), 0);
    for _ in 0..PAIRS {
        let (right, _) = timed(&machine, pool.as_ref())?;
        let (wrong, counted) = timed(&machine, &Drowned(pool.clone(), AtomicU64::new(1)))?;
        // The word planted in the pass is not an error of the memory.
        if counted != READS * words - 1 && counted != READS * words {
            bail!("{counted} words were counted, but {} read wrong", READS * words);
        }
        ratios.push(right / wrong);
        grown = grown.max(resident_bytes()?.saturating_sub(before));
    }
    println!("\nEvery word wrong, {} counted in each run, exactly.", count_text(READS * words));
    println!("Speed of such a run over that of a clean one: {}", Interval::of(ratios));
    println!("Memory beyond what is tested grew by {} KiB.", grown / 1024);
    Ok(())
}

/// Seconds of a run and the words that read wrong in it.
fn timed(machine: &Machine, memory: &dyn Memory) -> Result<(f64, u64)> {
    let own = OwnTest {
        name: "flood".to_owned(),
        notation: "up(w0); up(r0); up(r0); up(r0); up(r0)".to_owned(),
        backgrounds: vec![revisum_engine::catalog::BackgroundKind::Random],
        path: revisum_engine::path::Path::Linear,
        rotate: false,
        purpose: String::new(),
    };
    let recipe = Recipe { own: vec![own], ..Recipe::with_tests(Depth::Triage, vec!["flood".to_owned()]) };
    let facts = machine.firmware.facts();
    let setup = RunSetup {
        memory,
        clock: machine.clock.as_ref(),
        counters: machine.counters.as_ref(),
        sensors: machine.sensors.as_ref(),
        sleeper: machine.sleeper.as_ref(),
        places: &Locator::default(),
        recipe: &recipe,
        seed: 5,
        workers: &(0..facts.cores).collect::<Vec<_>>(),
        rates: Rates::uniform(1e10),
        cache_bytes: facts.cache_bytes,
        half_words: false,
        control: &Control::default(),
        from: &StartAt::default(),
    };
    let mut counted = 0;
    let begin = Instant::now();
    run(&setup, &mut |entry| {
        if let News::TestEnded(end) = entry {
            counted += end.errors;
        }
    })?;
    Ok((begin.elapsed().as_secs_f64(), counted))
}

/// Memory of this process that is present, the pool included.
fn resident_bytes() -> Result<u64> {
    let status = std::fs::read_to_string("/proc/self/status")?;
    let line = status.lines().find_map(|line| line.strip_prefix("VmRSS:")).context("no VmRSS in /proc/self/status")?;
    let kib: u64 = line.trim().trim_end_matches(" kB").trim().parse()?;
    Ok(kib * 1024)
}
