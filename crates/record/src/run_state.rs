//! What a run's records add up to. A live run and a journal opened again use this same fold, so both look the same.

use std::collections::BTreeMap;

use crate::counts::Counts;
use crate::digest::Digest;
use crate::journal::{Begin, Damage, Entry, Framed, Held, Reading};
use crate::timeline::Timeline;
use crate::totals::Totals;
use crate::warmth::Warmth;
use revisum_engine::host::CoreClock;
use revisum_engine::news::{EndReason, ErrorReport, Progress, RowsOpened, TestEnd};
use revisum_engine::tally::Tally;
use revisum_engine::units::RangeSet;

/// Passes of which temperatures are kept: the latest.
const MOST_PASSES: usize = MOST_CELLS;
/// Samples kept for a whole run.
const MOST_SAMPLES: usize = 512;

/// One test in one pass.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct CellState {
    /// Pass, from 1.
    pub pass: u32,
    /// Words that read wrong.
    pub errors: u64,
    /// Bytes swept so far.
    pub bytes_swept: u64,
    /// Nanoseconds of the sweeps.
    pub sweep_ns: u64,
    /// Over: `Some(true)` when all its elements ran.
    pub finished: Option<bool>,
}

/// One test over all passes.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct TestState {
    /// Name.
    pub name: String,
    /// Passes in which it finished.
    pub passes: u32,
    /// Words that read wrong, over all passes.
    pub errors: u64,
    /// Bytes swept, over all passes.
    pub bytes_swept: u64,
    /// Nanoseconds of the sweeps, over all passes.
    pub sweep_ns: u64,
    /// Milliseconds that it ran, waits included and pauses left out, over all passes that are over.
    pub ran_ms: u64,
    /// Milliseconds of the run without pauses when it began, while it goes on.
    pub began_ms: Option<u64>,
    /// The clock of the cores while it ran.
    pub clock: Option<CoreClock>,
    /// The latest passes, oldest first; at most [`MOST_CELLS`].
    pub cells: Vec<CellState>,
}

/// Passes kept one by one; a run without end must not grow.
pub const MOST_CELLS: usize = 64;

impl TestState {
    /// Nanoseconds of sweeping over all passes, that of a test that is not over too.
    pub fn all_sweep_ns(&self) -> u64 {
        let open = self.cells.iter().filter(|cell| cell.finished.is_none());
        open.fold(self.sweep_ns, |all, cell| all.saturating_add(cell.sweep_ns))
    }

    fn cell(&mut self, pass: u32) -> &mut CellState {
        let at = match self.cells.iter().rposition(|cell| cell.pass == pass) {
            Some(at) => at,
            None => {
                if self.cells.len() == MOST_CELLS {
                    self.cells.remove(0);
                }
                self.cells.push(CellState { pass, ..CellState::default() });
                self.cells.len() - 1
            }
        };
        &mut self.cells[at]
    }
}

/// Errors that the hardware itself reported.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct HardwareErrors {
    /// Counted as corrected.
    pub corrected: u64,
    /// Counted or signalled as uncorrected.
    pub uncorrected: u64,
    /// Where, in the words of drivers and as addresses; the first few.
    pub places: Vec<String>,
}

