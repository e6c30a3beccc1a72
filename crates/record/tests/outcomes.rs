//! Every way in which a run can end, and what is said of it. The table is the promise: `clean` is all that was planned, on nearly all memory;
//! anything less is in the headline itself.

use proptest::prelude::*;
use revisum_engine::news::{EndReason, ErrorReport, Progress, TestEnd};
use revisum_engine::recipe::{Depth, Recipe};
use revisum_engine::tally::Tally;
use revisum_engine::units::{ByteRange, PhysAddr, RangeSet};
use revisum_record::confidence::Worth;
use revisum_record::go_on::carried;
use revisum_record::journal::{Begin, Entry, Framed, Held};
use revisum_record::outcome::{Claim, EndedBy, Grade, Judgement, Outcome, Reason};
use revisum_record::run_state::RunState;
use revisum_words::result;
use rstest::rstest;

const GIB: u64 = 1 << 30;
const TESTS: [&str; 2] = ["random", "march-c-"];
/// Seconds of each test.
const TEST_S: u64 = 300;

/// A run as it is told, entry by entry.
struct Story {
    state: RunState,
    t_ms: u64,
    seq: u64,
}

impl Story {
    fn of(recipe: Recipe, held: u64) -> Self {
        let mut story = Self { state: RunState::default(), t_ms: 0, seq: 0 };
        story.tell(Entry::Begin(Box::new(Begin {
            recipe: Some(recipe),
            simulated: true,
            fitted_bytes: Some(24 * GIB),
            usable_bytes: 23 * GIB,
            memory: RangeSet::from(vec![ByteRange::new(0, 25 * GIB)]),
            ..Begin::default()
        })));
        let expected = TESTS.map(|test| (test.to_owned(), TEST_S as f64)).to_vec();
        story.tell(Entry::Held(Held { bytes: held, addresses_known: true, expected, ..Held::default() }));
        story
    }

    fn tell(&mut self, entry: Entry) {
        self.state.apply(&Framed { journal: "j".into(), seq: self.seq, t_ms: self.t_ms, entry });
        self.seq += 1;
    }

    fn after(&mut self, seconds: u64) -> &mut Self {
        self.t_ms += seconds * 1000;
        self
    }

    fn test(&mut self, pass: u32, test: &str, finished: bool) {
        self.tell(Entry::TestBegan { pass, test: test.into() });
        self.after(if finished { TEST_S } else { TEST_S / 2 });
        let sweep_ns = if finished { TEST_S } else { TEST_S / 2 } * 900_000_000;
        self.tell(Entry::TestEnded(TestEnd { pass, test: test.into(), finished, sweep_ns, ..TestEnd::default() }));
    }

    fn checked(&mut self, pass: u32, caught: bool) {
        self.tell(Entry::Planted { pass, test: TESTS[0].into(), address: None, caught });
    }

    fn pass(&mut self, pass: u32) {
        self.tell(Entry::PassBegan { pass, seed: 1 });
        self.checked(pass, true);
        TESTS.iter().for_each(|test| self.test(pass, test, true));
        self.tell(Entry::PassEnded { pass, complete: true, seconds: (2 * TEST_S) as f64 });
    }

    fn half_a_pass(&mut self, pass: u32) {
        self.tell(Entry::PassBegan { pass, seed: 1 });
        self.checked(pass, true);
        self.test(pass, TESTS[0], true);
    }

    fn ended(mut self, reason: EndReason) -> Judgement {
        if self.state.pass > self.state.passes_over {
            let (pass, seconds) = (self.state.pass, TEST_S as f64);
            self.tell(Entry::PassEnded { pass, complete: false, seconds });
        }
        self.tell(Entry::Ended { reason });
        Judgement::of(&self.state, false)
    }

    fn broken_off(self) -> Judgement {
        Judgement::of(&self.state, false)
    }
}

