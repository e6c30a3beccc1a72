//! Passes, tests and elements in order; merges what the workers report and tells it on.

use std::ops::Range;
use std::sync::mpsc;
use std::time::Duration;

use super::control::Order;
use super::ground::{Ground, Report};
use super::idle::IdleTime;
use super::plant::{self, Plant};
use super::setup::RunSetup;
use super::shares::{CoreSpeeds, Round, Turns, rounds, turns};
use super::soak::Soak;
use super::threads::beside;
use super::turnaround::{flush_after, flush_blocks};
use super::watch::Watch;
use super::worker::sweep_share;
use crate::catalog::TestSpec;
use crate::estimate::Rates;
use crate::march::notation::count_pieces;
use crate::march::{Element, March};
use crate::news::News;
use crate::news::{EndReason, ErrorReport, Progress, TestEnd};
use crate::pattern::{WordRule, pass_seed};
use crate::recipe::{Recipe, RecipeError};
use crate::sweep::ElementWork;
use crate::tally::Tally;

/// Progress is told this often.
const TELL_NS: u64 = 200_000_000;
/// While nothing happens progress is told this often.
const IDLE_TELL_NS: u64 = 1_000_000_000;
/// Counters and sensors are read this often.
const WATCH_NS: u64 = 2_000_000_000;
/// Samples told for one test in one pass.
const TEST_SAMPLES: usize = 128;
/// Second looks for one element; shared by its workers.
const LOOKS: u32 = 256;
/// How often a pause and the end of the time are looked at while workers are busy.
const POLL: Duration = Duration::from_millis(100);

/// Runs the recipe to its end and tells everything to `tell`, in order; the last is [`News::Ended`].
///
/// # Errors
/// When the recipe cannot be run; nothing was told then.
pub fn run(setup: &RunSetup<'_>, tell: &mut dyn FnMut(News)) -> Result<EndReason, RecipeError> {
    let specs = setup.recipe.specs()?;
    let mut coordinator = Coordinator::new(setup, tell);
    let reason = coordinator.passes(&specs);
    coordinator.look_around(true);
    coordinator.say(News::Ended { reason });
    Ok(reason)
}

/// Seconds that each test is expected to take in one pass.
pub fn expected(specs: &[TestSpec], recipe: &Recipe, rates: &Rates, bytes: u64, cores: usize) -> Vec<(String, f64)> {
    let turns = |spec: &TestSpec| turns(recipe.cores, spec, cores).len();
    specs.iter().map(|spec| (spec.name.to_string(), rates.test_seconds(spec, recipe, bytes, turns(spec)))).collect()
}

pub(super) struct Coordinator<'a> {
    pub setup: &'a RunSetup<'a>,
    tell: &'a mut dyn FnMut(News),
    watch: Watch<'a>,
    pub progress: Progress,
    pending: Tally,
    samples_left: usize,
    test_errors: u64,
    run_errors: u64,
    begin_ns: u64,
    told_ns: u64,
    watched_ns: u64,
    idle: IdleTime,
    /// Nanoseconds of sweeping in this test before the round at hand, and of each core within it.
    base_ns: u64,
    busy_ns: Vec<u64>,
    pub speeds: CoreSpeeds,
    soak: Soak,
    /// How often the element at hand goes over the memory.
    weight: u64,
    /// Passes added as told last.
    added: u32,
    /// Bytes of the range at hand.
    range: u64,
    /// Share of the test that was done before the part at hand, and that the part is.
    done_ratio: f64,
    part_ratio: f64,
    /// Set when the run ends by itself rather than by the technician.
    ended: Option<EndReason>,
}

/// What a test works with in one pass.
pub(super) struct TestRun<'a> {
    pub spec: &'a TestSpec,
    pub pass: u32,
    pub march: March,
    pub rule: WordRule,
    /// Who sweeps.
    pub turns: Turns,
    /// How many of the cores sweep.
    pub sweepers: usize,
    /// How fast these are, where it differs; the same for all of a test: what one element leaves in a cache is flushed by shares.
    pub speeds: Vec<f64>,
    /// The planted word is still due in this pass.
    pub plant_due: bool,
    /// Seconds that the whole test is expected to take.
    pub seconds: f64,
}

