//! The rows: what can be chosen, and what a step to the left or right makes of it.

use std::borrow::Cow;

use revisum_engine::catalog::{CATALOG, TestSpec};
use revisum_engine::recipe::{Caches, CoreSharing, Depth, Recipe};
use revisum_engine::units::{ByteRange, GIB, bytes_text, duration_text};
use revisum_words as words;
use revisum_words::Said as _;

use crate::say;
use crate::shared::chosen::Chosen;
use crate::shared::state::Shared;

/// One row.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum RecipeRow {
    /// Begin the run.
    Start,
    /// A depth.
    Depth(Depth),
    /// A test: of the catalogue, then of one's own.
    Test(usize),
    /// Number of passes.
    Passes,
    /// Time after which it ends.
    Time,
    /// Time of day at which it ends.
    Until,
    /// End at the first error, or at more.
    StopAfter,
    /// Amount of memory.
    Memory,
    /// Lowest address.
    From,
    /// Highest address.
    To,
    /// Core sharing.
    Cores,
    /// How many of the cores.
    HowMany,
    /// Caches.
    Caches,
    /// Length of waits.
    Idle,
    /// Goes on until the temperature is stable.
    Soak,
    /// A sound at the first error and at the end.
    Sound,
}

/// The rows from top to bottom.
pub fn recipe_rows(chosen: &Chosen) -> Vec<RecipeRow> {
    let depths = Depth::ALL.into_iter().map(RecipeRow::Depth);
    let tests = (0..CATALOG.len() + chosen.recipe.own.len()).map(RecipeRow::Test);
    let rest = [
        RecipeRow::Passes,
        RecipeRow::Time,
        RecipeRow::Until,
        RecipeRow::StopAfter,
        RecipeRow::Memory,
        RecipeRow::From,
        RecipeRow::To,
        RecipeRow::Cores,
        RecipeRow::HowMany,
        RecipeRow::Caches,
        RecipeRow::Idle,
        RecipeRow::Soak,
        RecipeRow::Sound,
    ];
    std::iter::once(RecipeRow::Start).chain(depths).chain(tests).chain(rest).collect()
}

/// The test of a row.
pub fn test_of(chosen: &Chosen, at: usize) -> Option<Cow<'static, TestSpec>> {
    match CATALOG.get(at) {
        Some(spec) => Some(Cow::Borrowed(spec)),
        None => chosen.recipe.own.get(at - CATALOG.len())?.spec().ok().map(Cow::Owned),
    }
}

const SHARINGS: [CoreSharing; 2] = [CoreSharing::Divide, CoreSharing::Each];
const CACHES: [Caches; 2] = [Caches::PerTest, Caches::Flush];
const TIMES: [u64; 9] = [300, 600, 1800, 3600, 3 * 3600, 8 * 3600, 12 * 3600, 24 * 3600, 72 * 3600];
const ERRORS: [u64; 6] = [1, 10, 100, 1000, 10_000, 100_000];
const IDLES: [u64; 6] = [5, 30, 60, 300, 900, 3600];
/// Steps of the time of day, in minutes.
const HALF_HOUR: u32 = 30;
const DAY: u32 = 24 * 60;

fn stepped<T: Copy + PartialEq>(all: &[T], now: T, by: isize) -> T {
    let at = all.iter().position(|value| *value == now).unwrap_or(0);
    all[at.saturating_add_signed(by).min(all.len() - 1)]
}

/// Nothing stands to the left of the smallest value; a value that is none of the list goes to its neighbour.
fn stepped_or_none(all: &[u64], now: Option<u64>, by: isize) -> Option<u64> {
    match (now, by > 0) {
        (None, true) => all.first().copied(),
        (None, false) => None,
        (Some(now), true) => all.iter().copied().find(|value| *value > now).or(Some(now)),
        (Some(now), false) => all.iter().rev().copied().find(|value| *value < now),
    }
}

