//! A run, live or opened again: clean so far or not, readable from across the room; then how far, which test, where the errors are.
//!
//! ```text
//! 5 ERRORS  (four rows high)
//! triage  pass 1 of 1  test 4 of 6, lane groups, 40 %   █│██│███░│░░░ 61 %   about 14 s left, ends 13:26
//! test             pass 1              now    up(r1,w0)
//! random           ✗     1             rate   21.5 GB/s
//! 0 ░████████████████████▼███████████ 17 GiB
//! errors  where  what                  on second look   first   tests
//! ```

use revisum_engine::catalog::{TestSpec, find_test};
use revisum_engine::host::CoreClock;
use revisum_engine::news::Progress;
use revisum_engine::recipe::{CoreSharing, Depth, Recipe};
use revisum_engine::units::{bytes_text, count_text, duration_text, short_count};
use revisum_record::outcome::{EndedBy, Grade, Judgement, Told};
use revisum_record::run_state::{RunState, TestState};

use unicode_width::UnicodeWidthStr;

use super::canvas::{Canvas, shortened};
use super::table::{self, Column};
use super::{big_words, gauge, ribbon};
use crate::say;
use revisum_records::wall_time;
use revisum_words as words;
use revisum_words::Said as _;

/// Columns of one pass in the grid.
const CELL: u16 = 11;
const TESTS: u16 = 27;
/// Columns of the rate.
const RATE: u16 = 6;
/// Rows kept for what stands below the grid, and tests shown in any case.
const BELOW_GRID: u16 = 8;
const LEAST_TESTS: usize = 3;
/// Columns of a label there.
const FACT: u16 = 12;
/// Column of the right-hand side on a wide screen.
const RIGHT: u16 = 66;
const WIDE: u16 = 110;

/// Rows of errors over time, and groups of errors that have their rows before that.
const MOST_SPANS: u16 = 8;
const MOST_GROUPS: usize = 6;

/// What is drawn of a run.
pub struct Shown<'a> {
    /// What it has come to.
    pub state: &'a RunState,
    /// It goes on.
    pub live: bool,
    /// The test that a key would act on.
    pub chosen: Option<usize>,
    /// Why records are not kept.
    pub trouble: Option<&'a str>,
    /// Which part is suspect, in a sentence.
    pub suspect: Option<String>,
    /// The machine's wall time in milliseconds since 1970.
    pub wall_ms: i64,
}

/// Draws a run, live or opened again.
pub fn draw(canvas: &mut Canvas<'_>, run: &Shown<'_>) {
    let wide = canvas.width() >= WIDE;
    let roomy = canvas.height() >= 24;
    let gap = u16::from(roomy);
    let mut y = draw_headline(canvas, run, wide && roomy) + gap;
    y += draw_statement(canvas, run, y) + gap;
    let grid_rows = draw_grid(canvas, run.state, run.chosen, y, wide);
    if wide {
        let (width, height) = (canvas.width() - RIGHT, canvas.height().saturating_sub(y));
        draw_facts(&mut canvas.part(RIGHT, y, width, height), run.state);
    }
    y += grid_rows.max(if wide { 5 } else { 0 }) + gap;
    if canvas.height() >= y + 2 {
        ribbon::draw(&mut canvas.below(y), run.state);
        y += ribbon::ROWS;
        // Over time where the groups of errors have their rows below.
        let groups = groups(run.state).len().min(MOST_GROUPS) as u16 + 2 + gap;
        let room = canvas.height().saturating_sub(y + groups).min(MOST_SPANS);
        let width = canvas.width();
        y += ribbon::draw_over_time(&mut canvas.part(0, y, width, room), run.state) + gap;
    }
    draw_errors(&mut canvas.below(y), run.state);
}