/// Everything known of a run.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct RunState {
    /// Id of the journal.
    pub id: String,
    /// Header.
    pub begin: Begin,
    /// What is held.
    pub held: Held,
    /// Tests in running order.
    pub tests: Vec<TestState>,
    /// Where it is.
    pub progress: Progress,
    /// Current or last pass.
    pub pass: u32,
    /// Passes in which every test finished, and the seconds that they took.
    pub full_passes: u32,
    /// Seconds of the full passes.
    pub full_pass_seconds: f64,
    /// All wrong words.
    pub errors: Tally,
    /// A fair sample of the words that read wrong, as far as they were kept one by one.
    pub digest: Digest,
    /// When the first wrong word was recorded, in milliseconds since the start.
    pub first_error_ms: Option<u64>,
    /// Milliseconds for which the test that showed it had run until then.
    pub first_error_test_ms: u64,
    /// How warm it was then, in °C.
    pub first_error_celsius: Option<f64>,
    /// Planted words reported.
    pub plants_caught: u32,
    /// Planted words not reported.
    pub plants_missed: u32,
    /// What moved away while held.
    pub moved: RangeSet,
    /// Bytes that moved or were lost.
    pub void_bytes: u64,
    /// Those of them that were taken out after an uncorrectable hardware error.
    pub taken_out_bytes: u64,
    /// Passes added while it ran.
    pub added_passes: u32,
    /// Numbers that were computed wrong under load.
    pub miscalculated: u64,
    /// Reports of wrong words whose ways of counting did not agree: the memory that the tester itself works in may be bad.
    pub miscounted: u32,
    /// Milliseconds that the machine slept in all.
    pub slept_ms: u64,
    /// Rows that were opened to disturb others: of all passes the least sure choice and the fewest openings.
    pub rows_opened: Option<RowsOpened>,
    /// Hardware reports.
    pub hardware: HardwareErrors,
    /// Wrong words and temperature over time.
    pub timeline: Timeline,
    /// Time and errors by temperature.
    pub warmth: Warmth,
    /// Latest temperature.
    pub heat: Option<(String, f64)>,
    /// The clock of the cores in the latest test.
    pub core_clock: Option<CoreClock>,
    /// Lowest and highest temperature in °C.
    pub celsius: Option<(f64, f64)>,
    /// The same in each of the latest passes.
    pub pass_celsius: BTreeMap<u32, (f64, f64)>,
    /// Paused now.
    pub paused: bool,
    /// Why it ended.
    pub end: Option<EndReason>,
    /// Milliseconds since the start at the latest record.
    pub t_ms: u64,
    /// Milliseconds spent in pauses.
    pub paused_ms: u64,
    /// Records folded.
    pub records: u64,
    /// Milliseconds in which nothing ran, pauses left out.
    pub stalled_ms: u64,
    /// When the pause at hand began.
    pub paused_at_ms: Option<u64>,
    /// Latest pass that is over.
    pub passes_over: u32,
    /// Milliseconds without pauses until the pass at hand began.
    pub pass_began_ms: u64,
    /// Milliseconds without pauses until the latest test finished.
    pub finished_ms: u64,
    /// What could not be read of its journal; nothing while it is only told.
    pub damage: Damage,
}

/// A journal may hold any number: a count then stays at the highest there is.
trait Count: Copy {
    fn plus(self, by: Self) -> Self;
}

impl Count for u32 {
    fn plus(self, by: Self) -> Self {
        self.saturating_add(by)
    }
}

impl Count for u64 {
    fn plus(self, by: Self) -> Self {
        self.saturating_add(by)
    }
}

fn raise<T: Count>(count: &mut T, by: impl std::borrow::Borrow<T>) {
    *count = count.plus(*by.borrow());
}

impl RunState {
    /// Takes one more record that nobody else needs: the large ones are moved, where [`Self::apply`] copies them.
    pub fn absorb(&mut self, framed: Framed<Entry>) {
        match framed.entry {
            Entry::Begin(begin) => {
                self.count(framed.t_ms);
                self.take_begin(framed.journal, *begin);
            }
            Entry::Held(held) => {
                self.count(framed.t_ms);
                self.held = held;
            }
            _ => self.apply(&framed),
        }
    }

    /// Takes what reading its journal came to: of what lost records told, the rest still tells the worst.
    pub fn heed(&mut self, reading: &Reading) {
        self.damage = reading.damage.clone();
        let told = &reading.totals;
        self.errors.words = self.errors.words.max(told.errors);
        self.miscalculated = self.miscalculated.max(told.miscalculated);
        self.hardware.corrected = self.hardware.corrected.max(told.corrected);
        self.hardware.uncorrected = self.hardware.uncorrected.max(told.uncorrected);
        self.plants_missed = self.plants_missed.max(u32::try_from(told.checks_missed).unwrap_or(u32::MAX));
        self.void_bytes = self.void_bytes.max(told.void_bytes);
        self.paused_ms = self.paused_ms.max(told.idle_ms.saturating_sub(self.stalled_ms));
    }