fn plan(passes: Option<u32>, seconds: Option<u64>) -> Recipe {
    let tests = TESTS.map(str::to_owned).to_vec();
    Recipe { passes, for_seconds: seconds, ..Recipe::with_tests(Depth::Triage, tests) }
}

fn passes(count: u32) -> Story {
    all_of(plan(Some(count), None), count)
}

fn all_of(recipe: Recipe, done: u32) -> Story {
    let held = recipe.memory.unwrap_or(22 * GIB);
    let mut story = Story::of(recipe, held);
    (1..=done).for_each(|pass| story.pass(pass));
    story
}

fn with(mut story: Story, entries: impl IntoIterator<Item = Entry>) -> Story {
    entries.into_iter().for_each(|entry| story.tell(entry));
    story
}

fn errors(words: u64) -> Entry {
    errors_counted(words, words)
}

/// Words that were counted, of which one count lost some: a bit that turned over.
fn errors_counted(words: u64, by_slot: u64) -> Entry {
    let tally = Tally { words, slots: [("B1".to_owned(), by_slot)].into(), ..Tally::default() };
    Entry::Errors(Box::new(ErrorReport { pass: 1, test: TESTS[1].into(), tally }))
}

fn corrected(label: &str, corrected: u64, uncorrected: u64) -> Entry {
    Entry::Corrected { label: label.into(), corrected, uncorrected }
}

fn moved(bytes: u64) -> Entry {
    Entry::Moved { ranges: RangeSet::default(), bytes }
}

fn uncorrected(bytes: u64) -> Entry {
    Entry::Uncorrected { address: Some(PhysAddr(0x1000)), slots: vec!["B1".into()], bytes }
}

fn miscalculated(numbers: u64) -> Entry {
    Entry::Miscalculated { pass: 1, test: TESTS[0].into(), numbers }
}

fn range(from_gib: u64, to_gib: u64, held: u64) -> Story {
    let range = ByteRange::new(from_gib * GIB, to_gib * GIB);
    let mut story = Story::of(Recipe { range: Some(range), ..plan(Some(1), None) }, held);
    story.pass(1);
    story
}

fn amount(bytes: u64) -> Story {
    all_of(Recipe { memory: Some(bytes), ..plan(Some(1), None) }, 1)
}

fn paused(mut story: Story, seconds: u64) -> Story {
    story.tell(Entry::Paused);
    story.after(seconds);
    story.tell(Entry::Resumed);
    story
}

fn without_check(passes: u32) -> Story {
    let mut story = Story::of(plan(Some(passes), None), 22 * GIB);
    for pass in 1..=passes {
        story.tell(Entry::PassBegan { pass, seed: 1 });
        TESTS.iter().for_each(|test| story.test(pass, test, true));
        story.tell(Entry::PassEnded { pass, complete: true, seconds: (2 * TEST_S) as f64 });
    }
    story
}

fn half(recipe: Recipe, full: u32) -> Story {
    let mut story = all_of(recipe, full);
    story.half_a_pass(full + 1);
    story
}

/// Goes on with what was done, for so many passes more.
fn going_on(first: Story, more: u32) -> Story {
    let recipe = first.state.begin.recipe.clone().unwrap();
    let part = carried(&first.state);
    let mut story = Story { state: RunState::default(), t_ms: 0, seq: 0 };
    story.tell(Entry::Begin(Box::new(Begin {
        recipe: Some(recipe),
        continues: Some(part.clone()),
        simulated: true,
        fitted_bytes: Some(24 * GIB),
        usable_bytes: 23 * GIB,
        ..Begin::default()
    })));
    story.tell(Entry::Held(Held { bytes: 22 * GIB, addresses_known: true, ..Held::default() }));
    for pass in part.pass..part.pass + more {
        let open = TESTS.iter().filter(|test| pass > part.pass || !part.finished.iter().any(|name| name == *test));
        story.tell(Entry::PassBegan { pass, seed: 2 });
        story.checked(pass, true);
        open.for_each(|test| story.test(pass, test, true));
        story.tell(Entry::PassEnded { pass, complete: true, seconds: (2 * TEST_S) as f64 });
    }
    story
}

