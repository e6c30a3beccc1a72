//! What has to run to show again what a run showed, in a fraction of its time.

use revisum_engine::recipe::Recipe;
use revisum_engine::units::ByteRange;
use revisum_record::carry::Repeated;
use revisum_record::run_state::{RunState, TestState};

/// Least bytes around the failing places: far more than a cache holds, so that it is the memory that answers.
const LEAST_RANGE: u64 = 256 << 20;
/// Least seconds of a sweep over them. A cell that cannot hold its value until it is refreshed has to be left alone for longer than that before it
/// is read: every row is refreshed once in 64 ms, when hot in 32 ms (JEDEC JESD79-4, section on refresh). This is more than four times as long.
const LEAST_SWEEP_S: f64 = 0.3;
/// Ranges begin and end at multiples of this.
const STEP: u64 = 2 << 20;
/// Shortest time of a repeat, in milliseconds.
const LEAST_MS: u64 = 60_000;
/// Degrees above the coolest of a run from which on warmth may be what it took.
const WARMER: f64 = 3.0;
/// How often the time that the fault took to show is given to the repeat.
const TIMES: u64 = 2;

/// The recipe that repeats what this run showed, and what it goes by: the tests that showed it, in their order, with the same cores, caches, waits
/// and load, over the memory around the failing places where their addresses are known, for at least twice the time that these tests
/// took to the first error. It ends at the first error. Nothing when the run showed none that a test can repeat.
pub fn repeat(state: &RunState) -> Option<(Recipe, Repeated)> {
    let recipe = state.begin.recipe.as_ref()?;
    let showed = |name: &&String| state.tests.iter().any(|test| test.name == **name && test.errors > 0);
    let tests: Vec<String> = recipe.tests.iter().filter(showed).cloned().collect();
    if tests.is_empty() {
        return None;
    }
    let first_error_ms = state.first_error_test_ms;
    let warming_ms = if warmed_up(state) { state.first_error_ms.unwrap_or(0) } else { 0 };
    let seconds = first_error_ms.saturating_mul(TIMES).max(LEAST_MS).saturating_add(warming_ms).div_ceil(1000);
    let repeated = Recipe {
        tests,
        passes: None,
        for_seconds: Some(seconds),
        stop_after: Some(1),
        range: range(state).or(recipe.range),
        ..recipe.clone()
    };
    let of = Repeated {
        run: state.id.clone(),
        first_error_seconds: first_error_ms as f64 / 1000.0,
        celsius: state.first_error_celsius,
    };
    Some((repeated, of))
}

/// Whether the memory became warmer before it failed: a repeat that begins cold then gets the time to become so too.
fn warmed_up(state: &RunState) -> bool {
    let (Some((lowest, _)), Some(then)) = (state.celsius, state.first_error_celsius) else { return false };
    then - lowest >= WARMER
}

/// The memory around the failing places; nothing where addresses are unknown, numbers were computed wrong, or it would be most of the memory.
fn range(state: &RunState) -> Option<ByteRange> {
    if !state.held.addresses_known || state.miscalculated > 0 {
        return None;
    }
    let places = || state.errors.places.places();
    let (first, last) = (places().next()?.0, places().map(|(at, bytes, _)| at.saturating_add(bytes)).max()?);
    let least = LEAST_RANGE.max((rate(state) * LEAST_SWEEP_S) as u64);
    let missing = least.saturating_sub(last - first);
    let start = first.saturating_sub(missing / 2) / STEP * STEP;
    let end = last.max(start.saturating_add(least)).checked_next_multiple_of(STEP)?;
    (end - start <= state.held.bytes / 2).then(|| ByteRange::new(start, end))
}

