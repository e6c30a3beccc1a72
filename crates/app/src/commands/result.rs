//! The result of a run as JSON and as text.

use std::fmt::Write;
use std::path::Path;

use revisum_engine::places::Certainty;
use revisum_engine::sweep::second_look::Kind;
use revisum_engine::tally::Sample;
use revisum_engine::units::{ByteRange, PhysAddr, Word, bytes_text, count_text, counted, duration_text};
use revisum_record::run_state::{Outcome, RunState};
use serde::Serialize;

use revisum_records::wall_time;

/// One run as one JSON object.
#[derive(Serialize)]
pub struct RunResult<'a> {
    outcome: String,
    sentence: String,
    errors: u64,
    passes: u32,
    elapsed_s: f64,
    fitted_bytes: Option<u64>,
    held_bytes: u64,
    tested_bytes: u64,
    ranges: &'a [ByteRange],
    guest_physical: bool,
    simulated: bool,
    seed: u64,
    tests: Vec<TestResult<'a>>,
    samples: Vec<SampleResult<'a>>,
    miscalculated: u64,
    hardware_corrected: u64,
    hardware_uncorrected: u64,
    journal: String,
}

#[derive(Serialize)]
struct TestResult<'a> {
    name: &'a str,
    passes: u32,
    errors: u64,
    bytes_swept: u64,
    seconds: f64,
}

#[derive(Serialize)]
struct SampleResult<'a> {
    address: Option<PhysAddr>,
    expected: Word,
    actual: Word,
    kind: Kind,
    test: &'a str,
    pass: u32,
    slots: &'a [String],
    certainty: Certainty,
}

impl<'a> RunResult<'a> {
    /// Of a live or recorded run.
    pub fn new(state: &'a RunState, live: bool, journal: &Path) -> Self {
        Self {
            outcome: state.outcome(live).words().replace(' ', "-"),
            sentence: state.sentence(live),
            errors: state.errors.words,
            passes: state.full_passes,
            elapsed_s: state.running_seconds(),
            fitted_bytes: state.begin.fitted_bytes,
            held_bytes: state.held.bytes,
            tested_bytes: state.tested_bytes(),
            ranges: state.held.ranges.ranges(),
            guest_physical: state.begin.guest,
            simulated: state.begin.simulated,
            seed: state.begin.seed,
            tests: state
                .tests
                .iter()
                .map(|test| TestResult {
                    name: &test.name,
                    passes: test.passes,
                    errors: test.errors,
                    bytes_swept: test.bytes_swept,
                    seconds: test.sweep_ns as f64 / 1e9,
                })
                .collect(),
            samples: state.errors.samples.iter().map(SampleResult::of).collect(),
            miscalculated: state.miscalculated,
            hardware_corrected: state.hardware.corrected,
            hardware_uncorrected: state.hardware.uncorrected,
            journal: journal.display().to_string(),
        }
    }
}

impl<'a> SampleResult<'a> {
    fn of(sample: &'a Sample) -> Self {
        Self {
            address: sample.address,
            expected: sample.expected,
            actual: sample.actual,
            kind: sample.kind,
            test: &sample.test,
            pass: sample.pass,
            slots: &sample.slots,
            certainty: sample.certainty,
        }
    }
}

/// Samples shown as text.
const SHOWN_SAMPLES: usize = 8;

/// The run as text, answer first.
pub fn text(state: &RunState, live: bool) -> String {
    let mut out = String::new();
    // Writing to a String cannot fail.
    let _ = write_text(&mut out, state, live);
    out
}

fn write_text(out: &mut String, state: &RunState, live: bool) -> std::fmt::Result {
    let outcome = state.outcome(live);
    let simulated = if state.begin.simulated { "  (simulated)" } else { "" };
    writeln!(out, "{}{simulated}", outcome.words().to_uppercase())?;
    writeln!(out, "{}", state.sentence(live))?;
    if outcome != Outcome::Clean && state.full_passes > 0 && !state.has_errors() {
        writeln!(out, "{}", state.worth().sentence())?;
    }
    writeln!(out)?;
    let zone = wall_time::zone(state.begin.simulated);
    let doubtful = if state.begin.wall_doubtful { " (the machine's clock is wrong)" } else { "" };
    writeln!(out, "machine   {}", state.begin.machine)?;
    writeln!(out, "started   {}{doubtful}", wall_time::date_and_time(state.begin.wall_ms, &zone))?;
    writeln!(out, "took      {}, {} full", duration_text(state.running_seconds()), passes(state.full_passes))?;
    writeln!(out, "memory    {}", memory_line(state))?;
    for limit in &state.held.limits {
        writeln!(out, "          {limit}")?;
    }
    if !state.held.addresses_known {
        writeln!(out, "          Physical addresses are unknown to this user.")?;
    }
    for (slot, module) in state.begin.board.modules() {
        writeln!(
            out,
            "{:<9} {} {} {} {}",
            slot.id,
            bytes_text(module.bytes),
            module.maker,
            module.part,
            module.short_serial()
        )?;
    }
    writeln!(out)?;
    writeln!(out, "{:<18} {:>7} {:>12} {:>12} {:>10}", "test", "passes", "errors", "swept", "rate")?;
    for test in &state.tests {
        let rate = if test.sweep_ns == 0 { 0.0 } else { test.bytes_swept as f64 / test.sweep_ns as f64 };
        let (errors, swept) = (count_text(test.errors), bytes_text(test.bytes_swept));
        writeln!(out, "{:<18} {:>7} {errors:>12} {swept:>12} {rate:>5.1} GB/s", test.name, test.passes)?;
    }
    write_errors(out, state)
}

fn passes(count: u32) -> String {
    format!("{count} pass{}", if count == 1 { "" } else { "es" })
}

fn memory_line(state: &RunState) -> String {
    let fitted = state.begin.fitted_bytes.map_or("unknown".to_owned(), bytes_text);
    let guest = if state.begin.guest { "; a virtual machine's own share and addresses" } else { "" };
    let tested = state.tested_bytes();
    format!("{fitted} fitted, {} held, {} tested{guest}", bytes_text(state.held.bytes), bytes_text(tested))
}

fn write_errors(out: &mut String, state: &RunState) -> std::fmt::Result {
    if state.errors.is_empty() {
        return Ok(());
    }
    writeln!(out)?;
    for (slots, words) in &state.errors.slots {
        let place = if slots.is_empty() { "slot unknown".to_owned() } else { slots.replace(' ', " or ") };
        writeln!(out, "{:>12}  {place}", counted(*words, "error"))?;
    }
    let lanes: Vec<String> = state.errors.lanes.wrong().take(8).map(|(lane, ..)| lane.to_string()).collect();
    writeln!(out, "data lanes    {}", lanes.join(" "))?;
    writeln!(out, "because       {}", state.begin.attribution)?;
    writeln!(out)?;
    for sample in state.errors.samples.iter().take(SHOWN_SAMPLES) {
        let address = sample.address.map_or("address unknown".to_owned(), |address| address.to_string());
        writeln!(
            out,
            "{address:<18} expected {}  read {}  {}  {}",
            sample.expected,
            sample.actual,
            sample.kind.word(),
            sample.test
        )?;
    }
    Ok(())
}
