//! How long tests take, from what the sweeps reach on this machine.

use std::time::Duration;

use serde::{Deserialize, Serialize};

use crate::catalog::{TestSpec, Work};
use crate::march::notation::pieces;
use crate::march::{Element, Op};
use crate::path::Path;
use crate::recipe::Recipe;

/// What the sweeps reach, in bytes a second over all working cores.
#[derive(Clone, Copy, Debug, Default, PartialEq, Serialize, Deserialize)]
pub struct Rates {
    /// Writing.
    pub write: f64,
    /// Reading and comparing.
    pub read: f64,
    /// Reading, comparing and writing.
    pub read_write: f64,
    /// One operation where several work on a small block that goes back to the memory in between.
    pub flushed: f64,
    /// Any sweep from row to row.
    pub hopping: f64,
    /// Copying, by the bytes read.
    pub copy: f64,
    /// Taking memory from the system; zero when it costs nothing.
    pub taking: f64,
}

impl Rates {
    /// The same rate for everything, as simulated machines have it.
    pub fn uniform(bytes_per_second: f64) -> Self {
        let rate = bytes_per_second;
        Self { write: rate, read: rate, read_write: rate, flushed: rate, hopping: rate, copy: rate / 2.0, taking: 0.0 }
    }

    /// Seconds in which one element goes over this many bytes.
    pub fn element_seconds(&self, element: &Element, path: Path, bytes: f64) -> f64 {
        let ops = match element {
            Element::Idle(wait) => return wait.as_secs_f64(),
            Element::Sweep { ops, .. } => ops,
        };
        let pieces = pieces(ops);
        let rate = |piece: &[Op]| match (pieces.len(), path, piece) {
            (_, Path::RowHopping, _) => self.hopping,
            (2.., ..) => self.flushed,
            (_, _, [Op::Write { .. }]) => self.write,
            (_, _, [Op::Read { .. }]) => self.read,
            _ => self.read_write,
        };
        pieces.iter().map(|piece| bytes / rate(piece)).sum()
    }

    /// Seconds of the march of a test over all its backgrounds.
    pub fn march_seconds(&self, spec: &TestSpec, recipe: &Recipe, bytes: u64) -> f64 {
        let march = spec.march_waiting(recipe.idle());
        let once: f64 = march.0.iter().map(|e| self.element_seconds(e, spec.path(), bytes as f64)).sum();
        once * spec.backgrounds(1, 0).len().max(1) as f64
    }

    /// Seconds of one test in one pass over this many bytes.
    pub fn test_seconds(&self, spec: &TestSpec, recipe: &Recipe, bytes: u64, turns: usize) -> f64 {
        let march = self.march_seconds(spec, recipe, bytes);
        let half = bytes as f64 / 2.0;
        let once = match spec.work {
            Work::AddressLines => ADDRESS_LINES_SECONDS,
            Work::ShiftedCopies => half / self.write + half / self.copy + 2.0 * half / self.read,
            // Half of the cores sweep.
            Work::Computing | Work::LoadSteps => 2.0 * march,
            _ => march,
        };
        let extra = match spec.work {
            Work::RowDisturbance => 2.0 * DISTURBANCE_SECONDS,
            Work::Sleeping => 2.0 * sleep_time(recipe).as_secs_f64(),
            _ => 0.0,
        };
        (once + extra) * turns as f64
    }
}

/// How long a machine sleeps, as long as waits are where the recipe says so.
pub fn sleep_time(recipe: &Recipe) -> Duration {
    recipe.idle().unwrap_or(Duration::from_secs(180))
}

/// About what the address lines take anywhere.
const ADDRESS_LINES_SECONDS: f64 = 0.2;
/// What the activations of one round took where they were measured: they follow the memory's latency, not its rate.
const DISTURBANCE_SECONDS: f64 = 2.2;
