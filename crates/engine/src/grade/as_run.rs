//! How much of what a march detects by the literature it detects as it is run: behind a cache and a queue of writes, cut into
//! blocks, shared among cores.
//!
//! Pairs of cells at a given distance are drawn, each with a fault of the model, and the march is played on the two of them the
//! way its kernels reach the memory; see [`crate::between`]. The rest of the memory only passes time.

use serde::Serialize;

use super::array::Array;
use super::models::{Fault, Primitive};
use super::{GradeError, Model, prepared};
use crate::between::{Between, Cells, Traffic, WAYS, schedule};
use crate::march::{Element, March, Order};
use crate::path::Path;
use crate::pattern::{WordRule, pass_seed};
use crate::sweep::{ElementWork, LINE, PutBack};

/// How a march is run.
#[derive(Clone, Copy, Debug)]
pub struct AsRun {
    /// What lies between the sweeps and the cells.
    pub between: Between,
    /// Cores that sweep shares of the memory at the same time; one where they take turns.
    pub cores: u64,
    /// Bytes that are swept.
    pub bytes: u64,
}

/// The share of a model's faults that was found at one distance of aggressor and victim.
#[derive(Clone, Copy, Debug, PartialEq, Serialize)]
pub struct AtDistance {
    /// Bytes between the two; the aggressor lies below for one half of the pairs and above for the other.
    pub distance: u64,
    /// Pairs whose fault was found.
    pub found: u32,
    /// Pairs tried.
    pub of: u32,
}

impl AtDistance {
    /// Found by tried.
    pub fn share(&self) -> f64 {
        f64::from(self.found) / f64::from(self.of.max(1))
    }
}

/// Plays so many random pairs at each distance in bytes; for models of single cells the other cell of a pair is sound.
///
/// # Errors
/// When good memory would fail the test.
pub fn as_run(
    march: &March,
    model: Model,
    how: &AsRun,
    distances: &[u64],
    pairs: u32,
    seed: u64,
) -> Result<Vec<AtDistance>, GradeError> {
    prepared(march)?;
    let faults: Vec<Fault> = model.faults().into_iter().filter(of_two_cells).collect();
    let found = |distance: u64, pair: u32| {
        let mut drawn = 0;
        let mut below = |limit: u64| {
            drawn += 1;
            ((u128::from(pass_seed(seed ^ distance, pair * 8 + drawn)) * u128::from(limit.max(1))) >> 64) as u64
        };
        let fault = &faults[below(faults.len() as u64) as usize];
        let low = below((how.bytes.saturating_sub(distance)) / 8) * 8;
        let starts = Array::every_start(fault).count() as u64;
        let array = Array::every_start(fault).nth(below(starts) as usize);
        array.is_some_and(|array| Played { array, places: [low, low + distance], found: false }.finds(march, how))
    };
    let at = |distance: &u64| AtDistance {
        distance: *distance,
        found: (0..pairs).filter(|pair| found(*distance, *pair)).count() as u32,
        of: pairs,
    };
    Ok(if faults.is_empty() { Vec::new() } else { distances.iter().map(at).collect() })
}

/// Distances at which a test is graded as it is run, in bytes.
pub const DISTANCES: [u64; 8] = [64, 512, 4 << 10, 32 << 10, 256 << 10, 2 << 20, 16 << 20, 64 << 20];
/// Pairs at each of them.
const GRADED_PAIRS: u32 = 60;

impl AsRun {
    /// On this processor, with so many cores that sweep shares; behind a usual cache, whose size changes nothing where lines are put back.
    pub fn here(cores: u64) -> Self {
        let between = Between::cache_of(8 << 20, WAYS, PutBack::detect());
        Self { between, cores: cores.max(1), bytes: 256 << 20 }
    }
}

