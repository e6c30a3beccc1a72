//! `revisum board`: what is fitted, and what is not as it should be.

use std::fmt::Write as _;
use std::io::Write as _;

use anyhow::Result;
use revisum_core::board::{Board, Facts, Finding, findings};
use revisum_core::ports::Machine;
use revisum_core::units::bytes_text;
use revisum_sim::SimOptions;
use serde_json::json;

use crate::cli::BoardArgs;
use crate::exit::Exit;
use crate::wire;

/// Tells the board.
///
/// # Errors
/// When there is no such simulated machine.
pub fn board(args: &BoardArgs) -> Result<Exit> {
    let machine = match &args.sim {
        Some(name) => wire::simulated(name, SimOptions::default())?,
        None => wire::real(),
    };
    let board = Board::read(machine.firmware.as_ref());
    let found = found(&machine, &board);
    let mut out = std::io::stdout().lock();
    if args.json {
        let system = machine.firmware.facts();
        let value = json!({
            "simulated": machine.is_simulated(),
            "guest": system.guest,
            "mainboard": board.mainboard,
            "firmware": board.firmware,
            "processor": system.processor,
            "settings": system.settings,
            "fitted_bytes": board.fitted_bytes(),
            "usable": machine.firmware.usable(),
            "reachable_bytes": machine.memory.offer().reachable_bytes,
            "slots": board.slots,
            "findings": found,
        });
        writeln!(out, "{value}")?;
    } else {
        write!(out, "{}", text(&machine, &board, &found)?)?;
    }
    Ok(Exit::Clean)
}

/// What the rules say of a machine as it is fitted.
pub fn found(machine: &Machine, board: &Board) -> Vec<Finding> {
    findings(&Facts {
        board,
        system: &machine.firmware.facts(),
        usable_bytes: machine.firmware.usable().bytes(),
        counters: &machine.counters.read(),
    })
}

fn text(machine: &Machine, board: &Board, found: &[Finding]) -> Result<String> {
    let system = machine.firmware.facts();
    let mut text = String::new();
    let simulated = if machine.is_simulated() { "   simulated" } else { "" };
    writeln!(text, "machine    {}{simulated}", system.machine)?;
    for (label, value) in [
        ("mainboard", &board.mainboard),
        ("firmware", &board.firmware),
        ("processor", &system.processor),
        ("settings", &system.settings),
    ] {
        if !value.is_empty() {
            writeln!(text, "{label:<10} {value}")?;
        }
    }
    let fitted = board.fitted_bytes().map_or("unknown".to_owned(), bytes_text);
    let reachable = bytes_text(machine.memory.offer().reachable_bytes);
    writeln!(text, "memory     {fitted} fitted, {reachable} can be tested now\n")?;
    for slot in &board.slots {
        let Some(module) = &slot.module else {
            writeln!(text, "{:<8} empty", slot.id)?;
            continue;
        };
        let speed = module.speed.map_or(String::new(), |speed| format!("{speed} MT/s"));
        let soldered = if slot.soldered { "   soldered" } else { "" };
        writeln!(
            text,
            "{:<8} {:>8}  {speed:<10} {:<20} {:<12}{soldered}",
            slot.id,
            bytes_text(module.bytes),
            format!("{} {}", module.maker, module.part),
            module.serial
        )?;
    }
    for finding in found {
        let wrapped = format!("{}. {}", finding.what, finding.advice);
        text.push('\n');
        for (at, line) in textwrap::wrap(&wrapped, 100).iter().enumerate() {
            writeln!(text, "{} {line}", if at == 0 { "•" } else { " " })?;
        }
    }
    Ok(text)
}
