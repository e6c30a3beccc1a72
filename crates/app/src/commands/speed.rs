//! `revisum speed`: how fast memory is, and how fast it should be.

use std::fmt::Write as _;
use std::io::{IsTerminal, Write as _};
use std::path::Path;
use std::sync::Arc;
use std::sync::atomic::{AtomicBool, Ordering};
use std::time::Duration;

use anyhow::{Context, Result, anyhow};
use revisum_diagnose::machine::Machine;
use revisum_diagnose::speed::{expected, speed_findings};
use revisum_drawing::{speed_scene, svg};
use revisum_engine::speed::{Kind, Reach, Wanted};
use revisum_engine::units::{bytes_text, latency_text, rate_text};
use revisum_record::speed::SpeedRecord;
use revisum_report::{pdf, speed_document, spread_text};
use revisum_sim::SimOptions;
use revisum_words as words;
use revisum_words::{Language, Said as _, speaking};
use serde_json::json;
use signal_hook::consts::{SIGHUP, SIGINT, SIGQUIT, SIGTERM};
use signal_hook::flag;

use crate::cli::SpeedArgs;
use crate::exit::Exit;
use crate::say;
use revisum_linux::files;
use revisum_records::DataDir;
use revisum_records::WrongUse;
use revisum_records::wall_time;
use revisum_records::{Job, Which};
use revisum_workbench::speed_run::{SpeedRun, usual_reach};
use revisum_workbench::wire;

/// How often progress and signals are looked at.
const LOOK_EVERY: Duration = Duration::from_millis(50);
/// Columns of a paragraph.
const COLUMNS: usize = 100;

/// Measures and tells.
///
/// # Errors
/// When nothing could be measured, or a file cannot be written.
pub fn run(data: Option<&Path>, args: &SpeedArgs) -> Result<Exit> {
    let machine = Arc::new(match &args.sim {
        Some(name) => wire::simulated(name, SimOptions { seed: 1, ..SimOptions::default() })?,
        None => wire::real(),
    });
    let reach = machine.speed.reach();
    let wanted = wanted(args, &reach);
    let reach = if args.sets.is_some() || args.all_memory { reach } else { usual_reach(&reach) };
    let interrupted = Arc::new(AtomicBool::new(false));
    for signal in [SIGINT, SIGTERM, SIGHUP, SIGQUIT] {
        flag::register(signal, interrupted.clone())?;
    }
    let measuring =
        SpeedRun::begin(machine.clone(), &wanted, &reach, || {}).map_err(|why| WrongUse(why.to_string()))?;
    let terminal = std::io::stderr().is_terminal();
    loop {
        let now = measuring.snapshot();
        if now.over {
            break;
        }
        if interrupted.load(Ordering::SeqCst) {
            measuring.stop();
        }
        if let Some(at) = now.at.filter(|_| terminal) {
            let progress = now.progress;
            eprint!(
                "\r\x1b[K{:>3} %  repeat {} of {}  {} {}",
                progress.done * 100 / progress.of.max(1),
                progress.repeat,
                wanted.repeats,
                at.kind.said(),
                bytes_text(at.bytes)
            );
        }
        std::thread::sleep(LOOK_EVERY);
    }
    if terminal {
        eprint!("\r\x1b[K");
    }
    let done = measuring.wait();
    if let Some(why) = done.failure {
        return Err(anyhow!("{}", say::speed_not_timed(why)));
    }
    let record = done.record.as_ref();
    if record.points.is_empty() {
        return Err(anyhow!("{}", say::speed_stopped_before()));
    }
    tell(record, args)?;
    // A part of it would stand in the way of a whole one that was measured before.
    let whole = args.kinds.is_none() && args.sets.is_none() && args.cores.is_none();
    let told = record.complete || done.progress.repeat > 1;
    if whole && told && !args.no_record {
        keep(data, &machine, record)?;
    }
    Ok(if record.complete { Exit::Clean } else { Exit::CutShort })
}

fn wanted(args: &SpeedArgs, reach: &Reach) -> Wanted {
    let all = Wanted::everything(reach);
    let cores = args.cores.as_ref().map(|list| {
        let mut counts: Vec<usize> = list.iter().map(|count| count.unwrap_or(reach.cores)).collect();
        counts.sort_unstable();
        counts.dedup();
        counts
    });
    Wanted {
        kinds: args.kinds.clone().unwrap_or(all.kinds),
        sets: args.sets.clone(),
        strides: args.strides.clone().unwrap_or(all.strides),
        widths: args.widths.clone(),
        cores: cores.unwrap_or(all.cores),
        repeats: args.repeats,
    }
}

/// In the machine's job, as everything else that was found out of it.
fn keep(data: Option<&Path>, machine: &Machine, record: &SpeedRecord) -> Result<()> {
    let data = DataDir::choose(data, None)?;
    data.prepare()?;
    let mut job = Job::open(&data.jobs(), &data.runs(), &record.machine, Which::Latest, machine.clock.wall_ms())?;
    job.measured(record.clone())
}

fn tell(record: &SpeedRecord, args: &SpeedArgs) -> Result<()> {
    let write = |file: &Path, bytes: &[u8]| {
        files::write(file, bytes).with_context(|| say::cli_not_written(file.display().to_string()))
    };
    if let Some(file) = &args.csv {
        write(file, &table(record)?)?;
    }
    if let Some(file) = &args.svg {
        write(file, svg(&speed_scene(record, None)).as_bytes())?;
    }
    if let Some(file) = &args.pdf {
        let when = wall_time::format(record.wall_ms, &wall_time::zone(record.simulated), "%Y-%m-%d %H:%M");
        write(file, &pdf(&speed_document(record, None, &when))?)?;
    }
    let mut out = crate::plain::stdout();
    if args.json {
        writeln!(out, "{}", as_json(record))?;
    } else {
        write!(out, "{}", text(record)?)?;
    }
    Ok(())
}

