//! When a run begins, also on a machine whose clock battery is dead: by how often machines were started with these records, and not before
//! whatever they hold already.

use revisum_linux::files;
use std::path::Path;

use serde::{Deserialize, Serialize};

/// How far the clock may stand behind the newest record before it is doubted: clocks are set right now and then.
const SLACK_MS: i64 = 10 * 60 * 1000;
/// Changes with each start of the system.
const BOOT_ID: &str = "/proc/sys/kernel/random/boot_id";

/// What the records know of time.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
#[serde(default)]
pub struct Moments {
    /// Starts of machines so far.
    boots: u64,
    /// The one at hand.
    boot_id: String,
    /// The latest time seen, milliseconds since 1970.
    latest_ms: i64,
}

/// A moment among the records.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub struct Moment {
    /// Number of this start of a machine, from 1; 0 where it could not be counted.
    pub boot: u64,
    /// The clock is behind what was recorded already.
    pub doubtful: bool,
    /// It is later than this, milliseconds since 1970.
    pub after_ms: i64,
}

impl Moments {
    fn next(&mut self, boot_id: &str, wall_ms: i64) -> Moment {
        if self.boot_id != boot_id {
            self.boots += 1;
            boot_id.clone_into(&mut self.boot_id);
        }
        let after_ms = self.latest_ms;
        // A moment that is later by less than a step would share its place.
        self.latest_ms = wall_ms.max(after_ms.saturating_add(1));
        Moment { boot: self.boots, doubtful: wall_ms.saturating_add(SLACK_MS) < after_ms, after_ms }
    }
}

/// Longest file of moments, in bytes.
const LONGEST: u64 = 64 << 10;

/// Counts this moment in the file `moments`. Where it cannot be read or written the run begins all the same, with what the clock says.
pub fn next_moment(moments: &Path, wall_ms: i64) -> Moment {
    let boot_id = std::fs::read_to_string(BOOT_ID).unwrap_or_default();
    let mut known: Moments =
        files::read_text(moments, LONGEST).ok().and_then(|text| toml::from_str(&text).ok()).unwrap_or_default();
    let moment = known.next(boot_id.trim(), wall_ms);
    let text = toml::to_string(&known).map_err(std::io::Error::other);
    match text.and_then(|text| files::write(moments, text.as_bytes())) {
        Ok(()) => moment,
        Err(_) => Moment { boot: 0, ..moment },
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    const DAY_MS: i64 = 24 * 3600 * 1000;

    #[test]
    fn a_dead_clock_battery_disorders_nothing() {
        let folder = tempfile::tempdir().unwrap();
        let file = folder.path().join("moments.toml");
        assert_eq!(next_moment(&file, 40 * DAY_MS), Moment { boot: 1, doubtful: false, after_ms: 0 });
        assert_eq!(next_moment(&file, DAY_MS), Moment { boot: 1, doubtful: true, after_ms: 40 * DAY_MS });
        assert_eq!(next_moment(&file, DAY_MS), Moment { boot: 1, doubtful: true, after_ms: 40 * DAY_MS + 1 });
        assert!(!next_moment(&file, 41 * DAY_MS).doubtful);
    }

    #[test]
    fn starts_are_counted() {
        let mut moments = Moments::default();
        let boots: Vec<u64> = ["a", "a", "b", "c"].iter().map(|id| moments.next(id, 0).boot).collect();
        assert_eq!(boots, [1, 1, 2, 3]);
    }

    #[test]
    fn records_that_cannot_be_counted_or_are_damaged_stop_no_run() {
        let folder = tempfile::tempdir().unwrap();
        assert_eq!(next_moment(&folder.path().join("none/moments.toml"), 5).boot, 0);
        let file = folder.path().join("moments.toml");
        std::fs::write(&file, b"\xff[[[").unwrap();
        assert_eq!(next_moment(&file, 5).boot, 1);
    }
}