/// What has to be readable across the room: longest wording first. `CLEAN` alone is all that was planned on nearly all that is installed.
pub fn large_words(judgement: &Judgement) -> Vec<String> {
    let words: &[&str] = match judgement.told().told {
        Told::Errors(count) => {
            let word = if count == 1 { say::big_error() } else { say::big_errors() };
            let mut all = vec![format!("{} {word}", count_text(count)), count_text(count), short_count(count, 6)];
            all.dedup();
            return all;
        }
        Told::Void => &[say::big_self_check(), say::big_void()],
        Told::NotWhole => &[say::big_record_damaged(), say::big_damaged()],
        Told::Uncorrectable(_) => &[say::big_hardware(), say::big_errors()],
        Told::Miscalculated(_) => &[say::big_computed(), say::big_wrong()],
        Told::OnlyCorrected(_) => &[say::big_corrected(), say::big_ecc()],
        Told::Clean if judgement.grade == Grade::Clean => &[say::big_clean()],
        Told::Clean => &[say::big_clean_part(), say::big_part()],
        Told::CleanSoFar(_) if judgement.grade == Grade::Open => &[say::big_clean_so_far(), say::big_so_far()],
        Told::CleanSoFar(_) | Told::NoFullPass | Told::NothingTested
            if judgement.ended_by == Some(EndedBy::BrokeOff) =>
        {
            &[say::big_broken_off()]
        }
        Told::CleanSoFar(_) | Told::NoFullPass | Told::NothingTested => {
            &[say::big_not_finished(), say::big_unfinished()]
        }
    };
    words.iter().map(|word| (*word).to_owned()).collect()
}

/// The large word and how far it is; returns the rows they took.
fn draw_headline(canvas: &mut Canvas<'_>, run: &Shown<'_>, tall: bool) -> u16 {
    let theme = canvas.theme;
    let judgement = Judgement::of(run.state, run.live);
    let (wordings, style) = (large_words(&judgement), theme.graded(judgement.grade));
    let wordings: Vec<&str> = wordings.iter().map(String::as_str).collect();
    if tall {
        let room = canvas.width().saturating_sub(4);
        big_words::draw(&mut canvas.part(2, 0, room, big_words::ROWS), &wordings, style);
        let y = big_words::ROWS + 1;
        let (width, height) = (canvas.width() - 4, 2);
        draw_plan_line(&mut canvas.part(2, y, width, height), run);
        return y + 1;
    }
    let side = (canvas.width() * 5 / 8).min(RIGHT);
    let room = side.saturating_sub(4);
    big_words::draw(&mut canvas.part(2, 0, room, big_words::ROWS), &wordings, style);
    let (width, height) = (canvas.width() - side, big_words::ROWS);
    draw_plan_beside(&mut canvas.part(side, 0, width, height), run);
    big_words::ROWS
}

/// What runs: depth and pass. Returns the column after it.
fn draw_what(canvas: &mut Canvas<'_>, state: &RunState) -> u16 {
    let theme = canvas.theme;
    let recipe = state.begin.recipe.clone().unwrap_or_else(|| Recipe::of_depth(Depth::Triage));
    let x = canvas.put(0, 0, theme.strong(), recipe.depth.said());
    let of = recipe.passes.map_or(String::new(), |passes| say::of_passes(passes.saturating_add(state.added_passes)));
    canvas.put(x + 2, 0, theme.text(), &say::pass_of(state.pass, of))
}

/// The test at hand: `test 4 of 6, lane groups, 40 %`; nothing before the first began.
pub fn test_words(state: &RunState, progress: &Progress) -> String {
    let Some(at) = state.tests.iter().position(|test| test.name == progress.test) else { return String::new() };
    let spec = state.begin.recipe.as_ref().and_then(|recipe| test_named(recipe, &progress.test));
    let title = spec.as_ref().map_or_else(|| words::tests_of::title_of(&progress.test), words::tests_of::title);
    say::test_of(at + 1, state.tests.len(), shortened(&title, 24), progress.test_ppm / 10_000)
}

/// How far the run is, and where its passes end, or the tests of its only pass. A run without an end shows its pass.
fn whole(state: &RunState) -> (f64, Vec<f64>) {
    let recipe = state.begin.recipe.as_ref();
    let passes = recipe.and_then(|recipe| recipe.passes).map(|passes| passes.saturating_add(state.added_passes).max(1));
    match (state.plan_ratio(), passes) {
        (Some(ratio), Some(passes @ 2..)) => {
            (ratio, (1..passes).map(|pass| f64::from(pass) / f64::from(passes)).collect())
        }
        (Some(ratio), None) => (ratio, Vec::new()),
        (ratio, _) => {
            let all = state.pass_seconds().max(1e-9);
            let ends = state.held.expected.iter().scan(0.0, |sum, (_, seconds)| {
                *sum += seconds / all;
                Some(*sum)
            });
            (ratio.unwrap_or_else(|| state.pass_ratio()), ends.collect())
        }
    }
}