    /// What stands in each record, so that it is not lost with another.
    pub fn totals(&self) -> Totals {
        let counts = self.counts();
        Totals {
            errors: counts.errors,
            miscalculated: counts.miscalculated,
            corrected: counts.corrected,
            uncorrected: counts.uncorrected,
            checks_missed: u64::from(counts.checks_missed),
            void_bytes: self.void_bytes,
            idle_ms: self.paused_ms.saturating_add(self.stalled_ms),
        }
    }

    /// Time of pauses belongs to no temperature.
    fn pass_time(&mut self, t_ms: u64) {
        let before = self.running_ms();
        self.count(t_ms);
        if let Some((_, celsius)) = &self.heat {
            let ran_ms = self.running_ms().saturating_sub(before);
            self.warmth.add_time(&self.progress.test, *celsius, ran_ms);
        }
    }

    fn count(&mut self, t_ms: u64) {
        raise(&mut self.records, 1u64);
        self.t_ms = self.t_ms.max(t_ms);
        self.timeline.reach(t_ms);
    }

    /// Takes one more record.
    pub fn apply(&mut self, framed: &Framed<Entry>) {
        self.pass_time(framed.t_ms);
        match &framed.entry {
            Entry::Begin(begin) => self.take_begin(framed.journal.clone(), begin.as_ref().clone()),
            Entry::Held(held) => self.held = held.clone(),
            Entry::HeldMore { ranges } => self.held.ranges = joined(&self.held.ranges, ranges),
            Entry::PassBegan { pass, .. } => {
                self.pass = *pass;
                self.pass_began_ms = self.running_ms();
                self.finished_ms = self.pass_began_ms;
            }
            Entry::TestBegan { pass, test } => {
                let now = self.running_ms();
                self.test(test).began_ms = Some(now);
                self.test(test).cell(*pass);
                self.progress = Progress { pass: *pass, test: test.clone(), ..Progress::default() };
            }
            Entry::Progress(progress) => self.apply_progress(progress),
            Entry::Errors(report) => self.apply_errors(framed.t_ms, report),
            Entry::Planted { caught: true, .. } => self.plants_caught += 1,
            Entry::Planted { caught: false, .. } => self.plants_missed += 1,
            Entry::Moved { ranges, bytes } => {
                self.moved = joined(&self.moved, ranges);
                raise(&mut self.void_bytes, bytes);
            }
            Entry::Uncorrected { address, bytes, .. } => {
                raise(&mut self.void_bytes, bytes);
                raise(&mut self.taken_out_bytes, bytes);
                raise(&mut self.hardware.uncorrected, 1u64);
                // Where is not always said.
                if let Some(at) = address {
                    self.note_place(at.to_string());
                }
            }
            Entry::Corrected { label, corrected, uncorrected } => {
                raise(&mut self.hardware.corrected, corrected);
                raise(&mut self.hardware.uncorrected, uncorrected);
                self.note_place(label.clone());
            }
            Entry::Miscalculated { test, numbers, .. } => {
                raise(&mut self.miscalculated, numbers);
                self.note_error(framed.t_ms, test);
                raise(&mut self.test(test).errors, numbers);
                let pass = self.pass;
                raise(&mut self.test(test).cell(pass).errors, numbers);
            }
            Entry::RowsOpened(told) => {
                let before = self.rows_opened.take().unwrap_or_else(|| told.clone());
                let (by, openings) = (before.by.max(told.by), before.openings.min(told.openings));
                self.rows_opened = Some(RowsOpened { by, openings, ..told.clone() });
            }
            Entry::Slept { ms, .. } => raise(&mut self.slept_ms, ms),
            Entry::Extended { passes } => self.added_passes = *passes,
            Entry::Clock(clock) => {
                self.core_clock = Some(*clock);
                if !self.progress.test.is_empty() {
                    let name = self.progress.test.clone();
                    let test = self.test(&name);
                    test.clock = Some(test.clock.map_or(*clock, |before| before.with(*clock)));
                }
            }
            Entry::Heat { sensor, celsius } => {
                self.heat = Some((sensor.clone(), *celsius));
                self.timeline.add_heat(framed.t_ms, *celsius);
                let (low, high) = self.celsius.unwrap_or((*celsius, *celsius));
                self.celsius = Some((low.min(*celsius), high.max(*celsius)));
                let pass = self.pass_celsius.entry(self.pass).or_insert((*celsius, *celsius));
                *pass = (pass.0.min(*celsius), pass.1.max(*celsius));
                while self.pass_celsius.len() > MOST_PASSES {
                    self.pass_celsius.pop_first();
                }
            }
            Entry::Stalled { ms } => raise(&mut self.stalled_ms, ms),
            Entry::Paused => {
                self.paused = true;
                self.paused_at_ms = Some(framed.t_ms);
            }
            Entry::Resumed => self.resume(framed.t_ms),
            Entry::TestEnded(end) => self.apply_test_end(end),
            Entry::PassEnded { pass, complete, seconds } => self.apply_pass_end(*pass, *complete, *seconds),
            Entry::Ended { reason } => {
                self.resume(framed.t_ms);
                self.end = Some(*reason);
            }
        }
    }

