//! `revisum check`: a run without the full screen.

use std::io::{IsTerminal, Write};
use std::path::Path;
use std::sync::Arc;
use std::time::Duration;

use anyhow::{Result, anyhow};
use revisum_diagnose::machine::Machine;
use revisum_engine::recipe::{Depth, Recipe};
use revisum_engine::units::{count_text, duration_text};
use revisum_record::run_state::RunState;
use revisum_sim::SimOptions;
use signal_hook::consts::{SIGINT, SIGTERM};
use signal_hook::flag;

use super::result::{RunResult, text};
use crate::cli::CheckArgs;
use crate::exit::Exit;
use revisum_records::DataDir;
use revisum_records::WrongUse;
use revisum_records::wall_time;
use revisum_workbench::rates::{Measured, Rated};
use revisum_workbench::recorder::Live;
use revisum_workbench::runner::{Order, fresh_seed, start};
use revisum_workbench::{recipe_file, wire};

/// How often the end of the run and signals are looked at.
const LOOK_EVERY: Duration = Duration::from_millis(20);
/// How often progress is told, counted in looks.
const TELL_EVERY: u32 = 25;
const SIMULATED_SEED: u64 = 1;

/// Runs and tells the result.
///
/// # Errors
/// When nothing could be run.
pub fn check(data: Option<&Path>, args: &CheckArgs) -> Result<Exit> {
    let machine = Arc::new(match &args.sim {
        Some(name) => {
            let seed = args.seed.unwrap_or(SIMULATED_SEED);
            wire::simulated(name, SimOptions { seed, ..SimOptions::default() })?
        }
        None => wire::real(),
    });
    let rated = Rated::default();
    let measured = *rated.get_or_init(|| Measured::of(&machine, args.memory));
    let recipe = recipe(args, &machine, &measured)?;
    recipe.specs()?;
    recipe.workers(machine.firmware.facts().cores)?;
    if let Some(path) = &args.save_recipe {
        recipe_file::save(&recipe, path)?;
    }
    tell_estimate(&recipe, &machine, &measured);
    let data = DataDir::choose(data, None)?;
    data.prepare()?;
    let seed = args.seed.unwrap_or_else(|| if args.sim.is_some() { SIMULATED_SEED } else { fresh_seed() });
    let board = revisum_diagnose::board::board_of(machine.firmware.as_ref());
    let job = machine.firmware.facts().machine;
    let handle = start(Order { machine, board, recipe, seed, rated, data: data.clone(), job }, || {});
    let interrupted = Arc::new(std::sync::atomic::AtomicBool::new(false));
    for signal in [SIGINT, SIGTERM] {
        flag::register(signal, interrupted.clone())?;
    }
    let mut teller = Teller::new();
    for look in 0u32.. {
        if handle.live.is_over() {
            break;
        }
        if interrupted.load(std::sync::atomic::Ordering::SeqCst) {
            handle.control.stop();
        }
        if look % TELL_EVERY == 0 {
            teller.tell(&handle.live);
        }
        std::thread::sleep(LOOK_EVERY);
    }
    teller.finish();
    let (live, id) = (handle.live.clone(), handle.wait());
    if let Some(why) = live.failure() {
        return Err(anyhow!(why));
    }
    let id = id.ok_or_else(|| anyhow!("the run ended in an unexpected way; its journal holds what was known"))?;
    let journal = data.runs().join(format!("{id}.journal"));
    if let Some(trouble) = live.trouble() {
        crate::tell!("revisum: {trouble}.");
    }
    let state = live.state();
    tell_result(&state, &journal, args.json)?;
    Ok(state.outcome(false).into())
}

/// How long it will take, before it begins.
fn tell_estimate(recipe: &Recipe, machine: &Machine, measured: &Measured) {
    let bytes = recipe.memory.unwrap_or(machine.memory.offer().reachable_bytes);
    let Some(tests) = measured.expected(recipe, bytes, machine.firmware.facts().cores) else { return };
    let pass: f64 = tests.iter().map(|(_, seconds)| seconds).sum();
    let taking = measured.taking_seconds(bytes);
    let before =
        if taking >= 1.0 { format!("taking the memory about {}, ", duration_text(taking)) } else { String::new() };
    crate::tell!("{before}one pass about {}, {}", duration_text(pass), recipe.end_text());
}