/// Bytes a second of the fastest of the tests that showed it; zero before one was timed.
fn rate(state: &RunState) -> f64 {
    let of = |test: &TestState| {
        let open = || test.cells.iter().filter(|cell| cell.finished.is_none());
        let bytes = open().fold(test.bytes_swept, |all, cell| all.saturating_add(cell.bytes_swept));
        bytes as f64 * 1e9 / test.all_sweep_ns().max(1) as f64
    };
    let showed = state.tests.iter().filter(|test| test.errors > 0 && test.all_sweep_ns() > 0);
    showed.map(of).fold(0.0, f64::max)
}

#[cfg(test)]
mod tests {
    use revisum_engine::news::{ErrorReport, TestEnd};
    use revisum_engine::recipe::Depth;
    use revisum_engine::tally::{Buckets, Tally};
    use revisum_record::journal::{Begin, Entry, Framed, Held};
    use rstest::rstest;

    use super::*;

    const TESTS: [&str; 2] = ["random", "march-c-"];

    fn run(places: &[u64], addresses_known: bool, gib: u64) -> RunState {
        let recipe = Recipe::with_tests(Depth::Survey, TESTS.map(str::to_owned).to_vec());
        let mut counts = Buckets::default();
        places.iter().for_each(|place| counts.add(*place, 1));
        let tally = Tally { words: places.len() as u64, places: counts, ..Tally::default() };
        let entries = [
            (0, Entry::Begin(Box::new(Begin { recipe: Some(recipe), ..Begin::default() }))),
            (0, Entry::Held(Held { bytes: gib << 30, addresses_known, ..Held::default() })),
            (0, Entry::TestBegan { pass: 1, test: TESTS[0].into() }),
            (
                300_000,
                Entry::TestEnded(TestEnd { pass: 1, test: TESTS[0].into(), finished: true, ..TestEnd::default() }),
            ),
            (300_000, Entry::TestBegan { pass: 1, test: TESTS[1].into() }),
            (350_000, Entry::Errors(Box::new(ErrorReport { pass: 1, test: TESTS[1].into(), tally }))),
        ];
        let mut state = RunState::default();
        for (seq, (t_ms, entry)) in (0u64..).zip(entries) {
            state.apply(&Framed { journal: "j".into(), seq, t_ms, entry });
        }
        state
    }

    #[test]
    fn only_the_test_that_showed_it_runs_for_twice_the_time_that_it_took() {
        let (recipe, of) = repeat(&run(&[5 << 30], true, 16)).unwrap();
        assert_eq!((recipe.tests, recipe.for_seconds, recipe.passes), (vec![TESTS[1].to_owned()], Some(100), None));
        assert_eq!((of.run.as_str(), of.first_error_seconds), ("j", 50.0));
    }

    #[rstest]
    #[case::one_place(&[5 << 30], true, 16, Some(((5 << 30) - (128 << 20), (5 << 30) + (128 << 20))))]
    #[case::at_the_bottom(&[0x1000], true, 16, Some((0, 256 << 20)))]
    #[case::two_far_apart(&[1 << 30, 3 << 30], true, 16, Some((1 << 30, (3 << 30) + (2 << 20))))]
    #[case::nearly_everywhere(&[1 << 30, 14 << 30], true, 16, None)]
    #[case::addresses_unknown(&[5 << 30], false, 16, None)]
    #[case::little_memory(&[0x1000], true, 0, None)]
    fn the_range_is_far_larger_than_a_cache_and_holds_every_place(
        #[case] places: &[u64],
        #[case] known: bool,
        #[case] gib: u64,
        #[case] expected: Option<(u64, u64)>,
    ) {
        let (recipe, _) = repeat(&run(places, known, gib)).unwrap();
        let found = recipe.range.map(|range| (range.start, range.end));
        assert_eq!(found, expected);
        if let Some((start, end)) = found {
            assert!(places.iter().all(|place| (start..end).contains(place)) && end - start >= LEAST_RANGE);
        }
    }

    #[test]
    fn a_run_without_errors_has_nothing_to_repeat() {
        assert_eq!(repeat(&run(&[], true, 16)), None);
    }
}
