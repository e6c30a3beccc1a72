//! Which loops are timed, and in which order.

use std::ops::RangeInclusive;

use super::work::{Cache, Kind, Width, Work};
use crate::units::{GIB, KIB, MIB};

/// The smallest working set.
pub const LEAST_SET: u64 = 4 * KIB;
/// The widest gap between accesses in bytes.
pub const MOST_STRIDE: u32 = 4096;
/// The smallest working set with gaps: whole groups of the widest.
pub const LEAST_STRIDED: u64 = 16 * KIB;
/// Repeats unless told otherwise.
pub const REPEATS: u32 = 5;
/// From here on working sets grow by four instead of two: nothing new comes so soon.
const COARSE_FROM: u64 = GIB;
/// A set that no cache holds, where nothing tells how large the caches are.
const SURELY_MEMORY: u64 = 256 * MIB;

/// What a measurement is asked for.
#[derive(Clone, Debug, PartialEq)]
pub struct Wanted {
    /// Kinds.
    pub kinds: Vec<Kind>,
    /// Working sets of each core in bytes; nothing for all from the smallest to the largest that can be had.
    pub sets: Option<RangeInclusive<u64>>,
    /// Gaps between loads, in bytes.
    pub strides: Vec<u32>,
    /// Widths that are compared; nothing for all of the processor.
    pub widths: Option<Vec<Width>>,
    /// Numbers of cores.
    pub cores: Vec<usize>,
    /// How often each loop is timed.
    pub repeats: u32,
}

/// Why nothing can be measured as it is wanted.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum NotMeasured {
    /// More cores than there are, or none.
    Cores {
        /// Wanted.
        asked: usize,
        /// There are.
        here: usize,
    },
    /// A width that this processor has no loads for.
    Width(Width),
    /// A working set below [`LEAST_SET`], or a range that ends before it begins.
    TooSmall,
    /// A working set that cannot be had for each core.
    TooLarge {
        /// Wanted, in bytes.
        asked: u64,
        /// Largest for each core, in bytes.
        largest: u64,
        /// Cores.
        cores: usize,
    },
    /// No loop is left.
    Nothing,
}

/// What can be measured here.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Reach {
    /// Cores.
    pub cores: usize,
    /// Caches for data, the smallest first; empty where nothing tells.
    pub caches: Vec<Cache>,
    /// Widths of the processor.
    pub widths: Vec<Width>,
    /// Most bytes for the working sets of all cores together.
    pub most_bytes: u64,
}

impl Reach {
    /// All caches of one level together; zero where unknown.
    pub fn largest_cache(&self) -> u64 {
        largest_cache(&self.caches, self.cores)
    }

    /// The widest access.
    pub fn widest(&self) -> Width {
        self.widths.iter().copied().max().unwrap_or(Width::W64)
    }
}

/// The caches of the last level of so many cores together.
pub fn largest_cache(caches: &[Cache], cores: usize) -> u64 {
    let Some(last) = caches.iter().max_by_key(|cache| cache.level) else { return 0 };
    last.bytes * cores.div_ceil(last.shared_by.max(1)) as u64
}

/// Total working set that no cache holds, in bytes.
pub fn memory_from(caches: &[Cache], cores: usize) -> u64 {
    match largest_cache(caches, cores) {
        0 => SURELY_MEMORY,
        bytes => (bytes * 4).max(64 * MIB),
    }
}

impl Wanted {
    /// Everything, on one core and on all.
    pub fn everything(reach: &Reach) -> Self {
        let mut cores = vec![1, reach.cores.max(1)];
        cores.dedup();
        Self {
            kinds: Kind::ALL.to_vec(),
            sets: None,
            strides: (3..=12).map(|bit| 1 << bit).collect(),
            widths: None,
            cores,
            repeats: REPEATS,
        }
    }