/// How long it took or takes, in words: the longest wording that these columns hold. The end is whole in any case.
pub fn time_words(run: &Shown<'_>, room: u16) -> String {
    let (state, live) = (run.state, run.live);
    let judgement = Judgement::of(state, live);
    let elapsed = duration_text(judgement.times.ran);
    match (live, state.paused, state.seconds_left()) {
        (true, true, _) => say::paused_after(elapsed),
        (true, false, Some(left)) => {
            let zone = wall_time::zone(state.begin.simulated);
            let end_ms = run.wall_ms + (left * 1000.0) as i64;
            let (left, end) = (duration_text(left), wall_time::format(end_ms, &zone, "%H:%M"));
            let wordings = [say::about_left(&left, &end), say::left_ends(left, &end)];
            wordings.into_iter().find(|words| words.width() <= usize::from(room)).unwrap_or(say::ends(end))
        }
        (true, false, None) => say::so_far(elapsed),
        (false, ..) => say::took(words::result::took(&judgement)),
    }
}

fn draw_plan_line(canvas: &mut Canvas<'_>, run: &Shown<'_>) {
    let (theme, state, live) = (canvas.theme, run.state, run.live);
    let x = draw_what(canvas, state) + 2;
    let style = if state.paused { theme.attention() } else { theme.label() };
    let time = time_words(run, canvas.width());
    if !live {
        canvas.put(x + 1, 0, style, &time);
        return;
    }
    let x = canvas.put(x, 0, theme.text(), &test_words(state, &state.progress)) + 3;
    // The end is whole in any case; the bar has what is left.
    let width = canvas.width();
    let bar = width.saturating_sub(x + time.chars().count() as u16 + 9).min(40);
    let (ratio, ends) = whole(state);
    let x = if bar >= 8 {
        x + gauge::draw_parts(&mut canvas.part(x, 0, width - x, 1), 0, ratio, &ends, bar) + 3
    } else {
        x
    };
    canvas.put(x, 0, style, &time);
}

fn draw_plan_beside(canvas: &mut Canvas<'_>, run: &Shown<'_>) {
    let (theme, state, live) = (canvas.theme, run.state, run.live);
    draw_what(canvas, state);
    let mut y = 1;
    if live {
        canvas.put(0, 1, theme.text(), &test_words(state, &state.progress));
        let (ratio, ends) = whole(state);
        gauge::draw_parts(canvas, 2, ratio, &ends, canvas.width().saturating_sub(8).min(36));
        y = 3;
    }
    let style = if state.paused { theme.attention() } else { theme.label() };
    canvas.put(0, y, style, &time_words(run, canvas.width()));
}

/// The result in words, and who is suspected; returns the rows it took.
fn draw_statement(canvas: &mut Canvas<'_>, run: &Shown<'_>, y: u16) -> u16 {
    let theme = canvas.theme;
    let width = canvas.width().saturating_sub(4).min(124);
    let mut rows = 0;
    if let Some(trouble) = run.trouble {
        rows += canvas.paragraph(2, y, width, theme.error(), &say::not_recorded_why(trouble));
    }
    let live = run.live;
    let judgement = Judgement::of(run.state, live);
    let (headline, sentence) =
        (format!("{}.", words::result::headline(&judgement)), words::result::sentence(&judgement));
    let style = theme.graded(judgement.grade);
    // A short sentence goes on where the headline ends.
    if (!live || judgement.grade == Grade::Errors) && headline.len() + sentence.len() < usize::from(width) {
        let x = canvas.put(2, y + rows, style, &headline);
        canvas.put(x + 1, y + rows, theme.text(), &sentence);
        rows += 1;
    } else {
        rows += canvas.paragraph(2, y + rows, width, style, &headline);
        rows += if live { 0 } else { canvas.paragraph(2, y + rows, width, theme.text(), &sentence) };
    }
    if let Some(suspect) = run.suspect.as_ref().filter(|_| !live) {
        rows += canvas.paragraph(2, y + rows, width, theme.strong(), suspect);
    }
    rows
}

