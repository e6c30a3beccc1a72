//! A running tester, whose memory is changed from outside.

use std::fs::{File, OpenOptions};
use std::os::unix::fs::FileExt;
use std::path::Path;

use rustix::process::{Pid, Signal, kill_process};

use super::wait_for;

/// Another process, held still while its memory is changed, so that nothing races.
pub struct Victim {
    /// Its number.
    pub pid: u32,
    /// Bytes of its memory under test.
    pub size: u64,
}

impl Victim {
    /// Sends it a signal.
    pub fn signal(&self, signal: Signal) {
        kill_process(Pid::from_raw(self.pid as i32).unwrap(), signal).unwrap();
    }

    /// Holds it still.
    pub fn hold(&self) {
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
    pub fn pool(&self) -> u64 {
        wait_for("the pool", || {
            let maps = std::fs::read_to_string(format!("/proc/{}/smaps", self.pid)).ok()?;
            let mut start = 0;
            for line in maps.lines() {
                let first = line.split(' ').next()?;
                if let Some((from, to)) = first.split_once('-') {
                    let (from, to) = (u64::from_str_radix(from, 16).ok()?, u64::from_str_radix(to, 16).ok()?);
                    start = if to - from >= self.size { from } else { 0 };
                }
                if start != 0 && line.starts_with("VmFlags:") && line.contains(" lo ") {
                    return Some(start);
                }
            }
            None
        })
    }

    /// The physical address of one of its own.
    pub fn physical(&self, virt: u64) -> u64 {
        let map = File::open(format!("/proc/{}/pagemap", self.pid)).unwrap();
        let mut entry = [0; 8];
        map.read_exact_at(&mut entry, virt / 4096 * 8).unwrap();
        (u64::from_ne_bytes(entry) & ((1 << 55) - 1)) * 4096 + virt % 4096
    }

    /// Pages of its own data that are in use: heap, stacks and whatever else it may write, without the memory that is under test.
    pub fn own_pages(&self) -> Vec<u64> {
        let Ok(map) = File::open(format!("/proc/{}/pagemap", self.pid)) else { return Vec::new() };
        let is_there = |page: &u64| {
            let mut entry = [0; 8];
            map.read_exact_at(&mut entry, page / 4096 * 8).is_ok() && u64::from_ne_bytes(entry) >> 63 == 1
        };
        self.own_memory().into_iter().flat_map(|(from, to)| (from..to).step_by(4096)).filter(is_there).collect()
    }

    fn own_memory(&self) -> Vec<(u64, u64)> {
        let maps = std::fs::read_to_string(format!("/proc/{}/maps", self.pid)).unwrap_or_default();
        let range = |line: &str| {
            let (range, rest) = line.split_once(' ')?;
            let (from, to) = range.split_once('-')?;
            let range = (u64::from_str_radix(from, 16).ok()?, u64::from_str_radix(to, 16).ok()?);
            (rest.starts_with("rw-p") && range.1 - range.0 < self.size).then_some(range)
        };
        maps.lines().filter_map(range).collect()
    }

    /// Turns one bit over wherever it is; false when there is nothing there any more.
    pub fn try_flip(&self, virt: u64, bit: u32) -> bool {
        let memory = OpenOptions::new().read(true).write(true).open(format!("/proc/{}/mem", self.pid));
        let Ok(memory) = memory else { return false };
        let mut word = [0; 8];
        memory.read_exact_at(&mut word, virt).is_ok()
            && memory.write_all_at(&(u64::from_le_bytes(word) ^ 1 << bit).to_le_bytes(), virt).is_ok()
    }

    /// Turns one bit of one word over; returns what the word held before.
    pub fn flip(&self, virt: u64, bit: u32) -> u64 {
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
pub fn flip_until_told(victim: &Victim, journal: &Path, virt: u64, bit: u32) -> (String, Vec<u64>) {
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