/// Steps a row; `by` is −1 or 1.
pub fn changed(shared: &Shared, row: RecipeRow, by: isize) -> Chosen {
    let mut chosen = shared.chosen.clone();
    let cores = shared.facts.cores.max(1);
    let reach = shared.facts.offer.usable.ranges().last().map_or(shared.facts.seen_bytes, |range| range.end);
    match row {
        RecipeRow::Start => {}
        RecipeRow::Depth(depth) => chosen = shared.chosen.of_depth(&shared.facts, depth),
        RecipeRow::Test(at) => switch_test(&mut chosen, at),
        RecipeRow::Passes => change_passes(&mut chosen, by),
        RecipeRow::Time => {
            chosen.recipe.for_seconds = stepped_or_none(&TIMES, chosen.recipe.for_seconds, by);
            chosen.until = None;
            always_ends(&mut chosen.recipe);
        }
        RecipeRow::Until => change_until(&mut chosen, shared.minute_of_day, by),
        RecipeRow::StopAfter => chosen.recipe.stop_after = stepped_or_none(&ERRORS, chosen.recipe.stop_after, by),
        RecipeRow::Memory => {
            let amounts: Vec<u64> =
                (0..12).map(|power| GIB << power).filter(|b| *b < shared.facts.offer.reachable_bytes).collect();
            chosen.recipe.memory = stepped_or_none(&amounts, chosen.recipe.memory, by);
        }
        RecipeRow::From | RecipeRow::To => chosen.recipe.range = stepped_range(chosen.recipe.range, row, by, reach),
        RecipeRow::Cores => chosen.recipe.cores = stepped(&SHARINGS, chosen.recipe.cores, by),
        RecipeRow::HowMany => {
            let now = if chosen.recipe.which_cores.is_empty() { cores } else { chosen.recipe.which_cores.len() };
            let many = now.saturating_add_signed(by).clamp(1, cores);
            chosen.recipe.which_cores = if many == cores { Vec::new() } else { (0..many).collect() };
        }
        RecipeRow::Caches => chosen.recipe.caches = stepped(&CACHES, chosen.recipe.caches, by),
        RecipeRow::Idle => chosen.recipe.idle_seconds = stepped_or_none(&IDLES, chosen.recipe.idle_seconds, by),
        RecipeRow::Soak => {
            chosen.recipe.soak = by > 0;
            if chosen.recipe.soak {
                chosen.recipe.passes.get_or_insert(1);
            }
        }
        RecipeRow::Sound => chosen.sound = by > 0,
    }
    if !matches!(row, RecipeRow::Depth(_)) {
        // A value that was at its end already changes nothing.
        chosen.changed |= chosen.recipe != shared.chosen.recipe || chosen.until != shared.chosen.until;
    }
    chosen
}

/// Addresses step by whole GiB; all of them is no range.
fn stepped_range(range: Option<ByteRange>, row: RecipeRow, by: isize, reach: u64) -> Option<ByteRange> {
    let top = reach.next_multiple_of(GIB).max(GIB);
    let now = range.unwrap_or(ByteRange::new(0, top));
    let step = |value: u64| if by > 0 { value + GIB } else { value.saturating_sub(GIB) };
    let (start, end) = match row {
        RecipeRow::From => (step(now.start).min(now.end.saturating_sub(GIB)), now.end),
        _ => (now.start, step(now.end).clamp(now.start + GIB, top)),
    };
    (start > 0 || end < top).then_some(ByteRange::new(start, end))
}

fn switch_test(chosen: &mut Chosen, at: usize) {
    let Some(spec) = test_of(chosen, at) else { return };
    match chosen.recipe.tests.iter().position(|on| *on == spec.name) {
        Some(at) => drop(chosen.recipe.tests.remove(at)),
        None => chosen.recipe.tests.push(spec.name.to_string()),
    }
}

/// Passes go 1, 2, 3 … and, to the left of 1, as many as fit into the time.
fn change_passes(chosen: &mut Chosen, by: isize) {
    let recipe = &mut chosen.recipe;
    recipe.passes = match (recipe.passes, by) {
        (None, 1..) => Some(1),
        (Some(1), ..0) | (None, _) => None,
        (Some(passes), _) => Some(passes.saturating_add_signed(by as i32).clamp(1, 9999)),
    };
    if recipe.passes.is_some() {
        recipe.for_seconds = None;
        chosen.until = None;
    }
    always_ends(recipe);
}

/// Without a number of passes something else has to end the run, or it is meant to have no end: overnight may have none.
fn always_ends(recipe: &mut Recipe) {
    if recipe.passes.is_none() && recipe.for_seconds.is_none() && recipe.depth != Depth::Overnight {
        recipe.for_seconds = recipe.depth.seconds().or(Depth::Survey.seconds());
    }
}

fn change_until(chosen: &mut Chosen, now: u32, by: isize) {
    let next_half_hour = (now / HALF_HOUR + 1) * HALF_HOUR % DAY;
    chosen.until = match (chosen.until, by > 0) {
        (None, true) => Some(next_half_hour),
        (None, false) => None,
        (Some(until), false) if until == next_half_hour => None,
        (Some(until), forward) => Some((until + if forward { HALF_HOUR } else { DAY - HALF_HOUR }) % DAY),
    };
    chosen.recipe.for_seconds = chosen.until.map(|until| u64::from((until + DAY - now - 1) % DAY + 1) * 60);
    if chosen.until.is_some() {
        chosen.recipe.passes = None;
    }
    always_ends(&mut chosen.recipe);
}

