//! The chance of exactly these failing words under each shape.

use std::collections::BTreeMap;

use super::{Geometry, LocatedCell, MOST_ODDS, Shape, Signature, Tested};
use crate::address::Cell;

/// Share of failing words that may come from elsewhere.
const STRAY_SHARE: f64 = 0.1;
/// Decoders fail much more rarely than cells do.
const DOUBLES_PRIOR: f64 = 0.02;
/// Chance that a stray has several wrong bits.
const SEVERAL_BITS: f64 = 1e-3;
/// A shape is named alone when it is so many times likelier than all others together.
const CLEAR_ODDS: f64 = 30.0;
/// Shapes that are less likely than this share of the best are not worth naming.
const WORTH_NAMING: f64 = 0.02;
/// Words seen once while most are seen at least so often are strays.
const OFTEN: u32 = 4;

/// Which words a place holds.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum Place {
    Cell(usize, Cell),
    Row(usize, u32, u32, u32),
    Column(usize, u32, u32, u32),
    Bank(usize, u32, u32),
    Rank(usize, u32),
    /// Slot, which bit of the coordinates, its value.
    Half(usize, u32, bool),
    Module(usize),
    Channel(usize),
    Machine,
}

/// Which bits of a word may be wrong.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum Lanes {
    /// One or two lanes, or those of a package.
    These(u64),
    /// Any.
    All,
    /// One at random in each word.
    Random,
}

struct Space<'a> {
    tested: &'a Tested,
    /// Logarithms of the numbers of words.
    row: f64,
    column: f64,
    bank: f64,
    module: f64,
    machine: f64,
}

impl<'a> Space<'a> {
    fn new(tested: &'a Tested) -> Self {
        let Geometry { ranks, banks, rows, columns, .. } = tested.geometry;
        let ln = |count: u32| f64::from(count).ln();
        let module = ln(ranks) + ln(banks) + ln(rows) + ln(columns);
        Self {
            tested,
            row: ln(columns),
            column: ln(rows),
            bank: ln(rows) + ln(columns),
            module,
            machine: module + (tested.channels.len().max(1) as f64).ln(),
        }
    }

    fn channel_slots(&self, channel: usize) -> usize {
        self.tested.channels.iter().filter(|known| **known == channel).count().max(1)
    }

    fn coordinate_bits(&self) -> f64 {
        self.module / std::f64::consts::LN_2
    }

    /// The logarithm of the number of words in a place.
    fn size(&self, place: Place) -> f64 {
        match place {
            Place::Cell(..) => 0.0,
            Place::Row(..) => self.row,
            Place::Column(..) => self.column,
            Place::Bank(..) => self.bank,
            Place::Rank(..) => self.module - f64::from(self.tested.geometry.ranks).ln(),
            Place::Half(..) => self.module - std::f64::consts::LN_2,
            Place::Module(_) => self.module,
            Place::Channel(channel) => self.module + (self.channel_slots(channel) as f64).ln(),
            Place::Machine => self.machine,
        }
    }

    /// The logarithm of the number of places of this kind.
    fn places(&self, place: Place) -> f64 {
        match place {
            Place::Half(..) => (self.tested.channels.len().max(1) as f64 * 2.0 * self.coordinate_bits()).ln(),
            Place::Channel(_) => {
                let mut channels = self.tested.channels.clone();
                channels.sort_unstable();
                channels.dedup();
                (channels.len().max(1) as f64).ln()
            }
            place => self.machine - self.size(place),
        }
    }

    fn holds(&self, place: Place, one: &LocatedCell) -> bool {
        let Cell { rank, bank, row, column } = one.cell;
        match place {
            Place::Cell(slot, cell) => slot == one.slot && cell == one.cell,
            Place::Row(slot, at_rank, at_bank, at_row) => {
                (slot, at_rank, at_bank, at_row) == (one.slot, rank, bank, row)
            }
            Place::Column(slot, at_rank, at_bank, at_column) => {
                (slot, at_rank, at_bank, at_column) == (one.slot, rank, bank, column)
            }
            Place::Bank(slot, at_rank, at_bank) => (slot, at_rank, at_bank) == (one.slot, rank, bank),
            Place::Rank(slot, at_rank) => (slot, at_rank) == (one.slot, rank),
            Place::Half(slot, bit, value) => slot == one.slot && coordinate_bit(&one.cell, bit) == value,
            Place::Module(slot) => slot == one.slot,
            Place::Channel(channel) => self.tested.channels.get(one.slot) == Some(&channel),
            Place::Machine => true,
        }
    }
}

/// Bits of row, then of column.
fn coordinate_bit(cell: &Cell, bit: u32) -> bool {
    if bit < u32::BITS { cell.row >> bit & 1 == 1 } else { cell.column >> (bit - u32::BITS) & 1 == 1 }
}

