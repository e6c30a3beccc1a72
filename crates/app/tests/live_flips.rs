//! Single bits turned over in the tester's own heap, stacks and data while it runs on memory in which an error was found: whatever becomes of it, it is never told better.

mod common;

use std::path::Path;

use common::victim::{Victim, flip_until_told};
use common::{command, journal, run_json, spawn, wait_for};
use rustix::process::Signal;
use serde_json::Value;

const SIZE: u64 = 8 << 20;
/// Bits in one run.
const IN_ONE: u64 = 50;

/// What became of a run.
#[derive(Default, Debug)]
struct Tally {
    runs: u64,
    flips: u64,
    /// The result was told as it was.
    harmless: u64,
    /// Something was noticed: damage, a difference between memory and record, or that a result cannot be told.
    noticed: u64,
    /// It died or stood still.
    crashed: u64,
}

/// The same numbers in every run of this test.
struct Chance(u64);

impl Chance {
    fn below(&mut self, end: u64) -> u64 {
        self.0 = self.0.wrapping_mul(6_364_136_223_846_793_005).wrapping_add(1_442_695_040_888_963_407);
        (self.0 >> 16) % end.max(1)
    }
}

/// Turns a bit over anywhere in the victim's own data; false when it is gone.
fn flip(victim: &Victim, chance: &mut Chance) -> bool {
    let own = victim.own_pages();
    let Some(page) = own.get(chance.below(own.len() as u64) as usize) else { return false };
    victim.try_flip(page + (chance.below(4096) & !7), chance.below(64) as u32)
}

fn one(chance: &mut Chance, tally: &mut Tally) {
    let data = tempfile::tempdir().unwrap();
    let mut child =
        spawn(data.path(), &["check", "--memory", "8M", "--tests", "march-c-", "--passes", "1000000", "--json"]);
    let victim = Victim { pid: child.id(), size: SIZE };
    let record = journal(data.path());
    wait_for("a first test", || std::fs::read_to_string(&record).ok()?.contains("test-began").then_some(()));
    flip_until_told(&victim, &record, victim.pool() + 0x1238, 19);
    for _ in 0..IN_ONE {
        victim.signal(Signal::STOP);
        tally.flips += u64::from(flip(&victim, chance));
        victim.signal(Signal::CONT);
        std::thread::yield_now();
    }
    victim.signal(Signal::TERM);
    // One that stands still is ended: that is a death too.
    let mut looks = 0;
    let ended = loop {
        match child.try_wait().unwrap() {
            Some(status) => break status.code(),
            None if looks > 2_000 => {
                child.kill().unwrap();
                child.wait().unwrap();
                break None;
            }
            None => {
                looks += 1;
                std::thread::sleep(std::time::Duration::from_millis(5));
            }
        }
    };
    let mut told = Vec::new();
    std::io::Read::read_to_end(&mut child.stdout.take().unwrap(), &mut told).unwrap();
    judge(data.path(), ended, &told, tally);
    tally.runs += 1;
}

fn judge(data: &Path, ended: Option<i32>, told: &[u8], tally: &mut Tally) {
    assert_ne!(ended, Some(0), "errors were found, and it says clean: {}", String::from_utf8_lossy(told));
    match (ended, serde_json::from_slice::<Value>(told)) {
        (Some(1), Ok(told)) => {
            assert_eq!(told["outcome"], "errors-found", "{told}");
            let same = told["recorded"] == true && told["damage"] == Value::Null;
            tally.harmless += u64::from(same);
            tally.noticed += u64::from(!same);
        }
        (Some(3 | 4), Ok(told)) => {
            assert!(told["outcome"] != "clean" && told["grade"] != "clean", "{told}");
            tally.noticed += 1;
        }
        _ => tally.crashed += 1,
    }
    // What is on record is never better either: the error was told before the first bit was turned.
    let output = command(data, &["log", "last", "--json"]).output().unwrap();
    if let Ok(kept) = serde_json::from_slice::<Value>(&output.stdout) {
        assert!(matches!(kept["outcome"].as_str(), Some("errors-found" | "not-whole" | "checking-failed")), "{kept}");
    } else {
        let (_, listed) = run_json(data, &["logs", "--json"]);
        assert!(listed["runs"].as_array().unwrap().iter().all(|run| run["outcome"] != "clean"), "{listed}");
    }
}

/// As many bits as are asked for by `REVISUM_FLIPS`, else a few hundred.
#[test]
fn no_bit_of_the_testers_own_memory_improves_a_result() {
    if !rustix::process::geteuid().is_root() {
        eprintln!("SKIPPED: another process's memory needs root");
        return;
    }
    let flips: u64 = std::env::var("REVISUM_FLIPS").map_or(200, |flips| flips.parse().unwrap());
    let (mut tally, mut chance) = (Tally::default(), Chance(flips));
    while tally.flips < flips {
        one(&mut chance, &mut tally);
    }
    println!("{tally:?}");
    assert_eq!(tally.harmless + tally.noticed + tally.crashed, tally.runs);
}
