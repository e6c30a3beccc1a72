//! What a measurement came to.

use std::collections::{BTreeMap, BTreeSet};

use serde::{Deserialize, Serialize};

use crate::fitted::Board;
use revisum_engine::speed::{Cache, Kind, Point, Spread, Width, memory_from};

/// A measurement of a machine as it was fitted and set.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize)]
#[serde(default)]
pub struct SpeedRecord {
    /// Machine.
    pub machine: String,
    /// Its values come from a model.
    pub simulated: bool,
    /// It was measured inside a virtual machine.
    pub guest: bool,
    /// Milliseconds since 1970 when it began.
    pub wall_ms: i64,
    /// Processor.
    pub processor: String,
    /// Cores.
    pub cores: usize,
    /// What was fitted.
    pub board: Board,
    /// Settings in force; empty when unknown.
    pub settings: String,
    /// Caches for data; empty where nothing tells.
    pub caches: Vec<Cache>,
    /// Share of the memory that lay in large pages, 0 to 1; nothing where that is unknown.
    pub large_pages: Option<f64>,
    /// Repeats that were wanted.
    pub repeats: u32,
    /// Everything wanted was timed.
    pub complete: bool,
    /// The loops, small working sets first.
    pub points: Vec<Point>,
}

impl SpeedRecord {
    /// Working set of each core against the value, without gaps, of the width that curves have.
    pub fn curve(&self, kind: Kind, cores: usize) -> Vec<(u64, Spread)> {
        let width = self.curve_width(kind);
        let of = |point: &&Point| {
            let work = point.work;
            work.kind == kind && work.cores == cores && work.gap().is_none() && Some(work.width) == width
        };
        self.points.iter().filter(of).filter_map(|point| Some((point.work.bytes, point.spread()?))).collect()
    }

    /// The widest of a kind: curves are measured with it.
    fn curve_width(&self, kind: Kind) -> Option<Width> {
        self.points
            .iter()
            .filter(|point| point.work.kind == kind && point.work.gap().is_none())
            .map(|point| point.work.width)
            .max()
    }

    /// Numbers of cores that were measured, the fewest first.
    pub fn core_counts(&self) -> Vec<usize> {
        let mut counts: Vec<usize> = self.points.iter().map(|point| point.work.cores).collect();
        counts.sort_unstable();
        counts.dedup();
        counts
    }

    /// The memory's own value: over all working sets that no cache holds; nothing where there is none.
    pub fn of_memory(&self, kind: Kind, cores: usize) -> Option<Spread> {
        let from = memory_from(&self.caches, self.cores);
        let samples = |bytes: &u64| bytes * cores as u64 >= from;
        let sets: Vec<Spread> =
            self.curve(kind, cores).into_iter().filter(|(bytes, _)| samples(bytes)).map(|(_, spread)| spread).collect();
        let middle = Spread::of(&sets.iter().map(|set| set.value).collect::<Vec<_>>())?;
        let low = sets.iter().map(|set| set.low).fold(f64::INFINITY, f64::min);
        let high = sets.iter().map(|set| set.high).fold(0.0, f64::max);
        Some(Spread { low, high, ..middle })
    }

    /// Width against the value, of a kind, in one of the two places where widths are compared: the smaller or the larger working set.
    pub fn by_width(&self, kind: Kind, in_memory: bool) -> Vec<(Width, Spread)> {
        let Some(bytes) = self.place_of_widths(kind, in_memory) else { return Vec::new() };
        let of = |point: &&Point| {
            let work = point.work;
            work.kind == kind && work.cores == 1 && work.gap().is_none() && work.bytes == bytes
        };
        let mut found: Vec<(Width, Spread)> =
            self.points.iter().filter(of).filter_map(|point| Some((point.work.width, point.spread()?))).collect();
        found.sort_by_key(|(width, _)| *width);
        found
    }

    /// A working set that was gone over with several widths.
    fn place_of_widths(&self, kind: Kind, in_memory: bool) -> Option<u64> {
        let mut sets: BTreeMap<u64, BTreeSet<Width>> = BTreeMap::new();
        for work in self.points.iter().map(|point| point.work) {
            if work.kind == kind && work.gap().is_none() && work.cores == 1 {
                sets.entry(work.bytes).or_default().insert(work.width);
            }
        }
        let from = memory_from(&self.caches, self.cores);
        let several = sets.into_iter().filter(|(bytes, _)| (*bytes >= from) == in_memory);
        several.filter(|(_, widths)| widths.len() > 1).max_by_key(|(_, widths)| widths.len()).map(|(bytes, _)| bytes)
    }

