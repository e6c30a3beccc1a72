//! Recipes as TOML files that people can read, change and carry about.

use revisum_linux::files;
use std::path::Path;

use anyhow::{Context, Result};
use revisum_engine::catalog::OwnTest;
use revisum_engine::recipe::{Caches, CoreSharing, Depth, Recipe};
use revisum_engine::units::{ByteRange, bytes_text, parse_bytes};
use revisum_words::refused::{amount, duration, range};
use serde::{Deserialize, Serialize};

use revisum_records::WrongUse;

use crate::say;

/// Longest recipe file that is read.
const LONGEST: u64 = 1 << 20;

/// A recipe file. What it leaves out is as the depth has it.
#[derive(Debug, Default, Serialize, Deserialize)]
#[serde(deny_unknown_fields, rename_all = "kebab-case")]
struct RecipeFile {
    depth: Option<Depth>,
    tests: Option<Vec<String>>,
    passes: Option<u32>,
    #[serde(rename = "for")]
    for_time: Option<String>,
    stop_after: Option<u64>,
    memory: Option<String>,
    range: Option<String>,
    cores: Option<CoreSharing>,
    which_cores: Option<Vec<usize>>,
    caches: Option<Caches>,
    idle: Option<String>,
    soak: Option<bool>,
    #[serde(rename = "test", skip_serializing_if = "Vec::is_empty", default)]
    own: Vec<OwnTest>,
}

/// Reads a recipe file; `tests_of` tells which tests a depth runs here.
///
/// # Errors
/// With line, column and reason.
pub fn load(path: &Path, tests_of: &dyn Fn(Depth) -> Vec<String>) -> Result<Recipe> {
    let name = path.display();
    let text = files::read_text(path, LONGEST).with_context(|| say::recipe_not_read(name.to_string()))?;
    parse(&text, tests_of).map_err(|error| WrongUse(format!("{name}: {error}")).into())
}

fn parse(text: &str, tests_of: &dyn Fn(Depth) -> Vec<String>) -> Result<Recipe, String> {
    let file: RecipeFile = toml::from_str(text).map_err(|error| error.to_string())?;
    let depth = file.depth.unwrap_or_default();
    let own: Vec<String> = file.own.iter().map(|test| test.name.clone()).collect();
    // A test of one's own is written to be run.
    let tests = file.tests.unwrap_or_else(|| tests_of(depth).into_iter().chain(own).collect());
    let defaults = Recipe::with_tests(depth, tests);
    let for_seconds = file.for_time.as_deref().map(duration).transpose()?;
    let (passes, for_seconds) = match (file.passes, for_seconds) {
        (None, None) => (defaults.passes, defaults.for_seconds),
        given => given,
    };
    let recipe = Recipe {
        passes,
        for_seconds,
        stop_after: file.stop_after,
        memory: file.memory.as_deref().map(amount).transpose()?,
        range: file.range.as_deref().map(range).transpose()?,
        cores: file.cores.unwrap_or_default(),
        which_cores: file.which_cores.unwrap_or_default(),
        caches: file.caches.unwrap_or_default(),
        idle_seconds: file.idle.as_deref().map(duration).transpose()?.or(defaults.idle_seconds),
        soak: file.soak.unwrap_or_default(),
        own: file.own,
        ..defaults
    };
    recipe.specs().map_err(|error| revisum_words::refused::recipe(&error))?;
    recipe.is_of_enough_memory().map_err(|error| error.to_string())?;
    Ok(recipe)
}

/// Writes a recipe file.
///
/// # Errors
/// When the file cannot be written.
pub fn save(recipe: &Recipe, path: &Path) -> Result<()> {
    let text = text_of(recipe)?;
    files::write(path, text.as_bytes()).with_context(|| say::recipe_not_written(path.display().to_string()))
}

