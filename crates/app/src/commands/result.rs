//! The result of a run as JSON and as text.

use std::fmt::Write;
use std::path::Path;

use revisum_engine::places::Certainty;
use revisum_engine::sweep::second_look::Kind;
use revisum_engine::tally::Sample;
use revisum_engine::units::{ByteRange, PhysAddr, Word, bytes_text, count_text};
use revisum_record::outcome::{EndedBy, Judgement, LeftOut};
use revisum_record::run_state::RunState;
use revisum_words as words;
use revisum_words::{Language, Said as _, speaking};
use serde::Serialize;

use revisum_records::wall_time;

use crate::say;

/// One run as one JSON object.
#[derive(Serialize)]
pub struct RunResult<'a> {
    outcome: &'static str,
    headline: String,
    grade: &'static str,
    complete: bool,
    sentence: String,
    planned: PlannedResult,
    done: DoneResult,
    coverage: CoverageResult,
    ended_by: Option<&'static str>,
    damage: Option<String>,
    continues: Option<&'a str>,
    repeats: Option<&'a str>,
    errors: u64,
    passes: u32,
    elapsed_s: f64,
    paused_s: f64,
    stalled_s: f64,
    sweeping_s: f64,
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
    miscounted: u32,
    hardware_corrected: u64,
    hardware_uncorrected: u64,
    recorded: bool,
    journal: Option<String>,
}

#[derive(Serialize)]
struct PlannedResult {
    passes: Option<u32>,
    seconds: Option<f64>,
    tests: usize,
    range: Option<ByteRange>,
    bytes: Option<u64>,
}

#[derive(Serialize)]
struct DoneResult {
    passes: u32,
    of_next_pass: f64,
    tests: usize,
    seconds: f64,
    in_full_passes_s: f64,
}

#[derive(Serialize)]
struct CoverageResult {
    installed_bytes: Option<u64>,
    reachable_bytes: Option<u64>,
    chosen_bytes: Option<u64>,
    tested_bytes: u64,
    share: Option<f64>,
    left_out: Vec<LeftOutResult>,
}

#[derive(Serialize)]
struct LeftOutResult {
    bytes: u64,
    reason: &'static str,
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
    pub fn new(state: &'a RunState, live: bool, journal: Option<&Path>) -> Self {
        speaking(Language::EN, || Self::of(state, live, journal))
    }

    fn of(state: &'a RunState, live: bool, journal: Option<&Path>) -> Self {
        let judgement = Judgement::of(state, live);
        let (counts, times) = (&judgement.counts, &judgement.times);
        Self {
            outcome: judgement.outcome.word(),
            headline: words::result::headline(&judgement),
            grade: judgement.grade.word(),
            complete: judgement.complete,
            sentence: words::result::sentence(&judgement),
            planned: planned(&judgement),
            done: done(&judgement),
            coverage: coverage(&judgement),
            ended_by: judgement.ended_by.map(EndedBy::word),
            damage: words::damage::newer(&state.begin)
                .into_iter()
                .chain(words::damage::sentence(&state.damage))
                .reduce(|a, b| format!("{a} {b}")),
            continues: state.begin.continues.as_ref().map(|part| part.run.as_str()),
            repeats: state.begin.repeats.as_ref().map(|of| of.run.as_str()),
            errors: counts.errors,
            passes: judgement.done.passes,
            elapsed_s: times.elapsed,
            paused_s: times.paused,
            stalled_s: times.stalled,
            sweeping_s: times.sweeping,
            fitted_bytes: state.begin.fitted_bytes,
            held_bytes: state.held.bytes,
            tested_bytes: judgement.coverage.tested,
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
            miscalculated: counts.miscalculated,
            miscounted: judgement.miscounted,
            hardware_corrected: counts.corrected,
            hardware_uncorrected: counts.uncorrected,
            recorded: journal.is_some(),
            journal: journal.map(|path| path.display().to_string()),
        }
    }
}

fn planned(judgement: &Judgement) -> PlannedResult {
    let planned = &judgement.planned;
    PlannedResult {
        passes: planned.passes,
        seconds: planned.seconds,
        tests: planned.tests,
        range: planned.range,
        bytes: planned.bytes,
    }
}

fn done(judgement: &Judgement) -> DoneResult {
    DoneResult {
        passes: judgement.done.passes,
        of_next_pass: judgement.done.of_next,
        tests: judgement.done.tests,
        seconds: judgement.times.ran,
        in_full_passes_s: judgement.times.in_full_passes,
    }
}