const DONE: EndReason = EndReason::Completed;
const UP: EndReason = EndReason::TimeUp;
const HAND: EndReason = EndReason::Stopped;
const LIMIT: EndReason = EndReason::ErrorLimit;
const MIB256: u64 = 256 << 20;

#[rstest]
// As planned.
#[case::one_pass(passes(1).ended(DONE), "Clean", Grade::Clean, 0)]
#[case::three_passes(passes(3).ended(DONE), "Clean", Grade::Clean, 0)]
#[case::an_hour(all_of(plan(None, Some(3600)), 6).ended(UP), "Clean", Grade::Clean, 0)]
#[case::an_hour_and_a_bit(half(plan(None, Some(3600)), 6).ended(UP), "Clean", Grade::Clean, 0)]
#[case::without_an_end_stopped(all_of(plan(None, None), 2).ended(HAND), "Clean", Grade::Clean, 0)]
#[case::passes_before_the_time_was_up(all_of(plan(Some(2), Some(86_400)), 2).ended(DONE), "Clean", Grade::Clean, 0)]
#[case::a_pass_added(with(passes(1), [Entry::Extended { passes: 1 }]).ended(DONE), "Clean so far: 1 of 2 passes, all passes done", Grade::Reduced, 4)]
// Stopped by hand.
#[case::before_anything(Story::of(plan(Some(1), None), 22 * GIB).ended(HAND), "Nothing found, but no full pass, stopped by hand", Grade::Reduced, 4)]
#[case::in_the_first_pass(half(plan(Some(1), None), 0).ended(HAND), "Nothing found, but no full pass, stopped by hand", Grade::Reduced, 4)]
#[case::after_one_of_45(half(plan(Some(45), None), 1).ended(HAND), "Clean so far: 1 of 45 passes, stopped by hand", Grade::Reduced, 4)]
#[case::after_44_of_45(all_of(plan(Some(45), None), 44).ended(HAND), "Clean so far: 44 of 45 passes, stopped by hand", Grade::Reduced, 4)]
#[case::long_before_seven(all_of(plan(None, Some(63_840)), 4).ended(HAND), "Clean so far: 40 min 00 s of 17 h 44 min, stopped by hand", Grade::Reduced, 4)]
#[case::of_an_hour(all_of(plan(None, Some(3600)), 5).ended(HAND), "Clean so far: 50 min 00 s of 1 h 00 min, stopped by hand", Grade::Reduced, 4)]
#[case::without_an_end_in_the_first_pass(half(plan(None, None), 0).ended(HAND), "Nothing found, but no full pass, stopped by hand", Grade::Reduced, 4)]
#[case::on_a_part(half(Recipe { memory: Some(MIB256), ..plan(Some(9), None) }, 2).ended(HAND), "Clean so far: 2 of 9 passes on 256 MiB of 24 GiB, stopped by hand", Grade::Reduced, 4)]
#[case::with_errors(with(half(plan(Some(45), None), 1), [errors(3)]).ended(HAND), "3 memory errors, stopped by hand", Grade::Errors, 1)]
// The time was up.
#[case::before_a_pass_was_full(half(plan(None, Some(600)), 0).ended(UP), "Nothing found, but no full pass, the time was up", Grade::Reduced, 4)]
#[case::before_all_passes(all_of(plan(Some(45), Some(3600)), 6).ended(UP), "Clean so far: 6 of 45 passes, the time was up", Grade::Reduced, 4)]
#[case::a_clock_that_jumped(all_of(plan(None, Some(86_400)), 2).ended(UP), "Clean so far: 20 min 00 s of 24 h 00 min, the time was up", Grade::Reduced, 4)]
#[case::with_an_error(with(all_of(plan(None, Some(3600)), 6), [errors(1)]).ended(UP), "1 memory error", Grade::Errors, 1)]
// Broken off: power, hang, crash, at each phase.
#[case::while_taking_memory(Story::of(plan(Some(1), None), 0).broken_off(), "Nothing found, but no full pass, broken off by power loss, hang or restart", Grade::Reduced, 4)]
#[case::before_the_first_test(with(Story::of(plan(Some(1), None), 22 * GIB), [Entry::PassBegan { pass: 1, seed: 1 }]).broken_off(), "Nothing found, but no full pass, broken off by power loss, hang or restart", Grade::Reduced, 4)]
#[case::in_the_second_test(half(plan(Some(1), None), 0).broken_off(), "Nothing found, but no full pass, broken off by power loss, hang or restart", Grade::Reduced, 4)]
#[case::in_the_third_pass(half(plan(Some(3), None), 2).broken_off(), "Clean so far: 2 of 3 passes, broken off by power loss, hang or restart", Grade::Reduced, 4)]
#[case::after_the_last_test(passes(1).broken_off(), "Clean so far: 1 pass, broken off by power loss, hang or restart", Grade::Reduced, 4)]
#[case::in_the_night(half(plan(None, Some(28_800)), 10).broken_off(), "Clean so far: 1 h 45 min of 8 h 00 min, broken off by power loss, hang or restart", Grade::Reduced, 4)]
#[case::in_a_pause(with(half(plan(Some(3), None), 1), [Entry::Paused]).broken_off(), "Clean so far: 1 of 3 passes, broken off by power loss, hang or restart", Grade::Reduced, 4)]
#[case::after_errors(with(half(plan(Some(3), None), 1), [errors(12)]).broken_off(), "12 memory errors, broken off by power loss, hang or restart", Grade::Errors, 1)]
#[case::after_corrected_ones(with(half(plan(Some(3), None), 1), [corrected("B1", 2, 0)]).broken_off(), "Only corrected errors: 2 in B1, broken off by power loss, hang or restart", Grade::Corrected, 1)]
// A chosen part.
#[case::amount(amount(MIB256).ended(DONE), "Clean on 256 MiB of 24 GiB", Grade::Reduced, 0)]
#[case::tiny_amount(amount(1 << 20).ended(DONE), "Clean on 1 MiB of 24 GiB", Grade::Reduced, 0)]
#[case::nearly_all(amount(22 * GIB).ended(DONE), "Clean", Grade::Clean, 0)]
#[case::range(range(4, 6, 2 * GIB).ended(DONE), "Clean on 2 GiB of 24 GiB", Grade::Reduced, 0)]
#[case::range_mostly_held(range(4, 6, 2 * GIB - (64 << 20)).ended(DONE), "Clean on 1.9 GiB of 24 GiB", Grade::Reduced, 0)]
#[case::range_half_held(range(4, 6, GIB).ended(DONE), "Clean so far: 1 pass on 1 GiB of 24 GiB, all passes done", Grade::Reduced, 4)]
#[case::range_beyond_the_end(range(24, 40, GIB).ended(DONE), "Clean on 1 GiB of 24 GiB", Grade::Reduced, 0)]
#[case::range_with_errors(with(range(4, 6, 2 * GIB), [errors(7)]).ended(DONE), "7 memory errors", Grade::Errors, 1)]
// Memory that could not be had, moved, or was taken out.
#[case::the_system_holds_much(with(Story::of(plan(Some(1), None), 12 * GIB), []).full().ended(DONE), "Clean on 12 GiB of 24 GiB", Grade::Reduced, 0)]
#[case::a_few_pages_moved(with(passes(1), [moved(64 << 20)]).ended(DONE), "Clean", Grade::Clean, 0)]
#[case::half_moved(with(passes(1), [moved(11 * GIB)]).ended(DONE), "Clean so far: 1 pass on 11 GiB of 24 GiB, all passes done", Grade::Reduced, 4)]
#[case::all_moved(with(passes(1), [moved(22 * GIB)]).ended(DONE), "Nothing found, but no memory stayed in the test, all passes done", Grade::Reduced, 4)]
#[case::more_moved_than_held(with(passes(1), [moved(99 * GIB)]).ended(DONE), "Nothing found, but no memory stayed in the test, all passes done", Grade::Reduced, 4)]
#[case::taken_out(with(passes(1), [uncorrected(4096)]).ended(DONE), "1 uncorrectable hardware error", Grade::Errors, 1)]
// Errors of every kind.
#[case::one_error(with(passes(1), [errors(1)]).ended(DONE), "1 memory error", Grade::Errors, 1)]
#[case::flood(with(passes(1), [errors(1_234_567)]).ended(DONE), "1 234 567 memory errors", Grade::Errors, 1)]
#[case::a_count_lost_words(with(passes(1), [errors_counted(0, 5), errors(2)]).ended(DONE), "7 memory errors", Grade::Errors, 1)]
#[case::another_lost_words(with(passes(1), [errors_counted(5, 1)]).ended(DONE), "5 memory errors", Grade::Errors, 1)]
#[case::error_limit(with(half(plan(Some(9), None), 0), [errors(100)]).ended(LIMIT), "100 memory errors, stopped at the error limit", Grade::Errors, 1)]
#[case::only_corrected(with(passes(1), [corrected("B1", 64, 0)]).ended(DONE), "Only corrected errors: 64 in B1", Grade::Corrected, 1)]
#[case::corrected_in_two_places(with(passes(1), [corrected("B1", 60, 0), corrected("A1", 4, 0)]).ended(DONE), "Only corrected errors: 64 in 2 places", Grade::Corrected, 1)]
#[case::corrected_and_stopped(with(half(plan(Some(3), None), 1), [corrected("B1", 2, 0)]).ended(HAND), "Only corrected errors: 2 in B1, stopped by hand", Grade::Corrected, 1)]
#[case::corrected_and_read(with(passes(1), [corrected("B1", 2, 0), errors(5)]).ended(DONE), "5 memory errors", Grade::Errors, 1)]
#[case::uncorrected_counted(with(passes(1), [corrected("B1", 9, 2)]).ended(DONE), "2 uncorrectable hardware errors in B1", Grade::Errors, 1)]
#[case::computed_wrong(with(passes(1), [miscalculated(3)]).ended(DONE), "Computed wrong: 3 numbers", Grade::Errors, 1)]
#[case::computed_wrong_once(with(passes(1), [miscalculated(1)]).ended(DONE), "Computed wrong: 1 number", Grade::Errors, 1)]
// The tester's own check.
#[case::check_missed(with(passes(1), [Entry::Planted { pass: 1, test: TESTS[0].into(), address: None, caught: false }]).ended(DONE), "Self-check failed: result void", Grade::Void, 3)]
#[case::check_missed_and_stopped(with(half(plan(Some(3), None), 1), [Entry::Planted { pass: 2, test: TESTS[0].into(), address: None, caught: false }]).ended(HAND), "Self-check failed: result void", Grade::Void, 3)]
#[case::check_missed_but_errors(with(passes(1), [errors(2), Entry::Planted { pass: 1, test: TESTS[0].into(), address: None, caught: false }]).ended(DONE), "2 memory errors", Grade::Errors, 1)]
#[case::no_check_at_all(without_check(1).ended(DONE), "Clean so far: 1 pass, all passes done, no self-check ran", Grade::Reduced, 4)]
// Pauses.
#[case::paused_between(paused(passes(1), 600).ended(DONE), "Clean", Grade::Clean, 0)]
#[case::a_pause_is_not_testing(paused(all_of(plan(None, Some(3600)), 3), 1800).ended(UP), "Clean so far: 30 min 00 s of 1 h 00 min, the time was up", Grade::Reduced, 4)]
#[case::stopped_in_a_pause(with(half(plan(Some(3), None), 1), [Entry::Paused]).ended(HAND), "Clean so far: 1 of 3 passes, stopped by hand", Grade::Reduced, 4)]
// Gone on with.
#[case::the_rest_done(going_on(half(plan(Some(3), None), 1), 2).ended(DONE), "Clean", Grade::Clean, 0)]
#[case::only_some_more(going_on(half(plan(Some(5), None), 1), 2).ended(HAND), "Clean so far: 3 of 5 passes, stopped by hand", Grade::Reduced, 4)]
#[case::errors_before(going_on(with(half(plan(Some(3), None), 1), [errors(4)]), 2).ended(DONE), "4 memory errors", Grade::Errors, 1)]
#[case::an_hour_in_two_parts(going_on(half(plan(None, Some(3600)), 2), 4).ended(UP), "Clean", Grade::Clean, 0)]
#[case::corrected_before(going_on(with(half(plan(Some(3), None), 1), [corrected("B1", 4, 0)]), 2).ended(DONE), "Only corrected errors: 4", Grade::Corrected, 1)]
fn endings(#[case] judgement: Judgement, #[case] headline: &str, #[case] grade: Grade, #[case] exit: u8) {
    assert_eq!(result::headline(&judgement), headline);
    assert_eq!((judgement.grade, exit_code(&judgement)), (grade, exit));
    assert_eq!(judgement.outcome == Outcome::Clean, exit == 0, "clean is what exits with 0");
    assert_eq!(judgement.complete && !judgement.has_errors() && judgement.grade != Grade::Void, exit == 0);
    assert!(!result::sentence(&judgement).is_empty());
    agree(&judgement);
}

