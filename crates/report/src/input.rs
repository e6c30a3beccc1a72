//! What a report is made from.

use std::fmt::Write as _;

use revisum_diagnose::isolate::{Advice, Case};
use revisum_diagnose::locate::Location;
use revisum_engine::text::cleaned;
use revisum_record::fitted::Module;
use revisum_record::journal::{JobState, Stage, Tick};
use revisum_record::logged::LogEntry;
use revisum_record::outcome::Judgement;
use revisum_record::run_state::RunState;
use revisum_record::speed::SpeedRecord;
use serde::Deserialize;
use sha2::{Digest as _, Sha256};
use thiserror::Error;

use revisum_words::Language;

/// A run of the job.
#[derive(Clone, Copy, Debug)]
pub struct Ran<'a> {
    /// Id.
    pub id: &'a str,
    /// What it came to.
    pub state: &'a RunState,
    /// What it came to.
    pub judgement: &'a Judgement,
    /// When it began, as people read it.
    pub when: &'a str,
    /// Why it does not count, where it does not.
    pub struck: Option<&'a str>,
}

impl Ran<'_> {
    /// Whether another run had the same modules in the same slots, the same settings and tests, and the same choice of memory: what both are worth
    /// adds up.
    pub fn is_like(&self, other: &Self) -> bool {
        let (begin, others) = (&self.state.begin, &other.state.begin);
        let tests = |ran: &Ran<'_>| -> Vec<String> { ran.state.tests.iter().map(|test| test.name.clone()).collect() };
        let chosen = |ran: &Ran<'_>| (ran.judgement.planned.range, ran.judgement.planned.bytes);
        begin.board.known_placement() == others.board.known_placement()
            && begin.settings == others.settings
            && tests(self) == tests(other)
            && chosen(self) == chosen(other)
    }
}

/// Something of a job's course.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Reached {
    /// A stage was reached.
    Stage(Stage),
    /// Somebody confirmed something.
    Tick(Tick),
}

/// What the shop's settings file says.
#[derive(Clone, Debug, Default, PartialEq, Deserialize)]
#[serde(default, deny_unknown_fields)]
pub struct Shop {
    /// Name.
    pub name: String,
    /// Address, telephone, whatever stands below the name.
    pub lines: Vec<String>,
    /// Who did the work.
    pub technician: String,
    /// Language of reports.
    pub language: Option<Language>,
}

/// Why a settings file cannot be used.
#[derive(Debug, Error)]
#[error("{0}")]
pub struct ShopError(String);

/// Longest line of the letterhead.
const LONGEST: usize = 120;
/// Lines below the name.
const MOST_LINES: usize = 5;

impl Shop {
    /// Reads a settings file.
    ///
    /// # Errors
    /// When it is not TOML, or has a key that nobody knows.
    pub fn parse(text: &str) -> Result<Self, ShopError> {
        let shop: Self = toml::from_str(text).map_err(|error| ShopError(error.to_string()))?;
        let clean = |text: &String| cleaned(text, LONGEST);
        Ok(Self {
            name: clean(&shop.name),
            lines: shop.lines.iter().take(MOST_LINES).map(clean).collect(),
            technician: clean(&shop.technician),
            language: shop.language,
        })
    }
}

/// Everything that a report is made from.
#[derive(Clone, Copy)]
pub struct Input<'a> {
    /// The job's journal.
    pub job: &'a JobState,
    /// Its id.
    pub id: &'a str,
    /// The job as evidence.
    pub case: &'a Case,
    /// Odds and verdict; nothing while no run was made.
    pub advice: Option<&'a Advice>,
    /// Runs, oldest first.
    pub runs: &'a [Ran<'a>],
    /// Stages that were reached and what was confirmed, the oldest first, each with when, as people read it.
    pub course: &'a [(Reached, String)],
    /// Notes, the oldest first, each with when, as people read it.
    pub notes: &'a [(String, &'a str)],
    /// Records of this job that are damaged or cannot be read.
    pub lost_records: usize,
    /// Measurements of speed, the oldest first, each with when, as people read it.
    pub speeds: &'a [(String, &'a SpeedRecord)],
    /// What the computer's own system logged, each with when, as people read it.
    pub logged: &'a [(String, &'a LogEntry)],
    /// Where errors were in the run that tells most, and that run.
    pub located: Option<(&'a RunState, &'a Location)>,
    /// What modules are called, by serial number.
    pub name: &'a dyn Fn(&str) -> String,
    /// The shop.
    pub shop: &'a Shop,
    /// When it is made, as people read it.
    pub made: &'a str,
    /// Program with its version.
    pub program: &'a str,
    /// Checksum of the journals.
    pub checksum: Option<&'a str>,
}

impl Input<'_> {
    /// Whether everything is simulated.
    pub fn is_simulated(&self) -> bool {
        self.runs.iter().any(|run| run.state.begin.simulated)
    }

    /// The module with this serial number.
    pub fn module(&self, id: &str) -> Option<&Module> {
        self.job.modules.iter().find(|module| module.serial == id)
    }

    /// Runs that count.
    pub fn counting(&self) -> impl Iterator<Item = &Ran<'_>> {
        self.runs.iter().filter(|run| run.struck.is_none())
    }
}

/// SHA-256 over the names and bytes of journals, in the order of their names: the same journals give the same checksum.
pub fn checksum(journals: &mut [(String, Vec<u8>)]) -> String {
    journals.sort();
    let mut hash = Sha256::new();
    for (name, bytes) in journals.iter() {
        hash.update((name.len() as u64).to_le_bytes());
        hash.update(name.as_bytes());
        hash.update((bytes.len() as u64).to_le_bytes());
        hash.update(bytes);
    }
    hash.finalize().iter().fold(String::new(), |mut text, byte| {
        let _ = write!(text, "{byte:02x}");
        text
    })
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;

    #[test]
    fn the_checksum_follows_from_names_and_bytes_alone() {
        let journals = || vec![("b".to_owned(), b"2".to_vec()), ("a".to_owned(), b"1".to_vec())];
        let sum = checksum(&mut journals());
        let mut turned = journals();
        turned.reverse();
        assert_eq!(sum, checksum(&mut turned));
        for changed in [("b", b"3".to_vec()), ("c", b"2".to_vec())] {
            let mut other = journals();
            other[0] = (changed.0.to_owned(), changed.1);
            assert_ne!(sum, checksum(&mut other));
        }
        assert_eq!(sum.len(), 64);
    }

    #[rstest]
    #[case("name = \"Bench\"\nlanguage = \"de\"\n", Ok("de"))]
    #[case("", Ok(""))]
    #[case("nmae = \"Bench\"", Err("unknown field"))]
    #[case("language = \"xx\"", Err("no language \"xx\""))]
    fn settings_are_read(#[case] text: &str, #[case] expected: Result<&str, &str>) {
        match (Shop::parse(text), expected) {
            (Ok(shop), Ok(language)) => assert_eq!(shop.language.map_or("", Language::tag), language),
            (Err(error), Err(words)) => assert!(error.to_string().contains(words), "{error}"),
            (got, _) => panic!("{got:?}"),
        }
    }
}
