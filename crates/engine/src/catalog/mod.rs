//! The tests that can be chosen, as data: what each does, what it is for, and what it cannot say.

mod background;
mod own;
mod table;

use std::borrow::Cow;
use std::time::Duration;

pub use background::BackgroundKind;
pub use own::{OwnTest, OwnTestError};
pub use table::CATALOG;

use crate::march::{Element, March};
use crate::pattern::Background;

/// The order in which an element visits the words of a few MiB.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, serde::Serialize, serde::Deserialize)]
#[serde(rename_all = "kebab-case")]
pub enum Path {
    /// One after the other.
    #[default]
    Linear,
    /// From row to row: neighbouring accesses lie [`HOP_BYTES`] apart.
    RowHopping,
}

/// Distance of a row-hopping step: beyond the rows of all banks and channels of ordinary machines, so that each step opens
/// another row.
pub const HOP_BYTES: u64 = 256 << 10;

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
    /// Many activations of rows beside others.
    RowDisturbance,
}

/// One test.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct TestSpec {
    /// Name on the command line, in recipes and in journals.
    pub name: Cow<'static, str>,
    /// Name on the screen.
    pub title: Cow<'static, str>,
    /// What it is for, in plain words.
    pub purpose: Cow<'static, str>,
    /// What it does.
    pub work: Work,
    /// Fault models that it detects by the literature, with the source; empty where no literature grades it.
    pub literature: &'static str,
    /// What it cannot say.
    pub limits: &'static str,
    /// Runs only when somebody asks for it by name.
    pub on_request: bool,
}

/// March of a random fill and check, and of what runs beside computing.
const RANDOM: &str = "any(w0); any(r0); any(w1); any(r1)";
/// March around the activations of row disturbance.
const DISTURB: &str = "any(w0); any(r0); any(w1); any(r1)";

impl TestSpec {
    /// The march that its sweeps make; for tests of other kinds the one that runs around or beside their own work.
    pub fn march(&self) -> March {
        let notation = match &self.work {
            Work::March { notation, .. } => notation.as_ref(),
            Work::AddressLines => return March(Vec::new()),
            Work::ShiftedCopies => "any(w0); any(r0)",
            Work::Computing => RANDOM,
            Work::RowDisturbance => DISTURB,
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
            Work::ShiftedCopies | Work::Computing | Work::RowDisturbance => vec![Background::Random(pass_seed)],
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

    /// What the memory itself sees of it.
    pub fn sees(&self) -> String {
        let march = self.march();
        let several = march.0.iter().any(|element| element.steps() > 1);
        match (&self.work, several) {
            (Work::AddressLines, _) => "A few thousand words, each written and read past the caches.".to_owned(),
            (Work::ShiftedCopies, _) => {
                "Every word written past the caches, read while it is copied, and read again in both places.".to_owned()
            }
            (Work::RowDisturbance, _) => {
                "Rows opened again and again past the caches, a few of them; then all words read once.".to_owned()
            }
            (_, true) => {
                "Elements with several operations work on 256 KiB at a time and put them back into the memory between \
                          operations: within those, operations follow sweep by sweep instead of word by word."
                    .to_owned()
            }
            (_, false) => {
                "Every read and write: a sweep is far longer than the caches, and where it turns round its end is put \
                           back into the memory first."
                    .to_owned()
            }
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
    fn every_test_says_what_it_is_for_and_what_it_cannot_say() {
        for test in CATALOG.iter() {
            assert!(test.purpose.len() > 40 && !test.limits.is_empty() && !test.sees().is_empty(), "{}", test.name);
            assert!(find_test(&test.name).is_some_and(|found| found.title == test.title));
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