/// The program's rule for its exit code, said once more.
fn exit_code(judgement: &Judgement) -> u8 {
    match judgement.outcome {
        Outcome::ErrorsFound => 1,
        Outcome::CheckingFailed => 3,
        Outcome::Clean => 0,
        Outcome::CleanSoFar | Outcome::CutShort | Outcome::Interrupted | Outcome::NotWhole => 4,
    }
}

/// What no two figures of a page may contradict each other in.
fn agree(judgement: &Judgement) {
    let times = &judgement.times;
    assert!((times.elapsed - times.paused - times.ran).abs() < 1e-6, "{times:?}");
    assert!(
        times.in_full_passes <= times.ran && times.sweeping <= times.ran && times.paused <= times.elapsed,
        "{times:?}"
    );
    let coverage = &judgement.coverage;
    assert!(coverage.share().is_none_or(|share| (0.0..=1.0).contains(&share)));
    let left_out: u64 = coverage.left_out.iter().map(|part| part.bytes).sum();
    assert!(coverage.whole().is_none_or(|whole| coverage.tested + left_out == whole), "{coverage:?}");
    assert!((0.0..=1.0).contains(&judgement.done.of_next));
    if judgement.has_errors() || judgement.grade == Grade::Void {
        assert_eq!(judgement.claim, Claim::None);
    }
}

