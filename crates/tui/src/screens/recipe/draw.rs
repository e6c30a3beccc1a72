//! What to run and how, and what that will take.

use std::collections::BTreeMap;
use std::ops::Range;
use std::sync::{Mutex, PoisonError};

use revisum_engine::catalog::{CATALOG, TestSpec, Work};
use revisum_engine::path::{Path};
use revisum_engine::grade::{AsRun, DISTANCES, Model, found_from, grade, grade_as_run};
use revisum_engine::recipe::Recipe;
use revisum_engine::units::{bytes_text, duration_text};
use revisum_words as words;

use crate::say;
use crate::kit::canvas::{Canvas, FACT_INDENT, Target};
use crate::shared::state::Shared;

use super::Recipe as RecipeScreen;
use super::rows::{RecipeRow, heading, meaning, recipe_rows, test_of, words};

const RIGHT: u16 = 62;
const WIDE: u16 = 110;
/// Rows of the explanation on a narrow screen, and the fewest on a wide one.
const BELOW: u16 = 8;

/// Draws the view.
pub fn draw(canvas: &mut Canvas<'_>, screen: &RecipeScreen, shared: &Shared) {
    let (width, height) = (canvas.width(), canvas.height());
    let rows = recipe_rows(&shared.chosen);
    let settings = rows.iter().position(|row| *row == RecipeRow::Passes).unwrap_or(rows.len());
    let right = width.saturating_sub(RIGHT);
    // What is run on the left, how on the right, what it means below that.
    let beside = (rows.len() - settings) as u16;
    if width >= WIDE && height > beside + BELOW {
        list(&mut canvas.part(0, 0, RIGHT, height), (screen, shared), 0..settings, height);
        list(&mut canvas.part(RIGHT, 0, right, beside), (screen, shared), settings..rows.len(), beside);
        explain(&mut canvas.part(RIGHT, beside + 1, right.saturating_sub(2), height - beside - 1), screen, shared);
    } else {
        let room = height.saturating_sub(BELOW - 1).max(3);
        list(canvas, (screen, shared), 0..rows.len(), room);
        explain(&mut canvas.below(room + 1), screen, shared);
    }
}

/// Some of the rows, in so many lines.
fn list(canvas: &mut Canvas<'_>, (screen, shared): (&RecipeScreen, &Shared), part: Range<usize>, room: u16) {
    let theme = canvas.theme;
    let rows = recipe_rows(&shared.chosen);
    let expected: BTreeMap<String, f64> = each_test(shared);
    let (room, end) = (usize::from(room).max(1), canvas.width().min(RIGHT).saturating_sub(4));
    // The chosen row stays in the middle of a list that does not fit.
    let chosen = screen.row.clamp(part.start, part.end.max(part.start + 1) - 1);
    let first = chosen.saturating_sub(room / 2).max(part.start).min(part.end.saturating_sub(room).max(part.start));
    let mut last = None;
    for (y, (at, row)) in (0u16..).zip(rows.iter().copied().enumerate().take(part.end).skip(first).take(room)) {
        if last != Some(heading(row)) {
            canvas.put(2, y, theme.label(), heading(row));
            last = Some(heading(row));
        }
        canvas.target(10, y, end.saturating_sub(10), Target::Line(at));
        if at == screen.row {
            canvas.put(10, y, theme.attention(), theme.marks.here);
        }
        let (on, words) = words(shared, row);
        let mark = match on {
            Some(true) => theme.marks.on,
            Some(false) => theme.marks.open,
            None => "",
        };
        canvas.put(12, y, if on == Some(true) { theme.clean() } else { theme.label() }, mark);
        let style = if on == Some(false) { theme.label() } else { theme.text() };
        canvas.put(14, y, if at == screen.row { theme.strong() } else { style }, &words);
        canvas.put_right(end, y, theme.label(), &aside(shared, row, &expected));
    }
    if first + room < part.end {
        canvas.put(2, room as u16 - 1, theme.label(), say::recipe_more());
    }
}

/// Seconds that each test takes in one pass here, chosen or not.
fn each_test(shared: &Shared) -> BTreeMap<String, f64> {
    let specs = CATALOG.iter().cloned().chain(shared.chosen.recipe.own.iter().filter_map(|test| test.spec().ok()));
    let all = Recipe { tests: specs.map(|spec| spec.name.to_string()).collect(), ..shared.chosen.recipe.clone() };
    shared.facts.measured().expected(&all, shared.held_bytes(), shared.facts.cores).into_iter().flatten().collect()
}

/// A few words beside the row: how long a test takes.
fn aside(shared: &Shared, row: RecipeRow, expected: &BTreeMap<String, f64>) -> String {
    match row {
        RecipeRow::Start => shared.expected().map_or(String::new(), |tests| {
            let pass = tests.iter().map(|(_, seconds)| seconds).sum::<f64>();
            say::recipe_one_pass(duration_text(pass))
        }),
        RecipeRow::Depth(revisum_engine::recipe::Depth::Triage) => say::recipe_minutes().to_owned(),
        RecipeRow::Depth(revisum_engine::recipe::Depth::Survey) => say::recipe_hour().to_owned(),
        RecipeRow::Depth(revisum_engine::recipe::Depth::Overnight) => say::recipe_eight_hours().to_owned(),
        RecipeRow::Test(at) => {
            let Some(spec) = test_of(&shared.chosen, at) else { return String::new() };
            match expected.get(spec.name.as_ref()) {
                Some(seconds) if *seconds < 1.0 => say::recipe_moment().to_owned(),
                Some(seconds) => duration_text(*seconds),
                None if spec.sweeps() > 0 => say::recipe_sweeps(spec.sweeps()),
                None => say::recipe_moment().to_owned(),
            }
        }
        _ => String::new(),
    }
}