/// The logarithm of the chance of these wrong bits.
fn ln_lanes(lanes: Lanes, wrong: u64) -> f64 {
    let single = wrong.count_ones() == 1;
    let among = |count: f64, subsets: f64| {
        let one = if single { 0.5 / count } else { 0.0 };
        (one + 0.5 / subsets).ln()
    };
    match lanes {
        Lanes::These(set) if wrong & !set != 0 => f64::NEG_INFINITY,
        Lanes::These(set) => {
            let count = f64::from(set.count_ones());
            if set.count_ones() == 1 { 0.0 } else { among(count, count.exp2() - 1.0) }
        }
        Lanes::All => among(64.0, 64f64.exp2()),
        Lanes::Random if single => -(64f64.ln()),
        Lanes::Random => f64::NEG_INFINITY,
    }
}

/// The logarithm of the number of such sets of lanes.
fn ln_lane_choices(lanes: Lanes) -> f64 {
    match lanes {
        Lanes::These(set) => match set.count_ones() {
            1 => 64f64.ln(),
            2 => (64.0f64 * 63.0 / 2.0).ln(),
            count => (64.0 / f64::from(count)).ln(),
        },
        Lanes::All | Lanes::Random => 0.0,
    }
}

fn shape_of(place: Place, lanes: Lanes, tested: &Tested) -> Option<Shape> {
    let lane_shape = |set: u64| match set.count_ones() {
        1 => Shape::Lane,
        2 => Shape::LanePair,
        _ => Shape::ByteLane,
    };
    Some(match (place, lanes) {
        (Place::Cell(..), _) => Shape::Cell,
        (Place::Row(..), Lanes::These(_) | Lanes::All) => Shape::Row,
        (Place::Column(..), Lanes::These(_) | Lanes::All) => Shape::Column,
        (Place::Bank(..), Lanes::These(_) | Lanes::All) => Shape::Bank,
        (Place::Rank(..) | Place::Module(_), Lanes::These(set)) => lane_shape(set),
        (Place::Rank(..), Lanes::All) if tested.geometry.ranks > 1 => Shape::HalfModule,
        (Place::Half(..), Lanes::All) => Shape::AddressLine,
        (Place::Module(_), Lanes::All) => Shape::WholeModule,
        (Place::Channel(_), Lanes::These(_) | Lanes::All) => Shape::Channel,
        (Place::Machine, Lanes::All) => Shape::Machine,
        (Place::Module(_) | Place::Machine, Lanes::Random) => Shape::Scattered,
        _ => return None,
    })
}

/// What appears most often.
fn most<T: Ord + Clone>(all: impl Iterator<Item = T>) -> Option<T> {
    let mut counts: BTreeMap<T, usize> = BTreeMap::new();
    all.for_each(|one| *counts.entry(one).or_default() += 1);
    counts.into_iter().max_by_key(|(_, count)| *count).map(|(one, _)| one)
}

/// Places that are worth trying: of each kind the one that most words are in.
fn places(cells: &[LocatedCell], tested: &Tested) -> Vec<Place> {
    let each = || cells.iter().map(|one| (one.slot, one.cell));
    let slot = most(each().map(|(slot, _)| slot));
    let mut places = vec![Place::Machine];
    places.extend(slot.map(Place::Module));
    places.extend(shared_channel(cells, tested).map(Place::Channel));
    places.extend(most(each()).map(|(slot, cell)| Place::Cell(slot, cell)));
    if !tested.cells_told {
        return places;
    }
    places.extend(
        most(each().map(|(slot, at)| (slot, at.rank, at.bank, at.row))).map(|(s, k, b, r)| Place::Row(s, k, b, r)),
    );
    places.extend(
        most(each().map(|(slot, at)| (slot, at.rank, at.bank, at.column)))
            .map(|(s, k, b, c)| Place::Column(s, k, b, c)),
    );
    places.extend(most(each().map(|(slot, at)| (slot, at.rank, at.bank))).map(|(s, k, b)| Place::Bank(s, k, b)));
    if tested.geometry.ranks > 1 {
        places.extend(most(each().map(|(slot, at)| (slot, at.rank))).map(|(slot, rank)| Place::Rank(slot, rank)));
    }
    let bits = |count: u32| 0..count.trailing_zeros();
    let all_bits = bits(tested.geometry.rows).chain(bits(tested.geometry.columns).map(|bit| bit + u32::BITS));
    if let Some(slot) = slot {
        let half = |bit: u32| {
            let set = cells.iter().filter(|one| one.slot == slot && coordinate_bit(&one.cell, bit)).count();
            let of_slot = cells.iter().filter(|one| one.slot == slot).count();
            Place::Half(slot, bit, set * 2 > of_slot)
        };
        places.extend(all_bits.map(half));
    }
    places
}

