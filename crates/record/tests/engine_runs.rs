//! The engine over a small memory of words with faults of its own, and what the records of its runs add up to.

use std::io;
use std::ops::Range;
use std::sync::Mutex;
use std::sync::atomic::{AtomicU64, Ordering};
use std::time::Duration;

use rstest::rstest;

use revisum_engine::catalog::{BackgroundKind, OwnTest};
use revisum_engine::estimate::Rates;
use revisum_engine::host::{Clock, Counters, EccCount, NoSleep, Reading, Sensors, Sleeper};
use revisum_engine::march::Op;
use revisum_engine::memory::BLOCK_BYTES;
use revisum_engine::memory::{Changes, Layout, Memory, MismatchSink};
use revisum_engine::news::EndReason;
use revisum_engine::path::Path;
use revisum_engine::pattern::WordRule;
use revisum_engine::places::{Certainty, Places};
use revisum_engine::recipe::{Caches, CoreSharing, Depth, Recipe};
use revisum_engine::run::{Control, RunSetup, StartAt, expected, run};
use revisum_engine::sweep::second_look::{Kind, WordAccess};
use revisum_engine::sweep::{BadLine, BadWord, ElementWork, flip};
use revisum_engine::units::ByteRange;
use revisum_engine::units::PhysAddr;
use revisum_record::journal::{Entry, Framed};
use revisum_record::outcome::{Judgement, Outcome};
use revisum_record::run_state::RunState;

const BYTES: u64 = 3 * BLOCK_BYTES;
const BASE: u64 = 0x1_0000_0000;

/// Words in a vector; lane 3 of one word may stick at 1, and the checker may be blind.
struct Bench {
    layout: Layout,
    words: Mutex<Vec<u64>>,
    stuck_word: Option<usize>,
    blind: bool,
    /// Every word reads with these bits turned over; told line by line where that is allowed.
    drowned: Option<(u64, bool)>,
    changes: Mutex<Vec<Changes>>,
    concurrent: bool,
}

impl Bench {
    fn new() -> Self {
        Self {
            layout: Layout::new([(Some(BASE), BYTES)]),
            words: Mutex::new(vec![0; (BYTES / 8) as usize]),
            stuck_word: None,
            blind: false,
            drowned: None,
            changes: Mutex::default(),
            concurrent: false,
        }
    }
}

impl Bench {
    fn drown(&self, held: Range<u64>, work: &ElementWork, sink: &mut dyn MismatchSink, mask: u64, by_line: bool) {
        let Some(inverse) = work.ops.iter().find_map(|op| match op {
            Op::Read { inverse } => Some(*inverse),
            Op::Write { .. } => None,
        }) else {
            return;
        };
        let lines = (held.end - held.start) / 64;
        let mut words = vec![0];
        for step in 0..lines {
            let at = if work.down { lines - 1 - step } else { step };
            let offset = held.start + at * 64;
            let expected = std::array::from_fn(|word| {
                work.rule.word(self.layout.index_of(offset + word as u64 * 8)) ^ flip(inverse)
            });
            let line = BadLine { expected, actual: expected.map(|word: u64| word ^ mask) };
            if by_line && !sink.looks_again() {
                sink.line(offset, &line);
                continue;
            }
            for word in line.words(offset, work.down) {
                words[0] = word.actual;
                sink.mismatch(word, &mut Cell { words: &mut words, at: 0, stuck: false });
            }
        }
    }
}

struct Cell<'a> {
    words: &'a mut Vec<u64>,
    at: usize,
    stuck: bool,
}

impl WordAccess for Cell<'_> {
    fn read(&mut self) -> u64 {
        self.words[self.at] | if self.stuck { 8 } else { 0 }
    }
    fn write(&mut self, word: u64) {
        self.words[self.at] = word;
    }
}

