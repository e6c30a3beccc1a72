//! What timing a loop came to.

use serde::{Deserialize, Serialize};

use super::work::Work;

/// One loop with all that was timed of it.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct Point {
    /// The loop.
    #[serde(flatten)]
    pub work: Work,
    /// Bytes a second, or seconds of one load, once for each repeat.
    pub samples: Vec<f64>,
}

/// A value with the lowest and the highest of its repeats.
#[derive(Clone, Copy, Debug, Default, PartialEq, Serialize, Deserialize)]
pub struct Spread {
    /// Median.
    pub value: f64,
    /// Lowest.
    pub low: f64,
    /// Highest.
    pub high: f64,
}

impl Spread {
    /// Of several values; nothing where there are none.
    pub fn of(samples: &[f64]) -> Option<Self> {
        let mut sorted = samples.to_vec();
        sorted.sort_by(f64::total_cmp);
        let (low, high) = (*sorted.first()?, *sorted.last()?);
        let middle = sorted.len() / 2;
        let value =
            if sorted.len() % 2 == 1 { sorted[middle] } else { f64::midpoint(sorted[middle - 1], sorted[middle]) };
        Some(Self { value, low, high })
    }

    /// Whether two could be the same.
    pub fn agrees_with(&self, other: &Self) -> bool {
        self.low <= other.high && other.low <= self.high
    }

    /// Distance from the lowest to the highest over the median.
    pub fn width(&self) -> f64 {
        if self.value > 0.0 { (self.high - self.low) / self.value } else { 0.0 }
    }
}

impl Point {
    /// Median, lowest and highest.
    pub fn spread(&self) -> Option<Spread> {
        Spread::of(&self.samples)
    }
}