/// The channel that most words are in; one with a single slot is its module.
fn shared_channel(cells: &[LocatedCell], tested: &Tested) -> Option<usize> {
    let channel = most(cells.iter().filter_map(|one| tested.channels.get(one.slot).copied()))?;
    (tested.channels.iter().filter(|known| **known == channel).count() > 1).then_some(channel)
}

/// Lanes that are worth trying for the words of a place.
fn lane_sets(cells: &[&LocatedCell], tested: &Tested) -> Vec<Lanes> {
    let mut sets = vec![Lanes::All];
    if !tested.lanes_told {
        return sets;
    }
    sets.push(Lanes::Random);
    let mut counts: Vec<(usize, u32)> =
        (0..64).map(|lane| (cells.iter().filter(|one| one.bad.wrong >> lane & 1 == 1).count(), lane)).collect();
    counts.sort_unstable_by_key(|(count, lane)| (std::cmp::Reverse(*count), *lane));
    let (first, second) = (counts[0].1, counts[1].1);
    sets.push(Lanes::These(1 << first));
    if counts[1].0 > 0 {
        sets.push(Lanes::These(1 << first | 1 << second));
    }
    for width in [tested.geometry.package_width, 8] {
        let of = |lane: u32| (((1u128 << width) - 1) << (lane / width * width)) as u64;
        let fits = |lane: u32| cells.iter().filter(|one| one.bad.wrong & !of(lane) == 0).count();
        if let Some(best) = (0..64 / width).map(|at| at * width).max_by_key(|lane| fits(*lane)) {
            sets.push(Lanes::These(of(best)));
        }
    }
    sets
}

/// One shape that was tried.
struct Tried {
    shape: Shape,
    place: Place,
    lanes: Lanes,
    ln: f64,
    strays: usize,
}

fn tried(space: &Space<'_>, cells: &[LocatedCell], place: Place, lanes: Lanes) -> Option<Tried> {
    let shape = shape_of(place, lanes, space.tested)?;
    let stray = STRAY_SHARE.ln() - space.machine;
    let (size, mut strays) = (space.size(place), 0);
    let mut ln = -space.places(place) - ln_lane_choices(lanes);
    for one in cells {
        let inside = if space.holds(place, one) { ln_lanes(lanes, one.bad.wrong) - size } else { f64::NEG_INFINITY };
        let inside = inside + (1.0 - STRAY_SHARE).ln();
        // A stray is a single bit anywhere, hardly ever more.
        let several = SEVERAL_BITS.ln() + ln_lanes(Lanes::All, one.bad.wrong);
        let outside = stray + ln_lanes(Lanes::Random, one.bad.wrong).max(several);
        strays += usize::from(outside > inside);
        ln += inside.max(outside) + (-(inside - outside).abs()).exp().ln_1p();
    }
    // A shape that most words do not fit is no shape.
    (strays * 2 <= cells.len()).then_some(Tried { shape, place, lanes, ln, strays })
}

/// Words in twos, one bit of a coordinate apart: half as many places have to be explained.
fn doubles(space: &Space<'_>, cells: &[LocatedCell]) -> Option<Tried> {
    let of_slot = most(cells.iter().map(|one| one.slot))?;
    let mine: BTreeMap<Cell, u64> =
        cells.iter().filter(|one| one.slot == of_slot).map(|one| (one.cell, one.bad.wrong)).collect();
    let bits = |count: u32| 0..count.trailing_zeros();
    let geometry = space.tested.geometry;
    let all_bits = bits(geometry.rows).chain(bits(geometry.columns).map(|bit| bit + u32::BITS));
    let paired = |bit: u32| mine.iter().filter(|(cell, wrong)| mine.get(&turned(**cell, bit)) == Some(wrong)).count();
    let (bit, pairs) = all_bits.map(|bit| (bit, paired(bit) / 2)).max_by_key(|(_, pairs)| *pairs)?;
    let strays = cells.len() - 2 * pairs;
    if pairs == 0 || strays * 2 > cells.len() {
        return None;
    }
    let word = |one: &LocatedCell| ln_lanes(Lanes::All, one.bad.wrong).max(ln_lanes(Lanes::Random, one.bad.wrong));
    let mean = cells.iter().map(word).sum::<f64>() / cells.len() as f64;
    let stray = STRAY_SHARE.ln() - space.machine + mean;
    let pair = (1.0 - STRAY_SHARE).ln() * 2.0 - space.module + mean;
    let slots = (space.tested.channels.len().max(1) as f64).ln();
    let ln = DOUBLES_PRIOR.ln() - space.coordinate_bits().ln() - slots + pair * pairs as f64 + stray * strays as f64;
    let place = Place::Half(of_slot, bit, false);
    Some(Tried { shape: Shape::DecoderDoubles, place, lanes: Lanes::All, ln, strays })
}

