//! Whether `revisum speed` shows what the machine can do: its figures for memory beside the limits, in pairs.

use std::sync::atomic::AtomicBool;

use anyhow::{Context, Result};
use revisum_engine::memory::Memory;
use revisum_engine::speed::Speedometer;
use revisum_engine::speed::{Kind, Work, memory_from};
use revisum_linux::{LinuxSpeed, Pool};
use revisum_words::Said as _;

use super::{Interval, Limit, SLICE, pieces, reference, timed};

/// Measures and prints how far the figures are from the limits.
pub fn measure(pool: &Pool, pairs: usize, cores: usize) -> Result<()> {
    let (reach, stop) = (LinuxSpeed.reach(), AtomicBool::new(false));
    let bytes = memory_from(&reach.caches, reach.cores).next_power_of_two();
    let track = LinuxSpeed.open(bytes * cores as u64, &stop).context("no memory to measure on")?;
    let width = reach.widths.iter().copied().max().context("no loads at all")?;
    println!("\n`revisum speed` over {} MiB for each core, against the limit:\n", bytes >> 20);
    println!("| kind | limit | one core | {cores} cores |");
    println!("|---|---|---|---|");
    for (kind, limit, name) in [(Kind::Read, Limit::Read, "read"), (Kind::Stream, Limit::Write, "write")] {
        let mut columns = Vec::new();
        for cores in [1, cores] {
            let work = Work { kind, width, stride: width.bytes(), bytes, cores };
            let mut next = 0;
            let mut ratios = Vec::new();
            for pair in 0..pairs {
                let own = || track.time(&work, &stop).context("stopped");
                // Who goes first alternates, so that a drift favours nobody.
                let (own, limit) = if pair % 2 == 0 {
                    let own = own()?;
                    (own, limit_rate(pool, limit, cores, &mut next))
                } else {
                    let limit = limit_rate(pool, limit, cores, &mut next);
                    (own()?, limit)
                };
                ratios.push(own / limit);
            }
            columns.push(Interval::of(ratios).to_string());
        }
        println!("| {} | {name} | {} |", kind.said(), columns.join(" | "));
    }
    Ok(())
}

/// Slices of one core in one timing of the limit: as long as a timing of the figures takes.
const EACH: usize = 4;

/// Bytes a second of the reference loop over cold slices.
fn limit_rate(pool: &Pool, limit: Limit, cores: usize, next: &mut usize) -> f64 {
    let count = (pool.layout().bytes() / SLICE) as usize;
    let firsts: Vec<usize> = (0..cores).map(|core| *next + core * EACH).collect();
    *next = (*next + cores * EACH) % count;
    let seconds = timed(pool, &firsts, |first| {
        let slices = (first..first + EACH).map(|slice| slice % count);
        for (ptr, len) in slices.flat_map(|slice| pieces(pool, slice)) {
            match limit {
                Limit::Write => reference::write(ptr, len),
                Limit::Read => reference::read(ptr, len),
                Limit::ReadWrite => reference::invert(ptr, len),
                Limit::PutBack => reference::invert_and_put_back(ptr, len),
            }
        }
    });
    (SLICE * (cores * EACH) as u64) as f64 / seconds
}
