//! The tests that can be chosen, as data: what each does, what it is for, and what it cannot say.

mod background;
mod own;
mod table;

use std::borrow::Cow;
use std::time::Duration;

pub use background::BackgroundKind;
pub use own::{OwnTest, OwnTestError};
pub use table::CATALOG;

use crate::between::Between;
use crate::march::{Element, March};
use crate::path::Path;
use crate::pattern::Background;
use crate::sweep::small_blocks::BLOCK_LINES;
use crate::sweep::{BEHIND_LINES, LINE, PutBack};

/// What a test does.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Work {
    /// A march over one background after the other.
    March {
        /// Notation.
        notation: Cow<'static, str>,
        /// Backgrounds, each with the whole march.
        backgrounds: Cow<'static, [BackgroundKind]>,
        /// Order of the words.
        path: Path,
    },
    /// Words whose addresses differ in one bit are told apart.
    AddressLines,
    /// Copies of half the memory into the other half, shifted by some words.
    ShiftedCopies,
    /// Known-answer computing on some cores, random words on the others.
    Computing,
    /// Vector work with known answers in steps on some cores, all at once, random words on the others.
    LoadSteps,
    /// The machine sleeps between writing and reading, with memory that refreshes itself.
    Sleeping,
    /// Many activations of rows beside others.
    RowDisturbance,
}

/// One test.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct TestSpec {
    /// Name on the command line, in recipes and in journals.
    pub name: Cow<'static, str>,
    /// What the technician wrote about a test of his own; nothing for those of the catalogue.
    pub about: Option<String>,
    /// What it does.
    pub work: Work,
    /// What it comes from: the fault models that it detects by the literature, or what it does, with the source. Empty for tests of one's own.
    pub literature: &'static str,
    /// Runs only when somebody asks for it by name.
    pub on_request: bool,
    /// One core sweeps at a time: the work goes from core to core, block by block.
    pub rotates: bool,
}

/// March of a random fill and check, and of what runs beside computing.
const RANDOM: &str = "any(w0); any(r0); any(w1); any(r1)";
/// March around the activations of row disturbance, and around sleep.
const DISTURB: &str = "any(w0); any(r0); any(w1); any(r1)";

impl TestSpec {
    /// The march that its sweeps make; for tests of other kinds the one that runs around or beside their own work.
    pub fn march(&self) -> March {
        let notation = match &self.work {
            Work::March { notation, .. } => notation.as_ref(),
            Work::AddressLines => return March(Vec::new()),
            Work::ShiftedCopies => "any(w0); any(r0)",
            Work::Computing | Work::LoadSteps => RANDOM,
            Work::RowDisturbance | Work::Sleeping => DISTURB,
        };
        notation.parse().expect("notations of the catalogue are parsed by a test, others when they are read")
    }

    /// The march with its waits set to this length.
    pub fn march_waiting(&self, idle: Option<Duration>) -> March {
        let mut march = self.march();
        for element in &mut march.0 {
            if let (Element::Idle(wait), Some(idle)) = (element, idle) {
                *wait = idle;
            }
        }
        march
    }

    /// The backgrounds of one pass.
    pub fn backgrounds(&self, pass: u32, pass_seed: u64) -> Vec<Background> {
        match &self.work {
            Work::March { backgrounds, .. } => {
                backgrounds.iter().flat_map(|kind| kind.of_pass(pass, pass_seed)).collect()
            }
            Work::AddressLines => Vec::new(),
            Work::ShiftedCopies | Work::Computing | Work::LoadSteps | Work::Sleeping | Work::RowDisturbance => {
                vec![Background::Random(pass_seed)]
            }
        }
    }

    /// Order of the words.
    pub fn path(&self) -> Path {
        if let Work::March { path, .. } = &self.work { *path } else { Path::Linear }
    }

    /// How often one pass goes over the held memory; an element with several operations counts once for each time that it
    /// has to reach the memory.
    pub fn sweeps(&self) -> u64 {
        self.march().steps() as u64 * self.backgrounds(1, 0).len().max(1) as u64
    }

    /// Whether the grade of its march is a grade of the test.
    pub fn is_march(&self) -> bool {
        matches!(self.work, Work::March { .. })
    }