fn draw_grid(canvas: &mut Canvas<'_>, state: &RunState, chosen: Option<usize>, y: u16, wide: bool) -> u16 {
    let theme = canvas.theme;
    let begin = if wide { TESTS + RATE } else { TESTS };
    let room = if wide { RIGHT } else { canvas.width() }.saturating_sub(begin);
    let columns = usize::from(room / CELL).max(1);
    let planned = state.begin.recipe.as_ref().and_then(|recipe| recipe.passes);
    let planned = planned.map(|passes| passes.saturating_add(state.added_passes));
    let latest = state.pass.max(1);
    let shown = planned.unwrap_or(latest).min(latest.max(columns as u32)).max(latest);
    let first = shown.saturating_sub(columns as u32 - 1).max(1);
    if wide {
        canvas.put_right(begin - 2, y, theme.label(), "GB/s");
    }
    for (column, pass) in (0u16..).zip(first..=shown) {
        let style = if pass == latest && state.end.is_none() { theme.attention() } else { theme.label() };
        canvas.put(begin + column * CELL, y, style, &say::pass_number(pass));
    }
    let heat = u16::from(!state.pass_celsius.is_empty());
    let rows =
        usize::from(canvas.height().saturating_sub(y + 1 + heat + BELOW_GRID)).max(LEAST_TESTS).min(state.tests.len());
    let now = state.tests.iter().position(|test| test.name == state.progress.test).unwrap_or(0);
    let above = now.saturating_sub(rows / 2).min(state.tests.len() - rows);
    let some = if rows < state.tests.len() {
        say::tests_from_to(above + 1, above + rows, state.tests.len())
    } else {
        say::test().to_owned()
    };
    canvas.put(2, y, theme.label(), &some);
    for (row, (at, test)) in (y + 1..).zip(state.tests.iter().enumerate().skip(above).take(rows)) {
        let spec = state.begin.recipe.as_ref().and_then(|recipe| test_named(recipe, &test.name));
        let title = spec.as_ref().map_or_else(|| words::tests_of::title_of(&test.name), words::tests_of::title);
        if chosen.is_some() {
            canvas.line(row, at);
        }
        if chosen == Some(at) {
            canvas.put(0, row, theme.attention(), theme.marks.chosen);
        }
        let style = if chosen == Some(at) { theme.strong() } else { theme.text() };
        canvas.cell(2, row, 24, style, &title);
        if let Some(rate) = rate_of(test).filter(|_| wide) {
            canvas.put_right(begin - 2, row, theme.label(), &format!("{rate:.1}"));
        }
        for (column, pass) in (0u16..).zip(first..=shown) {
            draw_cell(canvas, state, test, pass, (begin + column * CELL, row));
        }
    }
    if heat > 0 {
        let row = y + 1 + rows as u16;
        canvas.put(2, row, theme.label(), say::temperature_celsius());
        for (column, pass) in (0u16..).zip(first..=shown) {
            let Some((low, high)) = state.pass_celsius.get(&pass) else { continue };
            let words = if high - low < 1.0 {
                format!("{high:.0}")
            } else {
                say::low_to_high(format!("{:.0}", low), format!("{:.0}", high))
            };
            canvas.put_right(begin + (column + 1) * CELL - 2, row, theme.text(), &words);
        }
    }
    1 + heat + rows as u16
}

/// The test of this name in the catalogue or among one's own.
fn test_named(recipe: &Recipe, name: &str) -> Option<TestSpec> {
    find_test(name).cloned().or_else(|| recipe.own.iter().find(|test| test.name == name)?.spec().ok())
}

/// GB a second over all passes of a test.
fn rate_of(test: &TestState) -> Option<f64> {
    let running = test.cells.iter().filter(|cell| cell.finished.is_none());
    let (bytes, ns) = running
        .fold((test.bytes_swept, test.sweep_ns), |(bytes, ns), cell| (bytes + cell.bytes_swept, ns + cell.sweep_ns));
    (ns > 0 && bytes > 0).then(|| bytes as f64 / ns as f64)
}

