//! `revisum rows`: which addresses share a bank, learned from time.

use std::fmt::Write as _;
use std::io::Write as _;

use anyhow::Result;
use revisum_engine::memory::LeaseRequest;
use revisum_engine::rows::{MemoryTimer, Rejected, RowFunctions, learn};
use revisum_engine::units::ByteRange;
use revisum_records::WrongUse;
use revisum_sim::SimOptions;
use revisum_words::refused;
use revisum_workbench::runner::fresh_seed;
use revisum_workbench::wire;
use serde_json::{Value, json};

use crate::cli::RowsArgs;
use crate::exit::Exit;
use crate::say;

/// Above this memory is mapped that would lie under devices otherwise.
const FOUR_GIB: u64 = 4 << 30;
/// Holes are whole multiples of one of these: what lies just below them is kept for graphics and the firmware.
const STEPS: [u64; 5] = [64 << 20, 128 << 20, 256 << 20, 512 << 20, 1 << 30];

/// Learns and tells.
///
/// # Errors
/// When no memory can be taken.
pub fn run(args: &RowsArgs) -> Result<Exit> {
    let (machine, seed) = match &args.sim {
        Some(name) => (wire::simulated(name, SimOptions { seed: 1, ..SimOptions::default() })?, 1),
        None => (wire::real(), fresh_seed()),
    };
    let offer = machine.memory.offer();
    let request = LeaseRequest { bytes: Some(args.memory.min(offer.reachable_bytes)), ..LeaseRequest::default() };
    let memory = machine.memory.lease(&request, &|_, _| true).map_err(|error| WrongUse(refused::lease(&error)))?;
    let begin_ns = machine.clock.now_ns();
    let timer = MemoryTimer::new(memory.as_ref(), machine.clock.as_ref());
    let learned = learn(&timer, &holes(offer.usable.ranges()), seed);
    let seconds = machine.clock.now_ns().saturating_sub(begin_ns) as f64 / 1e9;
    let mut out = crate::plain::stdout();
    if args.json {
        writeln!(out, "{}", machine_form(&learned, seconds, machine.is_simulated()))?;
    } else {
        write!(out, "{}", in_words(&learned, seconds, machine.is_simulated())?)?;
    }
    Ok(Exit::Clean)
}

/// What may be taken off addresses above 4 GiB: the hole below them, by the end of memory there.
fn holes(usable: &[ByteRange]) -> Vec<(u64, u64)> {
    let Some(end) = usable.iter().map(|range| range.end).filter(|end| *end < FOUR_GIB).max() else { return Vec::new() };
    if !usable.iter().any(|range| range.end > FOUR_GIB) {
        return Vec::new();
    }
    let mut all: Vec<u64> = STEPS.iter().map(|step| FOUR_GIB - end.next_multiple_of(*step)).collect();
    all.retain(|hole| *hole > 0);
    all.sort_unstable();
    all.dedup();
    all.into_iter().map(|hole| (FOUR_GIB, hole)).collect()
}

fn in_words(learned: &Result<RowFunctions, Rejected>, seconds: f64, simulated: bool) -> Result<String> {
    let mut text = String::new();
    let took = format!("{seconds:.0}");
    let found = match learned {
        Ok(found) => found,
        Err(why) => {
            let words = match why {
                Rejected::NoAddresses => say::rows_no_addresses(),
                Rejected::NoRows => say::rows_none_show(),
                Rejected::Open => say::rows_open(),
            };
            writeln!(text, "{words}\n{}", say::rows_took(took))?;
            return Ok(text);
        }
    };
    writeln!(text, "{}", say::rows_found(1u64 << found.functions.len().min(63), found.functions.len()))?;
    for mask in &found.functions {
        writeln!(text, "  {}", bits(*mask))?;
    }
    if let Some(turns) = found.view.turns {
        writeln!(text, "{}", say::rows_turns(turns.ways, 1u64 << turns.granule_bits))?;
    }
    if found.view.offset > 0 {
        writeln!(text, "{}", say::rows_offset(format!("{:#x}", found.view.offset), format!("{:#x}", found.view.from)))?;
    }
    let lowest = found.other_row.iter().copied().min();
    if let Some(step) = lowest {
        writeln!(text, "{}", say::rows_step(bits(step)))?;
    }
    writeln!(text, "{}", say::rows_took(took))?;
    if simulated {
        writeln!(text, "{}", say::rows_simulated())?;
    } else {
        writeln!(text, "{}", say::rows_never_confirmed())?;
    }
    Ok(text)
}

/// The numbers of the bits of a mask, the lowest first.
fn bits(mask: u64) -> String {
    let bits = (0..64).filter(|bit| mask >> bit & 1 == 1).map(|bit| bit.to_string());
    bits.collect::<Vec<_>>().join(" ^ ")
}

fn machine_form(learned: &Result<RowFunctions, Rejected>, seconds: f64, simulated: bool) -> Value {
    let hex = |masks: &[u64]| masks.iter().map(|mask| format!("{mask:#x}")).collect::<Vec<_>>();
    match learned {
        Ok(found) => json!({
            "version": 1,
            "outcome": "found",
            "simulated": simulated,
            "functions": hex(&found.functions),
            "other_row": hex(&found.other_row),
            "same_row": hex(&found.same_row),
            "offset": { "from": found.view.from, "bytes": found.view.offset },
            "turns": found.view.turns.map(|turns| json!({ "ways": turns.ways, "granule": 1u64 << turns.granule_bits })),
            "timings": found.timings,
            "seconds": seconds,
        }),
        Err(why) => json!({
            "version": 1,
            "outcome": match why {
                Rejected::NoAddresses => "no-addresses",
                Rejected::NoRows => "no-rows",
                Rejected::Open => "open",
            },
            "simulated": simulated,
            "seconds": seconds,
        }),
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_hole_is_what_lies_between_memory_and_four_gib() {
        let range = ByteRange::new;
        let usable = [range(0, 640 << 10), range(1 << 20, 0xa7e0_0000), range(FOUR_GIB, 5 * FOUR_GIB)];
        let holes = holes(&usable);
        assert!(holes.contains(&(FOUR_GIB, 0x5800_0000)), "{holes:x?}");
        assert!(holes.iter().all(|(from, hole)| *from == FOUR_GIB && *hole < FOUR_GIB - 0xa7e0_0000));
        assert_eq!(super::holes(&usable[..2]), []);
        assert_eq!(bits(0x2084100), "8 ^ 14 ^ 19 ^ 25");
    }
}