    fn take_begin(&mut self, id: String, begin: Begin) {
        self.id = id;
        let specs = begin.recipe.as_ref().and_then(|recipe| recipe.specs().ok()).unwrap_or_default();
        self.tests =
            specs.iter().map(|spec| TestState { name: spec.name.to_string(), ..TestState::default() }).collect();
        self.added_passes = begin.continues.as_ref().map_or(0, |part| part.added_passes);
        self.begin = begin;
    }

    fn apply_progress(&mut self, progress: &Progress) {
        self.progress = progress.clone();
        let cell = self.test(&progress.test).cell(progress.pass);
        cell.bytes_swept = progress.test_done;
        cell.sweep_ns = progress.test_ns;
    }

    fn apply_errors(&mut self, t_ms: u64, report: &ErrorReport) {
        self.note_error(t_ms, &report.test);
        let words = report.tally.most_words();
        raise(&mut self.miscounted, u32::from(!report.tally.agrees()));
        self.timeline.add_errors(t_ms, words);
        let top = self.top();
        for (at, bytes, _) in report.tally.places.places() {
            self.timeline.add_place(t_ms, at, at.saturating_add(bytes), top);
        }
        for sample in &report.tally.samples {
            let place = sample.address.map_or(sample.offset, |address| address.0);
            self.digest.add(place, sample.expected.0, sample.actual.0, sample.kind);
        }
        self.errors.merge(&report.tally, MOST_SAMPLES);
        raise(&mut self.errors.words, words.saturating_sub(report.tally.words));
        let test = self.test(&report.test);
        raise(&mut test.errors, words);
        raise(&mut test.cell(report.pass).errors, words);
    }

    fn note_error(&mut self, t_ms: u64, test: &str) {
        if let Some((_, celsius)) = &self.heat {
            self.warmth.add_errors(test, *celsius, t_ms);
        }
        if self.first_error_ms.is_none() {
            let now = self.running_ms();
            let test = self.test(test);
            let ran = test.ran_ms.saturating_add(test.began_ms.map_or(0, |began| now.saturating_sub(began)));
            self.first_error_test_ms = ran;
            self.first_error_celsius = self.heat.as_ref().map(|(_, celsius)| *celsius);
            self.first_error_ms = Some(t_ms);
        }
    }

    fn apply_test_end(&mut self, end: &TestEnd) {
        let now = self.running_ms();
        let test = self.test(&end.test);
        let began = test.began_ms.take().unwrap_or(now);
        raise(&mut test.ran_ms, now.saturating_sub(began));
        raise(&mut test.passes, u32::from(end.finished));
        raise(&mut test.bytes_swept, end.bytes_swept);
        raise(&mut test.sweep_ns, end.sweep_ns);
        let cell = test.cell(end.pass);
        (cell.bytes_swept, cell.sweep_ns, cell.finished) = (end.bytes_swept, end.sweep_ns, Some(end.finished));
        // The end of a test knows how many there were: what is missing was lost on the way.
        let lost = end.errors.saturating_sub(cell.errors);
        raise(&mut cell.errors, lost);
        raise(&mut test.errors, lost);
        raise(&mut self.errors.words, lost);
        if end.finished {
            self.finished_ms = now;
        }
    }

