//! What to run: depth, tests, passes, amount, core sharing, caches and end.

use std::time::Duration;

use serde::{Deserialize, Serialize};
use thiserror::Error;

use crate::catalog::{CATALOG, OwnTest, OwnTestError, TestSpec, find_test};
use crate::units::{ByteRange, MIB};

/// How long to look.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize, PartialOrd, Ord)]
#[serde(rename_all = "kebab-case")]
pub enum Depth {
    /// Minutes: one pass.
    #[default]
    Triage,
    /// About an hour on any amount of memory.
    Survey,
    /// A whole night.
    Overnight,
}

impl Depth {
    /// All depths, shallow first.
    pub const ALL: [Self; 3] = [Self::Triage, Self::Survey, Self::Overnight];

    /// Its name.
    pub fn word(self) -> &'static str {
        match self {
            Self::Triage => "triage",
            Self::Survey => "survey",
            Self::Overnight => "overnight",
        }
    }

    /// The depth with this [`Self::word`].
    pub fn of_word(word: &str) -> Option<Self> {
        Self::ALL.into_iter().find(|depth| depth.word() == word)
    }

    /// Number of passes; nothing means as many as fit.
    pub fn passes(self) -> Option<u32> {
        (self == Self::Triage).then_some(1)
    }

    /// Seconds of each wait, where they are not as the tests say.
    pub fn idle_seconds(self) -> Option<u64> {
        (self == Self::Overnight).then_some(300)
    }

    /// Time after which the run ends, in seconds.
    pub fn seconds(self) -> Option<u64> {
        match self {
            Self::Triage => None,
            Self::Survey => Some(3600),
            Self::Overnight => Some(8 * 3600),
        }
    }
}

/// What of the memory each working core covers.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub enum CoreSharing {
    /// Cores divide the memory: each covers its share, all at once.
    // Records of older programs know other words.
    #[default]
    #[serde(alias = "split", alias = "solo", alias = "rota")]
    Divide,
    /// Every core covers all memory, one after the other, test by test.
    #[serde(alias = "relay")]
    Each,
}

impl CoreSharing {
    /// Its name.
    pub fn word(self) -> &'static str {
        match self {
            Self::Divide => "divide",
            Self::Each => "each",
        }
    }
}

/// What is done to keep caches from answering for the memory.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub enum Caches {
    /// As each test needs: flushed where the next sweep would otherwise find in a cache what this one left there.
    #[default]
    #[serde(alias = "flow")]
    PerTest,
    /// Flushed after every sweep.
    #[serde(alias = "bypass")]
    Flush,
}

/// What to run.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Recipe {
    /// Where the defaults come from.
    pub depth: Depth,
    /// Names of the tests.
    pub tests: Vec<String>,
    /// Number of passes; nothing means until the time is up or somebody stops it.
    pub passes: Option<u32>,
    /// Seconds after which the run ends.
    pub for_seconds: Option<u64>,
    /// Ends once this many words have read wrong.
    pub stop_after: Option<u64>,
    /// Bytes to hold; as much as can be had when absent.
    pub memory: Option<u64>,
    /// Only memory in this physical range.
    pub range: Option<ByteRange>,
    /// Whether cores divide the memory.
    pub cores: CoreSharing,
    /// Which of the usable cores work, from 0; all when empty.
    #[serde(default)]
    pub which_cores: Vec<usize>,
    /// Caches.
    pub caches: Caches,
    /// Seconds of every wait in a test; as the tests say when absent.
    #[serde(default)]
    pub idle_seconds: Option<u64>,
    /// Beyond its passes it goes on until the temperature is stable.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub soak: bool,
    /// Tests that are not of the catalogue.
    #[serde(default)]
    pub own: Vec<OwnTest>,
}

/// Why a recipe cannot be run.
#[derive(Debug, Error, PartialEq, Eq)]
pub enum RecipeError {
    /// A name that is not in the catalogue.
    #[error("there is no test named {name:?}. The tests are: {known}")]
    UnknownTest {
        /// As it was given.
        name: String,
        /// What there is.
        known: String,
    },
    /// Every test is off.
    #[error("no test is chosen, so nothing would be tested. Switch at least one on")]
    NoTest,
    /// Zero passes.
    #[error("0 passes would test nothing. Ask for at least 1")]
    NoPass,
    /// It would end before it begins.
    #[error("stopping after 0 errors would test nothing. Ask for at least 1")]
    NoError,
    /// Less memory than can be taken.
    #[error("{0} bytes are less than can be tested. Ask for at least 1 MiB")]
    LittleMemory(u64),
    /// A core that is not there.
    #[error("core {core} cannot be used: this machine has the cores 0 to {last}")]
    NoSuchCore {
        /// As it was given.
        core: usize,
        /// Highest usable core.
        last: usize,
    },
    /// A test of one's own that cannot be run.
    #[error(transparent)]
    Own(#[from] OwnTestError),
}

impl Recipe {
    /// The defaults of a depth with these tests.
    pub fn with_tests(depth: Depth, tests: Vec<String>) -> Self {
        Self {
            depth,
            tests,
            passes: depth.passes(),
            for_seconds: depth.seconds(),
            stop_after: None,
            memory: None,
            range: None,
            cores: CoreSharing::default(),
            which_cores: Vec::new(),
            caches: Caches::default(),
            idle_seconds: depth.idle_seconds(),
            soak: false,
            own: Vec::new(),
        }
    }

    /// Whether one of its tests makes the processor compute beside the sweeps.
    pub fn computes(&self) -> bool {
        self.specs().is_ok_and(|specs| specs.iter().any(TestSpec::computes))
    }

