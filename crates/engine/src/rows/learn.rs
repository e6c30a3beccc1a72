//! The functions that all pairs in conflict have in common, and whether they tell of pairs that were not used for finding them.

use std::cmp::Reverse;

use super::gf2::{basis, complement, parity, reduced};
use super::sample::Sampler;
use super::timer::RowTimer;
use super::view::{Turns, View};
use crate::pattern::pass_seed;
use crate::units::PhysAddr;

/// By what a controller chooses channel, rank and bank, and which bits lead to another row of the same bank.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct RowFunctions {
    /// How addresses are counted.
    pub view: View,
    /// A basis of the functions: two addresses in the same bank have the same parity on each.
    pub functions: Vec<u64>,
    /// Differences that lead to another row of the same bank; with their sums to every one of them.
    pub other_row: Vec<u64>,
    /// Differences that stay in the row.
    pub same_row: Vec<u64>,
    /// Timings that it took.
    pub timings: u64,
}

/// Why nothing was learned.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Rejected {
    /// Physical addresses are not known.
    NoAddresses,
    /// No pair takes longer than others: the machine does not show its rows (a virtual machine, or rows are closed after each read).
    NoRows,
    /// Pairs do, but no functions explain them well enough.
    Open,
}

/// Pairs of any lines: what no two of them differ in says nothing.
const RANDOM: usize = 400;
/// Pairs in conflict that are looked for, beyond one for each address bit.
const SPARE: usize = 200;
/// Most pairs that are tried for them.
const MOST_TRIED: u32 = 250_000;
/// Subsets that are tried where a pair among them is none.
const SUBSETS: u32 = 400;
/// Part of the pairs that the functions have to explain.
const EXPLAINED: f64 = 0.985;
/// Fresh pairs that are foretold, of each kind.
const FORETOLD: usize = 96;
/// Part of them that has to come true: in conflict where all functions agree (but for equal rows), none where one does not.
const IN_CONFLICT: f64 = 0.95;
const NO_CONFLICT: f64 = 0.95;
/// Ways of counting that are held against fresh pairs, the ones with most functions first.
const MOST_VIEWS: usize = 3;
/// Banks are chosen by so many functions at most.
const MOST_FUNCTIONS: usize = 12;
/// Lowest address bit that can matter: a line is read whole.
const LINE_BITS: u32 = 6;
/// Granules by which ways take turns.
const GRANULES: std::ops::RangeInclusive<u32> = 6..=13;

/// Two addresses.
#[derive(Clone, Copy)]
struct Pair {
    a: u64,
    b: u64,
}

/// Learns from timings. `offsets` are pairs of an address and what may be taken off addresses from there on: holes below memory.
///
/// # Errors
/// When nothing can be learned, and why.
pub fn learn(timer: &dyn RowTimer, offsets: &[(u64, u64)], seed: u64) -> Result<RowFunctions, Rejected> {
    let mut sampler = Sampler::new(timer, seed);
    sampler.line().ok_or(Rejected::NoAddresses)?;
    let border = sampler.border().ok_or(Rejected::NoRows)?;
    let bits = address_bits(&mut sampler)?;
    let conflicts = conflicts(&mut sampler, border, bits as usize + SPARE)?;
    let any: Vec<Pair> =
        (0..RANDOM).filter_map(|_| Some(Pair { a: sampler.line()?.1, b: sampler.line()?.1 })).collect();
    let mut found: Vec<(View, Common)> =
        views(offsets).into_iter().map(|view| (view, common(&conflicts, &any, view, bits, seed))).collect();
    found.retain(|(_, common)| !common.functions.is_empty() && common.functions.len() <= MOST_FUNCTIONS);
    // Most functions, then most pairs explained, then the simplest way of counting.
    found.sort_by_key(|(_, common)| Reverse((common.functions.len(), common.explained)));
    let told = |(view, common): &(View, Common)| comes_true(&mut sampler, border, *view, &common.functions);
    let at = found.iter().take(MOST_VIEWS).position(told).ok_or(Rejected::Open)?;
    let (view, Common { functions, .. }) = found.swap_remove(at);
    let (other_row, same_row) = rows(&mut sampler, timer, border, view, &functions, bits);
    Ok(RowFunctions { view, functions, other_row, same_row, timings: sampler.timings })
}

/// Address bits that vary among the lines.
fn address_bits(sampler: &mut Sampler<'_>) -> Result<u32, Rejected> {
    let highest =
        (0..500).filter_map(|_| sampler.line()).map(|(_, address)| address).max().ok_or(Rejected::NoAddresses)?;
    Ok(u64::BITS - highest.leading_zeros())
}

fn conflicts(sampler: &mut Sampler<'_>, border: f64, wanted: usize) -> Result<Vec<Pair>, Rejected> {
    let mut found = Vec::new();
    for _ in 0..MOST_TRIED {
        let Some(((one, a), (other, b))) = sampler.line().zip(sampler.line()) else {
            return Err(Rejected::NoAddresses);
        };
        if sampler.is_slow((one, other), border) {
            found.push(Pair { a, b });
        }
        if found.len() >= wanted {
            return Ok(found);
        }
    }
    Err(Rejected::Open)
}