/// Models of two cells with what is found of each at [`DISTANCES`].
///
/// # Errors
/// When good memory would fail the test.
pub fn grade_as_run(march: &March, how: &AsRun) -> Result<Vec<(Model, Vec<AtDistance>)>, GradeError> {
    let coupled = Model::ALL.into_iter().filter(|model| model.is_of_two_cells());
    coupled.map(|model| Ok((model, as_run(march, model, how, &DISTANCES, GRADED_PAIRS, 1)?))).collect()
}

/// The shortest of [`DISTANCES`] from which on everything of a row is found; nothing when something is missed at the longest.
pub fn found_from(row: &[AtDistance]) -> Option<u64> {
    let missed = row.iter().rposition(|at| at.found < at.of);
    row.get(missed.map_or(0, |at| at + 1)).map(|at| at.distance)
}

/// Whether no other cells than the first two of the array take part.
fn of_two_cells(fault: &Fault) -> bool {
    let within = |primitive: &Primitive| primitive.victim < 2 && primitive.aggressor.is_none_or(|cell| cell < 2);
    matches!(fault, Fault::Primitives(primitives) if primitives.iter().all(within))
}

/// The two cells of a pair in the memory.
struct Played<'a> {
    array: Array<'a>,
    places: [u64; 2],
    found: bool,
}

impl Played<'_> {
    fn finds(mut self, march: &March, how: &AsRun) -> bool {
        let mut traffic = Traffic::new(how.between);
        for (at, element) in march.0.iter().enumerate() {
            let Some(work) = ElementWork::of(element, WordRule::Constant(0)) else { continue };
            self.element(&work, how, &mut traffic);
            self.turn_round(element, march.0.get(at + 1), &mut traffic);
            if self.found {
                break;
            }
        }
        // What is still on its way changes nothing that anybody reads any more.
        self.found
    }

    /// All cores go over their shares; their lines pass in turns.
    fn element(&mut self, work: &ElementWork, how: &AsRun, traffic: &mut Traffic) {
        debug_assert!(work.path == Path::Linear);
        let share = how.bytes.div_ceil(how.cores).next_multiple_of(LINE as u64);
        let (mut visits, mut lines) = (Vec::new(), 0);
        for core in 0..how.cores {
            let held = core * share..((core + 1) * share).min(how.bytes);
            let mut of_core = schedule(held, work, &self.places, |_| 0);
            for visit in &mut of_core.visits {
                visit.after = visit.after * how.cores + core;
                visit.fetched_from = visit.fetched_from * how.cores + core;
                visit.flushed = visit.flushed.map(|after| after * how.cores + core);
            }
            visits.append(&mut of_core.visits);
            lines = of_core.lines.max(lines);
        }
        traffic.sweep(lines * how.cores, &visits, self);
    }

    /// What a sweep that only read left in the cache is flushed where the next one would find it; here all of it.
    fn turn_round(&self, element: &Element, next: Option<&Element>, traffic: &mut Traffic) {
        if !element.writes() && next.is_some_and(Element::reads) {
            let down = matches!(element, Element::Sweep { order: Order::Down, .. });
            traffic.flush(0..u64::MAX, down);
        }
    }
}

