//! Bits flipped from outside in the memory that is being tested are reported at exactly their physical address.

mod common;

use std::fs::{File, OpenOptions};
use std::os::unix::fs::FileExt;
use std::path::Path;

use common::{journal, run_json, spawn, wait_for};
use rustix::process::{Pid, Signal, kill_process};
use serde_json::Value;

const SIZE: u64 = 32 << 20;

/// Another process, held still while its memory is changed, so that nothing races.
struct Victim {
    pid: u32,
}

impl Victim {
    fn signal(&self, signal: Signal) {
        kill_process(Pid::from_raw(self.pid as i32).unwrap(), signal).unwrap();
    }

    fn hold(&self) {
        self.signal(Signal::STOP);
        // Every thread has to stand still, not only the first.
        wait_for("a standstill", || {
            let tasks = std::fs::read_dir(format!("/proc/{}/task", self.pid)).ok()?;
            let still = |stat: String| stat.rsplit(')').next().is_some_and(|rest| rest.trim_start().starts_with('T'));
            let mut stats = tasks.flatten().map(|task| std::fs::read_to_string(task.path().join("stat")));
            stats.all(|stat| stat.is_ok_and(still)).then_some(())
        });
    }

    /// The locked mapping that is under test.
    fn pool(&self) -> u64 {
        wait_for("the pool", || {
            let maps = std::fs::read_to_string(format!("/proc/{}/smaps", self.pid)).ok()?;
            let mut start = 0;
            for line in maps.lines() {
                let first = line.split(' ').next()?;
                if let Some((from, to)) = first.split_once('-') {
                    let (from, to) = (u64::from_str_radix(from, 16).ok()?, u64::from_str_radix(to, 16).ok()?);
                    start = if to - from >= SIZE { from } else { 0 };
                }
                if start != 0 && line.starts_with("VmFlags:") && line.contains(" lo ") {
                    return Some(start);
                }
            }
            None
        })
    }

    fn physical(&self, virt: u64) -> u64 {
        let map = File::open(format!("/proc/{}/pagemap", self.pid)).unwrap();
        let mut entry = [0; 8];
        map.read_exact_at(&mut entry, virt / 4096 * 8).unwrap();
        (u64::from_ne_bytes(entry) & ((1 << 55) - 1)) * 4096 + virt % 4096
    }

    /// Turns one bit of one word over; returns what the word held before.
    fn flip(&self, virt: u64, bit: u32) -> u64 {
        let memory = OpenOptions::new().read(true).write(true).open(format!("/proc/{}/mem", self.pid)).unwrap();
        let mut word = [0; 8];
        memory.read_exact_at(&mut word, virt).unwrap();
        let before = u64::from_le_bytes(word);
        memory.write_all_at(&(before ^ 1 << bit).to_le_bytes(), virt).unwrap();
        before
    }
}

/// Flips until the journal tells of it: a word that is overwritten before it is read shows nothing, as in real memory.
/// Returns the address and the words that it can have held.
fn flip_until_told(victim: &Victim, journal: &Path, virt: u64, bit: u32) -> (String, Vec<u64>) {
    let address = format!("\"{:#x}\"", victim.physical(virt));
    let mut held = Vec::new();
    wait_for("the report", || {
        let told = std::fs::read_to_string(journal).ok()?.contains(&address);
        if !told {
            victim.hold();
            held.push(victim.flip(virt, bit));
            victim.signal(Signal::CONT);
        }
        told.then_some(())
    });
    (address.trim_matches('"').to_owned(), held)
}

fn samples_at<'a>(result: &'a Value, address: &str) -> Vec<&'a Value> {
    result["samples"].as_array().unwrap().iter().filter(|sample| sample["address"] == address).collect()
}

fn word(value: &Value) -> u64 {
    u64::from_str_radix(value.as_str().unwrap().trim_start_matches("0x"), 16).unwrap()
}

#[test]
fn flips_are_reported_at_their_address_with_the_right_words() {
    if !rustix::process::geteuid().is_root() {
        // Said, not hidden: without root no physical address can be known.
        eprintln!("SKIPPED: physical addresses need root");
        return;
    }
    let data = tempfile::tempdir().unwrap();
    let arguments =
        ["check", "--memory", "32M", "--tests", "march-c-,address-as-data", "--passes", "1000000", "--json"];
    let child = spawn(data.path(), &arguments);
    let victim = Victim { pid: child.id() };
    let journal = journal(data.path());
    wait_for("a first test", || std::fs::read_to_string(&journal).ok()?.contains("test-began").then_some(()));
    let pool = victim.pool();
    let flips = [(pool + 0x12_3458, 19), (pool + SIZE - 8, 0)];
    let told: Vec<_> = flips.iter().map(|(virt, bit)| flip_until_told(&victim, &journal, *virt, *bit)).collect();
    victim.signal(Signal::TERM);
    let output = child.wait_with_output().unwrap();
    let result: Value = serde_json::from_slice(&output.stdout).unwrap();
    assert_eq!(output.status.code(), Some(1));
    for ((_, bit), (address, held)) in flips.iter().zip(&told) {
        let samples = samples_at(&result, address);
        assert!(!samples.is_empty(), "{address} is among the samples");
        for sample in &samples {
            let (expected, actual) = (word(&sample["expected"]), word(&sample["actual"]));
            assert_eq!(expected ^ actual, 1 << bit, "{sample}");
            assert!(held.contains(&expected), "{expected:#x} was there when the bit was turned over");
            assert_eq!(sample["kind"], "stored");
        }
    }
    let known: Vec<&str> = told.iter().map(|(address, _)| address.as_str()).collect();
    let elsewhere = result["samples"]
        .as_array()
        .unwrap()
        .iter()
        .filter(|sample| !known.contains(&sample["address"].as_str().unwrap_or_default()));
    assert_eq!(elsewhere.count(), 0, "nothing else is reported");
    let (_, logs) = run_json(data.path(), &["logs", "--json"]);
    assert_eq!(logs["runs"][0]["errors"], result["errors"]);
}