    /// The loops, small working sets first.
    ///
    /// # Errors
    /// When nothing of what is wanted can be measured here.
    pub fn works(&self, reach: &Reach) -> Result<Vec<Work>, NotMeasured> {
        let widths = self.widths(reach)?;
        let widest = widths.iter().copied().max().unwrap_or(Width::W64);
        let mut works = Vec::new();
        for cores in &self.cores {
            if *cores == 0 || *cores > reach.cores.max(1) {
                return Err(NotMeasured::Cores { asked: *cores, here: reach.cores });
            }
            let sets = self.working_sets(reach, *cores)?;
            for kind in &self.kinds {
                works.extend(sets.iter().map(|bytes| curve_work(*kind, widest, *bytes, *cores)));
            }
        }
        works.extend(self.width_works(reach, &widths));
        works.extend(self.stride_works(reach, widest));
        works.sort_by_key(|work| (work.total_bytes(), *work));
        works.dedup();
        if works.is_empty() { Err(NotMeasured::Nothing) } else { Ok(works) }
    }

    fn widths(&self, reach: &Reach) -> Result<Vec<Width>, NotMeasured> {
        let Some(widths) = &self.widths else { return Ok(reach.widths.clone()) };
        if let Some(missing) = widths.iter().find(|width| !reach.widths.contains(width)) {
            return Err(NotMeasured::Width(*missing));
        }
        Ok(widths.clone())
    }

    /// Powers of two, above [`COARSE_FROM`] every other one, and the largest.
    fn working_sets(&self, reach: &Reach, cores: usize) -> Result<Vec<u64>, NotMeasured> {
        let largest = whole(reach.most_bytes / cores as u64);
        let (from, to) = self.sets.as_ref().map_or((LEAST_SET, largest), |sets| (*sets.start(), *sets.end()));
        if from < LEAST_SET || from > to {
            return Err(NotMeasured::TooSmall);
        }
        if to > largest {
            return Err(NotMeasured::TooLarge { asked: to, largest, cores });
        }
        let mut sets = vec![from.next_power_of_two()];
        while let Some(next) =
            sets.last().map(|last| last * if *last < COARSE_FROM { 2 } else { 4 }).filter(|next| *next <= to)
        {
            sets.push(next);
        }
        sets.retain(|set| *set <= to);
        if let Some(last) = [whole(to)].into_iter().find(|to| sets.last().is_none_or(|last| last + last / 4 < *to)) {
            sets.push(last);
        }
        Ok(sets)
    }

    /// Every width in the first cache and in memory, on one core.
    fn width_works(&self, reach: &Reach, widths: &[Width]) -> Vec<Work> {
        if widths.len() < 2 || !self.cores.contains(&1) {
            return Vec::new();
        }
        let kinds = [Kind::Read, Kind::Write].into_iter().filter(|kind| self.kinds.contains(kind));
        let sets = self.two_places(reach);
        kinds
            .flat_map(|kind| {
                let of = |bytes: &u64| {
                    widths.iter().map(move |width| curve_work(kind, *width, *bytes, 1)).collect::<Vec<_>>()
                };
                sets.iter().flat_map(of).collect::<Vec<_>>()
            })
            .collect()
    }

    /// Loads with gaps in memory and in the first cache, on one core.
    fn stride_works(&self, reach: &Reach, widest: Width) -> Vec<Work> {
        if !self.kinds.contains(&Kind::Read) || !self.cores.contains(&1) {
            return Vec::new();
        }
        let width = widest.min(Width::W64);
        let sets = self.two_places(reach);
        let with_gap = |bytes: &u64| {
            let bytes = (*bytes).max(LEAST_STRIDED);
            let strides = self.strides.iter().filter(|stride| **stride >= width.bytes());
            strides
                .map(move |stride| Work { stride: *stride, ..curve_work(Kind::Read, width, bytes, 1) })
                .collect::<Vec<_>>()
        };
        sets.iter().flat_map(with_gap).collect()
    }