impl Memory for Bench {
    fn layout(&self) -> &Layout {
        &self.layout
    }
    fn is_concurrent(&self) -> bool {
        self.concurrent
    }
    fn sweep(&self, held: Range<u64>, work: &ElementWork, sink: &mut dyn MismatchSink) {
        if let Some((mask, by_line)) = self.drowned {
            return self.drown(held, work, sink, mask, by_line);
        }
        let mut words = self.words.lock().unwrap();
        let (first, last) = ((held.start / 8) as usize, (held.end / 8) as usize);
        for step in first..last {
            let at = if work.down { first + last - 1 - step } else { step };
            let plain = work.rule.word(self.layout.index_of(at as u64 * 8 - work.moved));
            let mut cell = Cell { words: &mut words, at, stuck: self.stuck_word == Some(at) };
            for op in &work.ops {
                match *op {
                    Op::Write { inverse } => cell.write(plain ^ flip(inverse)),
                    Op::Read { inverse } => {
                        let (expected, actual) = (plain ^ flip(inverse), cell.read());
                        if expected != actual && !self.blind {
                            sink.mismatch(BadWord { offset: at as u64 * 8, expected, actual }, &mut cell);
                        }
                    }
                }
            }
        }
    }
    fn flush(&self, _held: Range<u64>, _down: bool) {}
    fn poke(&self, offset: u64, word: u64) -> u64 {
        let at = (offset / 8) as usize;
        let mut words = self.words.lock().unwrap();
        let mut cell = Cell { words: &mut words, at, stuck: self.stuck_word == Some(at) };
        cell.write(word);
        cell.read()
    }
    fn peek(&self, offset: u64) -> u64 {
        let at = (offset / 8) as usize;
        let mut words = self.words.lock().unwrap();
        Cell { words: &mut words, at, stuck: self.stuck_word == Some(at) }.read()
    }
    fn copy(&self, from: Range<u64>, to: u64, _rule: WordRule) {
        let start = from.start;
        for at in from.step_by(8) {
            let word = self.peek(at);
            self.poke(at - start + to, word);
        }
    }
    fn activate(&self, _offsets: &[u64], _times: u32) {}
    fn changes(&self) -> Changes {
        self.changes.lock().unwrap().pop().unwrap_or_default()
    }
}

/// Each look at the clock takes a millisecond.
#[derive(Default)]
struct Ticking(AtomicU64);

impl Clock for Ticking {
    fn now_ns(&self) -> u64 {
        self.0.fetch_add(1_000_000, Ordering::SeqCst)
    }
    fn wall_ms(&self) -> i64 {
        0
    }
    fn wall_is_doubtful(&self) -> bool {
        false
    }
    fn sleep(&self, wait: Duration) {
        self.0.fetch_add(wait.as_nanos() as u64, Ordering::SeqCst);
    }
}

/// Counters that say what they are told, then that plus one.
struct Counting(u64, AtomicU64);

impl Counters for Counting {
    fn read(&self) -> Vec<EccCount> {
        let corrected = self.1.fetch_add(self.0, Ordering::SeqCst);
        vec![EccCount { label: "mc0".into(), corrected, uncorrected: 0 }]
    }
}

struct NothingThere;

impl Sensors for NothingThere {
    fn temperatures(&self) -> Vec<Reading> {
        Vec::new()
    }
}

fn recipe() -> Recipe {
    Recipe::with_tests(Depth::Triage, ["random", "address-as-data", "march-c-"].map(str::to_owned).into())
}

impl Sleeper for NothingThere {
    fn refuses(&self) -> Option<NoSleep> {
        Some(NoSleep::NotOffered)
    }

    fn sleep(&self, _: Duration) -> io::Result<Duration> {
        Err(io::ErrorKind::Unsupported.into())
    }
}

/// No slot is known.
struct NobodyTells;

impl Places for NobodyTells {
    fn slots_of(&self, _: Option<PhysAddr>) -> (Vec<String>, Certainty) {
        (Vec::new(), Certainty::Unknown)
    }

    fn slots_run(&self, _: Option<PhysAddr>) -> (&str, ByteRange) {
        ("", ByteRange::new(0, u64::MAX))
    }

    fn rows_beside(&self, _: PhysAddr) -> Option<[PhysAddr; 2]> {
        None
    }
}

struct Ran {
    state: RunState,
    entries: Vec<Entry>,
    reason: EndReason,
}

fn run_with(bench: &Bench, recipe: &Recipe, control: &Control, counting: u64, on: impl FnMut(&Entry)) -> Ran {
    run_from(bench, recipe, control, (counting, &StartAt::default()), on)
}