fn coverage(judgement: &Judgement) -> CoverageResult {
    let coverage = &judgement.coverage;
    let part = |part: &LeftOut| LeftOutResult { bytes: part.bytes, reason: part.reason.word() };
    CoverageResult {
        installed_bytes: coverage.installed,
        reachable_bytes: coverage.reachable,
        chosen_bytes: coverage.chosen,
        tested_bytes: coverage.tested,
        share: coverage.share(),
        left_out: coverage.left_out.iter().map(part).collect(),
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
    let judgement = Judgement::of(state, live);
    let simulated = if state.begin.simulated { say::result_simulated() } else { "" };
    writeln!(out, "{}{simulated}", words::result::headline(&judgement))?;
    writeln!(out, "{}", words::result::sentence(&judgement))?;
    writeln!(out)?;
    let zone = wall_time::zone(state.begin.simulated);
    let doubtful = if state.begin.wall_doubtful { say::result_clock_wrong() } else { "" };
    writeln!(out, "{}", say::result_machine(&state.begin.machine))?;
    writeln!(out, "{}", say::result_started(wall_time::date_and_time(state.begin.wall_ms, &zone), doubtful))?;
    writeln!(out, "{}", say::result_took(words::result::took(&judgement)))?;
    writeln!(out, "{}", say::result_memory(memory_line(state, &judgement)))?;
    if let Some(part) = &state.begin.continues {
        writeln!(out, "{}", say::result_continues(&part.run))?;
    }
    if let Some(of) = &state.begin.repeats {
        writeln!(out, "{}", say::result_repeats_run(&of.run))?;
    }
    // What could not be had only matters where it was wanted.
    for limit in state.held.limits.iter().filter(|_| judgement.planned.bytes.is_none()) {
        writeln!(out, "          {}", words::board::limit(limit))?;
    }
    if !state.held.addresses_known {
        writeln!(out, "{}", say::result_no_addresses())?;
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
    writeln!(
        out,
        "{:<18} {:>7} {:>12} {:>12} {:>10}",
        say::result_col_test(),
        say::result_col_passes(),
        say::result_col_errors(),
        say::result_col_swept(),
        say::result_col_rate()
    )?;
    for test in &state.tests {
        let rate = if test.sweep_ns == 0 { 0.0 } else { test.bytes_swept as f64 / test.sweep_ns as f64 };
        let (errors, swept) = (count_text(test.errors), bytes_text(test.bytes_swept));
        writeln!(out, "{:<18} {:>7} {errors:>12} {swept:>12} {rate:>5.1} GB/s", test.name, test.passes)?;
    }
    write_errors(out, state)
}

fn memory_line(state: &RunState, judgement: &Judgement) -> String {
    let guest = match (state.begin.guest, state.begin.ranges_trusted) {
        (true, true) => say::result_ranges_trusted(),
        (true, false) => say::result_guest(),
        (false, _) => "",
    };
    format!("{}{guest}", words::result::coverage(&judgement.coverage))
}

fn write_errors(out: &mut String, state: &RunState) -> std::fmt::Result {
    if state.errors.is_empty() {
        return Ok(());
    }
    writeln!(out)?;
    for (slots, words) in &state.errors.slots {
        let place = match state.begin.board.slots_in(slots) {
            of if of.is_empty() => say::result_slot_unknown().to_owned(),
            of => of.join(say::result_or()),
        };
        writeln!(out, "{:>12}  {place}", say::result_errors(*words))?;
    }
    let lanes: Vec<String> = state.errors.lanes.wrong().take(8).map(|(lane, ..)| lane.to_string()).collect();
    writeln!(out, "{}", say::result_lines(lanes.join(" ")))?;
    writeln!(out, "{}", say::result_because(words::locate::ground(&state.begin.attribution)))?;
    writeln!(out)?;
    for sample in state.errors.samples.iter().take(SHOWN_SAMPLES) {
        let address = sample.address.map_or(say::result_address_unknown().to_owned(), |address| address.to_string());
        writeln!(
            out,
            "{}",
            say::result_sample(
                format!("{:<18}", address),
                sample.expected.to_string(),
                sample.actual.to_string(),
                sample.kind.said(),
                &sample.test
            )
        )?;
    }
    Ok(())
}