fn draw_cell(canvas: &mut Canvas<'_>, state: &RunState, test: &TestState, pass: u32, (x, y): (u16, u16)) {
    let cell = test.cells.iter().find(|cell| cell.pass == pass);
    let theme = canvas.theme;
    let marks = &theme.marks;
    let Some(cell) = cell else {
        // What an earlier part of a continued run finished is not run again.
        let before =
            state.begin.continues.as_ref().filter(|part| part.pass == pass && part.finished.contains(&test.name));
        canvas.put(x, y, theme.faint(), if before.is_some() { say::before() } else { marks.open });
        return;
    };
    let seconds = cell.sweep_ns as f64 / 1e9;
    let here = state.progress.test == test.name && state.progress.pass == cell.pass;
    let percent = if here { state.progress.test_ppm / 10_000 } else { 0 };
    let (mark, mark_style, text) = match (cell.errors, cell.finished) {
        // What is still at work is marked so, whatever it found.
        (errors, None) if errors > 0 => (marks.here, theme.error(), short_count(errors, usize::from(CELL) - 4)),
        (errors, _) if errors > 0 => (marks.failed, theme.error(), short_count(errors, usize::from(CELL) - 4)),
        (_, Some(true)) => (marks.passed, theme.clean(), clock(seconds)),
        // The last test of a run that ended in it was not skipped.
        (_, Some(false)) if here && state.end.is_some() => {
            (marks.open, theme.attention(), say::test_stopped().to_owned())
        }
        (_, Some(false)) => (marks.open, theme.attention(), say::test_skipped().to_owned()),
        (_, None) => (marks.here, theme.attention(), format!("{percent} %")),
    };
    canvas.put(x, y, mark_style, mark);
    let style = if cell.errors > 0 { theme.error() } else { theme.text() };
    canvas.put_right(x + CELL - 2, y, style, &text);
}

/// `0:41`.
fn clock(seconds: f64) -> String {
    let whole = seconds.round() as u64;
    format!("{}:{:02}", whole / 60, whole % 60)
}

fn draw_facts(canvas: &mut Canvas<'_>, state: &RunState) {
    let theme = canvas.theme;
    let mut y = 0;
    let mut fact = |canvas: &mut Canvas<'_>, label: &str, value: &str, style| {
        canvas.put(0, y, theme.label(), label);
        canvas.put(FACT, y, style, value);
        y += 1;
    };
    if state.end.is_none() {
        fact(canvas, say::panel_now(), &words::tests_of::element(&state.progress.notation), theme.text());
    }
    let each = state.begin.recipe.as_ref().is_some_and(|recipe| recipe.cores == CoreSharing::Each);
    let cores = words::tests_of::cores(state.held.cores) + if each { say::each_covers_all() } else { "" };
    fact(canvas, say::panel_cores(), &cores, theme.text());
    let (bytes, ns) = sweep_totals(state);
    if ns > 0 {
        fact(canvas, say::panel_rate(), &format!("{:.1} GB/s", bytes as f64 / ns as f64), theme.strong());
    }
    if let Some((sensor, celsius)) = &state.heat {
        fact(canvas, say::panel_heat(), &format!("{celsius:.0} °C  {sensor}"), theme.text());
    }
    if let Some(clock) = state.core_clock {
        fact(canvas, say::panel_clock(), &clock_words(clock), theme.text());
    }
    let checker = match (state.plants_caught, state.plants_missed) {
        (_, missed @ 1..) => (say::check_failed(missed), theme.error()),
        (0, 0) => (say::check_not_yet().to_owned(), theme.label()),
        (caught, 0) => (say::check_passed(caught), theme.clean()),
    };
    fact(canvas, say::self_check(), &checker.0, checker.1);
    if state.void_bytes > 0 {
        let words = say::excluded_bytes(bytes_text(state.void_bytes));
        fact(canvas, say::panel_moved(), &words, theme.attention());
    }
    if state.miscalculated > 0 {
        fact(canvas, say::panel_wrong(), &say::numbers(state.miscalculated), theme.error());
    }
    if state.miscounted > 0 {
        fact(canvas, say::panel_counts(), say::panel_counts_differ(), theme.error());
    }
    if state.hardware.corrected + state.hardware.uncorrected > 0 {
        let words = say::ecc_counts(state.hardware.corrected, state.hardware.uncorrected);
        let style = if state.hardware.uncorrected > 0 { theme.error() } else { theme.attention() };
        fact(canvas, "ECC", &words, style);
    }
}