/// Every way of counting that is tried, the simplest first.
fn views(offsets: &[(u64, u64)]) -> Vec<View> {
    let plain = offsets.iter().map(|(from, offset)| View { from: *from, offset: *offset, turns: None });
    let mut all: Vec<View> = [View::default()].into_iter().chain(plain).collect();
    let turns = GRANULES.map(|granule_bits| Turns { ways: 3, granule_bits });
    let in_turns = turns.flat_map(|turns| all.clone().into_iter().map(move |view| View { turns: Some(turns), ..view }));
    let in_turns: Vec<View> = in_turns.collect();
    all.extend(in_turns);
    all
}

impl Pair {
    /// The difference inside the way; nothing where the two go different ways.
    fn difference(&self, view: View) -> Option<u64> {
        let ((way, a), (other, b)) = (view.of(self.a), view.of(self.b));
        (way == other).then_some((a ^ b) >> LINE_BITS << LINE_BITS)
    }
}

/// Functions, and how many of the conflicts they explain.
#[derive(Default)]
struct Common {
    functions: Vec<u64>,
    explained: usize,
}

/// The functions that nearly all conflicts have in common; none where there is no such.
fn common(conflicts: &[Pair], any: &[Pair], view: View, bits: u32, seed: u64) -> Common {
    let differences: Vec<u64> = conflicts.iter().filter_map(|pair| pair.difference(view)).collect();
    let enough = |explained: usize| explained as f64 >= EXPLAINED * conflicts.len() as f64;
    if !enough(differences.len()) {
        return Common::default();
    }
    let agrees = |masks: &[u64]| {
        differences.iter().filter(|difference| masks.iter().all(|mask| !parity(mask & *difference))).count()
    };
    let any: Vec<u64> = any.iter().filter_map(|pair| pair.difference(view)).collect();
    let nothing = complement(&any, bits);
    let of = |rows: &[u64]| basis(complement(rows, bits).into_iter().map(|mask| reduced(&nothing, mask)));
    let functions = of(&differences);
    let mut best = Common { explained: agrees(&functions), functions };
    // One pair that is none spoils a dimension: subsets without it have one more.
    let size = (bits as usize + 6).min(differences.len());
    for subset in 0..SUBSETS {
        let draw = |at: usize| pass_seed(seed ^ u64::from(subset) << 32, at as u32) as usize % differences.len();
        let rows: Vec<u64> = (0..size).map(|at| differences[draw(at)]).collect();
        let functions = of(&rows);
        let explained = agrees(&functions);
        if functions.len() > best.functions.len() && functions.len() <= MOST_FUNCTIONS && enough(explained) {
            best = Common { functions, explained };
        }
    }
    best
}

fn agree(view: View, functions: &[u64], a: u64, b: u64) -> bool {
    Pair { a, b }.difference(view).is_some_and(|difference| functions.iter().all(|mask| !parity(mask & difference)))
}

/// Whether fresh pairs are as the functions foretell.
fn comes_true(sampler: &mut Sampler<'_>, border: f64, view: View, functions: &[u64]) -> bool {
    let (mut equal, mut other) = ((0, 0), (0, 0));
    let most = (1u64 << functions.len()) * 3 * FORETOLD as u64 * 4;
    for _ in 0..most {
        let Some(((one, a), (two, b))) = sampler.line().zip(sampler.line()) else { return false };
        let same = agree(view, functions, a, b);
        let seen = if same { &mut equal } else { &mut other };
        if seen.1 < FORETOLD {
            let slow = sampler.is_surely_slow((one, two), border);
            *seen = (seen.0 + usize::from(slow == same), seen.1 + 1);
        }
        if equal.1 >= FORETOLD && other.1 >= FORETOLD {
            break;
        }
    }
    let share = |(right, of): (usize, usize)| right as f64 / of.max(1) as f64;
    equal.1 >= FORETOLD && other.1 >= FORETOLD && share(equal) >= IN_CONFLICT && share(other) >= NO_CONFLICT
}

/// Lines that are tried until both of a pair are held.
const ATTEMPTS: usize = 64;

/// Of the differences within a bank those that open another row and those that do not: each has a highest bit of its own, so one without a
/// row's bit is made of the lower ones.
fn rows(
    sampler: &mut Sampler<'_>,
    timer: &dyn RowTimer,
    border: f64,
    view: View,
    functions: &[u64],
    bits: u32,
) -> (Vec<u64>, Vec<u64>) {
    let (mut other, mut same) = (Vec::new(), Vec::new());
    let within = complement(functions, bits).into_iter().filter(|difference| difference.trailing_zeros() >= LINE_BITS);
    for difference in within {
        let pair = (0..ATTEMPTS).find_map(|_| {
            let (line, address) = sampler.line()?;
            let (way, inside) = view.of(address);
            let there = view.address(way, inside ^ difference);
            let held = timer.line_at(PhysAddr(there))?;
            agree(view, functions, address, there).then_some((line, held))
        });
        let Some(pair) = pair else { continue };
        if sampler.is_surely_slow(pair, border) {
            other.push(difference);
        } else {
            same.push(difference);
        }
    }
    (other, same)
}