trait Full {
    fn full(self) -> Self;
}

impl Full for Story {
    fn full(mut self) -> Self {
        self.pass(1);
        self
    }
}

#[rstest]
#[case::agree(errors(2), false)]
#[case::lost_all(errors_counted(0, 2), true)]
#[case::lost_some(errors_counted(2, 1), true)]
fn counts_that_do_not_agree_are_said(#[case] entry: Entry, #[case] said: bool) {
    let judgement = with(passes(1), [entry]).ended(DONE);
    assert_eq!(result::sentence(&judgement).contains("did not agree with itself"), said);
    assert_eq!((judgement.counts.errors, judgement.miscounted), (2, u32::from(said)));
}

#[test]
fn a_chosen_range_is_not_blamed_on_the_running_system() {
    let judgement = range(4, 6, 2 * GIB).ended(DONE);
    let of = |reason: Reason| {
        let parts = judgement.coverage.left_out.iter().filter(|part| part.reason == reason);
        parts.map(|part| part.bytes).sum::<u64>()
    };
    assert_eq!((of(Reason::Chosen), of(Reason::Firmware), of(Reason::System)), (21 * GIB, GIB, 0));
    assert!(result::sentence(&judgement).contains("21 GiB left out by choice"), "{}", result::sentence(&judgement));
}