/// What stands in front of a group of rows.
pub fn heading(row: RecipeRow) -> &'static str {
    match row {
        RecipeRow::Start => say::recipe_start(),
        RecipeRow::Depth(_) => say::recipe_depth(),
        RecipeRow::Test(_) => say::recipe_tests(),
        RecipeRow::Passes | RecipeRow::Time | RecipeRow::Until | RecipeRow::StopAfter => say::recipe_end(),
        RecipeRow::Memory | RecipeRow::From | RecipeRow::To => say::recipe_memory(),
        RecipeRow::Cores | RecipeRow::HowMany | RecipeRow::Caches => say::recipe_how(),
        RecipeRow::Idle | RecipeRow::Soak | RecipeRow::Sound => say::recipe_else(),
    }
}

/// Whether the row is on, where it can be, and its words.
pub fn words(shared: &Shared, row: RecipeRow) -> (Option<bool>, String) {
    let recipe = &shared.chosen.recipe;
    let value = |label: &str, value: String| (None, format!("{label:<9} ‹ {value} ›"));
    let end = |range: Option<ByteRange>, low: bool| match range {
        None => if low { "0" } else { say::recipe_top() }.to_owned(),
        Some(range) => bytes_text(if low { range.start } else { range.end }),
    };
    match row {
        RecipeRow::Start => (None, say::key_run(shared.chosen.words())),
        RecipeRow::Depth(depth) => (Some(recipe.depth == depth), depth.said().to_owned()),
        RecipeRow::Test(at) => match test_of(&shared.chosen, at) {
            Some(spec) => (Some(recipe.tests.iter().any(|name| *name == spec.name)), words::tests_of::title(&spec)),
            None => (Some(false), String::new()),
        },
        RecipeRow::Passes => {
            value(say::recipe_passes(), recipe.passes.map_or(say::recipe_as_many().into(), |passes| passes.to_string()))
        }
        RecipeRow::Time => {
            value(say::recipe_time(), recipe.for_seconds.map_or(say::recipe_any().into(), |seconds| duration_text(seconds as f64)))
        }
        RecipeRow::Until => {
            let clock = |minute: u32| format!("{:02}:{:02}", minute / 60, minute % 60);
            value(say::recipe_until(), shared.chosen.until.map_or(say::recipe_any_time().into(), clock))
        }
        RecipeRow::StopAfter => value(say::recipe_stop(), recipe.stop_after.map_or(say::recipe_not_for_errors().into(), stop_words)),
        RecipeRow::Memory => value(say::recipe_amount(), recipe.memory.map_or(say::recipe_all_there_is().into(), bytes_text)),
        RecipeRow::From => value(say::recipe_from(), end(recipe.range, true)),
        RecipeRow::To => value(say::recipe_to(), end(recipe.range, false)),
        RecipeRow::Cores => value(say::recipe_each_core(), covers(recipe.cores).to_owned()),
        RecipeRow::HowMany => {
            let many = recipe.which_cores.len();
            value(say::recipe_cores(), if many == 0 { say::recipe_all_cores(shared.facts.cores) } else { say::recipe_first_cores(many) })
        }
        RecipeRow::Caches => value(say::recipe_caches(), caches_word(recipe.caches).to_owned()),
        RecipeRow::Idle => {
            value(say::recipe_waits(), recipe.idle_seconds.map_or(say::recipe_as_tests_say().into(), |s| duration_text(s as f64)))
        }
        RecipeRow::Soak => {
            value(say::recipe_warmth(), if recipe.soak { say::recipe_until_stable() } else { say::recipe_as_comes() }.to_owned())
        }
        RecipeRow::Sound => value(say::recipe_sound(), if shared.chosen.sound { say::recipe_first_and_end() } else { say::recipe_off() }.to_owned()),
    }
}

fn stop_words(errors: u64) -> String {
    if errors == 1 { say::recipe_at_first().to_owned() } else { say::recipe_at_errors(errors) }
}

/// What each core covers.
pub fn covers(sharing: CoreSharing) -> &'static str {
    match sharing {
        CoreSharing::Divide => say::recipe_share(),
        CoreSharing::Each => say::recipe_all_memory(),
    }
}

fn caches_word(caches: Caches) -> &'static str {
    match caches {
        Caches::PerTest => say::recipe_per_test(),
        Caches::Flush => say::recipe_flush(),
    }
}

/// Whether Enter on the row begins the run: the start row, and a depth that is chosen as it comes.
pub fn starts(shared: &Shared, row: RecipeRow) -> bool {
    match row {
        RecipeRow::Start => true,
        RecipeRow::Depth(depth) => depth == shared.chosen.recipe.depth && !shared.chosen.changed,
        _ => false,
    }
}