impl Cells for Played<'_> {
    fn read(&mut self, at: u64) -> u64 {
        let cell = usize::from(at == self.places[1]);
        if self.array.read(cell) { u64::MAX } else { 0 }
    }

    fn write(&mut self, at: u64, word: u64) {
        let cell = usize::from(at == self.places[1]);
        self.array.write(cell, word != 0);
    }

    fn wrong(&mut self, _at: u64, _expected: u64, _actual: u64) {
        self.found = true;
    }
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;
    use crate::between::Replacement;
    use crate::catalog::find_test;
    use crate::grade::grade;

    const PAIRS: u32 = 200;

    /// 256 MiB behind 8 MiB of cache with 16 ways.
    fn run(put_back: Option<PutBack>, cores: u64) -> AsRun {
        let between = Between { put_back, ..Between::cache_of(8 << 20, 16, PutBack::Behind) };
        AsRun { between, cores, bytes: 256 << 20 }
    }

    /// 4 KiB to 64 MiB.
    fn distances() -> Vec<u64> {
        (12..=26).map(|bit| 1 << bit).collect()
    }

    /// Models of two cells that a test detects in full by the literature.
    fn claimed(test: &str) -> Vec<Model> {
        let grades = grade(&find_test(test).unwrap().march()).unwrap();
        let full = grades.into_iter().filter(|(_, share)| share.share == 1.0).map(|(model, _)| model);
        full.filter(|model| model.faults().iter().any(of_two_cells)).collect()
    }

    fn table(test: &str, how: &AsRun) -> Vec<(Model, Vec<AtDistance>)> {
        let march = find_test(test).unwrap().march();
        let row = |model: Model| (model, as_run(&march, model, how, &distances(), PAIRS, 7).unwrap());
        claimed(test).into_iter().map(row).collect()
    }

    /// The least share of all models and distances.
    fn worst(table: &[(Model, Vec<AtDistance>)]) -> f64 {
        table.iter().flat_map(|(_, row)| row).map(AtDistance::share).fold(1.0, f64::min)
    }

    /// A line for each model, in percent.
    fn printed(test: &str, table: &[(Model, Vec<AtDistance>)]) -> String {
        let shares =
            |row: &[AtDistance]| -> String { row.iter().map(|at| format!(" {:.1}", at.share() * 100.0)).collect() };
        table.iter().map(|(model, row)| format!("{test} {}{}\n", model.short(), shares(row))).collect()
    }

    #[rstest]
    #[case::behind("march-c-", PutBack::Behind)]
    #[case::streamed("march-c-", PutBack::Streamed)]
    #[case::longest("march-ss", PutBack::Behind)]
    #[case::longest_streamed("march-ss", PutBack::Streamed)]
    #[case::hidden("march-lr", PutBack::Behind)]
    fn what_is_claimed_is_found_at_every_distance(
        #[case] test: &str,
        #[case] put_back: PutBack,
        #[values(Replacement::LeastRecent, Replacement::Random)] replacement: Replacement,
    ) {
        let how = run(Some(put_back), 1);
        let table = table(test, &AsRun { between: Between { replacement, ..how.between }, ..how });
        println!("{}", printed(test, &table));
        assert!(table.len() >= 3 && worst(&table) >= 0.99, "{}", printed(test, &table));
    }

    /// Left to the cache, a march is not what it is by the literature: this is what the sweeps must not do.
    #[rstest]
    #[case("march-c-")]
    #[case("march-ss")]
    fn left_to_the_cache_faults_are_missed(#[case] test: &str) {
        let table = table(test, &run(None, 1));
        println!("{}", printed(test, &table));
        assert!(worst(&table) < 0.6, "{}", printed(test, &table));
    }

    #[test]
    fn every_coupling_that_is_claimed_is_found_from_a_few_kib_on() {
        for test in ["march-c-", "march-lr", "march-ss"] {
            let rows = grade_as_run(&find_test(test).unwrap().march(), &AsRun::here(1)).unwrap();
            for model in claimed(test).into_iter().filter(|model| model.is_of_two_cells()) {
                let row = &rows.iter().find(|(of, _)| *of == model).unwrap().1;
                assert!(found_from(row).is_some_and(|from| from <= 4 << 10), "{test} {}: {row:?}", model.short());
            }
        }
    }

    /// Cells at the same place of two shares are visited at the same time, upwards and downwards.
    #[test]
    fn shares_of_several_cores_are_not_ordered_against_each_other() {
        let march = find_test("march-c-").unwrap().march();
        let found = |cores: u64| {
            let how = run(Some(PutBack::Behind), cores);
            as_run(&march, Model::CouplingIdempotent, &how, &[how.bytes / 2], PAIRS, 7).unwrap()[0].share()
        };
        assert!(found(1) >= 0.99 && found(2) < 0.8, "{} {}", found(1), found(2));
    }
}
