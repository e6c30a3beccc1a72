//! 3 Recipe: depth, tests, passes and core sharing, and what that will take.

use std::sync::LazyLock;

use revisum_core::grade::grade;
use revisum_core::march::{CATALOG, TestSpec};
use revisum_core::recipe::{CoreSharing, Depth};
use revisum_core::units::{bytes_text, counted, duration_text};

use crate::tui::canvas::{Canvas, FACT_INDENT};
use crate::tui::state::{App, RecipeRow, recipe_rows};

const RIGHT: u16 = 58;
const WIDE: u16 = 110;

/// Draws the view.
pub fn draw(canvas: &mut Canvas<'_>, app: &App) {
    let rows = list(canvas, app);
    if canvas.width() >= WIDE {
        let (width, height) = (canvas.width().saturating_sub(RIGHT + 2), canvas.height());
        explain(&mut canvas.part(RIGHT, 0, width, height), app);
    } else {
        explain(&mut canvas.below(rows + 1), app);
    }
}

fn list(canvas: &mut Canvas<'_>, app: &App) -> u16 {
    let theme = canvas.theme;
    let mut y = 0;
    let mut last = None;
    let roomy = canvas.height() >= 20;
    for (at, row) in recipe_rows().into_iter().enumerate() {
        let heading = heading(row);
        if last != Some(heading) {
            y += u16::from(roomy && last.is_some());
            canvas.put(2, y, theme.label(), heading);
            last = Some(heading);
        }
        if at == app.recipe_row {
            canvas.put(13, y, theme.attention(), theme.marks.here);
        }
        let (on, words) = row_words(app, row);
        let mark = match on {
            Some(true) => theme.marks.on,
            Some(false) => theme.marks.open,
            None => " ",
        };
        canvas.put(15, y, if on == Some(true) { theme.clean() } else { theme.label() }, mark);
        let style = if on == Some(false) { theme.label() } else { theme.text() };
        canvas.put(17, y, if at == app.recipe_row { theme.strong() } else { style }, &words);
        canvas.put(34, y, theme.label(), &aside(row));
        y += 1;
    }
    y
}

fn heading(row: RecipeRow) -> &'static str {
    match row {
        RecipeRow::Depth(_) => "depth",
        RecipeRow::Test(_) => "tests",
        RecipeRow::Passes => "passes",
        RecipeRow::Cores => "cores",
    }
}

/// A few words beside the row.
fn aside(row: RecipeRow) -> String {
    match row {
        RecipeRow::Depth(Depth::Triage) => "minutes".to_owned(),
        RecipeRow::Depth(Depth::Survey) => "an hour".to_owned(),
        RecipeRow::Depth(Depth::Overnight) => "eight hours".to_owned(),
        RecipeRow::Test(test) => counted(CATALOG[test].march().sweeps() as u64, "sweep"),
        RecipeRow::Passes | RecipeRow::Cores => String::new(),
    }
}

/// Whether the row is on, where it can be, and its words.
fn row_words(app: &App, row: RecipeRow) -> (Option<bool>, String) {
    match row {
        RecipeRow::Depth(depth) => (Some(app.recipe.depth == depth), depth.word().to_owned()),
        RecipeRow::Test(test) => {
            let spec = &CATALOG[test];
            (Some(app.recipe.tests.iter().any(|name| name == spec.name)), spec.title.to_owned())
        }
        RecipeRow::Passes => (None, format!("‹ {} ›", app.recipe.end_text())),
        RecipeRow::Cores => (None, format!("‹ {} ›", app.recipe.cores.word())),
    }
}

fn explain(canvas: &mut Canvas<'_>, app: &App) {
    let theme = canvas.theme;
    let width = canvas.width().saturating_sub(4);
    let row = recipe_rows()[app.recipe_row];
    let mut y = canvas.paragraph(2, 0, width, theme.text(), &meaning(app, row)) + 1;
    if let RecipeRow::Test(test) = row {
        y += canvas.paragraph(2, y, width, theme.label(), CATALOG[test].notation);
        y += canvas.paragraph(2, y, width, theme.label(), &detects(test)) + 1;
    }
    let value_width = width.saturating_sub(FACT_INDENT);
    for (label, value) in plan(app) {
        canvas.put(2, y, theme.label(), label);
        y += canvas.paragraph(2 + FACT_INDENT, y, value_width, theme.text(), &value);
    }
}

/// Fault models that the test detects completely, computed once.
fn detects(test: usize) -> String {
    static GRADES: LazyLock<Vec<String>> = LazyLock::new(|| {
        let complete = |spec: &TestSpec| {
            let grades = grade(&spec.march()).unwrap_or_default();
            let models = grades.into_iter().filter(|(_, share)| share.detected == share.of);
            models.map(|(model, _)| model.short()).collect::<Vec<_>>().join(" ")
        };
        CATALOG.iter().map(|spec| format!("detects every {}", complete(spec))).collect()
    });
    GRADES.get(test).cloned().unwrap_or_default()
}

fn meaning(app: &App, row: RecipeRow) -> String {
    match row {
        RecipeRow::Depth(depth) => format!("{}: {}.", depth.word(), depth.meaning()),
        RecipeRow::Test(test) => CATALOG[test].purpose.to_owned(),
        RecipeRow::Passes => {
            "How often all tests are run through; left of 1 as many passes as fit into the time.".to_owned()
        }
        RecipeRow::Cores => match app.recipe.cores {
            CoreSharing::Solo => "solo: one core does all the work, in the order of the addresses.",
            CoreSharing::Split => "split: all cores at once, each its own share of the memory. The fastest.",
            CoreSharing::Relay => "relay: each core in turn does each test on all memory, so that a bad core shows.",
            CoreSharing::Rota => "rota: the work moves from core to core, block by block.",
        }
        .to_owned(),
    }
}

/// What the recipe will take, as far as that is known.
fn plan(app: &App) -> Vec<(&'static str, String)> {
    let recipe = &app.recipe;
    let held = recipe.memory.unwrap_or(app.facts.offer.reachable_bytes);
    let turns = if recipe.cores == CoreSharing::Relay { app.facts.cores.max(1) as u64 } else { 1 };
    let sweeps: u64 = CATALOG
        .iter()
        .filter(|spec| recipe.tests.iter().any(|name| name == spec.name))
        .map(|spec| spec.march().sweeps() as u64 * turns)
        .sum();
    let pass = app.facts.measured_rate.map(|rate| (held * sweeps) as f64 / rate);
    let pass_text = pass.map_or("not known before the first run on this machine".to_owned(), |seconds| {
        format!("about {}, by the rate of the last run", duration_text(seconds))
    });
    let all = match (recipe.passes, recipe.for_seconds, pass) {
        (Some(passes), _, Some(pass)) => format!("about {}", duration_text(pass * f64::from(passes))),
        (None, Some(seconds), Some(pass)) if pass > 0.0 => {
            format!("{}: about {:.0} passes", duration_text(seconds as f64), (seconds as f64 / pass).floor())
        }
        (None, Some(seconds), _) => duration_text(seconds as f64),
        _ => recipe.end_text(),
    };
    let mut plan = vec![
        ("memory", format!("{} will be held and swept {sweeps} times a pass", bytes_text(held))),
        ("one pass", pass_text),
        ("in all", all),
    ];
    if !app.facts.offer.limits.is_empty() {
        plan.push(("not tested", app.facts.offer.limits.join(" ")));
    }
    plan
}