/// What Enter does on the row, in words.
pub fn enter_words(shared: &Shared, row: RecipeRow) -> String {
    match row {
        RecipeRow::Start => say::key_run(shared.chosen.words()),
        RecipeRow::Depth(_) if starts(shared, row) => say::key_run(shared.chosen.words()),
        RecipeRow::Depth(depth) if depth == shared.chosen.recipe.depth => say::recipe_as_it_comes(depth.said()),
        RecipeRow::Depth(depth) => say::key_choose(depth.said()),
        RecipeRow::Test(_) => {
            let on = words(shared, row).0 == Some(true);
            if on { say::key_leave_out() } else { say::key_take_in() }.to_owned()
        }
        _ => say::key_next_value().to_owned(),
    }
}

/// What the row means, in a sentence or two.
pub fn meaning(shared: &Shared, row: RecipeRow) -> String {
    let words = match row {
        RecipeRow::Start => say::recipe_help_start(),
        RecipeRow::Depth(depth) => return format!("{}: {}.", depth.said(), words::tests_of::depth(depth)),
        RecipeRow::Test(at) => return test_of(&shared.chosen, at).map(|spec| words::tests_of::purpose(&spec)).unwrap_or_default(),
        RecipeRow::Passes => say::recipe_help_passes(),
        RecipeRow::Time => say::recipe_help_time(),
        RecipeRow::Until => {
            say::recipe_help_until()
        }
        RecipeRow::StopAfter => say::recipe_help_stop(),
        RecipeRow::Memory => {
            say::recipe_help_memory()
        }
        RecipeRow::From | RecipeRow::To => say::recipe_help_range(),
        RecipeRow::Cores => match shared.chosen.recipe.cores {
            CoreSharing::Divide if shared.facts.nodes > 1 => return say::recipe_help_divide_nodes(shared.facts.nodes as u64),
            CoreSharing::Each if shared.facts.nodes > 1 => return say::recipe_help_each_nodes(shared.facts.nodes as u64),
            CoreSharing::Divide => say::recipe_help_divide(),
            CoreSharing::Each => say::recipe_help_each(),
        },
        RecipeRow::HowMany => say::recipe_help_cores(),
        RecipeRow::Caches => match shared.chosen.recipe.caches {
            Caches::PerTest => {
                say::recipe_help_per_test()
            }
            Caches::Flush => say::recipe_help_flush(),
        },
        RecipeRow::Idle => say::recipe_help_waits(),
        RecipeRow::Soak => {
            say::recipe_help_warmth()
        }
        RecipeRow::Sound => say::recipe_help_sound(),
    };
    words.to_owned()
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;
    use crate::shared::facts::Facts;

    #[rstest]
    #[case(None, 1, Some(5))]
    #[case(None, -1, None)]
    #[case(Some(5), -1, None)]
    #[case(Some(7), 1, Some(9))]
    #[case(Some(7), -1, Some(5))]
    #[case(Some(9), 1, Some(9))]
    fn values_step_and_end_in_none(#[case] now: Option<u64>, #[case] by: isize, #[case] then: Option<u64>) {
        assert_eq!(stepped_or_none(&[5, 9], now, by), then);
    }

    #[rstest]
    #[case(None, RecipeRow::From, 1, Some((1, 16)))]
    #[case(None, RecipeRow::To, 1, None)]
    #[case(None, RecipeRow::To, -1, Some((0, 15)))]
    #[case(Some((4, 5)), RecipeRow::From, 1, Some((4, 5)))]
    #[case(Some((1, 16)), RecipeRow::From, -1, None)]
    fn a_range_keeps_something_in_it(
        #[case] now: Option<(u64, u64)>,
        #[case] row: RecipeRow,
        #[case] by: isize,
        #[case] then: Option<(u64, u64)>,
    ) {
        let range = |gib: (u64, u64)| ByteRange::new(gib.0 * GIB, gib.1 * GIB);
        assert_eq!(stepped_range(now.map(range), row, by, 16 * GIB - 5), then.map(range));
    }

    #[test]
    fn every_row_steps_both_ways_and_says_what_it_means() {
        let mut shared = Shared::new(Facts::default(), (128, 40));
        for row in recipe_rows(&shared.chosen) {
            for by in [1, 1, -1, -1, -1] {
                shared.chosen = changed(&shared, row, by);
                assert!(!words(&shared, row).1.is_empty() && !meaning(&shared, row).is_empty() && !heading(row).is_empty());
                assert!(
                    shared.chosen.recipe.passes.is_some()
                        || shared.chosen.recipe.for_seconds.is_some()
                        || shared.chosen.recipe.depth == Depth::Overnight
                );
            }
        }
    }
}
