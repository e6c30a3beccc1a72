//! `revisum board`: what is fitted, whether it is right, and what of it can be tested.

use std::fmt::Write as _;
use std::io::Write as _;

use anyhow::Result;
use revisum_diagnose::board::{Coverage, Fact, Finding};
use revisum_diagnose::controller::{KnownController, Naming, Position};
use revisum_engine::text::squeezed;
use revisum_engine::units::{PhysAddr, bytes_text};
use revisum_record::fitted::{Board, Slot};
use revisum_sim::SimOptions;
use revisum_words as words;
use revisum_words::{Language, Said as _, speaking};
use serde_json::{Value, json};

use crate::cli::BoardArgs;
use crate::exit::Exit;
use crate::say;
use revisum_workbench::look::Look;
use revisum_workbench::wire;

/// Columns of the text.
const WIDTH: usize = 100;

/// Tells the board.
///
/// # Errors
/// When there is no such simulated machine, or a folder cannot be read or written.
pub fn board(args: &BoardArgs) -> Result<Exit> {
    let look = match (&args.firmware, &args.sim) {
        (Some(folder), _) => Look::at(&wire::saved(folder)?),
        (None, Some(name)) => Look::at(&wire::simulated(name, SimOptions::default())?),
        (None, None) => Look::at(&wire::real()),
    };
    let look = if args.mask { look.masked() } else { look };
    if let Some(folder) = &args.save {
        look.save(folder)?;
        crate::tell!("{}", say::board_raw_in(folder.display().to_string()));
        if !args.mask {
            crate::tell!("{}", say::board_serials_in());
        }
    }
    let mut out = crate::plain::stdout();
    if args.json {
        writeln!(out, "{}", as_json(&look))?;
    } else if args.raw {
        write!(out, "{}", all_facts(&look)?)?;
    } else {
        write!(out, "{}", text(&look)?)?;
    }
    Ok(Exit::Clean)
}

/// Findings for other programs: in English whatever is spoken.
pub fn findings_json(findings: &[Finding]) -> Value {
    let one = |finding: &Finding| json!({ "weight": finding.weight, "what": words::board::found(finding), "advice": words::board::advice(finding) });
    speaking(Language::EN, || findings.iter().map(one).collect())
}

fn as_json(look: &Look) -> Value {
    speaking(Language::EN, || in_json(look))
}

fn in_json(look: &Look) -> Value {
    let (inventory, system) = (&look.inventory, &look.system);
    let counters = look
        .counters
        .iter()
        .map(|count| json!({ "place": count.label, "corrected": count.corrected, "uncorrected": count.uncorrected }));
    let temperatures = look.temperatures.iter().map(|one| json!({ "sensor": one.sensor, "celsius": one.celsius }));
    json!({
        "machine": system.machine,
        "simulated": look.simulated,
        "guest": system.guest,
        "mainboard": inventory.board.mainboard,
        "firmware": inventory.board.firmware,
        "processor": system.processor,
        "settings": system.settings,
        "fitted_bytes": inventory.board.fitted_bytes(),
        "mapped_bytes": inventory.mapped_bytes,
        "usable": inventory.usable,
        "reachable_bytes": look.offer.reachable_bytes,
        "coverage": look.coverage,
        "slots": inventory.board.slots,
        "mapped": inventory.mapped,
        "controller": inventory.controller.as_ref().map(controller),
        "findings": findings_json(&look.findings(None, None)),
        "facts": inventory.facts.all(),
        "events": inventory.events,
        "counters": counters.collect::<Vec<_>>(),
        "temperatures": temperatures.collect::<Vec<_>>(),
        "encrypted": inventory.encrypted,
        "not_known": inventory.unknown.iter().map(words::board::unknown).collect::<Vec<_>>(),
    })
}

/// The memory controller by its registers: its family, and the slots that each position can be.
fn controller(known: &KnownController) -> Value {
    let position = |(position, slots, naming): (Position, Vec<String>, Naming)| json!({ "channel": position.channel, "number": position.slot, "slots": slots, "by": naming });
    let positions: Vec<Value> = known.map.labels().map(position).collect();
    json!({ "family": known.family.word(), "positions": positions })
}

fn text(look: &Look) -> Result<String> {
    let (board, system) = (&look.inventory.board, &look.system);
    let mut text = String::new();
    let simulated = if look.simulated { say::cli_simulated() } else { "" };
    writeln!(text, "{}", say::cli_machine(&system.machine, simulated))?;
    let told = |name: &str| look.inventory.facts.value("", name).unwrap_or_default().to_owned();
    let processor = if system.processor.is_empty() { told("processor") } else { system.processor.clone() };
    for (label, value) in [
        (say::cli_computer(), &told("computer")),
        (say::cli_mainboard(), &board.mainboard),
        (say::cli_firmware(), &words::board::firmware(&board.firmware)),
        (say::cli_processor(), &processor),
        (say::cli_controller(), &told("memory controller")),
        (say::cli_settings(), &system.settings),
    ] {
        if !value.is_empty() {
            writeln!(text, "{label:<10} {value}")?;
        }
    }
    match &look.coverage {
        Some(coverage) => memory(&mut text, coverage)?,
        None => {
            let fitted = board.fitted_bytes().map_or(say::cli_unknown().to_owned(), bytes_text);
            writeln!(text, "{}", say::board_saved_only(fitted))?;
        }
    }
    slots(&mut text, board)?;
    findings(&mut text, &look.findings(None, None))?;
    if !look.inventory.unknown.is_empty() {
        writeln!(text, "\n{}", say::board_not_known(look.inventory.unknown.len()))?;
    }
    Ok(text)
}

/// Longest text of a column: what is longer gives way in the middle.
const LONGEST_CELL: usize = 32;
/// More empty slots than these are named in one line.
const MOST_EMPTY: usize = 4;