impl<'a> Coordinator<'a> {
    fn new(setup: &'a RunSetup<'a>, tell: &'a mut dyn FnMut(News)) -> Self {
        let now = setup.clock.now_ns();
        Self {
            setup,
            tell,
            watch: Watch::new(setup.counters, setup.sensors),
            progress: Progress::default(),
            pending: Tally::default(),
            samples_left: 0,
            test_errors: 0,
            run_errors: 0,
            begin_ns: now,
            told_ns: now,
            watched_ns: now,
            idle: IdleTime::from(setup.clock.stalled_ns()),
            base_ns: 0,
            busy_ns: Vec::new(),
            speeds: CoreSpeeds::default(),
            soak: Soak::default(),
            weight: 1,
            added: setup.from.added_passes,
            range: 1,
            done_ratio: 0.0,
            part_ratio: 0.0,
            ended: None,
        }
    }

    fn passes(&mut self, specs: &[TestSpec]) -> EndReason {
        let mut pass = self.setup.from.pass.max(1) - 1;
        loop {
            let added = self.added_passes();
            let enough = self.setup.recipe.passes.is_some_and(|passes| pass >= passes.saturating_add(added));
            if enough && self.is_soaked() {
                return EndReason::Completed;
            }
            pass += 1;
            self.pass(pass, specs);
            if self.setup.control.order() == Order::Stop {
                return self.ended.unwrap_or(EndReason::Stopped);
            }
        }
    }

    /// Where it is to go on until the temperature is stable: whether it does.
    fn is_soaked(&mut self) -> bool {
        if !self.setup.recipe.soak {
            return true;
        }
        // A pass may be shorter than the time between two looks.
        self.look_around(true);
        self.soak.stands_still(self.setup.clock.now_ns())
    }

    fn pass(&mut self, pass: u32, specs: &[TestSpec]) {
        let seed = pass_seed(self.setup.seed, pass);
        self.say(News::PassBegan { pass, seed });
        self.progress = Progress { pass, ..Progress::default() };
        self.note_idle();
        let begin_ns = self.setup.clock.now_ns();
        let idle_ns = self.idle.until(begin_ns);
        // Another test each pass, so that over time every kind of check has to prove itself.
        let plant_at = (pass as usize - 1) % specs.len();
        let mut plant_due = true;
        let from = self.setup.from;
        let mut complete: Vec<bool> = specs.iter().map(|spec| from.has_finished(pass, spec)).collect();
        let before_ns = if complete.contains(&true) { from.finished_seconds * 1e9 } else { 0.0 };
        let mut at = from.next_open(pass, specs, 0);
        while let Some(spec) = specs.get(at) {
            let due = plant_due && (at >= plant_at || at + 1 == specs.len());
            let (finished, planted) = self.test(pass, spec, seed, due);
            plant_due &= !planted;
            complete[at] |= finished;
            if self.setup.control.order() == Order::Stop {
                break;
            }
            at = self.setup.control.take_target().unwrap_or_else(|| from.next_open(pass, specs, at + 1));
        }
        let complete = complete.into_iter().all(|finished| finished);
        self.note_idle();
        let end_ns = self.setup.clock.now_ns();
        let running_ns = (end_ns - begin_ns).saturating_sub(self.idle.until(end_ns) - idle_ns);
        self.say(News::PassEnded { pass, complete, seconds: (running_ns as f64 + before_ns) / 1e9 });
    }

    /// Returns whether the test finished and whether it proved the checker.
    fn test(&mut self, pass: u32, spec: &TestSpec, seed: u64, plant_due: bool) -> (bool, bool) {
        self.setup.control.begin_test();
        self.say(News::TestBegan { pass, test: spec.name.to_string() });
        self.watch.expect_other_load();
        self.progress = Progress { pass, test: spec.name.to_string(), ..Progress::default() };
        self.samples_left = TEST_SAMPLES;
        self.test_errors = 0;
        let recipe = self.setup.recipe;
        let turns = turns(recipe.cores, spec, self.setup.workers.len());
        let mut run = TestRun {
            spec,
            pass,
            march: spec.march_waiting(recipe.idle()),
            rule: WordRule::Constant(0),
            turns: turns[0],
            sweepers: self.setup.workers.len(),
            speeds: self.speeds.unequal(self.setup.workers.len()).unwrap_or_default(),
            plant_due,
            seconds: self.setup.rates.march_seconds(spec, recipe, self.setup.memory.layout().bytes())
                * turns.len() as f64,
        };
        (self.done_ratio, self.part_ratio, self.base_ns) = (0.0, 0.0, 0);
        self.busy_ns.clear();
        let mut finished = true;
        for turn in turns {
            run.turns = turn;
            finished = finished && self.work(&mut run, seed);
        }
        self.flush_news();
        self.say(News::TestEnded(TestEnd {
            pass,
            test: spec.name.to_string(),
            finished,
            errors: self.test_errors,
            bytes_swept: self.progress.test_done,
            sweep_ns: self.progress.test_ns,
        }));
        (finished, plant_due && !run.plant_due)
    }