/// Bytes and nanoseconds of all sweeps, the test at hand included.
fn sweep_totals(state: &RunState) -> (u64, u64) {
    let running = state.tests.iter().flat_map(|test| &test.cells).filter(|cell| cell.finished.is_none());
    let (bytes, ns) = running.fold((0, 0), |sum, cell| (sum.0 + cell.bytes_swept, sum.1 + cell.sweep_ns));
    state.tests.iter().fold((bytes, ns), |sum, test| (sum.0 + test.bytes_swept, sum.1 + test.sweep_ns))
}

/// Errors that look alike stand in one line.
struct Group {
    words: u64,
    place: String,
    lanes: String,
    kinds: Vec<&'static str>,
    tests: Vec<String>,
}

fn groups(state: &RunState) -> Vec<Group> {
    let mut groups: Vec<Group> = Vec::new();
    for sample in &state.errors.samples {
        let place = if sample.slots.is_empty() { say::slot_unknown().to_owned() } else { sample.slots.join(say::or()) };
        let lanes = lanes_words(sample.expected.0, sample.actual.0);
        let at = groups.iter().position(|group| group.place == place && group.lanes == lanes);
        let at = at.unwrap_or_else(|| {
            groups.push(Group { words: 0, place, lanes, kinds: Vec::new(), tests: Vec::new() });
            groups.len() - 1
        });
        let group = &mut groups[at];
        group.words += 1;
        if !group.kinds.contains(&sample.kind.said()) {
            group.kinds.push(sample.kind.said());
        }
        let title = words::tests_of::title_of(&sample.test);
        if !group.tests.contains(&title) {
            group.tests.push(title);
        }
    }
    groups.sort_by_key(|group| std::cmp::Reverse(group.words));
    groups
}

fn lanes_words(expected: u64, actual: u64) -> String {
    let wrong = expected ^ actual;
    match wrong.count_ones() {
        1 => {
            let lane = wrong.trailing_zeros();
            let (reads, for_) = if actual >> lane & 1 == 1 { (1, 0) } else { (0, 1) };
            say::dq_reads(lane, reads, for_)
        }
        _ if wrong & !(0xff << (wrong.trailing_zeros() / 8 * 8)) == 0 => say::lines_of_lane(wrong.trailing_zeros() / 8),
        several => say::lines_at_once(several),
    }
}

fn draw_errors(canvas: &mut Canvas<'_>, state: &RunState) {
    let theme = canvas.theme;
    let groups = groups(state);
    if groups.is_empty() || canvas.height() < 2 {
        return;
    }
    let columns = [
        Column::number(say::col_samples()),
        Column::fit(say::col_where()),
        Column::fit(say::col_what()),
        Column::fit(say::col_re_read()),
        Column::rest(say::col_tests()),
    ];
    let room = canvas.height().saturating_sub(2).max(1);
    let line = |at: usize| {
        let group = &groups[at];
        vec![
            (count_text(group.words), theme.error()),
            (group.place.clone(), theme.text()),
            (group.lanes.clone(), theme.text()),
            (group.kinds.join(", "), theme.text()),
            (group.tests.join(", "), theme.label()),
        ]
    };
    let width = canvas.width();
    table::draw(&mut canvas.part(0, 0, width, room + 1), &columns, groups.len(), None, &line);
    let y = 1 + room.min(groups.len() as u16);
    if let Some(first) = state.errors.samples.first() {
        let address = first.address.map_or(say::unknown_address().to_owned(), |address| address.to_string());
        let words = say::first_sample(address, first.expected.to_string(), first.actual.to_string());
        canvas.put(2, y, theme.label(), &words);
    }
}

/// The clock of the cores, in GHz.
fn clock_words(clock: CoreClock) -> String {
    let [lowest, highest] = [clock.lowest_mhz, clock.highest_mhz].map(|mhz| format!("{:.1}", f64::from(mhz) / 1000.0));
    if lowest == highest { format!("{highest} GHz") } else { say::panel_clock_range(lowest, highest) }
}

