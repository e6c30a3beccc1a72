//! What can only make a run's result worse, added up so far: it stands in the records themselves, so that any later one still tells of it when
//! the one that told it first is lost.

use serde::{Deserialize, Serialize};

/// Sums since the beginning of a run's own record.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
#[serde(from = "[u64; 7]", into = "[u64; 7]")]
pub struct Totals {
    /// Words that read wrong.
    pub errors: u64,
    /// Numbers that were computed wrong.
    pub miscalculated: u64,
    /// Errors that the hardware corrected.
    pub corrected: u64,
    /// Errors that the hardware reported as uncorrectable.
    pub uncorrected: u64,
    /// Self-checks that were not noticed.
    pub checks_missed: u64,
    /// Bytes that moved or were taken out.
    pub void_bytes: u64,
    /// Milliseconds in which nothing was tested: pauses, and times in which nothing ran.
    pub idle_ms: u64,
}

impl Totals {
    /// The larger of each.
    pub fn worst(self, other: Self) -> Self {
        let (a, b) = (<[u64; 7]>::from(self), <[u64; 7]>::from(other));
        std::array::from_fn::<u64, 7, _>(|at| a[at].max(b[at])).into()
    }

    /// Nothing to tell.
    pub fn is_none(&self) -> bool {
        *self == Self::default()
    }
}

impl From<[u64; 7]> for Totals {
    fn from([errors, miscalculated, corrected, uncorrected, checks_missed, void_bytes, idle_ms]: [u64; 7]) -> Self {
        Self { errors, miscalculated, corrected, uncorrected, checks_missed, void_bytes, idle_ms }
    }
}

impl From<Totals> for [u64; 7] {
    fn from(totals: Totals) -> Self {
        let Totals { errors, miscalculated, corrected, uncorrected, checks_missed, void_bytes, idle_ms } = totals;
        [errors, miscalculated, corrected, uncorrected, checks_missed, void_bytes, idle_ms]
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_worst_of_two_is_the_larger_of_each() {
        let a = Totals { errors: 3, void_bytes: 1, ..Totals::default() };
        let b = Totals { errors: 2, idle_ms: 9, ..Totals::default() };
        assert_eq!(a.worst(b), Totals { errors: 3, void_bytes: 1, idle_ms: 9, ..Totals::default() });
        assert_eq!(serde_json::to_string(&a.worst(b)).unwrap(), "[3,0,0,0,0,1,9]");
        assert!(Totals::default().is_none() && !a.is_none());
    }
}
