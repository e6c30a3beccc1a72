//! Two thousand faults of every kind, from two failing words to a hundred thousand, with strays: how often the shape is named, and how
//! often rightly.

use revisum_record::digest::Digest;
use std::collections::BTreeMap;

use super::*;
use revisum_engine::sweep::second_look::Kind;

const GEOMETRY: Geometry = Geometry { ranks: 2, banks: 16, rows: 1 << 15, columns: 1 << 10, package_width: 8 };
const CHANNELS: [usize; 4] = [0, 0, 1, 1];

struct Dice(u64);

impl Dice {
    fn next(&mut self) -> u64 {
        self.0 = self.0.wrapping_add(0x9e37_79b9_7f4a_7c15);
        let mut mixed = self.0;
        mixed = (mixed ^ mixed >> 30).wrapping_mul(0xbf58_476d_1ce4_e5b9);
        mixed = (mixed ^ mixed >> 27).wrapping_mul(0x94d0_49bb_1331_11eb);
        mixed ^ mixed >> 31
    }

    fn below(&mut self, end: u32) -> u32 {
        (self.next() % u64::from(end)) as u32
    }

    fn chance(&mut self) -> f64 {
        self.next() as f64 / u64::MAX as f64
    }

    fn cell(&mut self) -> Cell {
        Cell {
            rank: self.below(GEOMETRY.ranks),
            bank: self.below(GEOMETRY.banks),
            row: self.below(GEOMETRY.rows),
            column: self.below(GEOMETRY.columns),
        }
    }

    /// Some of these lanes, at least one.
    fn some(&mut self, lanes: u64) -> u64 {
        loop {
            let wrong = self.next() & lanes;
            if wrong != 0 {
                return wrong;
            }
        }
    }
}

/// Fewest and most failing words of a shape.
fn sizes(shape: Shape) -> (u32, u32) {
    match shape {
        Shape::Cell => (1, 1),
        Shape::Row => (2, 1 << 10),
        Shape::Column => (2, 1 << 15),
        Shape::Scattered => (1, 1000),
        Shape::DecoderDoubles => (2, 64),
        _ => (2, 100_000),
    }
}

/// One failing word of a fault; `fixed` chooses which fault.
fn failing(shape: Shape, fixed: &mut Dice, dice: &mut Dice) -> (usize, Cell, u64) {
    let (slot, home) = (fixed.below(4) as usize, fixed.cell());
    let package = 0xffu64 << (8 * fixed.below(8));
    let lane = 1u64 << fixed.below(64);
    let other_lane = 1u64 << ((lane.trailing_zeros() + 1 + fixed.below(63)) % 64);
    let bit = fixed.below(15);
    let any = dice.cell();
    match shape {
        Shape::Cell => (slot, home, lane),
        Shape::Row => (slot, Cell { column: any.column, ..home }, dice.some(package)),
        Shape::Column => (slot, Cell { row: any.row, ..home }, lane),
        Shape::Bank => (slot, Cell { row: any.row, column: any.column, ..home }, dice.some(package)),
        Shape::Lane => (slot, any, lane),
        Shape::LanePair => (slot, any, dice.some(lane | other_lane)),
        Shape::ByteLane => (slot, any, dice.some(package)),
        Shape::AddressLine => (slot, Cell { row: any.row | 1 << bit, ..any }, dice.next()),
        Shape::HalfModule => (slot, Cell { rank: home.rank, ..any }, dice.next()),
        Shape::WholeModule => (slot, any, dice.next()),
        Shape::Channel => (slot / 2 * 2 + dice.below(2) as usize, any, dice.next()),
        Shape::Machine => (dice.below(4) as usize, any, dice.next()),
        Shape::Scattered | Shape::DecoderDoubles => (dice.below(4) as usize, any, 1 << dice.below(64)),
    }
}

