//! `revisum check`: a run without the full screen.

use std::io::{IsTerminal, Write};
use std::path::{Path, PathBuf};
use std::sync::Arc;
use std::sync::atomic::{AtomicBool, Ordering};
use std::time::Duration;

use anyhow::{Result, anyhow};
use revisum_diagnose::board::board_of;
use revisum_diagnose::machine::Machine;
use revisum_engine::recipe::{Depth, Recipe};
use revisum_engine::text::shown;
use revisum_engine::units::{RangeSet, bytes_text, count_text, duration_text};
use revisum_record::fitted::Board;
use revisum_record::outcome::Judgement;
use revisum_record::run_state::RunState;
use revisum_sim::SimOptions;
use revisum_words as words;
use signal_hook::consts::{SIGHUP, SIGINT, SIGQUIT, SIGTERM};
use signal_hook::flag;

use super::result::{RunResult, text};
use crate::cli::CheckArgs;
use crate::exit::Exit;
use crate::say;
use revisum_records::{DataDir, Job, Recorded, Which, WrongUse, find_run_here, read_run, wall_time};
use revisum_workbench::bench;
use revisum_workbench::go_on::{Start, going_on, repeating};
use revisum_workbench::rates::{Measured, Rated};
use revisum_workbench::recorder::Live;
use revisum_workbench::runner::{Order, RunHandle, fresh_seed, start};
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
    let data = DataDir::choose(data, None)?;
    let earlier =
        args.continues.as_ref().or(args.repeats.as_ref()).map(|id| read_run(&find_run_here(&data, id)?)).transpose()?;
    let machine = Arc::new(machine(args, earlier.as_ref())?);
    data.prepare()?;
    let mut job = Bench::open(&machine, &data);
    let board = job.board(&machine);
    let rated = Rated::default();
    let measured = *rated.get_or_init(|| Measured::of(&machine, args.memory));
    let what = what(args, earlier.as_ref(), &machine, &job, &measured)?;
    what.recipe.specs().map_err(|error| WrongUse(words::refused::recipe(&error)))?;
    what.recipe.is_of_enough_memory()?;
    what.recipe.workers(machine.firmware.facts().cores)?;
    memory_is_there(&what.recipe, &machine)?;
    if let Some(path) = &args.save_recipe {
        recipe_file::save(&what.recipe, path)?;
    }
    tell_estimate(&what.recipe, &machine, &measured);
    let seed = args.seed.unwrap_or_else(|| if machine.is_simulated() { SIMULATED_SEED } else { fresh_seed() });
    let seed = what.continues.as_ref().map_or(seed, |part| seed.wrapping_add(u64::from(part.pass)));
    let of_job = job.0.as_ref().map_or_else(|| machine.firmware.facts().machine, |job| job.id().to_owned());
    let handle = start(Order { machine, board, what, seed, rated, data: data.clone(), job: of_job }, || {});
    follow(&handle)?;
    let (live, id) = (handle.live.clone(), handle.wait());
    if let Some(why) = live.failure() {
        return Err(anyhow!(why));
    }
    let id = id.ok_or_else(|| anyhow!("{}", say::check_ended_oddly()))?;
    let journal = data.runs().join(format!("{id}.journal"));
    let in_memory = live.state();
    // What reads back worse than what is in memory is what happened: this program's own memory may be what is bad.
    let on_record = read_run(&journal).map(|recorded| Arc::new(recorded.state));
    let worse = on_record.as_ref().ok().filter(|state| judged(state).is_worse_than(&judged(&in_memory)));
    let state = worse.cloned().unwrap_or_else(|| in_memory.clone());
    let judgement = judged(&state);
    let kept = live.trouble().map_or_else(|| kept(&journal, &on_record, &judged(&in_memory)), Err);
    if let Err(trouble) = &kept {
        crate::tell!("{}", say::check_not_recorded(trouble));
    } else {
        job.ran(&id);
    }
    let told = tell_result(&state, kept.is_ok().then_some(&journal), args.json);
    if let Err(error) = &told {
        crate::tell!("{}", say::check_not_shown(format!("{:#}", error), words::result::headline(&judgement)));
    }
    Ok(match (&judgement).into() {
        // What nobody was told, or what is not kept, is not clean; errors stay errors.
        Exit::Clean | Exit::CutShort if kept.is_err() || told.is_err() => Exit::CouldNotRun,
        exit => exit,
    })
}

