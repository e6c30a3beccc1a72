//! Whole caches, played line by line, against the few words that [`Traffic`] plays.

use std::collections::VecDeque;

use proptest::prelude::*;

use super::*;
use crate::march::{March, Op};
use crate::pattern::WordRule;
use crate::sweep::ElementWork;

const LINE_BYTES: u64 = LINE as u64;

/// What the cells of two places are asked, in order.
#[derive(Debug, Default, PartialEq, Eq)]
struct Asked(Vec<(u64, char)>, std::collections::BTreeMap<u64, u64>);

impl Cells for Asked {
    fn read(&mut self, at: u64) -> u64 {
        self.0.push((at, 'r'));
        self.1[&at]
    }
    fn write(&mut self, at: u64, word: u64) {
        self.0.push((at, 'w'));
        self.1.insert(at, word);
    }
    fn wrong(&mut self, at: u64, expected: u64, actual: u64) {
        panic!("{at} reads {actual} instead of {expected}");
    }
}

/// A set-associative cache that is written back, and a queue, over every line of a range.
struct Dense {
    between: Between,
    /// Lines of each set, the one used last at the back, with whether it was written to.
    sets: Vec<VecDeque<(u64, bool)>>,
    queue: VecDeque<(u64, u64)>,
    now: u64,
    watched: Vec<u64>,
    asked: Asked,
}

impl Dense {
    fn new(between: Between, watched: Vec<u64>) -> Self {
        let sets = vec![VecDeque::new(); (between.cache / between.ways) as usize];
        Self { between, sets, queue: VecDeque::new(), now: 0, watched, asked: Asked::default() }
    }

    fn ask(&mut self, line: u64, what: char) {
        if self.watched.contains(&line) {
            self.asked.0.push((line * LINE_BYTES, what));
        }
    }

    fn set(&mut self, line: u64) -> &mut VecDeque<(u64, bool)> {
        let count = self.sets.len() as u64;
        &mut self.sets[(line % count) as usize]
    }

    fn give_up(&mut self, line: u64) {
        let set = self.set(line);
        if let Some(at) = set.iter().position(|(held, _)| *held == line) {
            let dirty = set.remove(at).is_some_and(|(_, dirty)| dirty);
            if dirty {
                self.queue.push_back((self.now, line));
            }
        }
    }

    fn touch(&mut self, line: u64, writes: bool) {
        let (ways, now) = (self.between.ways as usize, self.now);
        let set = self.set(line);
        let dirty = match set.iter().position(|(held, _)| *held == line) {
            Some(at) => set.remove(at).is_some_and(|(_, dirty)| dirty),
            None => {
                let pushed_out = if set.len() == ways { set.pop_front() } else { None };
                if let Some((out, true)) = pushed_out {
                    self.queue.push_back((now, out));
                }
                if !self.queue.iter().any(|(_, held)| *held == line) {
                    self.ask(line, 'r');
                }
                false
            }
        };
        self.set(line).push_back((line, dirty || writes));
    }

    fn work(&mut self, line: u64, ops: &[Op]) {
        for op in ops {
            match op {
                Op::Read { .. } => self.touch(line, false),
                Op::Write { .. } if ops.len() == 1 => {
                    self.give_up(line);
                    self.queue.push_back((self.now, line));
                }
                Op::Write { .. } => self.touch(line, true),
            }
        }
    }

    fn drain(&mut self) {
        while self.queue.front().is_some_and(|(since, _)| since + self.between.queue <= self.now) {
            if let Some((_, line)) = self.queue.pop_front() {
                self.ask(line, 'w');
            }
        }
    }

    fn element(&mut self, work: &ElementWork, lines: u64) {
        let reads = matches!(work.ops[0], Op::Read { .. });
        let behind = BEHIND_LINES as u64;
        let line = |step: u64| if work.down { lines - 1 - step } else { step };
        for step in 0..lines {
            self.drain();
            if reads && step + self.between.ahead < lines {
                self.touch(line(step + self.between.ahead), false);
            }
            if self.between.put_back.is_some() && work.writes() && reads && step >= behind {
                self.give_up(line(step - behind));
            }
            self.work(line(step), &work.ops);
            self.now += 1;
        }
    }
}

/// What two lines are asked by whole caches and by [`Traffic`].
fn both(between: Between, march: &str, lines: u64, watched: [u64; 2]) -> (Asked, Asked) {
    let march: March = march.parse().unwrap();
    let works: Vec<ElementWork> =
        march.0.iter().filter_map(|element| ElementWork::of(element, WordRule::Constant(0))).collect();
    let mut dense = Dense::new(between, watched.to_vec());
    let (mut traffic, mut sparse) = (Traffic::new(between), Asked::default());
    let mut places = watched.map(|line| line * LINE_BYTES);
    places.sort_unstable();
    for work in &works {
        dense.element(work, lines);
        let planned = schedule(0..lines * LINE_BYTES, work, &places, |_| 0);
        traffic.sweep(planned.lines, &planned.visits, &mut sparse);
    }
    (dense.asked, sparse)
}

fn march() -> impl Strategy<Value = &'static str> {
    prop::sample::select(vec![
        "any(w0); up(r0,w1); up(r1,w0); down(r0,w1); down(r1,w0); any(r0)",
        "any(w0); up(r0,w1); down(r1,w0); any(r0)",
        "up(w0); up(r0); down(r0); up(w1); down(r1)",
        "down(w0); down(r0,w1); down(r1,w0); up(r0)",
    ])
}

proptest! {
    #[test]
    fn words_that_matter_see_what_a_whole_cache_lets_through(
        march in march(),
        put_back in prop::option::of(Just(PutBack::Behind)),
        ways in prop::sample::select(vec![1u64, 4, 16]),
        // Far from where sweeps turn round: which of the lines left there goes first depends on their sets.
        first in 600u64..3600,
        apart in 1u64..3000,
    ) {
        let between = Between { cache: 512, ways, queue: 24, put_back, ..Between::cache_of(1, 1, PutBack::Behind) };
        // Moments that lie so close together that a line more or less turns them round are left out.
        let edges = [0, between.ahead, BEHIND_LINES as u64 + between.queue, between.ordered_from() / LINE_BYTES, between.cache,
            between.cache + between.queue];
        prop_assume!(edges.iter().all(|edge| apart.abs_diff(*edge) > 2));
        let (dense, sparse) = both(between, march, 7200, [first, first + apart]);
        prop_assert_eq!(dense.0, sparse.0);
    }
}

#[test]
fn a_cache_that_puts_nothing_back_turns_the_order_round() {
    let old = Between { put_back: None, ..Between::cache_of(8 << 20, 16, PutBack::Behind) };
    let new = Between { put_back: Some(PutBack::Behind), ..old };
    assert_eq!(new.ordered_from(), 3584);
    assert!(old.ordered_from() > 8 << 20);
}
