//! `revisum rows`: which addresses share a bank and a channel, learned from time, and the channels' slots, learned from warmth.

use std::fmt::Write as _;
use std::io::{IsTerminal as _, Write as _};
use std::path::Path;
use std::sync::Arc;
use std::sync::atomic::AtomicBool;

use anyhow::Result;
use revisum_engine::rows::{Channels, NoChannels, Rejected, RowFunctions};
use revisum_records::DataDir;
use revisum_sim::SimOptions;
use revisum_workbench::by_time::{ByTime, Kept, TimingStage, Wanted, Warmed, by_time};
use revisum_workbench::runner::fresh_seed;
use revisum_workbench::wire;
use serde_json::{Value, json};
use signal_hook::consts::{SIGHUP, SIGINT, SIGTERM};
use signal_hook::flag;

use crate::cli::RowsArgs;
use crate::exit::Exit;
use crate::say;

/// Learns and tells.
///
/// # Errors
/// When no memory can be taken, or what was learned cannot be kept.
pub fn run(data: Option<&Path>, args: &RowsArgs) -> Result<Exit> {
    let (machine, seed) = match &args.sim {
        Some(name) => (wire::simulated(name, SimOptions { seed: 1, ..SimOptions::default() })?, 1),
        None => (wire::real(), fresh_seed()),
    };
    let stop = Arc::new(AtomicBool::new(false));
    for signal in [SIGINT, SIGTERM, SIGHUP] {
        flag::register(signal, stop.clone())?;
    }
    let wanted = Wanted { bytes: args.memory, warm: args.warm };
    let terminal = std::io::stderr().is_terminal();
    let mut tell = |stage: TimingStage| {
        if terminal {
            eprint!("\r\x1b[K{}", stage_said(stage));
        }
    };
    let found = by_time(&machine, wanted, seed, &stop, &mut tell)?;
    if terminal {
        eprint!("\r\x1b[K");
    }
    let Some(found) = found else {
        crate::tell!("{}", say::rows_stopped());
        return Ok(Exit::CutShort);
    };
    let kept = if args.keep { Some(found.keep(&DataDir::choose(data, None)?)?) } else { None };
    let mut out = crate::plain::stdout();
    if args.json {
        writeln!(out, "{}", machine_form(&found, kept.as_ref()))?;
    } else {
        write!(out, "{}", in_words(&found, kept.as_ref())?)?;
    }
    Ok(Exit::Clean)
}

fn stage_said(stage: TimingStage) -> String {
    match stage {
        TimingStage::Rows => say::rows_stage_pairs().to_owned(),
        TimingStage::Channels => say::rows_stage_streams().to_owned(),
        TimingStage::Warming { done, of } => say::rows_stage_warming(done, of),
    }
}

fn in_words(found: &ByTime, kept: Option<&Kept>) -> Result<String> {
    let mut text = String::new();
    match &found.rows {
        Ok(rows) => text.push_str(&functions_said(rows)?),
        Err(Rejected::NoAddresses) => writeln!(text, "{}", say::rows_no_addresses())?,
        Err(Rejected::NoRows) => writeln!(text, "{}", say::rows_none_show())?,
        Err(Rejected::Open) => writeln!(text, "{}", say::rows_open())?,
    }
    match &found.channels {
        Some(Ok(channels)) => text.push_str(&channels_said(channels)?),
        Some(Err(NoChannels::NotTimed)) => writeln!(text, "{}", say::rows_channels_not_timed())?,
        Some(Err(NoChannels::NoneShow)) => writeln!(text, "{}", say::rows_channels_none())?,
        Some(Err(NoChannels::Open)) => writeln!(text, "{}", say::rows_channels_open())?,
        None => {}
    }
    match &found.warmed {
        Some(Warmed::NoThermometers) => writeln!(text, "{}", say::rows_no_thermometers())?,
        Some(Warmed::Slots(slots)) => {
            for (slot, channel) in slots {
                match channel {
                    Some(channel) => writeln!(text, "{}", say::rows_slot_warmed(slot, *channel))?,
                    None => writeln!(text, "{}", say::rows_slot_not_warmed(slot))?,
                }
            }
        }
        None => {}
    }
    match kept {
        Some(Kept::In(file)) => writeln!(text, "{}", say::rows_kept(file.display().to_string()))?,
        Some(Kept::Known) => writeln!(text, "{}", say::rows_kept_before())?,
        Some(Kept::NoMainboard) => writeln!(text, "{}", say::rows_kept_no_mainboard())?,
        Some(Kept::NotUsable) => writeln!(text, "{}", say::rows_kept_not_usable())?,
        None => {}
    }
    writeln!(text, "{}", say::rows_took(format!("{:.0}", found.seconds)))?;
    if found.simulated {
        writeln!(text, "{}", say::rows_simulated())?;
    } else if found.rows.is_ok() {
        writeln!(text, "{}", say::rows_never_confirmed())?;
    }
    Ok(text)
}

