//! `revisum ledger`: where the ledger of all runs is kept.

use std::io::Write;
use std::path::Path;

use anyhow::Result;
use revisum_records::{DataDir, Holding, Ledger, Place, Sharing, end_sharing};
use serde_json::json;

use crate::cli::LedgerCommand;
use crate::exit::Exit;
use crate::say;

/// Does what was asked.
///
/// # Errors
/// With what happened and what to do.
pub fn run(data: Option<&Path>, what: &LedgerCommand) -> Result<Exit> {
    let data = DataDir::choose(data, None)?;
    data.prepare()?;
    let mut out = crate::plain::stdout();
    match what {
        LedgerCommand::Show { json } => show(&mut out, &data, *json)?,
        LedgerCommand::Share { address, password, authority, name } => {
            let own = rustix::system::uname().nodename().to_string_lossy().into_owned();
            let (password, authority) = (password.as_deref(), authority.as_deref());
            let sharing = Sharing { address, password, authority, name: name.as_ref().unwrap_or(&own) };
            let place = sharing.begin(&data)?;
            writeln!(out, "{}", say::ledger_is_shared(place.shown(), &place.name))?;
            show(&mut out, &data, false)?;
        }
        LedgerCommand::Own => {
            if let Some(why) = end_sharing(&data)? {
                crate::tell!("{}", say::ledger_not_let_go(why));
            }
            writeln!(out, "{}", say::ledger_is_own(data.ledger().display().to_string()))?;
        }
    }
    Ok(Exit::Clean)
}

fn show(out: &mut impl Write, data: &DataDir, as_json: bool) -> Result<()> {
    let place = Place::read(&data.ledger_place())?;
    let (ledger, holdings) = Ledger::repaired(data, || {
        let ledger = Ledger::open(data)?;
        let holdings = ledger.holdings()?;
        Ok((ledger, holdings))
    })?;
    // Where its server does not answer, it is the one in the folder that is asked.
    let server = place.filter(|_| ledger.aside().is_none()).map(|place| place.shown());
    if as_json {
        let kept = server.clone().unwrap_or_else(|| data.ledger().display().to_string());
        let all =
            json!({ "kept": kept, "shared": server.is_some(), "without_server": ledger.aside(), "folders": holdings });
        return Ok(writeln!(out, "{all}")?);
    }
    if let Some(why) = ledger.aside() {
        crate::tell!("{}", say::ledger_aside(why));
    }
    match &server {
        Some(server) => writeln!(out, "{}", say::ledger_kept_by(server))?,
        None => writeln!(out, "{}", say::ledger_kept_here(data.ledger().display().to_string()))?,
    }
    for Holding { name, runs, jobs, here } in &holdings {
        let name = match (here, name.is_empty()) {
            (true, true) => say::ledger_this_folder().to_owned(),
            (true, false) => say::ledger_named_here(name),
            (false, _) => name.clone(),
        };
        writeln!(out, "{}", say::ledger_holding(format!("{name:<40}"), *runs, *jobs))?;
    }
    Ok(())
}