    /// Whether cores compute in it while others sweep.
    pub fn computes(&self) -> bool {
        matches!(self.work, Work::Computing | Work::LoadSteps)
    }

    /// What the memory itself sees of it, from what the kernels do on this processor.
    pub fn sees(&self) -> Sees {
        match &self.work {
            Work::AddressLines => Sees::FewWords,
            Work::ShiftedCopies => Sees::Copies,
            Work::RowDisturbance => Sees::Rows,
            Work::March { .. } | Work::Computing | Work::LoadSteps | Work::Sleeping => {
                Sees::March(SeenMarch::of(&self.march(), PutBack::detect()))
            }
        }
    }
}

/// What the memory sees of a test.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Sees {
    /// A few thousand words, written and read past the caches.
    FewWords,
    /// Every word written past the caches, read while it is copied, and read again in both places.
    Copies,
    /// A few rows opened again and again past the caches; then all words once.
    Rows,
    /// A march.
    March(SeenMarch),
}

/// What the memory sees of a march.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct SeenMarch {
    /// Elements that write without reading go past the caches.
    pub fills: bool,
    /// Where what is written behind a read comes into the memory; nothing where no element reads and writes.
    pub put_back: Option<SeenPutBack>,
    /// Bytes that elements with several operations go over at a time; nothing where there are none.
    pub block_bytes: Option<u64>,
}

/// How what is written behind a read reaches the memory.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct SeenPutBack {
    /// Bytes behind the sweep at which it is put back; nothing where it goes past the caches.
    pub behind_bytes: Option<u64>,
    /// From this distance in bytes on cells see the order of the march.
    pub ordered_from: u64,
}

impl SeenMarch {
    fn of(march: &March, put_back: PutBack) -> Self {
        let reads_and_writes = march.0.iter().any(|element| element.reads() && element.writes());
        let several = march.0.iter().any(|element| element.steps() > 1);
        Self {
            fills: march.0.iter().any(|element| element.writes() && !element.reads()),
            put_back: reads_and_writes.then(|| SeenPutBack {
                behind_bytes: (put_back == PutBack::Behind).then_some((BEHIND_LINES * LINE) as u64),
                ordered_from: Between::cache_of(0, 1, put_back).ordered_from().next_power_of_two(),
            }),
            block_bytes: several.then_some((BLOCK_LINES * LINE) as u64),
        }
    }
}

/// The test of this name.
pub fn find_test(name: &str) -> Option<&'static TestSpec> {
    CATALOG.iter().find(|test| test.name == name)
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;
    use crate::grade::grade;

    #[test]
    fn every_notation_parses_prints_as_written_and_good_memory_passes() {
        for test in CATALOG.iter() {
            if let Work::March { notation, .. } = &test.work {
                assert_eq!(test.march().to_string(), *notation, "{}", test.name);
                grade(&test.march()).unwrap_or_else(|error| panic!("{}: {error}", test.name));
            }
        }
    }

    #[test]
    fn every_test_has_a_name_and_a_source() {
        for test in CATALOG.iter() {
            assert!(!test.literature.is_empty(), "{} has no source", test.name);
            assert!(find_test(&test.name).is_some_and(|found| found.work == test.work));
            assert!(test.name.chars().all(|c| c.is_ascii_lowercase() || c.is_ascii_digit() || c == '-'));
        }
        let mut names: Vec<_> = CATALOG.iter().map(|test| &test.name).collect();
        names.sort();
        names.dedup();
        assert_eq!(names.len(), CATALOG.len());
    }

    #[rstest]
    #[case("random", 4)]
    #[case("address-as-data", 3)]
    #[case("march-c-", 6)]
    #[case("lane-groups", 6 * 4)]
    #[case("march-ss", 14)]
    #[case("address-lines", 0)]
    fn sweeps_of_a_pass(#[case] name: &str, #[case] sweeps: u64) {
        assert_eq!(find_test(name).unwrap().sweeps(), sweeps);
    }

    #[test]
    fn walking_tests_come_to_every_lane() {
        let test = find_test("walking").unwrap();
        let mut lanes: Vec<Background> = (1..=8).flat_map(|pass| test.backgrounds(pass, 0)).collect();
        lanes.sort_by_key(|background| format!("{background:?}"));
        lanes.dedup();
        assert_eq!(lanes.len(), 64);
    }
}