fn functions_said(rows: &RowFunctions) -> Result<String> {
    let mut text = String::new();
    writeln!(text, "{}", say::rows_found(1u64 << rows.functions.len().min(63), rows.functions.len()))?;
    for mask in &rows.functions {
        writeln!(text, "  {}", bits(*mask))?;
    }
    if let Some(turns) = rows.view.turns {
        writeln!(text, "{}", say::rows_turns(turns.ways, 1u64 << turns.granule_bits))?;
    }
    if rows.view.offset > 0 {
        let (offset, from) = (format!("{:#x}", rows.view.offset), format!("{:#x}", rows.view.from));
        writeln!(text, "{}", say::rows_offset(offset, from))?;
    }
    if let Some(step) = rows.other_row.iter().copied().min() {
        writeln!(text, "{}", say::rows_step(bits(step)))?;
    }
    Ok(text)
}

fn channels_said(channels: &Channels) -> Result<String> {
    let mut text = String::new();
    let part = format!("{:.0}", channels.share * 100.0);
    writeln!(text, "{}", say::rows_channels(channels.count(), part))?;
    for mask in &channels.masks {
        writeln!(text, "  {}", bits(*mask))?;
    }
    Ok(text)
}

/// The numbers of the bits of a mask, the lowest first.
fn bits(mask: u64) -> String {
    let bits = (0..64).filter(|bit| mask >> bit & 1 == 1).map(|bit| bit.to_string());
    bits.collect::<Vec<_>>().join(" ^ ")
}

fn hex(masks: &[u64]) -> Vec<String> {
    masks.iter().map(|mask| format!("{mask:#x}")).collect()
}

fn machine_form(found: &ByTime, kept: Option<&Kept>) -> Value {
    let mut form = json!({
        "version": 1,
        "outcome": match &found.rows {
            Ok(_) => "found",
            Err(Rejected::NoAddresses) => "no-addresses",
            Err(Rejected::NoRows) => "no-rows",
            Err(Rejected::Open) => "open",
        },
        "simulated": found.simulated,
        "seconds": found.seconds,
    });
    if let Ok(rows) = &found.rows {
        form["functions"] = json!(hex(&rows.functions));
        form["other_row"] = json!(hex(&rows.other_row));
        form["same_row"] = json!(hex(&rows.same_row));
        form["offset"] = json!({ "from": rows.view.from, "bytes": rows.view.offset });
        form["turns"] =
            json!(rows.view.turns.map(|turns| json!({ "ways": turns.ways, "granule": 1u64 << turns.granule_bits })));
        form["timings"] = json!(rows.timings);
    }
    form["channels"] = match &found.channels {
        None => Value::Null,
        Some(Ok(channels)) => {
            json!({ "outcome": "found", "count": channels.count(), "functions": hex(&channels.masks), "share": channels.share })
        }
        Some(Err(why)) => json!({ "outcome": match why {
            NoChannels::NotTimed => "not-timed",
            NoChannels::NoneShow => "none",
            NoChannels::Open => "open",
        } }),
    };
    form["slots"] = match &found.warmed {
        None => Value::Null,
        Some(Warmed::NoThermometers) => json!("no-thermometers"),
        Some(Warmed::Slots(slots)) => {
            slots.iter().map(|(slot, channel)| json!({ "slot": slot, "channel": channel })).collect()
        }
    };
    form["kept"] = match kept {
        None => Value::Null,
        Some(Kept::In(file)) => json!({ "outcome": "kept", "file": file.display().to_string() }),
        Some(Kept::Known) => json!({ "outcome": "known" }),
        Some(Kept::NoMainboard) => json!({ "outcome": "no-mainboard" }),
        Some(Kept::NotUsable) => json!({ "outcome": "not-usable" }),
    };
    form
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn bits_are_numbered_from_the_lowest() {
        assert_eq!(bits(0x2084100), "8 ^ 14 ^ 19 ^ 25");
    }
}
