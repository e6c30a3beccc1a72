//! What tests of each kind do in one pass.

use std::ops::Range;
use std::sync::atomic::{AtomicBool, AtomicU64, Ordering};

use super::address_lines;
use super::beside::{Begin, Computing, compute};
use super::control::Order;
use super::coordinator::{Coordinator, TestRun};
use super::disturbance::Chooser;
use super::ground::Report;
use super::shares::Turns;
use super::sink::Sink;
use super::threads::beside;
use super::turnaround::{cached_tail, flush_blocks};
use super::worker::blocks;
use crate::catalog::Work;
use crate::estimate::sleep_time;
use crate::march::Op;
use crate::memory::Load;
use crate::news::{ADDRESS_BITS, News, OF_COPIES, OPENING_ROWS, RowChoice, RowsOpened};
use crate::path::{Path, copy_shift};
use crate::pattern::WordRule;
use crate::sweep::ElementWork;

impl Coordinator<'_> {
    /// One turn of a test; returns whether it came to its end.
    pub(super) fn work(&mut self, run: &mut TestRun<'_>, seed: u64) -> bool {
        match run.spec.work {
            Work::March { .. } => self.over_backgrounds(run, seed),
            // The words are few and one core looks at them: further turns would do the same.
            Work::AddressLines => matches!(run.turns, Turns::One(1..)) || self.address_lines(run, seed),
            Work::ShiftedCopies => self.copies(run, seed),
            Work::Computing => self.beside_load(run, seed, Load::Computing),
            Work::LoadSteps => self.beside_load(run, seed, Load::Steps),
            Work::RowDisturbance => self.before_reads(run, seed, Self::disturb),
            Work::Sleeping => self.before_reads(run, seed, Self::asleep),
        }
    }

    fn over_backgrounds(&mut self, run: &mut TestRun<'_>, seed: u64) -> bool {
        run.spec.backgrounds(run.pass, seed).into_iter().all(|background| {
            run.rule = if self.setup.half_words { background.in_halves() } else { background }.into();
            self.elements(run)
        })
    }

    fn address_lines(&mut self, run: &TestRun<'_>, seed: u64) -> bool {
        self.progress.element = 1;
        self.progress.notation = ADDRESS_BITS.to_owned();
        let nothing =
            ElementWork { rule: WordRule::Constant(0), down: false, ops: Vec::new(), path: Path::Linear, moved: 0 };
        let ground = self.ground(run, &nothing, None, 1);
        let mut sink = Sink::new(&ground, self.setup.workers.first().copied().unwrap_or(0));
        let finished = address_lines::check(self.setup.memory, seed, self.setup.control, &mut sink);
        let mut reports = Vec::new();
        sink.hand_over(&mut Report::default(), &mut |report| reports.push(report));
        for report in reports {
            self.take(report);
        }
        self.note_changes();
        finished
    }

    /// Half of the memory copied into the other half, a few words farther, the end of it to the beginning.
    fn copies(&mut self, run: &mut TestRun<'_>, seed: u64) -> bool {
        run.rule = WordRule::Random { seed };
        let half = self.setup.memory.layout().bytes() / 2;
        let shift = copy_shift(seed, half);
        let work =
            |op: Op, moved| ElementWork { rule: run.rule, down: false, ops: vec![op], path: Path::Linear, moved };
        let (write, read) = (Op::Write { inverse: false }, Op::Read { inverse: false });
        let (fill, check) = (work(write, 0), work(read, 0));
        let (moved, wrapped) = (work(read, half + shift), work(read, shift));
        let parts = [(0..half - shift, half + shift), (half - shift..half, half)];
        self.step(run, "any(w0)", &fill, 0..half)
            && parts.into_iter().all(|(from, to)| self.copy(run, from, to))
            && self.step(run, &format!("any(r0){OF_COPIES}"), &moved, half + shift..2 * half)
            && self.step(run, &format!("any(r0){OF_COPIES}"), &wrapped, half..half + shift)
            && self.step(run, "any(r0)", &check, 0..half)
    }

    fn step(&mut self, run: &mut TestRun<'_>, words: &str, work: &ElementWork, held: Range<u64>) -> bool {
        self.progress.element += 1;
        words.clone_into(&mut self.progress.notation);
        self.progress.done = 0;
        // A test of copies goes twice over all of the memory.
        self.begin_part((held.end - held.start) as f64 / (2 * self.setup.memory.layout().bytes()) as f64);
        self.sweep_over(run, work, None, held, None);
        self.end_part();
        self.note_changes();
        self.setup.control.order() == Order::Go
    }

    fn copy(&mut self, run: &TestRun<'_>, from: Range<u64>, to: u64) -> bool {
        self.progress.element += 1;
        "copy".clone_into(&mut self.progress.notation);
        let (memory, control, rule) = (self.setup.memory, self.setup.control, run.rule);
        let moved = to - from.start;
        let all: Vec<Range<u64>> = blocks(from.clone(), false).collect();
        let begin_ns = self.setup.clock.now_ns();
        let one = |block: &Range<u64>| {
            if control.order() == Order::Go {
                memory.copy(block.clone(), block.start + moved, rule);
            }
        };
        let tail = cached_tail(self.setup.cache_bytes);
        let share = |blocks: &[Range<u64>]| {
            blocks.iter().for_each(one);
            // Both what was read last and what was written last may still be in a cache.
            if let (Some(first), Some(last)) = (blocks.first(), blocks.last()) {
                let begin = first.start.max(last.end.saturating_sub(tail));
                flush_blocks(memory, control, begin..last.end, false);
                flush_blocks(memory, control, begin + moved..last.end + moved, false);
            }
        };
        if memory.is_concurrent() {
            let blocks = all.len().div_ceil(run.sweepers.max(1)).max(1);
            std::thread::scope(|scope| {
                for (blocks, core) in all.chunks(blocks).zip(self.setup.workers) {
                    beside(scope, move || {
                        memory.enter_worker(*core);
                        share(blocks);
                    });
                }
            });
        } else {
            share(&all);
        }
        self.progress.test_ns += self.setup.clock.now_ns() - begin_ns;
        self.progress.test_done += from.end - from.start;
        self.begin_part((from.end - from.start) as f64 / (2 * memory.layout().bytes()) as f64);
        self.end_part();
        self.check_ends();
        control.order() == Order::Go
    }

    /// Half of the cores compute while the others sweep; on a single core both take turns.
    fn beside_load(&mut self, run: &mut TestRun<'_>, seed: u64, load: Load) -> bool {
        let workers = self.setup.workers;
        let computing = &workers[workers.len() / 2..];
        (run.turns, run.sweepers) = (Turns::Shares, (workers.len() / 2).max(1));
        run.speeds = self.speeds.unequal(run.sweepers).unwrap_or_default();
        let (memory, control, clock) = (self.setup.memory, self.setup.control, self.setup.clock);
        let (over, wrong) = (AtomicBool::new(false), AtomicU64::new(0));
        let begin_ns = clock.now_ns();
        memory.under(load);
        let what = memory.is_concurrent().then(|| Computing::of(load, computing.len(), memory.spare_bytes()));
        let finished = std::thread::scope(|scope| {
            let mut all_compute = true;
            if let Some(what) = &what {
                for core in computing {
                    let (seed, begin) = (seed ^ *core as u64, Begin { clock, begin_ns });
                    let (over, wrong) = (&over, &wrong);
                    let thread = std::thread::Builder::new().spawn_scoped(scope, move || {
                        memory.enter_worker(*core);
                        wrong.fetch_add(compute(what, seed, begin, control, over), Ordering::SeqCst);
                    });
                    // A test that is to compute and cannot has not done what it is for.
                    all_compute &= thread.is_ok();
                }
            }
            let finished = self.over_backgrounds(run, seed);
            over.store(true, Ordering::SeqCst);
            finished && all_compute
        });
        memory.under(Load::Sweeping);
        let wrong = wrong.load(Ordering::SeqCst);
        if wrong > 0 {
            self.count_errors(wrong);
            self.say(News::Miscalculated { pass: run.pass, test: run.spec.name.to_string(), numbers: wrong });
        }
        finished
    }

    /// Something happens between each write and the read behind it.
    fn before_reads(
        &mut self,
        run: &mut TestRun<'_>,
        seed: u64,
        happens: impl Fn(&mut Self, &TestRun<'_>, u64) -> bool,
    ) -> bool {
        run.rule = WordRule::Random { seed };
        let elements = run.march.0.clone();
        let mut leaves = None;
        for (at, element) in elements.iter().enumerate() {
            if element.reads() && !happens(self, run, seed ^ at as u64) {
                return false;
            }
            if !self.one_element(run, element, elements.get(at + 1), leaves) {
                return false;
            }
            leaves = element.leaves().or(leaves);
        }
        true
    }

    /// A test that was to sleep and could not, or was woken before half of the time, is not finished.
    fn asleep(&mut self, run: &TestRun<'_>, _seed: u64) -> bool {
        self.progress.element += 1;
        "asleep".clone_into(&mut self.progress.notation);
        self.flush_news();
        let wanted = sleep_time(self.setup.recipe);
        let slept = self.setup.sleeper.sleep(wanted).unwrap_or_default();
        let ms = u64::try_from(slept.as_millis()).unwrap_or(u64::MAX);
        self.say(News::Slept { pass: run.pass, test: run.spec.name.to_string(), ms });
        self.check_ends();
        !slept.is_zero() && slept * 2 >= wanted && self.setup.control.order() == Order::Go
    }

    /// Rows are opened often.
    fn disturb(&mut self, run: &TestRun<'_>, seed: u64) -> bool {
        self.progress.element += 1;
        OPENING_ROWS.clone_into(&mut self.progress.notation);
        let (memory, control, clock) = (self.setup.memory, self.setup.control, self.setup.clock);
        let chooser = Chooser::new(memory, clock, self.setup.places, seed);
        let (mut by, mut rows, mut openings) = (RowChoice::Map, 0, u64::MAX);
        for set in chooser.sets(seed) {
            let begin_ns = clock.now_ns();
            memory.activate(&set.words, set.times());
            openings = openings.min(set.openings(clock.now_ns() - begin_ns));
            (by, rows) = (by.max(set.by), rows.max(set.words.len() as u32));
            self.check_ends();
            control.wait_while_paused();
            if control.order() != Order::Go {
                return false;
            }
        }
        self.say(News::RowsOpened(RowsOpened { pass: run.pass, test: run.spec.name.to_string(), by, rows, openings }));
        true
    }
}
