//! `revisum logs`: the recorded runs.

use std::io::Write;
use std::path::Path;

use anyhow::Result;
use serde_json::json;

use crate::cli::LogsArgs;
use crate::data_dir::DataDir;
use crate::exit::Exit;
use crate::records::list_runs;
use crate::wall_time;

/// Lists runs, newest first.
///
/// # Errors
/// When the folder cannot be read.
pub fn logs(data: Option<&Path>, args: &LogsArgs) -> Result<Exit> {
    let folder = match &args.dir {
        Some(dir) => dir.clone(),
        None => DataDir::choose(data, None)?.runs(),
    };
    let (mut runs, unreadable) = list_runs(&folder)?;
    if let Some(find) = &args.find {
        let find = find.to_lowercase();
        runs.retain(|run| run.text.contains(&find));
    }
    for problem in &unreadable {
        eprintln!("revisum: left out: {problem}");
    }
    let mut out = std::io::stdout().lock();
    if args.json {
        serde_json::to_writer(&mut out, &json!({ "runs": runs }))?;
        writeln!(out)?;
        return Ok(Exit::Clean);
    }
    if runs.is_empty() {
        writeln!(out, "No runs in {}. `revisum check` makes one.", folder.display())?;
    }
    for run in &runs {
        let started = wall_time::date_and_time(run.wall_ms, &wall_time::zone(run.simulated));
        let simulated = if run.simulated { "  simulated" } else { "" };
        let outcome = run.outcome.replace('-', " ");
        writeln!(out, "{started}  {:<14} {outcome:<15} {:>10}  {}{simulated}", run.machine, run.errors, run.id)?;
        if let Some(damage) = &run.damage {
            writeln!(out, "                  {damage}")?;
        }
    }
    Ok(Exit::Clean)
}