#[rstest]
#[case::on_too_little(amount(1 << 20).ended(DONE), Claim::TooLittle)]
#[case::no_full_pass(half(plan(Some(1), None), 0).ended(HAND), Claim::TooLittle)]
#[case::one_pass(passes(1).ended(DONE), Claim::RuledOut(Worth { passes: 1, seconds: 600.0 }))]
#[case::errors(with(passes(1), [errors(1)]).ended(DONE), Claim::None)]
fn below_the_floor_nothing_is_claimed(#[case] judgement: Judgement, #[case] expected: Claim) {
    match (judgement.claim, expected) {
        (Claim::RuledOut(found), Claim::RuledOut(expected)) => {
            assert!(found.passes == expected.passes && (found.seconds - expected.seconds).abs() < 1.0, "{found:?}");
        }
        (found, expected) => assert_eq!(found, expected),
    }
}

#[test]
fn a_stopped_run_says_how_long_it_was_clean_and_how_long_it_took() {
    let sentence = paused(half(plan(Some(45), None), 1), 120).ended(HAND);
    assert_eq!(result::took(&sentence), "17 min 00 s, 2 min 00 s of it paused");
    assert!(
        result::sentence(&sentence).contains("No errors in 1 full pass (10 min 00 s of the 15 min 00 s that it ran)."),
        "{}",
        result::sentence(&sentence)
    );
}

