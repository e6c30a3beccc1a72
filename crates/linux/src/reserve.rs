//! How much memory can be taken without starving the system.

use revisum_core::units::{KIB, MIB};
use rustix::process::{Resource, getrlimit};

use crate::text_files::number;

/// Least memory left to the system. With much less the kernel's own next allocation may fail, and the machine with it.
const LEAST_RESERVE: u64 = 128 * MIB;

/// What is left to the system: 3 % of what it sees, and never less than [`LEAST_RESERVE`].
pub(crate) fn reserve_bytes() -> u64 {
    (meminfo_bytes("MemTotal").unwrap_or(0) / 32).max(LEAST_RESERVE)
}

/// What can be taken now and why not more.
pub(crate) fn reachable() -> (u64, Vec<String>) {
    let available = available_bytes();
    let mut limits = Vec::new();
    let mut bytes = available.saturating_sub(reserve_bytes());
    if let Some(locked) = lock_limit_bytes().filter(|locked| *locked < bytes) {
        bytes = locked;
        limits.push(
            "Without root only a little memory may be locked and its addresses are unknown. Run as root for all of it."
                .to_owned(),
        );
    }
    limits.push("The running system and other programs need the rest.".to_owned());
    (bytes / (2 * MIB) * (2 * MIB), limits)
}

/// True when free memory has shrunk so far that taking more would hurt.
pub(crate) fn is_scarce() -> bool {
    available_bytes() < reserve_bytes() / 2
}

fn available_bytes() -> u64 {
    let available = meminfo_bytes("MemAvailable").unwrap_or(0);
    group_left_bytes().map_or(available, |left| available.min(left))
}

/// What a control group's limit leaves, where there is one.
fn group_left_bytes() -> Option<u64> {
    let group = std::fs::read_to_string("/proc/self/cgroup").ok()?;
    let path = group.lines().find_map(|line| line.strip_prefix("0::"))?;
    let folder = format!("/sys/fs/cgroup{path}");
    Some(number(format!("{folder}/memory.max"))?.saturating_sub(number(format!("{folder}/memory.current"))?))
}

fn lock_limit_bytes() -> Option<u64> {
    if rustix::process::geteuid().is_root() {
        return None;
    }
    getrlimit(Resource::Memlock).current
}

/// A line of `/proc/meminfo` in bytes.
pub(crate) fn meminfo_bytes(name: &str) -> Option<u64> {
    let text = std::fs::read_to_string("/proc/meminfo").ok()?;
    let line = text.lines().find_map(|line| line.strip_prefix(name)?.strip_prefix(':'))?;
    Some(line.trim().strip_suffix("kB")?.trim().parse::<u64>().ok()? * KIB)
}