fn run_from(
    bench: &Bench,
    recipe: &Recipe,
    control: &Control,
    (counting, from): (u64, &StartAt),
    mut on: impl FnMut(&Entry),
) -> Ran {
    let (clock, counters) = (Ticking::default(), Counting(counting, AtomicU64::new(5)));
    let setup = RunSetup {
        memory: bench,
        clock: &clock,
        counters: &counters,
        sensors: &NothingThere,
        sleeper: &NothingThere,
        places: &NobodyTells,
        recipe,
        seed: 7,
        workers: &[0, 1],
        rates: Rates::uniform(1e9),
        cache_bytes: 1 << 20,
        half_words: false,
        control,
        from,
    };
    let mut entries = vec![
        Entry::Begin(Box::new(revisum_record::journal::Begin { recipe: Some(recipe.clone()), ..Default::default() })),
        Entry::Held(revisum_record::journal::Held {
            bytes: BYTES,
            expected: expected(&recipe.specs().unwrap(), recipe, &Rates::uniform(1e9), BYTES, 2),
            ..Default::default()
        }),
    ];
    let reason = run(&setup, &mut |news| {
        let entry = Entry::from(news);
        on(&entry);
        entries.push(entry);
    })
    .unwrap();
    let mut state = RunState::default();
    for (seq, entry) in (0u64..).zip(&entries) {
        state.apply(&Framed { journal: "j".into(), seq, t_ms: seq, entry: entry.clone() });
    }
    Ran { state, entries, reason }
}

fn run_one(bench: &Bench, recipe: &Recipe) -> Ran {
    run_with(bench, recipe, &Control::default(), 0, |_| {})
}

#[rstest]
#[case(CoreSharing::Divide, 1)]
#[case(CoreSharing::Each, 2)]
fn good_memory_is_clean_and_every_sweep_is_counted(#[case] cores: CoreSharing, #[case] turns: u64) {
    for concurrent in [false, true] {
        let bench = Bench { concurrent, ..Bench::new() };
        let ran = run_one(&bench, &Recipe { cores, ..recipe() });
        assert_eq!(Judgement::of(&ran.state, false).outcome, Outcome::Clean);
        assert_eq!(ran.reason, EndReason::Completed);
        assert_eq!((ran.state.plants_caught, ran.state.plants_missed), (1, 0));
        let swept: Vec<u64> = ran.state.tests.iter().map(|test| test.bytes_swept / BYTES).collect();
        assert_eq!(swept, [4 * turns, 3 * turns, 6 * turns]);
        assert_eq!(ran.state.tested_bytes(), BYTES);
        assert!((ran.state.pass_ratio() - 1.0).abs() < 1e-9);
    }
}

/// A test that rotates covers all memory once, whatever cores cover otherwise; those of the catalogue do as the recipe says.
#[rstest]
#[case(CoreSharing::Divide, 1)]
#[case(CoreSharing::Each, 2)]
fn a_test_that_rotates_covers_memory_once(#[case] cores: CoreSharing, #[case] turns: u64) {
    let own = OwnTest {
        name: "mine".into(),
        notation: "any(w0); any(r0)".into(),
        backgrounds: vec![BackgroundKind::Solid],
        path: Path::Linear,
        rotate: true,
        purpose: String::new(),
    };
    let tests = vec!["random".to_owned(), "mine".to_owned()];
    let bench = Bench { stuck_word: Some(77), concurrent: true, ..Bench::new() };
    let ran = run_one(&bench, &Recipe { cores, own: vec![own], ..Recipe::with_tests(Depth::Triage, tests) });
    let swept: Vec<u64> = ran.state.tests.iter().map(|test| test.bytes_swept / BYTES).collect();
    assert_eq!(swept, [4 * turns, 2]);
    assert_eq!(ran.state.tests[1].errors, 1);
}

#[rstest]
#[case(false)]
#[case(true)]
fn a_stuck_bit_is_counted_exactly_and_placed(#[case] concurrent: bool) {
    let word = 1_000_003;
    let bench = Bench { stuck_word: Some(word), concurrent, ..Bench::new() };
    let ran = run_one(&bench, &recipe());
    assert_eq!(Judgement::of(&ran.state, false).outcome, Outcome::ErrorsFound);
    // March C− reads the zeros of the cell three times; what other tests see depends on their words.
    let march = ran.state.tests.iter().find(|test| test.name == "march-c-").unwrap();
    assert_eq!(march.errors, 3);
    let address = PhysAddr(BASE + word as u64 * 8);
    assert!(ran.state.errors.samples.iter().all(|sample| {
        sample.address == Some(address) && sample.kind == Kind::Recurring && sample.actual.0 ^ sample.expected.0 == 8
    }));
    assert_eq!(ran.state.errors.words, ran.state.tests.iter().map(|test| test.errors).sum::<u64>());
    assert_eq!(ran.state.errors.lanes.wrong().count(), 1);
}