#[rstest]
#[case::by_hand(half(plan(Some(3), None), 1).ended(HAND), true)]
#[case::broken_off(half(plan(None, Some(3600)), 1).broken_off(), true)]
#[case::done(passes(3).ended(DONE), false)]
#[case::time_up(all_of(plan(Some(45), Some(3600)), 6).ended(UP), false)]
#[case::no_planned_end(half(plan(None, None), 1).ended(HAND), false)]
#[case::void(with(half(plan(Some(3), None), 1), [Entry::Planted { pass: 1, test: TESTS[0].into(), address: None, caught: false }]).ended(HAND), false)]
fn what_can_be_gone_on_with(#[case] judgement: Judgement, #[case] expected: bool) {
    assert_eq!(judgement.can_go_on(), expected);
}

#[test]
fn going_on_begins_where_it_was() {
    let first = half(plan(Some(3), None), 1);
    let part = carried(&first.state);
    assert_eq!((part.pass, part.passes, part.finished.as_slice()), (2, 1, &[TESTS[0].to_owned()][..]));
    assert_eq!((part.pass_seconds, part.finished_seconds, part.counted_seconds), (600.0, 300.0, 900.0));
    // A second part of the same pass, broken off again at once, loses nothing.
    let second = going_on(first, 0);
    let again = carried(&second.state);
    assert_eq!((again.pass, again.passes, again.finished, again.counted_seconds), (2, 1, part.finished, 900.0));
}

/// A real machine hands out other pages: the pass that was cut off begins anew, so that every full pass is full on one and the same memory.
#[test]
fn on_a_real_machine_a_pass_is_never_put_together_from_two_halves() {
    let mut first = half(plan(Some(3), None), 1);
    first.state.begin.simulated = false;
    let part = carried(&first.state);
    assert_eq!((part.pass, part.passes, part.finished, part.finished_seconds), (2, 1, Vec::<String>::new(), 0.0));
    assert_eq!(part.counted_seconds, 600.0, "what is run again does not count twice");
}

