//! The words that matter on their way between sweeps and cells.

use std::collections::{BTreeMap, VecDeque};
use std::ops::Range;

use super::{Between, Replacement};
use crate::march::Op;
use crate::pattern::pass_seed;
use crate::sweep::{BEHIND_LINES, PutBack, flip};

/// The cells, and who is told what read wrong.
pub trait Cells {
    /// Reads the word at this place.
    fn read(&mut self, at: u64) -> u64;
    /// Writes it.
    fn write(&mut self, at: u64, word: u64);
    /// The processor read something else than it expected there; nothing of the word is in the cache or in the queue.
    fn wrong(&mut self, at: u64, expected: u64, actual: u64);
}

/// A sweep comes to a word that matters.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Visit<'a> {
    /// Its place in bytes.
    pub at: u64,
    /// How many lines the sweep has passed by then.
    pub after: u64,
    /// Lines passed when its line may be fetched at the earliest: its block begins.
    pub fetched_from: u64,
    /// The background's word.
    pub plain: u64,
    /// What is done to it.
    pub ops: &'a [Op],
    /// When its line is flushed because the next piece would find it in the cache, in lines passed.
    pub flushed: Option<u64>,
}

/// What happens at some moment.
#[derive(Clone, Copy, Debug)]
enum Act {
    Fetch,
    /// Number of the visit in the sweep at hand.
    Work {
        visit: usize,
    },
    Flush,
    PutBack {
        used: u64,
    },
    PushOut {
        used: u64,
    },
    Land {
        word: u64,
    },
}

#[derive(Clone, Copy, Debug)]
struct Cached {
    word: u64,
    dirty: bool,
    /// Number of its last use: what was planned before it no longer holds.
    used: u64,
    /// When others have pushed it out.
    until: u64,
}

#[derive(Clone, Debug, Default)]
struct Line {
    cached: Option<Cached>,
    /// When its writes in the queue land, and the newest of them.
    waiting: VecDeque<(u64, u64)>,
    newest: u64,
}

/// Words on their way. Time is counted in lines that have passed.
#[derive(Clone, Debug)]
pub struct Traffic {
    between: Between,
    now: u64,
    /// How far ahead the sweep at hand fetches: the lines that push others out come so much earlier.
    ahead: u64,
    /// Acts planned so far: those of one moment happen in this order.
    planned: u64,
    due: BTreeMap<(u64, u64), (u64, Act)>,
    lines: BTreeMap<u64, Line>,
}

impl Traffic {
    /// Nothing is on its way.
    pub fn new(between: Between) -> Self {
        Self { between, now: 0, ahead: 0, planned: 0, due: BTreeMap::new(), lines: BTreeMap::new() }
    }

    /// Whether something was written to this word that its cells have not seen yet.
    pub fn is_on_its_way(&self, at: u64) -> bool {
        self.lines
            .get(&at)
            .is_some_and(|line| !line.waiting.is_empty() || line.cached.is_some_and(|cached| cached.dirty))
    }

