//! How much memory can be taken without starving the system.

use std::path::Path;

use revisum_engine::memory::{Kept, KeptBy, Limit};
use revisum_engine::units::{KIB, MIB};
use rustix::process::{Resource, getrlimit};

use crate::boot::{CommandLine, Entry};
use crate::text_files::number;

/// Least memory left to the system. With much less the kernel's own next allocation may fail, and the machine with it.
const LEAST_RESERVE: u64 = 128 * MIB;

/// The same where nothing runs but this program: booted from the drive, with most memory withheld from the kernel, and with all of it.
const LEAST_BOOTED: (u64, u64) = (22 * MIB, 32 * MIB);

/// What is left to the system: 3 % of what it sees, and never less than some least amount.
pub(crate) fn reserve_bytes() -> u64 {
    let least = match CommandLine::booted() {
        None => LEAST_RESERVE,
        Some(CommandLine { entry: Entry::Pool, .. }) => return LEAST_BOOTED.1,
        Some(_) => LEAST_BOOTED.0,
    };
    (meminfo_bytes("MemTotal").unwrap_or(0) / 32).max(least)
}

/// What can be taken now, and who holds the rest.
#[derive(Debug, Default)]
pub(crate) struct Account {
    /// Bytes that can be taken.
    pub reachable_bytes: u64,
    /// Who holds the rest; with the bytes that can be taken it adds up to all memory.
    pub kept: Vec<Kept>,
    /// What could be done about it.
    pub limits: Vec<Limit>,
}

/// The account, `usable` being the memory that the firmware gives to the operating system; zero when unknown.
pub(crate) fn account(usable: u64) -> Account {
    let total = meminfo_bytes("MemTotal").unwrap_or(0);
    let available = available_bytes().min(total);
    let unlocked = available.saturating_sub(reserve_bytes());
    let locked = lock_limit_bytes().filter(|locked| *locked < unlocked);
    let reachable_bytes = locked.unwrap_or(unlocked) / (2 * MIB) * (2 * MIB);
    let kept = [
        (KeptBy::Kernel, usable.saturating_sub(total)),
        (KeptBy::System, total - available),
        (KeptBy::Reserve, available - unlocked + unlocked % (2 * MIB)),
        (KeptBy::LockLimit, locked.map_or(0, |_| unlocked / (2 * MIB) * (2 * MIB) - reachable_bytes)),
    ];
    let kept = kept.into_iter().filter(|(_, bytes)| *bytes > 0);
    let mut limits = Vec::new();
    if locked.is_some() {
        limits.push(Limit::LockLimit);
    }
    limits.push(Limit::System);
    let kept = kept.map(|(by, bytes)| Kept { by, bytes, ..Kept::default() });
    Account { reachable_bytes, kept: kept.collect(), limits }
}

/// Where nothing runs but this program, what the kernel remembers of files and folders is memory that can be tested.
pub(crate) fn make_room() {
    if CommandLine::booted().is_some() {
        // It forgets it by itself when it has to; asked for, it does so before memory is counted.
        let _ = std::fs::write("/proc/sys/vm/drop_caches", "3");
    }
}

/// True when free memory has shrunk so far that taking more would hurt.
pub(crate) fn is_scarce() -> bool {
    available_bytes() < reserve_bytes() / 2
}

/// What the program may take for itself while it holds memory: the other half of the reserve is the system's.
pub(crate) fn spare_bytes() -> u64 {
    available_bytes().saturating_sub(reserve_bytes() / 2)
}

fn available_bytes() -> u64 {
    let available = meminfo_bytes("MemAvailable").unwrap_or(0);
    group_left_bytes().map_or(available, |left| available.min(left))
}

/// What a control group's limit leaves, where there is one.
fn group_left_bytes() -> Option<u64> {
    let groups = std::fs::read_to_string("/proc/self/cgroup").ok()?;
    groups.lines().filter_map(|line| left_in_group(line, Path::new("/sys/fs/cgroup"))).min()
}

/// The least that a group and all that it is in leave, by a line of `cgroups(7)`: version 2, or the memory controller of version 1.
fn left_in_group(line: &str, root: &Path) -> Option<u64> {
    let mut fields = line.splitn(3, ':');
    let (controllers, path) = (fields.nth(1)?, fields.next()?);
    let (root, limit, used) = match controllers {
        "" => (root.to_owned(), "memory.max", "memory.current"),
        "memory" => (root.join("memory"), "memory.limit_in_bytes", "memory.usage_in_bytes"),
        _ => return None,
    };
    let folder = root.join(path.trim_start_matches('/'));
    let left = |folder: &Path| Some(number(folder.join(limit))?.saturating_sub(number(folder.join(used))?));
    folder.ancestors().take_while(|folder| folder.starts_with(&root)).filter_map(left).min()
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

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;

    /// The limit may be that of any group above.
    #[rstest]
    #[case("0::/shop/bench", Some(70))]
    #[case("0::/shop", Some(70))]
    #[case("0::/", None)]
    #[case("4:memory:/old", Some(5))]
    #[case("3:cpu:/shop", None)]
    #[case("rubbish", None)]
    fn the_least_that_any_group_leaves_is_left(#[case] line: &str, #[case] left: Option<u64>) {
        let root = tempfile::tempdir().unwrap();
        let put = |name: &str, text: &str| {
            let path = root.path().join(name);
            std::fs::create_dir_all(path.parent().unwrap()).unwrap();
            std::fs::write(path, text).unwrap();
        };
        put("shop/memory.max", "100\n");
        put("shop/memory.current", "30\n");
        put("shop/bench/memory.max", "max\n");
        put("shop/bench/memory.current", "30\n");
        put("memory/old/memory.limit_in_bytes", "9\n");
        put("memory/old/memory.usage_in_bytes", "4\n");
        assert_eq!(left_in_group(line, root.path()), left);
    }

    #[test]
    fn the_account_adds_up() {
        let total = meminfo_bytes("MemTotal").unwrap();
        let account = account(total + 64 * MIB);
        let kept: u64 = account.kept.iter().map(|kept| kept.bytes).sum();
        assert_eq!(account.reachable_bytes + kept, total + 64 * MIB, "{account:?}");
        assert!(!account.limits.is_empty());
    }
}