fn turned(cell: Cell, bit: u32) -> Cell {
    if bit < u32::BITS {
        Cell { row: cell.row ^ 1 << bit, ..cell }
    } else {
        Cell { column: cell.column ^ 1 << (bit - u32::BITS), ..cell }
    }
}

/// Words that were seen once while most keep failing are strays; they would only blur the picture.
fn without_strays(cells: &[LocatedCell]) -> Vec<LocatedCell> {
    let often = cells.iter().filter(|one| one.bad.seen >= OFTEN).count();
    // One cell that fails again and again beside a few single events is one cell.
    let seen: u64 = cells.iter().map(|one| u64::from(one.bad.seen)).sum();
    let once = cells.iter().filter(|one| one.bad.seen == 1).count() as u64;
    let drop_once = often > 0 && (once as f64) <= 2.0 * STRAY_SHARE * seen as f64;
    cells.iter().filter(|one| !drop_once || one.bad.seen > 1).cloned().collect()
}

/// More words would not make it clearer, only slower.
const MOST_CELLS: usize = 1024;

/// Every so many of them.
fn thinned(cells: Vec<LocatedCell>) -> Vec<LocatedCell> {
    let step = cells.len().div_ceil(MOST_CELLS).max(1);
    cells.into_iter().step_by(step).collect()
}

/// One word lies in a row, a column and a bank alike. If it fails again and again, nothing speaks for more than a cell; seen once it may
/// be an event that never returns.
fn of_one_word(only: &LocatedCell, all: &[LocatedCell], tested: &Tested) -> Signature {
    let shapes = if only.bad.seen > 1 { vec![Shape::Cell] } else { vec![Shape::Cell, Shape::Scattered] };
    let lanes = if tested.lanes_told { lanes_of(only.bad.wrong) } else { Vec::new() };
    Signature { shapes, odds: None, slots: vec![only.slot], lanes, words: all.len(), strays: all.len() - 1 }
}

fn lanes_of(set: u64) -> Vec<u8> {
    (0..64).filter(|lane| set >> lane & 1 == 1).collect()
}

/// The signature of these words.
pub(super) fn best(all: &[LocatedCell], tested: &Tested) -> Option<Signature> {
    let kept = without_strays(all);
    let kept_out = all.len() - kept.len();
    let cells = thinned(kept);
    if let [only] = &cells[..] {
        return Some(of_one_word(only, all, tested));
    }
    let space = Space::new(tested);
    let mut every: Vec<Tried> = Vec::new();
    for place in places(&cells, tested) {
        let inside: Vec<&LocatedCell> = cells.iter().filter(|one| space.holds(place, one)).collect();
        if !inside.is_empty() {
            let sets = lane_sets(&inside, tested);
            every.extend(sets.into_iter().filter_map(|lanes| tried(&space, &cells, place, lanes)));
        }
    }
    if tested.cells_told {
        every.extend(doubles(&space, &cells));
    }
    every.sort_by(|one, other| other.ln.total_cmp(&one.ln));
    let first = every.first()?;
    let mut chances: Vec<(Shape, f64)> = Vec::new();
    for one in &every {
        let chance = (one.ln - first.ln).exp();
        match chances.iter_mut().find(|(shape, _)| *shape == one.shape) {
            Some((_, sum)) => *sum += chance,
            None => chances.push((one.shape, chance)),
        }
    }
    chances.sort_by(|one, other| other.1.total_cmp(&one.1));
    let (best, rest): (f64, f64) = (chances[0].1, chances[1..].iter().map(|(_, chance)| chance).sum());
    let odds = (best / rest.max(f64::MIN_POSITIVE)).min(MOST_ODDS);
    let named = if odds >= CLEAR_ODDS {
        1
    } else {
        chances.iter().filter(|(_, chance)| *chance >= WORTH_NAMING * best).count()
    };
    let shapes = chances.iter().take(named).map(|(shape, _)| *shape).collect();
    let mut slots: Vec<usize> = cells.iter().filter(|one| space.holds(first.place, one)).map(|one| one.slot).collect();
    slots.sort_unstable();
    slots.dedup();
    let lanes = match first.lanes {
        Lanes::These(set) => lanes_of(set),
        Lanes::All | Lanes::Random if first.shape == Shape::Cell && tested.lanes_told => {
            let wrong = cells.iter().find(|one| space.holds(first.place, one)).map_or(0, |one| one.bad.wrong);
            lanes_of(wrong)
        }
        Lanes::All | Lanes::Random => Vec::new(),
    };
    Some(Signature { shapes, odds: Some(odds), slots, lanes, words: all.len(), strays: first.strays + kept_out })
}