fn judged(state: &RunState) -> Judgement {
    Judgement::of(state, false)
}

/// Whether what is on record now says what the run came to.
fn kept(journal: &Path, on_record: &Result<Arc<RunState>>, judgement: &Judgement) -> Result<(), String> {
    let recorded = judged(on_record.as_ref().map_err(|error| format!("{error:#}"))?);
    if recorded.says_the_same(judgement) { Ok(()) } else { Err(say::check_reads_back(journal.display().to_string())) }
}

/// The machine under test: of a run that is gone on with or repeated, the one that it was made on.
fn machine(args: &CheckArgs, earlier: Option<&Recorded>) -> Result<Machine> {
    let of_run = earlier.filter(|run| run.state.begin.simulated).map(|run| run.state.begin.machine.clone());
    match args.sim.clone().or(of_run) {
        Some(name) => {
            let seed = args.seed.unwrap_or(SIMULATED_SEED);
            wire::simulated(&name, SimOptions { seed, ..SimOptions::default() })
        }
        None => Ok(wire::real()),
    }
}

/// What to run: what the command line says, the rest of a run, or what shows again what a run showed.
fn what(
    args: &CheckArgs,
    earlier: Option<&Recorded>,
    machine: &Machine,
    job: &Bench,
    measured: &Measured,
) -> Result<Start> {
    let Some(earlier) = earlier else { return Ok(Start::new(recipe(args, machine, measured)?)) };
    let (facts, board) = (machine.firmware.facts(), &job.board(machine));
    let then = &earlier.state.begin;
    if then.machine != facts.machine || then.simulated != machine.is_simulated() {
        let words = say::check_other_machine(&earlier.id, &then.machine, facts.machine);
        return Err(WrongUse(words).into());
    }
    let done = match args.continues {
        Some(_) => going_on(earlier, job.0.iter().flat_map(Job::runs), board, &facts.settings),
        None => repeating(earlier, board, &facts.settings),
    };
    done.map_err(|why| WrongUse(why.to_string()).into())
}

/// Refuses memory that this machine does not have, before anything is estimated or taken.
fn memory_is_there(recipe: &Recipe, machine: &Machine) -> Result<()> {
    let offer = machine.memory.offer();
    if let Some(range) = recipe.range {
        let there = offer.usable.intersection(&RangeSet::from(vec![range])).bytes();
        if there == 0 && offer.usable.bytes() > 0 {
            let end = offer.usable.ranges().last().map_or(0, |last| last.end);
            let words = say::check_no_memory_there(bytes_text(range.start), bytes_text(range.end), bytes_text(end));
            return Err(WrongUse(words).into());
        }
    }
    if let Some(bytes) = recipe.memory.filter(|bytes| *bytes > offer.reachable_bytes) {
        let words = say::check_asked_too_much(bytes_text(bytes), bytes_text(offer.reachable_bytes));
        return Err(WrongUse(words).into());
    }
    Ok(())
}

/// Waits for the end of the run, tells how far it is, and ends it when a signal asks for that.
fn follow(handle: &RunHandle) -> Result<()> {
    let interrupted = Arc::new(AtomicBool::new(false));
    for signal in [SIGINT, SIGTERM, SIGHUP, SIGQUIT] {
        flag::register(signal, interrupted.clone())?;
    }
    let mut teller = Teller::new();
    for look in 0u32.. {
        if handle.live.is_over() {
            break;
        }
        if interrupted.load(Ordering::SeqCst) {
            handle.control.stop();
        }
        if look % TELL_EVERY == 0 {
            teller.tell(&handle.live);
        }
        std::thread::sleep(LOOK_EVERY);
    }
    teller.finish();
    Ok(())
}

/// The job of the machine that is tested, so that the other commands know of the run.
struct Bench(Option<Job>);