/// In a flood whole lines are counted; what they add up to is what their words add up to, and exact.
#[rstest]
#[case(CoreSharing::Divide, 1)]
#[case(CoreSharing::Each, 2)]
fn a_flood_is_counted_exactly(#[case] cores: CoreSharing, #[case] turns: u64) {
    let recipe = Recipe { tests: vec!["march-c-".into()], cores, ..recipe() };
    let errors = |by_line| {
        let ran = run_one(&Bench { drowned: Some((0x8000_0000_0000_0011, by_line)), ..Bench::new() }, &recipe);
        ran.state.errors
    };
    let (lines, words) = (errors(true), errors(false));
    let reads = 5 * turns;
    assert_eq!(lines.words, reads * BYTES / 8);
    assert_eq!(lines.places.total(), lines.words);
    let lanes: Vec<(u8, u64)> = lines.lanes.wrong().map(|(lane, up, down)| (lane, up + down)).collect();
    assert_eq!(lanes, [0, 4, 63].map(|lane| (lane, lines.words)));
    assert_eq!(
        (lines.lanes, lines.slots, lines.kinds, lines.cores),
        (words.lanes, words.slots, words.kinds, words.cores)
    );
    assert_eq!(lines.places, words.places);
    assert!(!lines.samples.is_empty());
}

#[test]
fn a_broken_checker_is_noticed_in_every_pass() {
    let bench = Bench { blind: true, ..Bench::new() };
    let ran = run_one(&bench, &Recipe { passes: Some(2), ..recipe() });
    assert_eq!(Judgement::of(&ran.state, false).outcome, Outcome::CheckingFailed);
    assert_eq!(ran.state.plants_missed, 2);
}

#[test]
fn the_planted_word_leaves_no_trace() {
    let bench = Bench::new();
    for passes in 1..=3 {
        let ran = run_one(&bench, &Recipe { passes: Some(passes), ..recipe() });
        assert_eq!((ran.state.errors.words, ran.state.plants_caught), (0, passes));
    }
}

#[test]
fn corrected_errors_forbid_the_word_clean() {
    let ran = run_with(&Bench::new(), &recipe(), &Control::default(), 1, |_| {});
    assert_eq!(Judgement::of(&ran.state, false).outcome, Outcome::ErrorsFound);
    assert!(ran.state.hardware.corrected > 0);
}

#[test]
fn a_page_that_moved_is_taken_out_of_the_account() {
    let bench = Bench::new();
    let page = |number: u64| number * 4096..(number + 1) * 4096;
    let lost = (page(2), Some(PhysAddr(BASE + 8192)));
    let moved = Changes { moved: Vec::from([page(1)]), lost: Vec::from([lost]) };
    bench.changes.lock().unwrap().push(moved);
    let ran = run_one(&bench, &recipe());
    assert_eq!(ran.state.tested_bytes(), BYTES - 8192);
    assert_eq!(ran.state.moved.ranges()[0].start, BASE + 4096);
    assert_eq!(ran.state.hardware.uncorrected, 1);
    assert_eq!(Judgement::of(&ran.state, false).outcome, Outcome::ErrorsFound);
}

#[test]
fn skipping_leaves_a_test_unfinished_and_goes_on() {
    let control = Control::default();
    let ran = run_with(&Bench::new(), &recipe(), &control, 0, |entry| {
        if matches!(entry, Entry::TestBegan { test, .. } if test == "address-as-data") {
            control.skip_test();
        }
    });
    // The request comes while the test begins, so it holds for this very test.
    let passes: Vec<u32> = ran.state.tests.iter().map(|test| test.passes).collect();
    assert_eq!(passes, [1, 0, 1]);
    assert_eq!(Judgement::of(&ran.state, false).outcome, Outcome::CutShort);
}

#[test]
fn stopping_ends_the_run_with_a_result() {
    let control = Control::default();
    let ran = run_with(&Bench::new(), &recipe(), &control, 0, |entry| {
        if matches!(entry, Entry::TestBegan { test, .. } if test == "march-c-") {
            control.stop();
        }
    });
    assert_eq!((ran.reason, Judgement::of(&ran.state, false).outcome), (EndReason::Stopped, Outcome::CutShort));
    assert!(matches!(ran.entries.last(), Some(Entry::Ended { reason: EndReason::Stopped })));
}

#[rstest]
#[case::errors(Recipe { passes: None, stop_after: Some(4), ..recipe() }, true, EndReason::ErrorLimit)]
#[case::time(Recipe { passes: None, for_seconds: Some(1), ..recipe() }, false, EndReason::TimeUp)]
fn a_run_without_a_last_pass_ends_by_its_other_limit(
    #[case] recipe: Recipe,
    #[case] stuck: bool,
    #[case] reason: EndReason,
) {
    let bench = Bench { stuck_word: stuck.then_some(77), ..Bench::new() };
    let ran = run_one(&bench, &recipe);
    assert_eq!(ran.reason, reason);
}