    /// The chosen tests in the order in which a pass runs them, each once: those of the catalogue, then one's own.
    ///
    /// # Errors
    /// When a name is unknown, nothing is chosen, no pass would run, or a test of one's own is wrong.
    pub fn specs(&self) -> Result<Vec<TestSpec>, RecipeError> {
        let own: Vec<TestSpec> = self.own.iter().map(OwnTest::spec).collect::<Result<_, _>>()?;
        let known = |name: &str| find_test(name).is_some() || own.iter().any(|test| test.name == name);
        if let Some(name) = self.tests.iter().find(|name| !known(name)) {
            let names: Vec<&str> = CATALOG.iter().chain(&own).map(|test| test.name.as_ref()).collect();
            let name = crate::text::cleaned(name, 40);
            return Err(RecipeError::UnknownTest { name, known: names.join(", ") });
        }
        if self.tests.is_empty() {
            return Err(RecipeError::NoTest);
        }
        if self.passes == Some(0) {
            return Err(RecipeError::NoPass);
        }
        if self.stop_after == Some(0) {
            return Err(RecipeError::NoError);
        }
        let chosen = |test: &&TestSpec| self.tests.iter().any(|name| *name == test.name);
        Ok(CATALOG.iter().chain(&own).filter(chosen).cloned().collect())
    }

    /// Whether enough memory is asked for to say anything of a real machine.
    ///
    /// # Errors
    /// When it is less than 1 MiB.
    pub fn is_of_enough_memory(&self) -> Result<(), RecipeError> {
        let in_range = self.range.map(|range| range.end.saturating_sub(range.start));
        match [self.memory, in_range].into_iter().flatten().find(|bytes| *bytes < MIB) {
            Some(bytes) => Err(RecipeError::LittleMemory(bytes)),
            None => Ok(()),
        }
    }

    /// The cores that work, of so many usable ones.
    ///
    /// # Errors
    /// When one is named that is not there.
    pub fn workers(&self, usable: usize) -> Result<Vec<usize>, RecipeError> {
        let last = usable.max(1) - 1;
        if let Some(core) = self.which_cores.iter().find(|core| **core > last) {
            return Err(RecipeError::NoSuchCore { core: *core, last });
        }
        let mut cores = if self.which_cores.is_empty() { (0..=last).collect() } else { self.which_cores.clone() };
        cores.sort_unstable();
        cores.dedup();
        Ok(cores)
    }

    /// How long waits last, where the recipe says so.
    pub fn idle(&self) -> Option<Duration> {
        self.idle_seconds.map(Duration::from_secs)
    }
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;
    use crate::catalog::BackgroundKind;
    use crate::path::Path;

    fn recipe(tests: &[&str]) -> Recipe {
        Recipe::with_tests(Depth::Triage, tests.iter().map(|name| (*name).to_owned()).collect())
    }

    #[rstest]
    #[case(&["march-c-", "random"], Some(1), Ok(vec!["random", "march-c-"]))]
    #[case(&["mine", "random"], None, Ok(vec!["random", "mine"]))]
    #[case(&["row-disturbance"], None, Ok(vec!["row-disturbance"]))]
    #[case(&[], None, Err(RecipeError::NoTest))]
    #[case(&["random"], Some(0), Err(RecipeError::NoPass))]
    fn tests_run_in_catalogue_order_or_are_refused(
        #[case] tests: &[&str],
        #[case] passes: Option<u32>,
        #[case] expected: Result<Vec<&str>, RecipeError>,
    ) {
        let own = OwnTest {
            name: "mine".into(),
            notation: "any(w0); any(r0)".into(),
            backgrounds: vec![BackgroundKind::Solid],
            path: Path::Linear,
            rotate: false,
            purpose: String::new(),
        };
        let recipe = Recipe { passes, own: vec![own], ..recipe(tests) };
        let names = recipe.specs().map(|specs| specs.iter().map(|spec| spec.name.to_string()).collect::<Vec<_>>());
        assert_eq!(names, expected.map(|names| names.into_iter().map(str::to_owned).collect()));
    }

    #[test]
    fn an_unknown_test_is_named_with_what_there_is() {
        let error = recipe(&["marsh"]).specs().unwrap_err().to_string();
        assert!(error.contains("\"marsh\"") && error.contains("march-c-"), "{error}");
    }

    /// Records of older programs know four ways of sharing and three of caches.
    #[rstest]
    #[case("split", "per-test", CoreSharing::Divide, Caches::PerTest)]
    #[case("solo", "flow", CoreSharing::Divide, Caches::PerTest)]
    #[case("rota", "bypass", CoreSharing::Divide, Caches::Flush)]
    #[case("relay", "flush", CoreSharing::Each, Caches::Flush)]
    #[case("each", "flush", CoreSharing::Each, Caches::Flush)]
    fn older_words_are_read(
        #[case] cores: &str,
        #[case] caches: &str,
        #[case] expected: CoreSharing,
        #[case] flushed: Caches,
    ) {
        let written = serde_json::to_value(recipe(&["random"])).unwrap();
        let mut older = written.clone();
        (older["cores"], older["caches"]) = (cores.into(), caches.into());
        let read: Recipe = serde_json::from_value(older).unwrap();
        assert_eq!((read.cores, read.caches), (expected, flushed));
    }

    #[rstest]
    #[case(&[], 4, Ok(vec![0, 1, 2, 3]))]
    #[case(&[2, 0, 2], 4, Ok(vec![0, 2]))]
    #[case(&[4], 4, Err(RecipeError::NoSuchCore { core: 4, last: 3 }))]
    fn workers(#[case] which: &[usize], #[case] usable: usize, #[case] expected: Result<Vec<usize>, RecipeError>) {
        assert_eq!(Recipe { which_cores: which.to_vec(), ..recipe(&["random"]) }.workers(usable), expected);
    }
}