    fn apply_pass_end(&mut self, pass: u32, complete: bool, seconds: f64) {
        if complete {
            raise(&mut self.full_passes, 1u32);
            self.full_pass_seconds += seconds;
            self.passes_over = self.passes_over.max(pass);
        }
    }

    fn resume(&mut self, t_ms: u64) {
        self.paused = false;
        if let Some(since) = self.paused_at_ms.take() {
            raise(&mut self.paused_ms, t_ms.saturating_sub(since));
        }
    }

    fn note_place(&mut self, place: String) {
        if self.hardware.places.len() < 8 && !self.hardware.places.contains(&place) {
            self.hardware.places.push(place);
        }
    }

    /// The test of this name; one that the header did not announce is added at the end.
    fn test(&mut self, name: &str) -> &mut TestState {
        let at = self.tests.iter().position(|test| test.name == name).unwrap_or_else(|| {
            self.tests.push(TestState { name: name.to_owned(), ..TestState::default() });
            self.tests.len() - 1
        });
        &mut self.tests[at]
    }

    /// What this record alone counted, without earlier parts of a continued run.
    pub fn counts(&self) -> Counts {
        Counts {
            errors: self.errors.words,
            miscalculated: self.miscalculated,
            corrected: self.hardware.corrected,
            uncorrected: self.hardware.uncorrected,
            checks_caught: self.plants_caught,
            checks_missed: self.plants_missed,
        }
    }

    /// End of the addresses that errors are placed in: of the highest held one, or the bytes held where addresses are unknown.
    pub fn top(&self) -> u64 {
        let highest = self.held.ranges.ranges().last().map_or(0, |range| range.end);
        if self.held.addresses_known { highest } else { self.held.bytes }
    }

    /// Any error in this record, from the sweeps or from the hardware itself.
    pub fn has_errors(&self) -> bool {
        self.counts().any()
    }

    /// Memory that every requested test finished on, in bytes.
    pub fn tested_bytes(&self) -> u64 {
        let all_finished = !self.tests.is_empty() && self.tests.iter().all(|test| test.passes > 0);
        if all_finished { self.held.bytes.saturating_sub(self.void_bytes) } else { 0 }
    }

    /// Seconds since the start, pauses left out.
    pub fn running_seconds(&self) -> f64 {
        self.running_ms() as f64 / 1000.0
    }

    fn running_ms(&self) -> u64 {
        self.t_ms.saturating_sub(self.all_paused_ms()).saturating_sub(self.stalled_ms)
    }

    /// Milliseconds in pauses, the one at hand too.
    pub fn all_paused_ms(&self) -> u64 {
        self.paused_ms.saturating_add(self.paused_at_ms.map_or(0, |since| self.t_ms.saturating_sub(since)))
    }

    /// Seconds that one pass is expected to take.
    pub fn pass_seconds(&self) -> f64 {
        self.held.expected.iter().map(|(_, seconds)| seconds).sum()
    }

    /// Share of this pass that is done, 0 to 1, by the time that its tests are expected to take.
    pub fn pass_ratio(&self) -> f64 {
        let over = |name: &str| {
            let cells = self.tests.iter().find(|test| test.name == name).map(|test| test.cells.as_slice());
            cells.and_then(<[CellState]>::last).is_some_and(|cell| cell.pass == self.pass && cell.finished.is_some())
        };
        let done = |(name, seconds): &(String, f64)| match () {
            () if over(name) => *seconds,
            () if *name == self.progress.test && self.progress.pass == self.pass => {
                seconds * f64::from(self.progress.test_ppm) / 1e6
            }
            () => 0.0,
        };
        let done: f64 = self.held.expected.iter().map(done).sum();
        // The sum of nothing is a negative zero, which would be shown with its sign.
        (done / self.pass_seconds().max(1e-9)).min(1.0) + 0.0
    }