fn as_json(record: &SpeedRecord) -> serde_json::Value {
    speaking(Language::EN, || in_json(record))
}

fn in_json(record: &SpeedRecord) -> serde_json::Value {
    let memory = record.core_counts().into_iter().flat_map(|cores| {
        Kind::ALL.into_iter().filter_map(move |kind| {
            record.of_memory(kind, cores).map(|spread| json!({ "kind": kind, "cores": cores, "spread": spread }))
        })
    });
    let expected = expected(&record.board);
    json!({
        "speed": record,
        "memory": memory.collect::<Vec<_>>(),
        "could_carry": expected.as_ref().ok().map(|expected| expected.most()),
        "row_ns": expected.as_ref().ok().and_then(|expected| expected.row_ns),
        "not_known": expected.err().map(|why| why.said()),
        "says": words::speed::sentence(record),
        "findings": super::board::findings_json(&speed_findings(record)),
    })
}

/// Every timing.
fn table(record: &SpeedRecord) -> Result<Vec<u8>> {
    let mut table = csv::Writer::from_writer(Vec::new());
    table.write_record(["kind", "width_bits", "stride_bytes", "set_bytes", "cores", "repeat", "value", "unit"])?;
    for point in &record.points {
        let work = point.work;
        let unit = if work.kind == Kind::Latency { "seconds a load" } else { "bytes a second" };
        for (repeat, sample) in (1u32..).zip(&point.samples) {
            table.write_record([
                work.kind.name().to_owned(),
                work.width.bits().to_string(),
                work.stride.to_string(),
                work.bytes.to_string(),
                work.cores.to_string(),
                repeat.to_string(),
                sample.to_string(),
                unit.to_owned(),
            ])?;
        }
    }
    table.into_inner().map_err(|error| anyhow!("{error}"))
}

fn text(record: &SpeedRecord) -> Result<String> {
    let mut text = String::new();
    let simulated = if record.simulated { "   simulated" } else { "" };
    writeln!(text, "{}", say::cli_machine(&record.machine, simulated))?;
    if let Some(share) = record.large_pages {
        writeln!(text, "{}", say::speed_pages(format!("{:.0}", share * 100.0)))?;
    }
    let counts = record.core_counts();
    write!(text, "\n{:<18}", say::speed_memory_itself())?;
    for cores in &counts {
        write!(text, "{:<30}", words::tests_of::cores(*cores))?;
    }
    text.push('\n');
    for kind in Kind::ALL {
        let spreads: Vec<_> = counts.iter().map(|cores| record.of_memory(kind, *cores)).collect();
        if spreads.iter().all(Option::is_none) {
            continue;
        }
        write!(text, "{:<18}", kind.said())?;
        for spread in spreads {
            write!(text, "{:<30}", spread.map_or(String::new(), |spread| spread_text(kind, &spread)))?;
        }
        text.push('\n');
    }
    curves(&mut text, record, &counts)?;
    strides(&mut text, record)?;
    text.push('\n');
    for line in textwrap::wrap(&words::speed::sentence(record), COLUMNS) {
        writeln!(text, "{line}")?;
    }
    for finding in speed_findings(record) {
        for line in
            textwrap::wrap(&format!("• {}. {}", words::board::found(&finding), words::board::advice(&finding)), COLUMNS)
        {
            writeln!(text, "{line}")?;
        }
    }
    Ok(text.lines().map(|line| line.trim_end().to_owned() + "\n").collect())
}

/// A column for each kind, a row for each working set of each core.
fn curves(text: &mut String, record: &SpeedRecord, counts: &[usize]) -> Result<()> {
    for cores in counts {
        let sets: std::collections::BTreeSet<u64> =
            Kind::ALL.into_iter().flat_map(|kind| record.curve(kind, *cores)).map(|(bytes, _)| bytes).collect();
        let title = words::tests_of::cores(*cores) + if *cores == 1 { "" } else { say::speed_set_of_each() };
        write!(text, "\n{title:<18}")?;
        Kind::ALL.into_iter().try_for_each(|kind| write!(text, "{:>18}", kind.said()))?;
        text.push('\n');
        for bytes in sets {
            write!(text, "{:>10}{:8}", bytes_text(bytes), "")?;
            for kind in Kind::ALL {
                let here = record.curve(kind, *cores).into_iter().find(|(set, _)| *set == bytes);
                let value = here.map_or(String::new(), |(_, spread)| {
                    if kind == Kind::Latency { latency_text(spread.value) } else { rate_text(spread.value) }
                });
                write!(text, "{value:>18}")?;
            }
            text.push('\n');
        }
    }
    Ok(())
}

fn strides(text: &mut String, record: &SpeedRecord) -> Result<()> {
    let memory = record.by_stride(true);
    if !memory.is_empty() {
        writeln!(text, "\n{}", say::speed_loads_apart())?;
    }
    for (stride, spread) in memory {
        writeln!(text, "{:>10}{:8}{:>17}", bytes_text(u64::from(stride)), "", latency_text(spread.value))?;
    }
    for kind in [Kind::Read, Kind::Write] {
        let widths = record.by_width(kind, true);
        if widths.len() < 2 {
            continue;
        }
        writeln!(text, "\n{}", say::speed_by_width(kind.said()))?;
        for (width, spread) in widths {
            writeln!(
                text,
                "{}",
                say::speed_bits(
                    format!("{:>6}", width.bits()),
                    format!("{:7}", ""),
                    format!("{:>17}", rate_text(spread.value))
                )
            )?;
        }
    }
    Ok(())
}