    /// Distance between loads in bytes against seconds of one load, in memory or in the first cache.
    pub fn by_stride(&self, in_memory: bool) -> Vec<(u32, Spread)> {
        let from = memory_from(&self.caches, self.cores);
        let of = |point: &&Point| {
            let work = point.work;
            work.kind == Kind::Read
                && work.cores == 1
                && (work.bytes >= from) == in_memory
                && (work.gap().is_some() || (work.stride == 8 && self.has_gaps_at(work.bytes)))
        };
        let mut found: Vec<(u32, Spread)> = Vec::new();
        for point in self.points.iter().filter(of) {
            let of_load = |sample: &f64| f64::from(point.work.width.bytes()) / sample;
            let each: Vec<f64> = point.samples.iter().filter(|sample| **sample > 0.0).map(of_load).collect();
            found.extend(Spread::of(&each).map(|spread| (point.work.stride, spread)));
        }
        found.sort_by_key(|(stride, _)| *stride);
        found
    }

    fn has_gaps_at(&self, bytes: u64) -> bool {
        self.points.iter().any(|point| point.work.bytes == bytes && point.work.gap().is_some())
    }

    /// Whether the machine is still fitted and set as it was measured.
    pub fn is_of(&self, board: &Board, settings: &str) -> bool {
        let speeds = |board: &Board| board.modules().map(|(_, module)| module.speed).collect::<Vec<_>>();
        self.board.known_placement() == board.known_placement()
            && speeds(&self.board) == speeds(board)
            && (self.settings == settings || self.settings.is_empty() || settings.is_empty())
    }
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use revisum_engine::speed::Work;

    use super::*;
    use revisum_engine::units::{KIB, MIB};

    #[rstest]
    #[case(&[], None)]
    #[case(&[2.0], Some((2.0, 2.0, 2.0)))]
    #[case(&[3.0, 1.0, 2.0], Some((2.0, 1.0, 3.0)))]
    #[case(&[4.0, 1.0, 2.0, 3.0], Some((2.5, 1.0, 4.0)))]
    fn spreads(#[case] samples: &[f64], #[case] expected: Option<(f64, f64, f64)>) {
        assert_eq!(Spread::of(samples).map(|spread| (spread.value, spread.low, spread.high)), expected);
    }

    fn point(kind: Kind, width: Width, stride: u32, bytes: u64, value: f64) -> Point {
        Point { work: Work { kind, width, stride, bytes, cores: 1 }, samples: vec![value, value * 1.5, value * 0.5] }
    }

    fn record() -> SpeedRecord {
        let read = |width: Width, bytes, value| point(Kind::Read, width, width.bytes(), bytes, value);
        SpeedRecord {
            cores: 1,
            caches: vec![Cache { level: 1, bytes: 32 * KIB, shared_by: 1 }],
            points: vec![
                read(Width::W256, 16 * KIB, 100.0),
                read(Width::W8, 16 * KIB, 5.0),
                read(Width::W256, 64 * MIB, 20.0),
                read(Width::W8, 64 * MIB, 4.0),
                read(Width::W256, 128 * MIB, 22.0),
                read(Width::W64, 64 * MIB, 8.0),
                point(Kind::Read, Width::W64, 64, 64 * MIB, 2.0),
            ],
            ..SpeedRecord::default()
        }
    }

    #[test]
    fn the_memory_is_what_no_cache_holds() {
        let record = record();
        assert_eq!(record.curve(Kind::Read, 1).len(), 3);
        let memory = record.of_memory(Kind::Read, 1).unwrap();
        assert_eq!(memory.value, 21.0);
        assert!((memory.low, memory.high) == (10.0, 33.0));
        assert_eq!(record.of_memory(Kind::Latency, 1), None);
    }

    #[test]
    fn widths_and_strides_have_their_places() {
        let record = record();
        let widths =
            |in_memory| record.by_width(Kind::Read, in_memory).into_iter().map(|(width, _)| width).collect::<Vec<_>>();
        assert_eq!(widths(false), [Width::W8, Width::W256]);
        assert_eq!(widths(true), [Width::W8, Width::W64, Width::W256]);
        let strides: Vec<(u32, f64)> =
            record.by_stride(true).into_iter().map(|(stride, spread)| (stride, spread.value)).collect();
        assert_eq!(strides, [(8, 1.0), (64, 4.0)]);
    }

    #[test]
    fn a_record_survives_being_written() {
        let record = record();
        let text = serde_json::to_string(&record).unwrap();
        assert_eq!(serde_json::from_str::<SpeedRecord>(&text).unwrap(), record);
    }
}