fn explain(canvas: &mut Canvas<'_>, screen: &RecipeScreen, shared: &Shared) {
    let theme = canvas.theme;
    let width = canvas.width().saturating_sub(4);
    let rows = recipe_rows(&shared.chosen);
    let Some(row) = rows.get(screen.row).copied() else { return };
    let roomy = canvas.height() > BELOW;
    let mut y = canvas.paragraph(2, 0, width, theme.text(), &meaning(shared, row)) + u16::from(roomy);
    if let RecipeRow::Test(at) = row
        && let Some(spec) = test_of(&shared.chosen, at).filter(|_| roomy)
    {
        let label = theme.label();
        if let Work::March { notation, .. } = &spec.work {
            y += canvas.paragraph(2, y, width, label, notation);
            y += canvas.paragraph(2, y, width, label, &detects(&spec));
        }
        y += canvas.paragraph(2, y, width, label, &say::recipe_cannot_say(words::tests_of::limits(&spec))) + 1;
    }
    let value_width = width.saturating_sub(FACT_INDENT);
    for (label, value) in plan(shared) {
        canvas.put(2, y, theme.label(), label);
        y += canvas.paragraph(2 + FACT_INDENT, y, value_width, theme.text(), &value);
    }
}

/// Fault models that the test detects completely, computed once for each march.
fn detects(spec: &TestSpec) -> String {
    static KNOWN: Mutex<BTreeMap<(String, bool), String>> = Mutex::new(BTreeMap::new());
    let march = (spec.march().to_string(), spec.path() == Path::Linear);
    let mut known = KNOWN.lock().unwrap_or_else(PoisonError::into_inner);
    known.entry(march).or_insert_with(|| complete(spec)).clone()
}

fn complete(spec: &TestSpec) -> String {
    let grades = grade(&spec.march()).unwrap_or_default();
    let models = grades.into_iter().filter(|(_, share)| share.detected == share.of);
    let models: Vec<&str> = models.map(|(model, _)| model.short()).collect();
    if models.is_empty() {
        say::recipe_no_model().to_owned()
    } else {
        let apart = match (spec.path(), coupled_from(spec)) {
            (Path::Linear, Some(from)) => {
                say::recipe_apart(bytes_text(from))
            }
            _ => String::new(),
        };
        say::recipe_detects(models.join(" "), apart)
    }
}

/// From which distance of two cells on the couplings that a test detects are found the way it is run; nothing where it detects none, or where it
/// makes no difference.
fn coupled_from(spec: &TestSpec) -> Option<u64> {
    let march = spec.march();
    let full = grade(&march).unwrap_or_default().into_iter().filter(|(_, share)| share.detected == share.of);
    let full: Vec<Model> = full.map(|(model, _)| model).collect();
    let rows = grade_as_run(&march, &AsRun::here(1)).unwrap_or_default();
    let from =
        rows.iter().filter(|(model, _)| full.contains(model)).map(|(_, row)| found_from(row).unwrap_or(u64::MAX));
    from.max().filter(|from| *from > DISTANCES[0])
}

/// What the recipe will take, as far as that is known.
fn plan(shared: &Shared) -> Vec<(&'static str, String)> {
    let recipe = &shared.chosen.recipe;
    let held = shared.held_bytes();
    let expected = shared.expected();
    let pass: Option<f64> = expected.as_ref().map(|tests| tests.iter().map(|(_, seconds)| seconds).sum());
    let pass_text = match (&expected, pass) {
        (Some(_), Some(pass)) => say::about(duration_text(pass)),
        _ if shared.facts.is_measuring() => say::recipe_measuring().to_owned(),
        _ => say::recipe_not_known().to_owned(),
    };
    let all = match (recipe.passes, recipe.for_seconds, pass) {
        (Some(passes), _, Some(pass)) if recipe.soak => {
            say::recipe_then_stable(duration_text(pass * f64::from(passes)))
        }
        (Some(passes), limit, Some(pass)) => {
            let all = pass * f64::from(passes);
            say::about(duration_text(limit.map_or(all, |limit| all.min(limit as f64))))
        }
        (None, Some(seconds), Some(pass)) if pass > 0.0 => {
            let fit = seconds as f64 / pass;
            let fits = if fit < 1.0 { say::recipe_less_than_pass().to_owned() } else { say::recipe_about_passes(format!("{:.0}", fit)) };
            format!("{}: {fits}", duration_text(seconds as f64))
        }
        (None, Some(seconds), _) => duration_text(seconds as f64),
        _ => words::tests_of::end(recipe),
    };
    let mut plan = vec![(say::recipe_memory(), bytes_text(held)), (say::recipe_pass(), pass_text), (say::recipe_in_all(), all)];
    let taking = shared.facts.measured().taking_seconds(held);
    if taking >= 1.0 {
        plan.push((say::recipe_before(), say::recipe_to_take(duration_text(taking))));
    }
    // What is left out by choice is not the running system's doing.
    let not_tested = match recipe.memory.is_some() || recipe.range.is_some() {
        true => vec![say::recipe_leaves_rest().to_owned()],
        false => shared.facts.offer.limits.iter().map(|limit| words::board::limit(limit.word()).to_owned()).collect(),
    };
    if !not_tested.is_empty() {
        plan.push((say::recipe_not_tested(), not_tested.join(" ")));
    }
    if !shared.chosen.left_out.is_empty() {
        plan.push((say::recipe_no_time(), shared.chosen.left_out.iter().map(|name| words::tests_of::title_of(name)).collect::<Vec<_>>().join(", ")));
    }
    plan
}
