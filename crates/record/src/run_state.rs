//! What a run's records add up to. A live run and a journal opened again use this same fold, so both look the same.

use serde::{Deserialize, Serialize};

use crate::confidence::Worth;
use crate::digest::Digest;
use crate::journal::{Begin, Entry, Framed, Held};
use crate::timeline::Timeline;
use revisum_engine::catalog::Work;
use revisum_engine::news::{EndReason, ErrorReport, Progress, TestEnd};
use revisum_engine::tally::Tally;
use revisum_engine::units::{PhysAddr, RangeSet, counted};

/// Samples kept for a whole run.
const MOST_SAMPLES: usize = 512;

/// How a run stands or ended.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub enum Outcome {
    /// Running, no error yet.
    CleanSoFar,
    /// Ended as planned, every test finished, no error of any kind.
    Clean,
    /// Any error, however it ended.
    ErrorsFound,
    /// Ended before every test had finished once, nothing found.
    CutShort,
    /// Power loss, hang or restart: the journal has no end.
    Interrupted,
    /// A planted wrong word was not reported, so nothing that this run says can be believed.
    CheckingFailed,
}

impl Outcome {
    /// The words on the screen.
    pub fn words(self) -> &'static str {
        match self {
            Self::CleanSoFar => "clean so far",
            Self::Clean => "clean",
            Self::ErrorsFound => "errors found",
            Self::CutShort => "cut short",
            Self::Interrupted => "interrupted",
            Self::CheckingFailed => "checking failed",
        }
    }
}

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
    /// The latest passes, oldest first; at most [`MOST_CELLS`].
    pub cells: Vec<CellState>,
}

/// Passes kept one by one; a run without end must not grow.
pub const MOST_CELLS: usize = 64;

impl TestState {
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
    /// Planted words reported.
    pub plants_caught: u32,
    /// Planted words not reported.
    pub plants_missed: u32,
    /// What moved away while held.
    pub moved: RangeSet,
    /// Bytes that moved or were lost.
    pub void_bytes: u64,
    /// Passes added while it ran.
    pub added_passes: u32,
    /// Numbers that were computed wrong under load.
    pub miscalculated: u64,
    /// Hardware reports.
    pub hardware: HardwareErrors,
    /// Wrong words and temperature over time.
    pub timeline: Timeline,
    /// Latest temperature.
    pub heat: Option<(String, f64)>,
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
    /// When the pause at hand began.
    pub paused_at_ms: Option<u64>,
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

    fn count(&mut self, t_ms: u64) {
        raise(&mut self.records, 1u64);
        self.t_ms = self.t_ms.max(t_ms);
    }