impl Bench {
    /// Opens the machine's latest job, or begins one. Where it cannot be written, or another program has it open, the run is made all the same,
    /// and said not to be in it.
    fn open(machine: &Machine, data: &DataDir) -> Self {
        Self(Self::job(machine, data).map_err(not_entered).ok())
    }

    fn job(machine: &Machine, data: &DataDir) -> Result<Job> {
        let name = machine.firmware.facts().machine;
        let mut job = Job::open(&data.jobs(), &data.runs(), &name, Which::Latest, machine.clock.wall_ms())?;
        bench::arrange(machine, &mut job)?;
        bench::see_modules(machine, &mut job)?;
        bench::note_look(machine, &mut job)?;
        Ok(job)
    }

    fn board(&self, machine: &Machine) -> Board {
        match &self.0 {
            Some(job) => bench::board(machine, job),
            None => board_of(machine.firmware.as_ref()),
        }
    }

    fn ran(&mut self, id: &str) {
        if let Some(Err(error)) = self.0.as_mut().map(|job| job.ran(id)) {
            not_entered(error);
        }
    }
}

fn not_entered(error: anyhow::Error) {
    crate::tell!("{}", say::check_not_in_job(format!("{:#}", error)));
}

/// How long it will take, before it begins.
fn tell_estimate(recipe: &Recipe, machine: &Machine, measured: &Measured) {
    let bytes = recipe.memory.unwrap_or(machine.memory.offer().reachable_bytes);
    let Some(tests) = measured.expected(recipe, bytes, machine.firmware.facts().cores) else { return };
    let pass: f64 = tests.iter().map(|(_, seconds)| seconds).sum();
    let taking = measured.taking_seconds(bytes);
    let before = if taking >= 1.0 { say::check_taking_about(duration_text(taking)) } else { String::new() };
    crate::tell!("{}", say::check_one_pass(before, duration_text(pass), words::tests_of::end(recipe)));
}

/// The recipe of the command line: a file's or a depth's, and over it what was given by hand.
fn recipe(args: &CheckArgs, machine: &Machine, measured: &Measured) -> Result<Recipe> {
    let reachable = machine.memory.offer().reachable_bytes;
    let bytes = args.memory.unwrap_or(reachable).min(reachable);
    let tests_of = |depth: Depth| measured.tests_of(depth, bytes);
    let depth = args.depth.map(Depth::from);
    let mut recipe = match &args.recipe {
        Some(path) => recipe_file::load(path, &|depth| tests_of(depth).tests)?,
        None => {
            let depth = depth.unwrap_or_default();
            let chosen = tests_of(depth);
            if args.tests.is_none() && !chosen.left_out.is_empty() {
                crate::tell!("{}", say::check_left_out(chosen.left_out.join(", ")));
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
    if args.soak {
        recipe.soak = true;
        recipe.passes.get_or_insert(1);
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

fn tell_result(state: &RunState, journal: Option<&PathBuf>, json: bool) -> Result<()> {
    let mut out = crate::plain::stdout();
    if json {
        serde_json::to_writer(&mut out, &RunResult::new(state, false, journal.map(PathBuf::as_path)))?;
        writeln!(out)?;
    } else {
        write!(out, "{}", text(state, false))?;
        match journal {
            Some(journal) => writeln!(out, "{}", say::check_journal(journal.display().to_string()))?,
            None => writeln!(out, "{}", say::check_journal_none())?,
        }
    }
    out.flush()?;
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
                crate::tell!("{}", say::check_taking());
                "taking memory".clone_into(&mut self.last_test);
            }
            return;
        }
        let progress = &state.progress;
        let left = state.seconds_left().map(|left| say::check_left(duration_text(left))).unwrap_or_default();
        let line = say::check_progress(
            state.pass,
            format!("{:>3.0}", state.pass_ratio() * 100.0),
            revisum_words::tests_of::title_of(&progress.test),
            revisum_words::tests_of::element(&progress.notation),
            count_text(state.errors.words),
            left,
        );
        if self.terminal {
            eprint!("\r\x1b[K{}", shown(&line));
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