    /// Share of the whole plan that is done, 0 to 1; nothing when the plan has no end.
    pub fn plan_ratio(&self) -> Option<f64> {
        if self.end.is_some() {
            return Some(1.0);
        }
        // When the temperature will stand still nobody knows.
        let recipe = self.begin.recipe.as_ref().filter(|recipe| !recipe.soak)?;
        let by_passes = recipe
            .passes
            .map(|passes| passes.saturating_add(self.added_passes))
            .map(|passes| (f64::from(self.pass.saturating_sub(1)) + self.pass_ratio()) / f64::from(passes.max(1)));
        let before = self.begin.continues.as_ref().map_or(0.0, |part| part.counted_seconds);
        let by_time = recipe.for_seconds.map(|seconds| (self.running_seconds() + before) / (seconds as f64).max(1.0));
        [by_passes, by_time].into_iter().flatten().reduce(f64::max).map(|ratio| ratio.min(1.0))
    }

    /// Seconds that are left by the pace so far; nothing when that cannot be told yet.
    pub fn seconds_left(&self) -> Option<f64> {
        let done = self.plan_ratio()?;
        let before = self.begin.continues.as_ref().map_or(0.0, |part| part.counted_seconds);
        (done > 0.01 && self.end.is_none()).then(|| (self.running_seconds() + before) * (1.0 - done) / done)
    }
}

fn joined(a: &RangeSet, b: &RangeSet) -> RangeSet {
    a.ranges().iter().chain(b.ranges()).copied().collect()
}

#[cfg(test)]
mod tests {
    use super::*;
    use revisum_engine::recipe::{Depth, Recipe};
    use revisum_engine::units::ByteRange;

    fn folded(entries: Vec<Entry>) -> RunState {
        let mut state = RunState::default();
        for (seq, entry) in (0u64..).zip(entries) {
            state.apply(&Framed { journal: "j".into(), seq, t_ms: seq * 1000, entry });
        }
        state
    }

    fn begin() -> Entry {
        let recipe = Recipe { tests: vec!["random".into()], ..Recipe::of_depth(Depth::Triage) };
        Entry::Begin(Box::new(Begin { recipe: Some(recipe), ..Begin::default() }))
    }

    fn held() -> Entry {
        Entry::Held(Held { bytes: 1 << 20, expected: vec![("random".into(), 4.0)], ..Held::default() })
    }

    #[test]
    fn pauses_do_not_count_as_running_time() {
        let state = folded(vec![begin(), Entry::Paused, held(), held(), Entry::Resumed, held()]);
        assert!((state.running_seconds() - 2.0).abs() < 1e-9);
    }

    #[test]
    fn many_ranges_take_several_records_and_come_back_whole() {
        let ranges: RangeSet = (0..45_000u64).map(|page| ByteRange::new(page * 8192, page * 8192 + 4096)).collect();
        let entries = Held { ranges: ranges.clone(), ..Held::default() }.into_entries();
        assert_eq!(entries.len(), 3);
        assert!(entries.iter().all(|entry| serde_json::to_string(entry).unwrap().len() < 1 << 20));
        assert_eq!(folded(entries).held.ranges, ranges);
    }

    /// What the test before came to says nothing of it.
    #[test]
    fn a_test_that_begins_has_done_nothing_yet() {
        let progress = Progress { pass: 1, test: "random".into(), test_ppm: 1_000_000, ..Progress::default() };
        let again = [2, 1].map(|pass| Entry::TestBegan { pass, test: "random".into() });
        let pass = Entry::PassBegan { pass: 2, seed: 0 };
        let [second, first] = again;
        let state = folded(vec![begin(), held(), first, Entry::Progress(progress), pass, second]);
        assert_eq!((state.progress.test_ppm, state.pass_ratio()), (0, 0.0));
    }

    #[test]
    fn a_run_without_end_keeps_only_its_latest_passes() {
        let mut entries = vec![begin(), held()];
        entries.extend((1..200).map(|pass| Entry::TestBegan { pass, test: "random".into() }));
        let state = folded(entries);
        assert_eq!(state.tests[0].cells.len(), MOST_CELLS);
        assert_eq!(state.tests[0].cells.last().unwrap().pass, 199);
    }
}
