//! Time of a run in which nothing is tested: pauses, and times in which the whole program stood still.

use crate::news::News;

/// How much of it there was so far.
#[derive(Debug, Default)]
pub(super) struct IdleTime {
    /// When the pause at hand began.
    paused_since_ns: Option<u64>,
    paused_ns: u64,
    /// What the clock had said of standing still when the run began, with what it said of it within pauses.
    stalled_from_ns: u64,
    stalled_ns: u64,
}

impl IdleTime {
    /// None yet; the clock has said so much of standing still before.
    pub fn from(stalled_ns: u64) -> Self {
        Self { stalled_from_ns: stalled_ns, ..Self::default() }
    }

    /// Takes whether the run is paused now; tells when that has changed.
    pub fn pause(&mut self, paused: bool, now_ns: u64) -> Option<News> {
        match (self.paused_since_ns, paused) {
            (None, true) => {
                self.paused_since_ns = Some(now_ns);
                Some(News::Paused)
            }
            (Some(since), false) => {
                self.paused_since_ns = None;
                self.paused_ns += now_ns.saturating_sub(since);
                Some(News::Resumed)
            }
            _ => None,
        }
    }

    /// Takes what the clock says of standing still by now; tells what is new of it. Within a pause it is part of the pause.
    pub fn stall(&mut self, all_ns: u64) -> Option<News> {
        let more = all_ns.saturating_sub(self.stalled_from_ns).saturating_sub(self.stalled_ns);
        match (more, self.paused_since_ns) {
            (0, _) => None,
            (_, Some(_)) => {
                self.stalled_from_ns += more;
                None
            }
            (_, None) => {
                self.stalled_ns += more;
                Some(News::Stalled { ms: more / 1_000_000 })
            }
        }
    }

    /// Nanoseconds of it, the pause at hand too.
    pub fn until(&self, now_ns: u64) -> u64 {
        let pausing = self.paused_since_ns.map_or(0, |since| now_ns.saturating_sub(since));
        self.paused_ns + self.stalled_ns + pausing
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    const SECOND: u64 = 1_000_000_000;

    #[test]
    fn pauses_and_standing_still_add_up_and_are_told_once() {
        let mut idle = IdleTime::from(5 * SECOND);
        assert_eq!(idle.stall(5 * SECOND), None, "what was before the run is not of it");
        assert_eq!(idle.stall(7 * SECOND), Some(News::Stalled { ms: 2000 }));
        assert_eq!((idle.stall(7 * SECOND), idle.until(20 * SECOND)), (None, 2 * SECOND));
        assert_eq!(idle.pause(true, 20 * SECOND), Some(News::Paused));
        assert_eq!((idle.pause(true, 21 * SECOND), idle.until(23 * SECOND)), (None, 5 * SECOND));
        assert_eq!(idle.stall(10 * SECOND), None, "within a pause it is part of the pause");
        assert_eq!(idle.pause(false, 26 * SECOND), Some(News::Resumed));
        assert_eq!((idle.stall(10 * SECOND), idle.until(30 * SECOND)), (None, 8 * SECOND));
        assert_eq!(idle.stall(11 * SECOND), Some(News::Stalled { ms: 1000 }));
    }
}