#[cfg(test)]
mod tests {
    use revisum_engine::news::{ErrorReport, TestEnd};
    use revisum_engine::recipe::Depth;
    use revisum_engine::tally::Tally;
    use revisum_record::journal::{Begin, Entry, Framed, Held};
    use rstest::rstest;

    use super::*;
    use crate::kit::theme::Theme;

    const GIB: u64 = 1 << 30;

    /// A run of one pass that was planned to have so many, over this much of 16 GiB, and what else happened in it.
    fn judged(passes: u32, gib: u64, live: bool, more: Vec<Entry>) -> Judgement {
        let recipe = Recipe { passes: Some(passes), ..Recipe::with_tests(Depth::Triage, vec!["random".into()]) };
        let begin = Begin { recipe: Some(recipe), fitted_bytes: Some(16 * GIB), ..Begin::default() };
        let mut entries = vec![
            Entry::Begin(Box::new(begin)),
            Entry::Held(Held { bytes: gib * GIB, ..Held::default() }),
            Entry::Planted { pass: 1, test: "random".into(), address: None, caught: true },
            Entry::TestEnded(TestEnd { pass: 1, test: "random".into(), finished: true, ..TestEnd::default() }),
            Entry::PassEnded { pass: 1, complete: true, seconds: 1.0 },
        ];
        entries.extend(more);
        let mut state = RunState::default();
        for (seq, entry) in (0u64..).zip(entries) {
            state.apply(&Framed { journal: "j".into(), seq, t_ms: seq, entry });
        }
        Judgement::of(&state, live)
    }

    const DONE: Entry = Entry::Ended { reason: revisum_engine::news::EndReason::Completed };
    const STOPPED: Entry = Entry::Ended { reason: revisum_engine::news::EndReason::Stopped };

    fn wrong(words: u64) -> Entry {
        let tally = Tally { words, ..Tally::default() };
        Entry::Errors(Box::new(ErrorReport { pass: 1, test: "random".into(), tally }))
    }

    fn missed() -> Entry {
        Entry::Planted { pass: 1, test: "random".into(), address: None, caught: false }
    }

    fn corrected(corrected: u64, uncorrected: u64) -> Entry {
        Entry::Corrected { label: "A1".into(), corrected, uncorrected }
    }

    /// `CLEAN` across the room is all that was planned on nearly all memory, and green is nothing else but that and a run without errors so far.
    #[rstest]
    #[case::clean(judged(1, 15, false, vec![DONE]), "CLEAN", Grade::Clean)]
    #[case::half_the_memory(judged(1, 8, false, vec![DONE]), "CLEAN IN PART", Grade::Reduced)]
    #[case::stopped(judged(9, 15, false, vec![STOPPED]), "NOT FINISHED", Grade::Reduced)]
    #[case::broken_off(judged(9, 15, false, vec![]), "BROKEN OFF", Grade::Reduced)]
    #[case::running(judged(9, 15, true, vec![]), "CLEAN SO FAR", Grade::Open)]
    #[case::one_error(judged(1, 15, false, vec![wrong(1), DONE]), "1 ERROR", Grade::Errors)]
    #[case::errors(judged(1, 15, true, vec![wrong(1204)]), "1 204 ERRORS", Grade::Errors)]
    #[case::only_corrected(judged(1, 15, false, vec![corrected(5, 0), DONE]), "CORRECTED ERRORS", Grade::Corrected)]
    #[case::uncorrectable(judged(1, 15, false, vec![corrected(5, 1), DONE]), "HARDWARE ERRORS", Grade::Errors)]
    #[case::void(judged(1, 15, false, vec![missed(), DONE]), "SELF-CHECK FAILED", Grade::Void)]
    fn the_large_words_promise_no_more_than_the_headline(
        #[case] judgement: Judgement,
        #[case] large: &str,
        #[case] grade: Grade,
    ) {
        let theme = Theme::full();
        let (words, style) = (large_words(&judgement), theme.graded(judgement.grade));
        assert_eq!((words[0].as_str(), judgement.grade), (large, grade));
        assert_eq!(style, theme.graded(grade));
        let green = style == theme.clean();
        assert_eq!(green, matches!(grade, Grade::Clean | Grade::Open));
        assert!(words.windows(2).all(|pair| pair[0].len() > pair[1].len()), "longest first: {words:?}");
    }
}
