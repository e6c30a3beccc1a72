//! Bits flipped from outside in the memory that is being tested are reported at exactly their physical address.

mod common;

use common::victim::{Victim, flip_until_told};
use common::{journal, run_json, spawn, wait_for};
use rustix::process::Signal;
use serde_json::Value;

const SIZE: u64 = 32 << 20;

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
    let victim = Victim { pid: child.id(), size: SIZE };
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