/// A line for each slot, in columns as wide as what stands in them; a column of which nothing is known is left out.
fn slots(text: &mut String, board: &Board) -> Result<()> {
    let empty: Vec<&str> =
        board.slots.iter().filter(|slot| slot.module.is_none()).map(|slot| slot.id.as_str()).collect();
    let fold = empty.len() > MOST_EMPTY;
    let listed: Vec<&Slot> = board.slots.iter().filter(|slot| !fold || slot.module.is_some()).collect();
    let rows: Vec<[String; COLUMNS]> = listed.iter().map(|slot| slot_cells(slot)).collect();
    let widths: Vec<usize> =
        (0..COLUMNS).map(|at| rows.iter().map(|row| row[at].chars().count()).max().unwrap_or(0)).collect();
    if !rows.is_empty() || fold {
        text.push('\n');
    }
    for row in &rows {
        let cells = row.iter().zip(&widths).filter(|(_, width)| **width > 0);
        let line: Vec<String> = cells.map(|(cell, width)| format!("{cell:<width$}")).collect();
        writeln!(text, "{}", line.join("  ").trim_end())?;
    }
    if fold {
        paragraph(text, " ", &say::board_slots_are_empty(empty.len(), empty.join(", ")))?;
    }
    Ok(())
}

/// Slot, channel, size, generation, speed, maker, part number, serial number, and how it sits.
const COLUMNS: usize = 9;

fn slot_cells(slot: &Slot) -> [String; COLUMNS] {
    let channel = slot.channel.as_deref().map(say::board_slot_channel).unwrap_or_default();
    let cell = |value: &str| squeezed(value, LONGEST_CELL).into_owned();
    let Some(module) = &slot.module else {
        let mut cells = [const { String::new() }; COLUMNS];
        [cells[0], cells[1], cells[2]] = [slot.id.clone(), channel, say::board_slot_is_empty().to_owned()];
        return cells;
    };
    let soldered = if slot.soldered { say::board_is_soldered() } else { "" };
    [
        slot.id.clone(),
        channel,
        format!("{:>8}", bytes_text(module.bytes)),
        module.generation.clone(),
        module.speed.map_or(String::new(), |speed| format!("{speed} MT/s")),
        cell(&module.maker),
        cell(&module.part),
        cell(&module.serial),
        soldered.to_owned(),
    ]
}

fn memory(text: &mut String, coverage: &Coverage) -> Result<()> {
    writeln!(text, "{}", say::board_memory_whole(bytes_text(coverage.whole_bytes), coverage.whole.said()))?;
    for part in &coverage.parts {
        writeln!(
            text,
            "           {:>9}  {:>5.1} %  {}",
            bytes_text(part.bytes),
            part.percent,
            words::board::part(part)
        )?;
    }
    Ok(())
}

fn findings(text: &mut String, found: &[Finding]) -> Result<()> {
    for finding in found {
        text.push('\n');
        paragraph(text, "• ", &format!("{}. {}", words::board::found(finding), words::board::advice(finding)))?;
    }
    Ok(())
}

fn paragraph(text: &mut String, mark: &str, words: &str) -> Result<()> {
    for (at, line) in textwrap::wrap(words, WIDTH).iter().enumerate() {
        writeln!(text, "{} {line}", if at == 0 { mark.trim_end() } else { " " })?;
    }
    Ok(())
}

/// Every fact with everybody who tells it.
fn all_facts(look: &Look) -> Result<String> {
    let mut text = String::new();
    let inventory = &look.inventory;
    let slots = inventory.board.slots.iter().map(|slot| slot.id.as_str());
    for slot in slots.chain(inventory.unplaced.iter().map(String::as_str)).chain([""]) {
        writeln!(text, "{}", if slot.is_empty() { say::board_raw_machine() } else { slot })?;
        for fact in inventory.facts.about(slot) {
            fact_lines(&mut text, fact)?;
        }
        text.push('\n');
    }
    if let Some(coverage) = &look.coverage {
        for part in &coverage.parts {
            writeln!(text, "{} ({:.2} %)  {}", bytes_text(part.bytes), part.percent, words::board::part(part))?;
            for range in part.ranges.ranges() {
                writeln!(
                    text,
                    "{}",
                    say::board_raw_range(PhysAddr(range.start).to_string(), PhysAddr(range.end - 1).to_string())
                )?;
            }
        }
        text.push('\n');
    }
    writeln!(
        text,
        "{}",
        say::board_raw_map(if look.raw.map.source.is_empty() { say::cli_unknown() } else { &look.raw.map.source })
    )?;
    for entry in &look.raw.map.entries {
        let (first, last) = (PhysAddr(entry.range.start), PhysAddr(entry.range.end - 1));
        writeln!(
            text,
            "{}",
            say::board_raw_entry(
                first.to_string(),
                last.to_string(),
                format!("{:>9}", bytes_text(entry.range.len())),
                &entry.kind
            )
        )?;
    }
    for event in &inventory.events {
        paragraph(&mut text, "• ", &format!("{}: {}", event.source.said(), event.text))?;
    }
    text.push('\n');
    for unknown in &inventory.unknown {
        paragraph(&mut text, "• ", &words::board::unknown(unknown))?;
    }
    Ok(text)
}

fn fact_lines(text: &mut String, fact: &Fact) -> Result<()> {
    for (at, told) in fact.told.iter().enumerate() {
        let name = if at == 0 { words::facts::name(&fact.name) } else { String::new() };
        let value = words::facts::value(&told.value);
        let mark = if fact.is_agreed() { " " } else { "!" };
        writeln!(text, "{mark} {name:<30} {value:<34} {}", told.source)?;
    }
    Ok(())
}