    /// The elements of the march over the background at hand.
    pub(super) fn elements(&mut self, run: &mut TestRun<'_>) -> bool {
        let elements = run.march.0.clone();
        let mut leaves = None;
        for (at, element) in elements.iter().enumerate() {
            if !self.one_element(run, element, elements.get(at + 1), leaves) {
                return false;
            }
            leaves = element.leaves().or(leaves);
        }
        true
    }

    pub(super) fn one_element(
        &mut self,
        run: &mut TestRun<'_>,
        element: &Element,
        next: Option<&Element>,
        leaves: Option<bool>,
    ) -> bool {
        self.progress.element += 1;
        self.progress.notation = element.to_string();
        self.progress.done = 0;
        let bytes = self.setup.memory.layout().bytes() as f64;
        let seconds = self.setup.rates.element_seconds(element, run.spec.path(), bytes);
        self.begin_part(seconds / run.seconds.max(1e-9));
        let done = match element {
            Element::Idle(wait) => self.idle(*wait),
            Element::Sweep { .. } => self.element(run, element, next, leaves),
        };
        self.end_part();
        done
    }

    /// A part of the test begins that is this share of it.
    pub(super) fn begin_part(&mut self, share: f64) {
        self.part_ratio = share;
    }

    pub(super) fn end_part(&mut self) {
        self.done_ratio += std::mem::take(&mut self.part_ratio);
        self.progress.test_ppm = ppm(self.done_ratio);
    }

    /// So much of the part at hand is done, 0 to 1.
    fn in_part(&mut self, share: f64) {
        self.progress.test_ppm = ppm(self.done_ratio + self.part_ratio * share);
    }

    /// Waits in small pieces, so that control is still listened to.
    fn idle(&mut self, wait: Duration) -> bool {
        let until = self.setup.clock.now_ns() + wait.as_nanos() as u64;
        let mut told_ns = self.setup.clock.now_ns();
        while self.setup.clock.now_ns() < until {
            self.setup.clock.sleep(POLL.min(Duration::from_nanos(until - self.setup.clock.now_ns())));
            self.check_ends();
            self.look_around(false);
            let now = self.setup.clock.now_ns();
            self.in_part(1.0 - until.saturating_sub(now) as f64 / (wait.as_nanos() as f64).max(1.0));
            if now - told_ns >= IDLE_TELL_NS {
                told_ns = now;
                self.flush_news();
            }
            self.setup.control.wait_while_paused();
            if self.setup.control.order() != Order::Go {
                return false;
            }
        }
        true
    }

    fn element(
        &mut self,
        run: &mut TestRun<'_>,
        element: &Element,
        next: Option<&Element>,
        leaves: Option<bool>,
    ) -> bool {
        let Some(work) = ElementWork::of(element, run.rule) else { return true };
        let work = ElementWork { path: run.spec.path(), ..work };
        let memory = self.setup.memory;
        let plant_seed = self.setup.seed ^ u64::from(self.progress.pass) << 32;
        let plant = match leaves {
            Some(leaves) if run.plant_due && element.reads() => plant::plant(memory, run.rule, leaves, plant_seed),
            _ => None,
        };
        let held = 0..memory.layout().bytes();
        let plant_seen = self.sweep_over(run, &work, plant, held.clone(), Some((element, next)));
        let finished = self.setup.control.order() == Order::Go || self.progress.done == held.end;
        if let Some(plant) = plant {
            plant::remove(memory, plant, element, plant_seen || finished);
            if plant_seen || finished {
                run.plant_due = false;
                self.say(News::Planted {
                    pass: self.progress.pass,
                    test: run.spec.name.to_string(),
                    address: memory.address_of(plant.offset),
                    caught: plant_seen,
                });
            }
        }
        self.note_changes();
        finished && self.setup.control.order() == Order::Go
    }