fn text_of(recipe: &Recipe) -> Result<String> {
    let in_range = |range: ByteRange| format!("{:#x}..{:#x}", range.start, range.end);
    let file = RecipeFile {
        depth: Some(recipe.depth),
        tests: Some(recipe.tests.clone()),
        passes: recipe.passes,
        for_time: recipe.for_seconds.map(|seconds| format!("{seconds}s")),
        stop_after: recipe.stop_after,
        memory: recipe.memory.map(exact_bytes),
        range: recipe.range.map(in_range),
        cores: Some(recipe.cores),
        which_cores: (!recipe.which_cores.is_empty()).then(|| recipe.which_cores.clone()),
        caches: Some(recipe.caches),
        idle: recipe.idle_seconds.map(|seconds| format!("{seconds}s")),
        soak: recipe.soak.then_some(true),
        own: recipe.own.clone(),
    };
    let body = toml::to_string(&file).context(say::recipe_not_down())?;
    Ok(format!("# A recipe for revisum check --recipe.\n{body}"))
}

/// Bytes as people write them where that is exact, as a plain number otherwise.
fn exact_bytes(bytes: u64) -> String {
    let text = bytes_text(bytes);
    if parse_bytes(&text) == Ok(bytes) { text } else { bytes.to_string() }
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;
    use rstest::rstest;

    use super::*;

    fn of_depth(depth: Depth) -> Vec<String> {
        Recipe::of_depth(depth).tests
    }

    const MINE: &str =
        "[[test]]\nname = \"mine\"\nnotation = \"any(w0); up(r0,w1); down(r1)\"\nbackgrounds = [\"lanes-1\"]\n";

    #[test]
    fn what_is_left_out_is_as_the_depth_has_it() {
        let recipe = parse("depth = \"survey\"\ncores = \"each\"\n", &of_depth).unwrap();
        assert_eq!(recipe, Recipe { cores: CoreSharing::Each, ..Recipe::of_depth(Depth::Survey) });
        let mine = parse(MINE, &of_depth).unwrap();
        assert_eq!(mine.tests.last().map(String::as_str), Some("mine"));
        let only = parse(&format!("tests = [\"mine\"]\nfor = \"3d\"\n{MINE}"), &of_depth).unwrap();
        assert_eq!((only.specs().unwrap().len(), only.passes, only.for_seconds), (1, None, Some(3 * 86_400)));
    }

    #[rstest]
    #[case::unknown_key("pases = 3", "pases")]
    #[case::unknown_key_line("depth = \"triage\"\npases = 3", "line 2")]
    #[case::unknown_test("tests = [\"marsh\"]", "no test named")]
    #[case::not_toml("passes = = 3", "column 10")]
    #[case::wrong_depth("depth = \"deep\"", "triage")]
    #[case::wrong_time("for = \"3 fortnights\"", "fortnights")]
    #[case::wrong_range("range = \"6G..4G\"", "holds nothing")]
    #[case::no_pass("passes = 0", "0 passes")]
    #[case::wrong_notation("[[test]]\nname = \"x\"\nnotation = \"any(w0); up(r0,y1)\"", "column 16")]
    #[case::wrong_background("[[test]]\nname = \"x\"\nnotation = \"any(w0)\"\nbackgrounds = [\"plaid\"]", "plaid")]
    fn mistakes_are_refused_with_place_and_reason(#[case] text: &str, #[case] reason: &str) {
        let error = parse(text, &of_depth).unwrap_err();
        assert!(error.contains(reason), "{error}");
    }

    proptest! {
        #[test]
        fn a_saved_recipe_is_the_same_again(
            depth in prop_oneof![Just(Depth::Triage), Just(Depth::Survey), Just(Depth::Overnight)],
            passes in prop::option::of(1u32..10_000),
            for_seconds in prop::option::of(1u64..1_000_000),
            stop_after in prop::option::of(1u64..1_000),
            memory in prop::option::of(4096u64..1 << 45),
            range in prop::option::of((0u64..1 << 40, 1u64..1 << 40)),
            which_cores in prop::collection::vec(0usize..64, 0..4),
            soak in any::<bool>(),
            own in any::<bool>(),
        ) {
            let own = if own { parse(MINE, &of_depth).unwrap().own } else { Vec::new() };
            let recipe = Recipe {
                passes: passes.or(if for_seconds.is_none() { Some(1) } else { None }),
                for_seconds,
                stop_after,
                memory,
                range: range.map(|(start, len)| ByteRange::new(start, start + len)),
                which_cores,
                soak,
                own,
                ..Recipe::of_depth(depth)
            };
            prop_assert_eq!(parse(&text_of(&recipe).unwrap(), &of_depth).unwrap(), recipe);
        }
    }
}
