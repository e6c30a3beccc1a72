//! `revisum check`: a run without the full screen.

use std::io::{IsTerminal, Write};
use std::path::Path;
use std::sync::Arc;
use std::time::Duration;

use anyhow::{Result, anyhow};
use revisum_core::board::Board;
use revisum_core::ports::Machine;
use revisum_core::recipe::Recipe;
use revisum_core::run_state::RunState;
use revisum_core::units::{count_text, duration_text};
use revisum_sim::SimOptions;
use signal_hook::consts::{SIGINT, SIGTERM};
use signal_hook::flag;

use super::result::{RunResult, text};
use crate::cli::CheckArgs;
use crate::data_dir::DataDir;
use crate::exit::{Exit, WrongUse};
use crate::recorder::Live;
use crate::runner::{Order, fresh_seed, start};
use crate::{wall_time, wire};

/// How often the end of the run and signals are looked at.
const LOOK_EVERY: Duration = Duration::from_millis(20);
/// How often progress is told, counted in looks.
const TELL_EVERY: u32 = 25;
const SIMULATED_SEED: u64 = 1;

/// Runs and tells the result.
///
/// # Errors
/// When nothing could be run.
pub fn check(data: Option<&Path>, args: CheckArgs) -> Result<Exit> {
    let machine = Arc::new(match &args.sim {
        Some(name) => {
            let seed = args.seed.unwrap_or(SIMULATED_SEED);
            wire::simulated(name, SimOptions { seed, ..SimOptions::default() })?
        }
        None => wire::real(),
    });
    let recipe = recipe(&args, &machine)?;
    recipe.specs()?;
    let data = DataDir::choose(data, None)?;
    data.prepare()?;
    let seed = args.seed.unwrap_or_else(|| if args.sim.is_some() { SIMULATED_SEED } else { fresh_seed() });
    let board = Board::read(machine.firmware.as_ref());
    let job = machine.firmware.facts().machine;
    let handle = start(Order { machine, board, recipe, seed, data: data.clone(), job }, || {});
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
        eprintln!("revisum: {trouble}.");
    }
    let state = live.state();
    tell_result(&state, &journal, args.json)?;
    Ok(state.outcome(false).into())
}

fn recipe(args: &CheckArgs, machine: &Machine) -> Result<Recipe> {
    let defaults = Recipe::of_depth(args.depth.into());
    let zone = wall_time::zone(machine.is_simulated());
    let until = args.until.as_deref().map(|text| wall_time::seconds_until(text, machine.clock.wall_ms(), &zone));
    let for_seconds = until.transpose().map_err(WrongUse)?.or(args.for_time);
    // A number of passes given by hand replaces the time that the depth would take, and the other way round.
    let (passes, for_seconds) = match (args.passes, for_seconds) {
        (None, None) => (defaults.passes, defaults.for_seconds),
        given => given,
    };
    Ok(Recipe {
        tests: args.tests.clone().unwrap_or_else(|| defaults.tests.clone()),
        passes,
        for_seconds,
        stop_after: args.stop_after,
        memory: args.memory,
        range: args.range,
        cores: args.cores.into(),
        caches: args.caches.into(),
        ..defaults
    })
}

fn tell_result(state: &RunState, journal: &Path, json: bool) -> Result<()> {
    let mut out = std::io::stdout().lock();
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
                eprintln!("taking memory");
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
            eprintln!("{line}");
            self.last_test.clone_from(&progress.test);
        }
    }

    fn finish(&self) {
        if self.terminal {
            eprint!("\r\x1b[K");
        }
    }
}
