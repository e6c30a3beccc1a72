//! `revisum logs`: the recorded runs.

use std::io::{IsTerminal as _, Write};
use std::path::Path;

use anyhow::Result;
use serde_json::json;

use crate::cli::LogsArgs;
use crate::exit::Exit;
use crate::say;
use revisum_records::DataDir;
use revisum_records::wall_time;
use revisum_records::{Digest, Found, Imported, Ledger, Life, find_runs, import, scan_runs};
use revisum_words as words;

/// Lists runs, newest first; or the life of a module; after bringing in others, where that is asked for.
///
/// # Errors
/// When the folder or the ledger cannot be read.
pub fn logs(data: Option<&Path>, args: &LogsArgs) -> Result<Exit> {
    let mut out = crate::plain::stdout();
    let text = args.find.as_deref().unwrap_or_default();
    if let Some(folder) = &args.dir {
        return show(&mut out, args, &scan_runs(folder, text, args.most)?, folder);
    }
    let data = DataDir::choose(data, None)?;
    if let Some(from) = &args.import {
        data.prepare()?;
        let done = bring_in(&data, from)?;
        if !args.json {
            writeln!(out, "{}", done.words())?;
        }
    }
    if args.rebuild && data.runs().exists() {
        Ledger::open(&data)?.rebuild()?;
    }
    if let Some(file) = &args.digest {
        let digest = Digest::of(&Ledger::open(&data)?)?;
        digest.write(file)?;
        writeln!(out, "{}", say::logs_modules_are(digest.modules.len(), file.display().to_string()))?;
        return Ok(Exit::Clean);
    }
    if let Some(serial) = &args.module {
        data.prepare()?;
        return life(&mut out, &Ledger::repaired(&data, || Ledger::open(&data)?.life(serial))?, args.json);
    }
    let found = find_runs(&data, text, args.most)?;
    if let Some(why) = &found.without_ledger {
        crate::tell!("{}", say::logs_one_by_one(why));
    }
    if let Some(why) = &found.aside {
        crate::tell!("{}", say::ledger_aside(why));
    }
    show(&mut out, args, &found, &data.runs())
}

fn bring_in(data: &DataDir, from: &Path) -> Result<Imported> {
    let told = std::io::stderr().is_terminal();
    let done = import(data, from, &mut |at, of| {
        if told && (at % 100 == 0 || at == of) {
            eprint!("\r{at} of {of} journals");
        }
    });
    if told {
        crate::tell!("");
    }
    done
}

fn life(out: &mut impl Write, life: &Life, as_json: bool) -> Result<Exit> {
    if as_json {
        writeln!(out, "{}", serde_json::to_string(life)?)?;
        return Ok(Exit::Clean);
    }
    match life.runs.last() {
        None => writeln!(out, "{}", say::logs_no_module(&life.serial))?,
        Some(last) => writeln!(out, "{}  {}", life.serial, last.kind)?,
    }
    for end in &life.ends {
        writeln!(out, "{:<20.20}  {:<14} {}", end.job, end.machine, words::advice::end(end.end))?;
    }
    for line in &life.runs {
        let outcome = line.outcome.replace('-', " ");
        writeln!(
            out,
            "{:<20.16}  {:<14} {:<8} {outcome:<15} {:>10}  {}",
            line.started.replace('T', " "),
            line.machine,
            line.slot,
            line.errors,
            line.run
        )?;
    }
    Ok(Exit::Clean)
}

fn show(out: &mut impl Write, args: &LogsArgs, listed: &Found, folder: &Path) -> Result<Exit> {
    for problem in &listed.unreadable {
        crate::tell!("{}", say::logs_left_out(problem));
    }
    if args.json {
        serde_json::to_writer(&mut *out, &json!({ "runs": listed.runs, "count": listed.count }))?;
        writeln!(out)?;
        return Ok(Exit::Clean);
    }
    if listed.runs.is_empty() {
        let words = match args.find {
            Some(_) => say::logs_no_words().to_owned(),
            None => say::logs_no_runs(folder.display().to_string()),
        };
        writeln!(out, "{words}.")?;
    }
    for run in &listed.runs {
        let started = wall_time::date_and_time(run.wall_ms, &wall_time::zone(run.simulated));
        let simulated = if run.simulated { say::logs_simulated() } else { "" };
        writeln!(out, "{started}  {:<14} {:>10}  {}{simulated}", run.machine, run.errors, run.id)?;
        writeln!(out, "                  {}", words::result::headline_of(&run.headline))?;
        if let Some(name) = &run.elsewhere {
            writeln!(out, "                  {}", say::logs_elsewhere(name))?;
        }
        if let Some(damage) = &run.damage {
            writeln!(out, "                  {damage}")?;
        }
    }
    let more = listed.count.saturating_sub(listed.runs.len() as u64);
    if more > 0 {
        writeln!(out, "{}", say::logs_more(more))?;
    }
    Ok(Exit::Clean)
}