    /// Takes one more record.
    pub fn apply(&mut self, framed: &Framed<Entry>) {
        self.count(framed.t_ms);
        match &framed.entry {
            Entry::Begin(begin) => self.take_begin(framed.journal.clone(), begin.as_ref().clone()),
            Entry::Held(held) => self.held = held.clone(),
            Entry::HeldMore { ranges } => self.held.ranges = joined(&self.held.ranges, ranges),
            Entry::PassBegan { pass, .. } => self.pass = *pass,
            Entry::TestBegan { pass, test } => {
                self.test(test).cell(*pass);
                self.progress.pass = *pass;
                self.progress.test.clone_from(test);
                (self.progress.test_done, self.progress.test_ns) = (0, 0);
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
                raise(&mut self.hardware.uncorrected, 1u64);
                self.note_place(address.map_or_else(|| "at an unknown address".into(), |at: PhysAddr| at.to_string()));
            }
            Entry::Corrected { label, corrected, uncorrected } => {
                raise(&mut self.hardware.corrected, corrected);
                raise(&mut self.hardware.uncorrected, uncorrected);
                self.note_place(label.clone());
            }
            Entry::Miscalculated { test, numbers, .. } => {
                raise(&mut self.miscalculated, numbers);
                self.first_error_ms.get_or_insert(framed.t_ms);
                raise(&mut self.test(test).errors, numbers);
                let pass = self.pass;
                raise(&mut self.test(test).cell(pass).errors, numbers);
            }
            Entry::Extended { passes } => self.added_passes = *passes,
            Entry::Heat { sensor, celsius } => {
                self.heat = Some((sensor.clone(), *celsius));
                self.timeline.add_heat(framed.t_ms, *celsius);
            }
            Entry::Paused => {
                self.paused = true;
                self.paused_at_ms = Some(framed.t_ms);
            }
            Entry::Resumed => self.resume(framed.t_ms),
            Entry::TestEnded(end) => self.apply_test_end(end),
            Entry::PassEnded { complete: true, seconds, .. } => {
                raise(&mut self.full_passes, 1u32);
                self.full_pass_seconds += seconds;
            }
            Entry::PassEnded { complete: false, .. } => {}
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
        self.begin = begin;
    }

    fn apply_progress(&mut self, progress: &Progress) {
        self.progress = progress.clone();
        let cell = self.test(&progress.test).cell(progress.pass);
        cell.bytes_swept = progress.test_done;
        cell.sweep_ns = progress.test_ns;
    }

    fn apply_errors(&mut self, t_ms: u64, report: &ErrorReport) {
        self.first_error_ms.get_or_insert(t_ms);
        let words = report.tally.words;
        self.timeline.add_errors(t_ms, words);
        for sample in &report.tally.samples {
            let place = sample.address.map_or(sample.offset, |address| address.0);
            self.digest.add(place, sample.expected.0, sample.actual.0, sample.kind);
        }
        self.errors.merge(&report.tally, MOST_SAMPLES);
        let test = self.test(&report.test);
        raise(&mut test.errors, words);
        raise(&mut test.cell(report.pass).errors, words);
    }

    fn apply_test_end(&mut self, end: &TestEnd) {
        let test = self.test(&end.test);
        raise(&mut test.passes, u32::from(end.finished));
        raise(&mut test.bytes_swept, end.bytes_swept);
        raise(&mut test.sweep_ns, end.sweep_ns);
        let cell = test.cell(end.pass);
        (cell.bytes_swept, cell.sweep_ns, cell.finished) = (end.bytes_swept, end.sweep_ns, Some(end.finished));
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

    /// Any error, from the sweeps or from the hardware itself.
    pub fn has_errors(&self) -> bool {
        self.errors.words > 0 || self.miscalculated > 0 || self.hardware.corrected > 0 || self.hardware.uncorrected > 0
    }

    /// How it stands; `live` tells a running run from one whose journal simply stops.
    pub fn outcome(&self, live: bool) -> Outcome {
        if self.end.is_none() && !live {
            return Outcome::Interrupted;
        }
        if self.has_errors() {
            return Outcome::ErrorsFound;
        }
        if self.plants_missed > 0 {
            return Outcome::CheckingFailed;
        }
        match self.end {
            None => Outcome::CleanSoFar,
            Some(_) if self.tested_bytes() > 0 && self.plants_caught > 0 => Outcome::Clean,
            Some(_) => Outcome::CutShort,
        }
    }

    /// Memory that every requested test finished on, in bytes.
    pub fn tested_bytes(&self) -> u64 {
        let all_finished = !self.tests.is_empty() && self.tests.iter().all(|test| test.passes > 0);
        if all_finished { self.held.bytes.saturating_sub(self.void_bytes) } else { 0 }
    }

    /// Seconds since the start, pauses left out.
    pub fn running_seconds(&self) -> f64 {
        let paused = self.paused_ms + self.paused_at_ms.map_or(0, |since| self.t_ms - since);
        self.t_ms.saturating_sub(paused) as f64 / 1000.0
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
        let recipe = self.begin.recipe.as_ref()?;
        let by_passes = recipe
            .passes
            .map(|passes| passes.saturating_add(self.added_passes))
            .map(|passes| (f64::from(self.pass.saturating_sub(1)) + self.pass_ratio()) / f64::from(passes.max(1)));
        let by_time = recipe.for_seconds.map(|seconds| self.t_ms as f64 / 1000.0 / seconds as f64);
        [by_passes, by_time].into_iter().flatten().reduce(f64::max).map(|ratio| ratio.min(1.0))
    }

    /// Seconds that are left by the pace so far; nothing when that cannot be told yet.
    pub fn seconds_left(&self) -> Option<f64> {
        let done = self.plan_ratio()?;
        (done > 0.01 && self.end.is_none()).then(|| self.running_seconds() * (1.0 - done) / done)
    }

    /// What a clean result would be worth: full passes only.
    pub fn worth(&self) -> Worth {
        Worth { passes: self.full_passes, seconds: self.full_pass_seconds }
    }

    /// The result in one or two sentences.
    pub fn sentence(&self, live: bool) -> String {
        match self.outcome(live) {
            Outcome::CleanSoFar => "No errors so far.".to_owned(),
            Outcome::Clean => format!("{} {}", self.worth().sentence(), self.scope()),
            Outcome::ErrorsFound => self.error_sentence(),
            Outcome::CutShort if self.end == Some(EndReason::TimeUp) => {
                "The time was up before every test had finished once; nothing was found until then.".to_owned()
            }
            Outcome::CutShort => {
                "Stopped before every test had finished once; nothing was found until then.".to_owned()
            }
            Outcome::Interrupted => self.interrupted_sentence(),
            Outcome::CheckingFailed => {
                "A wrong word was planted on purpose and the check did not report it. Nothing that this run says can \
                 be believed: run it again, and on another boot drive if this happens again."
                    .to_owned()
            }
        }
    }

    /// What a clean run speaks for: the loads that it had, how much of what is fitted, how warm it was.
    fn scope(&self) -> String {
        let specs = self.begin.recipe.as_ref().and_then(|recipe| recipe.specs().ok()).unwrap_or_default();
        let computing = specs.iter().any(|spec| spec.work == Work::Computing);
        let mut words = match computing {
            true => "It had patterns and computing load".to_owned(),
            false => "It had patterns, no computing load".to_owned(),
        };
        if let Some(fitted) = self.begin.fitted_bytes.filter(|fitted| *fitted > 0) {
            let percent = self.tested_bytes() as f64 / fitted as f64 * 100.0;
            words.push_str(&format!(", on {:.1} % of what is fitted", (percent * 10.0).floor() / 10.0));
        }
        let hottest = self.timeline.spans().iter().filter_map(|span| span.celsius).reduce(f64::max);
        if let Some(celsius) = hottest {
            words.push_str(&format!(", at up to {celsius:.0} °C"));
        }
        format!("{words}, and speaks for nothing else.")
    }

    fn error_sentence(&self) -> String {
        let mut parts = Vec::new();
        if self.errors.words > 0 {
            parts.push(format!("{} read wrong. None is normal.", counted(self.errors.words, "word")));
        }
        if self.miscalculated > 0 {
            parts.push(format!("{} came out wrong while computing under load.", counted(self.miscalculated, "number")));
        }
        if self.hardware.uncorrected > 0 {
            parts.push(format!(
                "The hardware reported {}.",
                counted(self.hardware.uncorrected, "uncorrected memory error")
            ));
        }
        if self.hardware.corrected > 0 {
            parts.push(format!("The hardware corrected {}.", counted(self.hardware.corrected, "memory error")));
        }
        parts.join(" ")
    }

    fn interrupted_sentence(&self) -> String {
        let place = if self.progress.test.is_empty() {
            "before the first test began".to_owned()
        } else {
            format!("in pass {} at {:.0} % of it, in {}", self.pass, self.pass_ratio() * 100.0, self.progress.test)
        };
        let found = if self.has_errors() { self.error_sentence() } else { "Nothing was found until then.".to_owned() };
        format!("The run broke off {place}: power loss, hang or restart. {found}")
    }
}

fn joined(a: &RangeSet, b: &RangeSet) -> RangeSet {
    a.ranges().iter().chain(b.ranges()).copied().collect()
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

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

    fn test_end(finished: bool) -> Entry {
        Entry::TestEnded(TestEnd { pass: 1, test: "random".into(), finished, ..TestEnd::default() })
    }

    fn planted(caught: bool) -> Entry {
        Entry::Planted { pass: 1, test: "random".into(), address: None, caught }
    }

    fn errors() -> Entry {
        let tally = Tally { words: 3, ..Tally::default() };
        Entry::Errors(Box::new(ErrorReport { pass: 1, test: "random".into(), tally }))
    }

    fn corrected() -> Entry {
        Entry::Corrected { label: "mc0".into(), corrected: 1, uncorrected: 0 }
    }

    const DONE: Entry = Entry::Ended { reason: EndReason::Completed };

    #[rstest]
    #[case::as_planned(vec![planted(true), test_end(true), DONE], Outcome::Clean)]
    #[case::nothing_proved_the_checker(vec![test_end(true), DONE], Outcome::CutShort)]
    #[case::no_test_finished(vec![planted(true), test_end(false), DONE], Outcome::CutShort)]
    #[case::any_error(vec![errors(), DONE], Outcome::ErrorsFound)]
    #[case::corrected_forbids_clean(vec![planted(true), corrected(), test_end(true), DONE], Outcome::ErrorsFound)]
    #[case::planted_word_missed(vec![planted(false), test_end(true), DONE], Outcome::CheckingFailed)]
    #[case::no_end(vec![planted(true), test_end(true)], Outcome::Interrupted)]
    #[case::no_end_with_errors(vec![errors()], Outcome::Interrupted)]
    fn outcomes(#[case] tail: Vec<Entry>, #[case] expected: Outcome) {
        let mut entries = vec![begin(), held()];
        entries.extend(tail);
        let state = folded(entries);
        assert_eq!(state.outcome(false), expected);
        assert!(!state.sentence(false).is_empty());
    }

    #[test]
    fn a_running_run_is_clean_so_far_until_it_is_not() {
        assert_eq!(folded(vec![begin(), held()]).outcome(true), Outcome::CleanSoFar);
        assert_eq!(folded(vec![begin(), held(), errors()]).outcome(true), Outcome::ErrorsFound);
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

    #[test]
    fn a_run_without_end_keeps_only_its_latest_passes() {
        let mut entries = vec![begin(), held()];
        entries.extend((1..200).map(|pass| Entry::TestBegan { pass, test: "random".into() }));
        let state = folded(entries);
        assert_eq!(state.tests[0].cells.len(), MOST_CELLS);
        assert_eq!(state.tests[0].cells.last().unwrap().pass, 199);
    }
}