/// What may happen in a run, in any order.
#[derive(Clone, Debug)]
enum Happens {
    Pass,
    HalfAPass,
    Errors(u64),
    Corrected(u64),
    Moved(u64),
    Missed,
    Pause(u64),
    Progress(u32),
    Extended(u32),
}

fn happens() -> impl Strategy<Value = Happens> {
    prop_oneof![
        8 => Just(Happens::Pass),
        3 => Just(Happens::HalfAPass),
        1 => (1u64..50).prop_map(Happens::Errors),
        1 => (0u64..50).prop_map(Happens::Corrected),
        2 => (0u64..30 * GIB).prop_map(Happens::Moved),
        1 => Just(Happens::Missed),
        2 => (1u64..5000).prop_map(Happens::Pause),
        2 => (0u32..1_100_000).prop_map(Happens::Progress),
        1 => (1u32..3).prop_map(Happens::Extended),
    ]
}

fn reasons() -> impl Strategy<Value = Option<EndReason>> {
    prop_oneof![Just(None), Just(Some(DONE)), Just(Some(UP)), Just(Some(HAND)), Just(Some(LIMIT))]
}

proptest! {
    #[test]
    fn clean_is_never_less_than_what_was_planned(
        passes in prop::option::of(1u32..6),
        seconds in prop::option::of(60u64..9000),
        memory in prop::option::of(1u64 << 20..30 * GIB),
        held in 1u64 << 20..24 * GIB,
        story in prop::collection::vec(happens(), 0..14),
        reason in reasons(),
    ) {
        let mut run = Story::of(Recipe { memory, ..plan(passes, seconds) }, held.min(memory.unwrap_or(u64::MAX)));
        let (mut full, mut pass, mut missed, mut found, mut planned) = (0u32, 0u32, false, false, passes);
        for step in story {
            match step {
                Happens::Pass => { pass += 1; full += 1; run.pass(pass); }
                Happens::HalfAPass => { pass += 1; run.half_a_pass(pass); }
                Happens::Errors(words) => { found = true; run.tell(errors(words)); }
                Happens::Corrected(count) => { found |= count > 0; run.tell(corrected("B1", count, 0)); }
                Happens::Moved(bytes) => run.tell(moved(bytes)),
                Happens::Missed => { missed = true; run.checked(1, false); }
                Happens::Pause(seconds) => run = paused(run, seconds),
                Happens::Progress(test_ppm) => run.tell(Entry::Progress(Progress { pass, test: TESTS[1].into(), test_ppm, ..Progress::default() })),
                Happens::Extended(more) => { planned = passes.map(|passes| passes + more); run.tell(Entry::Extended { passes: more }); }
            }
        }
        let state_ran = run.state.running_seconds();
        let judgement = match reason {
            Some(reason) => run.ended(reason),
            None => run.broken_off(),
        };
        agree(&judgement);
        let clean = judgement.outcome == Outcome::Clean;
        if clean {
            prop_assert!(!found && !missed && full >= planned.unwrap_or(1));
            prop_assert!(planned.is_some() || seconds.is_none_or(|seconds| state_ran >= seconds as f64 * 0.98));
            prop_assert!(matches!(judgement.ended_by, Some(EndedBy::Plan | EndedBy::Time | EndedBy::Hand)));
        }
        prop_assert_eq!(clean, exit_code(&judgement) == 0);
        prop_assert_eq!(result::headline(&judgement).starts_with("Clean") && !result::headline(&judgement).starts_with("Clean so far"), clean);
        let whole = judgement.coverage.is_whole();
        prop_assert_eq!(result::headline(&judgement) == "Clean", clean && whole);
        // Going on with it counts nothing twice and forgets nothing.
        let _ = result::sentence(&judgement);
    }
}