/// What a fault of this shape shows, put through the digest.
fn seen(shape: Shape, words: u32, strays: f64, seed: u64) -> Vec<LocatedCell> {
    let mut dice = Dice(seed ^ 0xabcd);
    let mut digest = Digest::default();
    let mut places: BTreeMap<u64, (usize, Cell)> = BTreeMap::new();
    let mut fail = |slot: usize, cell: Cell, wrong: u64| {
        let place = ((slot as u64) << 31 | u64::from(cell.rank) << 30 | u64::from(cell.bank) << 26)
            | u64::from(cell.row) << 10
            | u64::from(cell.column);
        digest.add(place << 3, 0, wrong, Kind::Recurring);
        places.insert(place << 3, (slot, cell));
    };
    let repeats = if shape == Shape::Cell { 40 } else { 1 };
    for at in 0..words {
        if shape == Shape::DecoderDoubles {
            let (mut fixed, partner) = (Dice(seed), at / 2);
            let (slot, bit) = (fixed.below(4) as usize, fixed.below(15));
            let mut pair = Dice(seed ^ u64::from(partner) << 32);
            let (cell, wrong) = (pair.cell(), pair.next());
            fail(slot, Cell { row: cell.row ^ (at & 1) << bit, ..cell }, wrong);
            continue;
        }
        for _ in 0..repeats {
            let (slot, cell, wrong) = failing(shape, &mut Dice(seed), &mut dice);
            fail(slot, cell, wrong);
            if dice.chance() < strays {
                fail(dice.below(4) as usize, dice.cell(), 1 << dice.below(64));
            }
        }
    }
    digest.cells().map(|(place, bad)| LocatedCell { slot: places[&place].0, cell: places[&place].1, bad }).collect()
}

fn tested() -> Tested {
    Tested { channels: CHANNELS.into(), geometry: GEOMETRY, cells_told: true, lanes_told: true }
}

#[test]
fn shapes_are_named_rightly() {
    let mut table: BTreeMap<Shape, [u32; 4]> = BTreeMap::new();
    let cases = 2002;
    for case in 0..cases {
        let shape = Shape::ALL[case % Shape::ALL.len()];
        let mut dice = Dice(case as u64 * 77);
        let (least, most) = sizes(shape);
        let span = (f64::from(most) / f64::from(least)).ln();
        let words = (f64::from(least) * (dice.chance() * span).exp()).round() as u32;
        let words = if shape == Shape::DecoderDoubles { words.next_multiple_of(2) } else { words };
        let cells = seen(shape, words, dice.chance() * 0.1, dice.next());
        let signature = Signature::read(&cells, &tested()).unwrap();
        let row = table.entry(shape).or_default();
        row[0] += 1;
        match signature.shape() {
            Some(named) if named == shape => row[1] += 1,
            Some(_) => row[2] += 1,
            None if signature.shapes.contains(&shape) => row[3] += 1,
            None => {}
        }
    }
    let sum = |at: usize| table.values().map(|row| row[at]).sum::<u32>();
    let (right, wrong) = (sum(1), sum(2));
    let (answered, rightly) = (f64::from(right + wrong) / cases as f64, f64::from(right) / f64::from(right + wrong));
    println!("shape: cases, right, wrong, open with it among the named");
    table.iter().for_each(|(shape, row)| println!("{shape:?}: {row:?}"));
    println!("answered {answered:.3}, right {rightly:.3}");
    assert!(answered >= 0.85, "only {answered:.3} answered");
    assert!(rightly >= 0.97, "only {rightly:.3} right");
}

#[test]
fn without_lanes_nothing_is_said_of_lanes() {
    let cells = seen(Shape::Lane, 300, 0.0, 5);
    let blind = Tested { lanes_told: false, ..tested() };
    let signature = Signature::read(&cells, &blind).unwrap();
    assert!(signature.lanes.is_empty() && !signature.shapes.contains(&Shape::Lane), "{signature:?}");
    assert_eq!(Signature::read(&cells, &tested()).unwrap().lanes.len(), 1);
}

#[test]
fn without_a_map_nothing_is_said_of_rows() {
    let blind = Tested { channels: vec![0], cells_told: false, ..tested() };
    for (shape, named) in [(Shape::Row, None), (Shape::Lane, Some(Shape::Lane)), (Shape::Cell, Some(Shape::Cell))] {
        let mut cells = seen(shape, if shape == Shape::Cell { 1 } else { 300 }, 0.0, 5);
        cells.iter_mut().for_each(|one| one.slot = 0);
        let signature = Signature::read(&cells, &blind).unwrap();
        match named {
            Some(named) => assert_eq!(signature.shape(), Some(named), "{signature:?}"),
            None => assert!(!signature.shapes.contains(&shape), "{signature:?}"),
        }
    }
}

#[test]
fn every_shape_points_somewhere() {
    for shape in Shape::ALL {
        assert!(!causes(shape).is_empty(), "{shape:?}");
    }
    assert_eq!(Signature::read(&[], &tested()), None);
}