/// The recipe of the command line: a file's or a depth's, and over it what was given by hand.
fn recipe(args: &CheckArgs, machine: &Machine, measured: &Measured) -> Result<Recipe> {
    let bytes = args.memory.unwrap_or(machine.memory.offer().reachable_bytes);
    let tests_of = |depth: Depth| measured.tests_of(depth, bytes);
    let depth = args.depth.map(Depth::from);
    let mut recipe = match &args.recipe {
        Some(path) => recipe_file::load(path, &|depth| tests_of(depth).tests)?,
        None => {
            let depth = depth.unwrap_or_default();
            let chosen = tests_of(depth);
            if args.tests.is_none() && !chosen.left_out.is_empty() {
                crate::tell!("left out, for want of time at this depth: {}", chosen.left_out.join(", "));
            }
            Recipe::with_tests(depth, chosen.tests)
        }
    };
    let zone = wall_time::zone(machine.is_simulated());
    let until = args.until.as_deref().map(|text| wall_time::seconds_until(text, machine.clock.wall_ms(), &zone));
    let for_seconds = until.transpose().map_err(WrongUse)?.or(args.for_time);
    // A number of passes given by hand replaces the time that the depth would take, and the other way round.
    if args.passes.is_some() || for_seconds.is_some() {
        (recipe.passes, recipe.for_seconds) = (args.passes, for_seconds);
    }
    if let Some(tests) = &args.tests {
        recipe.tests.clone_from(tests);
    }
    recipe.stop_after = args.stop_after.or(recipe.stop_after);
    recipe.memory = args.memory.or(recipe.memory);
    recipe.range = args.range.or(recipe.range);
    recipe.cores = args.cores.map_or(recipe.cores, Into::into);
    recipe.caches = args.caches.map_or(recipe.caches, Into::into);
    recipe.idle_seconds = args.idle.or(recipe.idle_seconds);
    if let Some(cores) = &args.which_cores {
        recipe.which_cores.clone_from(cores);
    }
    Ok(recipe)
}

fn tell_result(state: &RunState, journal: &Path, json: bool) -> Result<()> {
    let mut out = crate::plain::stdout();
    if json {
        serde_json::to_writer(&mut out, &RunResult::new(state, false, journal))?;
        writeln!(out)?;
    } else {
        write!(out, "{}", text(state, false))?;
        writeln!(out, "journal   {}", journal.display())?;
    }
    Ok(())
}

/// Progress on stderr: one line that is written over on a terminal, a line for each test elsewhere.
struct Teller {
    terminal: bool,
    last_test: String,
}

impl Teller {
    fn new() -> Self {
        Self { terminal: std::io::stderr().is_terminal(), last_test: String::new() }
    }

    fn tell(&mut self, live: &Live) {
        let state = live.state();
        if state.held.bytes == 0 {
            if self.last_test.is_empty() {
                crate::tell!("taking memory");
                "taking memory".clone_into(&mut self.last_test);
            }
            return;
        }
        let progress = &state.progress;
        let left = state.seconds_left().map(|left| format!("  about {} left", duration_text(left))).unwrap_or_default();
        let line = format!(
            "pass {}  {:>3.0} %  {} {}  {} errors{left}",
            state.pass,
            state.pass_ratio() * 100.0,
            progress.test,
            progress.notation,
            count_text(state.errors.words),
        );
        if self.terminal {
            eprint!("\r\x1b[K{line}");
        } else if progress.test != self.last_test {
            crate::tell!("{line}");
            self.last_test.clone_from(&progress.test);
        }
    }

    fn finish(&self) {
        if self.terminal {
            eprint!("\r\x1b[K");
        }
    }
}