    /// Sweeps a range with all cores that sweep, and flushes what the next element must not find in a cache. Returns
    /// whether the planted word was seen.
    pub(super) fn sweep_over(
        &mut self,
        run: &mut TestRun<'_>,
        work: &ElementWork,
        plant: Option<Plant>,
        held: Range<u64>,
        elements: Option<(&Element, Option<&Element>)>,
    ) -> bool {
        self.weight = count_pieces(&work.ops) as u64;
        self.range = (held.end - held.start).max(1);
        let mut plant_seen = false;
        for mut round in rounds(run.turns, run.sweepers, &run.speeds, held.end - held.start, work.down) {
            for share in &mut round {
                share.held = held.start + share.held.start..held.start + share.held.end;
            }
            plant_seen |= self.round(run, work, plant, &round);
            if let Some((element, next)) = elements {
                self.flush_round(element, next, &round);
            }
        }
        plant_seen
    }

    /// What so many workers share.
    pub(super) fn ground<'b>(
        &self,
        run: &'b TestRun<'_>,
        work: &'b ElementWork,
        plant: Option<Plant>,
        workers: usize,
    ) -> Ground<'b>
    where
        'a: 'b,
    {
        Ground {
            memory: self.setup.memory,
            clock: self.setup.clock,
            control: self.setup.control,
            places: self.setup.places,
            work,
            plant,
            test: run.spec.name.as_ref(),
            pass: self.progress.pass,
            element: self.progress.element,
            workers: self.setup.workers,
            looks: LOOKS / workers.max(1) as u32,
        }
    }

    /// Runs one round and returns whether the planted word was seen.
    fn round(&mut self, run: &TestRun<'_>, work: &ElementWork, plant: Option<Plant>, round: &Round) -> bool {
        let ground = self.ground(run, work, plant, round.len());
        let mut plant_seen = false;
        self.base_ns = self.progress.test_ns;
        self.busy_ns = vec![0; self.setup.workers.len().max(1)];
        if self.setup.memory.is_concurrent() {
            std::thread::scope(|scope| {
                let (sender, reports) = mpsc::channel::<Report>();
                for share in round {
                    let sender = sender.clone();
                    let ground = &ground;
                    // A report that nobody waits for any more can only come after the scope, which waits for workers.
                    beside(scope, move || sweep_share(ground, share, &mut |report| drop(sender.send(report))));
                }
                drop(sender);
                loop {
                    match reports.recv_timeout(POLL) {
                        Ok(report) => plant_seen |= self.take(report),
                        Err(mpsc::RecvTimeoutError::Timeout) => {}
                        Err(mpsc::RecvTimeoutError::Disconnected) => break,
                    }
                    self.check_ends();
                }
            });
        } else {
            for share in round {
                sweep_share(&ground, share, &mut |report| {
                    plant_seen |= self.take(report);
                    self.check_ends();
                });
            }
        }
        plant_seen
    }

    /// Samples that may be told by now: half of them at once, the rest as the test goes on, so that a flood at its beginning does not
    /// leave the rest of the memory without any.
    fn samples_open(&self) -> usize {
        let later = TEST_SAMPLES / 2;
        let held_back = later - later * self.progress.test_ppm.min(1_000_000) as usize / 1_000_000;
        self.samples_left.saturating_sub(held_back)
    }

    pub(super) fn take(&mut self, report: Report) -> bool {
        if let Some(busy) = self.busy_ns.get_mut(report.core) {
            *busy += report.busy_ns;
        }
        if self.setup.memory.is_concurrent() {
            self.speeds.note(report.core, report.bytes * self.weight, report.busy_ns);
        }
        // Workers of a round run beside each other: the slowest one is the time of the sweep. Simulated memory runs
        // them one after the other and shares one clock.
        let round_ns: u64 = match self.setup.memory.is_concurrent() {
            true => self.busy_ns.iter().max().copied().unwrap_or(0),
            false => self.busy_ns.iter().sum(),
        };
        self.progress.test_ns = self.base_ns + round_ns;
        self.progress.done += report.bytes;
        self.progress.test_done += report.bytes * self.weight;
        self.in_part(self.progress.done as f64 / self.range as f64);
        let first = self.run_errors == 0 && !report.tally.is_empty();
        self.count_errors(report.tally.most_words());
        let before = self.pending.samples.len();
        self.pending.merge(&report.tally, before + self.samples_open());
        self.samples_left -= self.pending.samples.len() - before;
        if report.pausing {
            self.flush_news();
        }
        self.note_idle();
        let now = self.setup.clock.now_ns();
        if first || now - self.told_ns >= TELL_NS {
            self.flush_news();
        }
        self.look_around(false);
        report.plant_seen
    }

    pub(super) fn count_errors(&mut self, errors: u64) {
        self.test_errors += errors;
        self.run_errors += errors;
    }

    /// Tells what was gathered since the last time.
    pub(super) fn flush_news(&mut self) {
        self.told_ns = self.setup.clock.now_ns();
        if !self.pending.is_empty() {
            let tally = std::mem::take(&mut self.pending);
            let report = ErrorReport { pass: self.progress.pass, test: self.progress.test.clone(), tally };
            self.say(News::Errors(Box::new(report)));
        }
        let progress = self.progress.clone();
        self.say(News::Progress(progress));
    }

    fn flush_round(&mut self, element: &Element, next: Option<&Element>, round: &Round) {
        let recipe = self.setup.recipe;
        std::thread::scope(|scope| {
            for share in round {
                let tail = flush_after(element, next, share.held.clone(), self.setup.cache_bytes, recipe.caches);
                if tail.is_empty() {
                    continue;
                }
                let (memory, control) = (self.setup.memory, self.setup.control);
                let down = matches!(element, Element::Sweep { order: crate::march::Order::Down, .. });
                let flush = move || flush_blocks(memory, control, tail, down);
                if memory.is_concurrent() {
                    beside(scope, flush);
                } else {
                    flush();
                }
            }
        });
    }

    pub(super) fn note_changes(&mut self) {
        let changes = self.setup.memory.changes();
        let ranges = |held: &Range<u64>| self.setup.memory.layout().ranges_of(held.clone());
        if !changes.moved.is_empty() {
            let bytes = changes.moved.iter().map(|held| held.end - held.start).sum();
            let moved = changes.moved.iter().flat_map(|held| ranges(held).ranges().to_vec()).collect();
            self.say(News::Moved { ranges: moved, bytes });
        }
        for (held, address) in changes.lost {
            let slots = self.setup.places.slots_of(address).0;
            self.say(News::Uncorrected { address, slots, bytes: held.end - held.start });
        }
    }

    fn look_around(&mut self, now: bool) {
        let now_ns = self.setup.clock.now_ns();
        if now || now_ns - self.watched_ns >= WATCH_NS {
            self.watched_ns = now_ns;
            for entry in self.watch.look() {
                if let News::Heat { celsius, .. } = entry {
                    self.soak.note(now_ns, celsius);
                }
                self.say(entry);
            }
        }
    }

    fn note_idle(&mut self) {
        let clock = self.setup.clock;
        // Standing still came before a pause that begins now, and within one that ends now.
        let stalled = self.idle.stall(clock.stalled_ns());
        let paused = self.idle.pause(self.setup.control.is_paused(), clock.now_ns());
        [stalled, paused].into_iter().flatten().for_each(|news| self.say(news));
    }

    /// Ends the run when its time is up or when enough errors were found.
    pub(super) fn check_ends(&mut self) {
        self.note_idle();
        let added = self.added_passes();
        if added != self.added {
            self.added = added;
            self.say(News::Extended { passes: added });
        }
        if self.ended.is_some() {
            return;
        }
        let recipe = self.setup.recipe;
        // A pause tests nothing, so it does not use up the time.
        let now = self.setup.clock.now_ns();
        let spent_ns = (self.setup.from.spent_seconds.max(0.0) * 1e9) as u64;
        let ran_ns = (now - self.begin_ns).saturating_sub(self.idle.until(now));
        let elapsed_ns = ran_ns.saturating_add(spent_ns);
        let time_up = recipe.for_seconds.is_some_and(|seconds| elapsed_ns >= seconds.saturating_mul(1_000_000_000));
        let enough = recipe.stop_after.is_some_and(|limit| self.run_errors >= limit);
        self.ended = match (enough, time_up) {
            (true, _) => Some(EndReason::ErrorLimit),
            (false, true) => Some(EndReason::TimeUp),
            (false, false) => None,
        };
        if self.ended.is_some() && self.setup.control.order() != Order::Stop {
            self.setup.control.stop();
        }
    }

    fn added_passes(&self) -> u32 {
        self.setup.from.added_passes.saturating_add(self.setup.control.added_passes())
    }

    pub(super) fn say(&mut self, news: News) {
        (self.tell)(news);
    }
}

/// A share in millionths.
fn ppm(share: f64) -> u32 {
    (share.clamp(0.0, 1.0) * 1e6).round() as u32
}