#[rstest]
#[case(false)]
#[case(true)]
fn a_pause_holds_until_it_is_over(#[case] concurrent: bool) {
    let control = Control::default();
    let bench = Bench { concurrent, ..Bench::new() };
    let ran = run_with(&bench, &recipe(), &control, 0, |entry| match entry {
        Entry::TestBegan { test, .. } if test == "march-c-" => control.pause(),
        Entry::Paused => control.resume(),
        _ => {}
    });
    assert_eq!(Judgement::of(&ran.state, false).outcome, Outcome::Clean);
    let pauses = ran.entries.iter().filter(|entry| matches!(entry, Entry::Paused | Entry::Resumed)).count();
    assert_eq!(pauses, 2);
}

#[test]
fn flushing_finds_the_same() {
    for caches in [Caches::PerTest, Caches::Flush] {
        let bench = Bench { stuck_word: Some(5), ..Bench::new() };
        let ran = run_one(&bench, &Recipe { caches, ..recipe() });
        assert_eq!(ran.state.tests[2].errors, 3);
    }
}

/// What a run that goes on with another one begins with: `(pass, test)` in order, as far as it came.
fn begun(ran: &Ran) -> Vec<(u32, String)> {
    let of = |entry: &Entry| match entry {
        Entry::TestBegan { pass, test } => Some((*pass, test.clone())),
        _ => None,
    };
    ran.entries.iter().filter_map(of).collect()
}

#[rstest]
#[case::at_the_beginning(1, &[], &[(1, "random"), (1, "address-as-data"), (1, "march-c-"), (2, "random"), (2, "address-as-data"), (2, "march-c-")])]
#[case::in_the_second_pass(2, &["random"], &[(2, "address-as-data"), (2, "march-c-")])]
#[case::with_a_gap(2, &["address-as-data"], &[(2, "random"), (2, "march-c-")])]
#[case::all_but_the_end_of_the_pass(2, &["random", "address-as-data", "march-c-"], &[])]
#[case::beyond_the_plan(3, &[], &[])]
fn a_run_begins_where_another_one_ended(
    #[case] pass: u32,
    #[case] finished: &[&str],
    #[case] expected: &[(u32, &str)],
) {
    let from = StartAt {
        pass,
        finished: finished.iter().map(|name| (*name).to_owned()).collect(),
        finished_seconds: 5.0,
        ..StartAt::default()
    };
    let recipe = Recipe { passes: Some(2), ..recipe() };
    let ran = run_from(&Bench::new(), &recipe, &Control::default(), (0, &from), |_| {});
    let expected: Vec<(u32, String)> = expected.iter().map(|(pass, test)| (*pass, (*test).to_owned())).collect();
    assert_eq!(begun(&ran), expected);
    assert_eq!(ran.reason, EndReason::Completed);
    // A pass that both parts made together is whole, and lasted as long as both.
    let ends = ran.entries.iter().filter_map(|entry| match entry {
        Entry::PassEnded { complete, seconds, .. } => Some((*complete, *seconds)),
        _ => None,
    });
    for (at, (complete, seconds)) in ends.enumerate() {
        assert!(complete && (seconds > 5.0 || at > 0 || finished.is_empty()), "{seconds}");
    }
}

/// What was spent before counts towards the planned time, and a pause does not.
#[test]
fn a_planned_time_is_time_of_testing() {
    let recipe = Recipe { passes: None, for_seconds: Some(3), ..recipe() };
    let swept = |spent_seconds: f64| {
        let from = StartAt { spent_seconds, ..StartAt::default() };
        let ran = run_from(&Bench::new(), &recipe, &Control::default(), (0, &from), |_| {});
        assert_eq!(ran.reason, EndReason::TimeUp);
        ran.state.full_passes
    };
    assert!(swept(0.0) > swept(2.5));
    let control = Control::default();
    let mut paused = false;
    let ran = run_from(&Bench::new(), &recipe, &control, (0, &StartAt::default()), |entry| match entry {
        Entry::TestBegan { .. } if !std::mem::replace(&mut paused, true) => control.pause(),
        Entry::Paused => control.resume(),
        _ => {}
    });
    assert!(ran.state.full_passes + 1 >= swept(0.0), "the pause took nothing from it");
}