    /// So many lines of an element pass, and among them it visits these words.
    pub fn sweep(&mut self, lines: u64, visits: &[Visit<'_>], cells: &mut impl Cells) {
        let fetches = |visit: &Visit<'_>| matches!(visit.ops.first(), Some(Op::Read { .. }));
        self.ahead = if visits.iter().any(fetches) { self.between.ahead } else { 0 };
        for (number, visit) in visits.iter().enumerate() {
            let moment = self.now + visit.after;
            if fetches(visit) {
                let earliest = self.now + visit.fetched_from;
                self.plan(moment.saturating_sub(self.between.ahead).max(earliest), visit.at, Act::Fetch);
            }
            self.plan(moment, visit.at, Act::Work { visit: number });
            if let Some(after) = visit.flushed {
                self.plan(self.now + after, visit.at, Act::Flush);
            }
        }
        self.go_on(lines, visits, cells);
    }

    /// So many lines pass in which no word that matters is visited.
    pub fn pass(&mut self, lines: u64, cells: &mut impl Cells) {
        self.go_on(lines, &[], cells);
    }

    fn go_on(&mut self, lines: u64, visits: &[Visit<'_>], cells: &mut impl Cells) {
        let end = self.now + lines;
        while let Some(first) = self.due.first_entry().filter(|first| first.key().0 < end) {
            self.now = first.key().0;
            let (at, act) = first.remove();
            self.act(at, act, visits, cells);
        }
        self.now = end;
    }

    /// Writes a range back and drops it from the cache, in a direction.
    pub fn flush(&mut self, range: Range<u64>, down: bool) {
        let mut places: Vec<u64> = self.lines.range(range).map(|(at, _)| *at).collect();
        if down {
            places.reverse();
        }
        places.into_iter().for_each(|at| self.give_up(at));
    }

    /// Lets one word reach its cells at once.
    pub fn settle(&mut self, at: u64, cells: &mut impl Cells) {
        if !self.lines.contains_key(&at) {
            return;
        }
        self.give_up(at);
        for key in self.lines.remove(&at).map(|line| line.waiting).unwrap_or_default() {
            if let Some((_, Act::Land { word })) = self.due.remove(&key) {
                cells.write(at, word);
            }
        }
    }

    /// Lets everything in a range reach its cells at once.
    pub fn settle_all(&mut self, range: Range<u64>, cells: &mut impl Cells) {
        let places: Vec<u64> = self.lines.range(range).map(|(at, _)| *at).collect();
        places.into_iter().for_each(|at| self.settle(at, cells));
    }

    fn plan(&mut self, moment: u64, at: u64, act: Act) -> (u64, u64) {
        self.planned += 1;
        self.due.insert((moment, self.planned), (at, act));
        (moment, self.planned)
    }

    fn act(&mut self, at: u64, act: Act, visits: &[Visit<'_>], cells: &mut impl Cells) {
        match act {
            Act::Fetch => {
                self.load(at, cells);
            }
            Act::Work { visit } => {
                let visit = visits[visit];
                visit.ops.iter().for_each(|op| self.work(&visit, *op, cells));
            }
            Act::Flush => self.give_up(at),
            Act::PutBack { used } | Act::PushOut { used } => {
                if self.lines.get(&at).and_then(|line| line.cached).is_some_and(|cached| cached.used == used) {
                    self.give_up(at);
                }
            }
            Act::Land { word } => {
                if let Some(line) = self.lines.get_mut(&at) {
                    line.waiting.pop_front();
                }
                cells.write(at, word);
                self.forget_if_idle(at);
            }
        }
    }

    fn work(&mut self, visit: &Visit<'_>, op: Op, cells: &mut impl Cells) {
        let Visit { at, plain, ops, .. } = *visit;
        match op {
            Op::Read { inverse } => {
                let (expected, actual) = (plain ^ flip(inverse), self.load(at, cells));
                if expected != actual {
                    // Who looks again does so in the memory itself.
                    self.settle(at, cells);
                    cells.wrong(at, expected, actual);
                }
            }
            Op::Write { inverse } => {
                let past_the_cache = ops.len() == 1 || self.between.put_back == Some(PutBack::Streamed);
                self.store(at, plain ^ flip(inverse), past_the_cache, cells);
            }
        }
    }

    fn load(&mut self, at: u64, cells: &mut impl Cells) -> u64 {
        let now = self.now;
        let line = self.lines.entry(at).or_default();
        // A dirty line is pushed out when its moment comes; of a clean one nobody notices.
        let cached = line.cached.filter(|cached| cached.dirty || cached.until > now);
        let (word, dirty) = match cached {
            Some(cached) => (cached.word, cached.dirty),
            None if !line.waiting.is_empty() => (line.newest, false),
            None => (cells.read(at), false),
        };
        self.keep(at, word, dirty);
        word
    }

    fn store(&mut self, at: u64, word: u64, past_the_cache: bool, cells: &mut impl Cells) {
        if past_the_cache {
            self.give_up(at);
            return self.queue(at, word);
        }
        // A line is fetched before a part of it is written.
        self.load(at, cells);
        let used = self.keep(at, word, true);
        if self.between.put_back == Some(PutBack::Behind) {
            self.plan(self.now + BEHIND_LINES as u64, at, Act::PutBack { used });
        }
    }

    /// The line was used and is in the cache; plans when it is pushed out unless it is used again.
    fn keep(&mut self, at: u64, word: u64, dirty: bool) -> u64 {
        self.planned += 1;
        let used = self.planned;
        let until = self.now.saturating_add(self.stays());
        self.lines.entry(at).or_default().cached = Some(Cached { word, dirty, used, until });
        if dirty && self.between.put_back.is_none() {
            self.plan(until, at, Act::PushOut { used });
        }
        used
    }

    /// How many lines pass until a line is pushed out.
    fn stays(&self) -> u64 {
        let passed = match self.between.replacement {
            Replacement::LeastRecent => self.between.cache,
            Replacement::Random => {
                // Each line that comes into the set takes the place of this one with a chance of one in the ways.
                let chance = (pass_seed(self.between.cache, self.planned as u32) >> 11) as f64 / (1u64 << 53) as f64;
                let ways = self.between.ways as f64;
                let comers = if self.between.ways < 2 { 0.0 } else { (1.0 - chance).ln() / (1.0 - 1.0 / ways).ln() };
                ((comers.floor() + 1.0) * self.between.cache as f64 / ways) as u64
            }
        };
        passed.saturating_sub(self.ahead).max(1)
    }

    /// Out of the cache; what was written there goes into the queue.
    fn give_up(&mut self, at: u64) {
        let Some(cached) = self.lines.get_mut(&at).and_then(|line| line.cached.take()) else { return };
        if cached.dirty {
            self.queue(at, cached.word);
        }
        self.forget_if_idle(at);
    }

    fn queue(&mut self, at: u64, word: u64) {
        let lands = self.plan(self.now + self.between.queue, at, Act::Land { word });
        let line = self.lines.entry(at).or_default();
        line.waiting.push_back(lands);
        line.newest = word;
    }

    fn forget_if_idle(&mut self, at: u64) {
        if self.lines.get(&at).is_some_and(|line| line.cached.is_none() && line.waiting.is_empty()) {
            self.lines.remove(&at);
        }
    }
}