    /// A working set within the first cache and one that only memory holds, as far as they are wanted.
    fn two_places(&self, reach: &Reach) -> Vec<u64> {
        let first = reach.caches.first().map_or(LEAST_STRIDED, |cache| (cache.bytes / 2).next_power_of_two());
        let memory = memory_from(&reach.caches, reach.cores).next_power_of_two();
        let within = |bytes: &u64| {
            let wanted = self.sets.as_ref().is_none_or(|sets| sets.contains(bytes));
            wanted && *bytes <= reach.most_bytes && *bytes >= LEAST_SET
        };
        [first, memory].into_iter().filter(within).collect()
    }
}

fn curve_work(kind: Kind, width: Width, bytes: u64, cores: usize) -> Work {
    // A chain is followed word by word; past the caches go whole registers only.
    let width = match kind {
        Kind::Latency => Width::W64,
        Kind::Stream => width.max(Width::W128),
        _ => width,
    };
    Work { kind, width, stride: width.bytes(), bytes, cores }
}

/// Whole groups of the widest gap.
fn whole(bytes: u64) -> u64 {
    bytes / LEAST_STRIDED * LEAST_STRIDED
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;

    fn reach() -> Reach {
        let cache = |level, bytes, shared_by| Cache { level, bytes, shared_by };
        Reach {
            cores: 4,
            caches: vec![cache(1, 32 * KIB, 2), cache(2, MIB, 2), cache(3, 8 * MIB, 4)],
            widths: Width::ALL[..6].to_vec(),
            most_bytes: 6 * GIB,
        }
    }

    #[test]
    fn curves_go_from_the_smallest_set_to_the_largest() {
        let reach = reach();
        let works = Wanted::everything(&reach).works(&reach).unwrap();
        let curve = |kind, cores| {
            let of = |work: &&Work| {
                work.kind == kind && work.cores == cores && work.gap().is_none() && work.width >= Width::W64
            };
            let mut sets: Vec<u64> = works.iter().filter(of).map(|work| work.bytes).collect();
            sets.dedup();
            sets
        };
        let one = curve(Kind::Latency, 1);
        assert_eq!((one.first(), one.last()), (Some(&LEAST_SET), Some(&(6 * GIB))));
        assert!(one.windows(2).all(|pair| pair[0] < pair[1] && pair[1] <= pair[0] * 4));
        assert_eq!(curve(Kind::Read, 4).last(), Some(&(3 * GIB / 2)));
        assert!(works.windows(2).all(|pair| pair[0].total_bytes() <= pair[1].total_bytes()));
        let strides: Vec<u32> = works.iter().filter_map(Work::gap).collect();
        assert_eq!((strides.iter().min(), strides.iter().max()), (Some(&16), Some(&MOST_STRIDE)));
        assert!(works.iter().all(|work| work.bytes.is_multiple_of(super::super::TURN)));
    }

    #[rstest]
    #[case::too_large(Wanted { sets: Some(LEAST_SET..=8 * GIB), ..Wanted::everything(&reach()) }, NotMeasured::TooLarge { asked: 8 * GIB, largest: 6 * GIB, cores: 1 })]
    #[case::too_small(Wanted { sets: Some(512..=8192), ..Wanted::everything(&reach()) }, NotMeasured::TooSmall)]
    #[case::backwards(Wanted { sets: Some(RangeInclusive::new(8192, 4096)), ..Wanted::everything(&reach()) }, NotMeasured::TooSmall)]
    #[case::cores(Wanted { cores: vec![5], ..Wanted::everything(&reach()) }, NotMeasured::Cores { asked: 5, here: 4 })]
    #[case::width(Wanted { widths: Some(vec![Width::W512]), ..Wanted::everything(&reach()) }, NotMeasured::Width(Width::W512))]
    #[case::nothing(Wanted { kinds: Vec::new(), ..Wanted::everything(&reach()) }, NotMeasured::Nothing)]
    fn what_cannot_be_is_said(#[case] wanted: Wanted, #[case] why: NotMeasured) {
        assert_eq!(wanted.works(&reach()), Err(why));
    }
}
