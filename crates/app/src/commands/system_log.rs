//! `revisum system-log`: what operating systems logged about memory.

use std::io::Write;
use std::path::Path;

use anyhow::Result;
use revisum_diagnose::board::Inventory;
use revisum_diagnose::system_log::SystemLogs;
use revisum_record::logged::LogEntry;
use revisum_sim::SimOptions;
use revisum_words::Said as _;
use serde_json::json;

use crate::cli::SystemLogArgs;
use crate::exit::Exit;
use crate::say;
use revisum_records::DataDir;
use revisum_records::wall_time;
use revisum_records::{Job, MOST_KEPT, shown_time};

/// Lists the entries, and keeps them in a job where that is asked for.
///
/// # Errors
/// When the machine or the job cannot be read or written.
pub fn run(data: Option<&Path>, args: &SystemLogArgs) -> Result<Exit> {
    let machine = match &args.sim {
        Some(name) => revisum_workbench::wire::simulated(name, SimOptions::default())?,
        None => revisum_workbench::wire::real(),
    };
    let found = if args.paths.is_empty() { machine.log.found() } else { revisum_linux::read_logs(&args.paths) };
    let mut logs = found.placed(&Inventory::read(&machine.firmware.raw()));
    if let Some(words) = &args.find {
        let words = words.to_lowercase();
        logs.entries.retain(|entry| line(entry, false).to_lowercase().contains(&words));
    }
    for trouble in &logs.trouble {
        crate::tell!("revisum: {trouble}");
    }
    if let Some(job) = &args.keep {
        let data = DataDir::choose(data, None)?;
        Job::named(&data.jobs(), &data.runs(), Some(job))?.keep_logged(&logs.entries)?;
        crate::tell!("{}", say::system_kept_entries(logs.entries.len().min(MOST_KEPT)));
    }
    let mut out = crate::plain::stdout();
    if args.json {
        writeln!(out, "{}", json!({ "entries": logs.entries, "read": logs.read, "trouble": logs.trouble }))?;
    } else {
        list(&mut out, &logs, machine.is_simulated())?;
    }
    Ok(Exit::Clean)
}

fn list(out: &mut impl Write, logs: &SystemLogs, simulated: bool) -> Result<()> {
    for entry in &logs.entries {
        writeln!(out, "{}", line(entry, simulated))?;
    }
    let looked = revisum_words::logged::looked_through(logs);
    match logs.entries.len() {
        0 => writeln!(out, "{}", say::system_log_nothing(looked))?,
        _ => writeln!(out, "{looked}")?,
    }
    Ok(())
}

fn line(entry: &LogEntry, simulated: bool) -> String {
    let time = shown_time(entry, &wall_time::zone(simulated));
    let address = entry.address.map(|address| address.to_string()).unwrap_or_default();
    let kind = entry.kind.said();
    // A place that is no slot of this machine is one of the machine that logged it.
    let slots = if entry.slots.is_empty() { entry.place.clone() } else { entry.slots.join(say::result_or()) };
    format!("{time:<20}  {kind:<26} {:>6}  {address:<20} {slots:<10} {}   {}", entry.count, entry.log, entry.text)
}
