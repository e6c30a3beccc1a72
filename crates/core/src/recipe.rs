//! What to run: depth, tests, passes, amount, core sharing, caches and end.

use serde::{Deserialize, Serialize};
use thiserror::Error;

use crate::march::{CATALOG, TestSpec, find_test};
use crate::units::ByteRange;

/// How long to look.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
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

    /// What it means, in a line.
    pub fn meaning(self) -> &'static str {
        match self {
            Self::Triage => "one pass, minutes: finds what is broken outright",
            Self::Survey => "as many passes as fit into an hour",
            Self::Overnight => "as many passes as fit into eight hours: finds what shows now and then",
        }
    }

    /// Number of passes; nothing means as many as fit.
    pub fn passes(self) -> Option<u32> {
        (self == Self::Triage).then_some(1)
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

/// How the processor's cores share the work.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub enum CoreSharing {
    /// One core.
    Solo,
    /// All cores, each its share.
    #[default]
    Split,
    /// Each core in turn takes all of it, test by test.
    Relay,
    /// The work moves from core to core, block by block.
    Rota,
}

impl CoreSharing {
    /// Its name.
    pub fn word(self) -> &'static str {
        match self {
            Self::Solo => "solo",
            Self::Split => "split",
            Self::Relay => "relay",
            Self::Rota => "rota",
        }
    }
}

/// What is done to keep caches from answering for the memory.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub enum Caches {
    /// As each test needs it.
    #[default]
    PerTest,
    /// Ranges far beyond the cache, flushed where a sweep turns round.
    Flow,
    /// Flushed after every sweep.
    Bypass,
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
    /// Core sharing.
    pub cores: CoreSharing,
    /// Caches.
    pub caches: Caches,
}

/// Why a recipe cannot be run.
#[derive(Debug, Error, PartialEq, Eq)]
pub enum RecipeError {
    /// A name that is not in the catalogue.
    #[error("there is no test named {name:?}. The tests are: {}", names())]
    UnknownTest {
        /// As it was given.
        name: String,
    },
    /// Every test is off.
    #[error("no test is chosen, so nothing would be tested. Switch at least one on")]
    NoTest,
    /// Zero passes.
    #[error("0 passes would test nothing. Ask for at least 1")]
    NoPass,
}

fn names() -> String {
    CATALOG.map(|test| test.name).join(", ")
}

impl Recipe {
    /// The defaults of a depth.
    pub fn of_depth(depth: Depth) -> Self {
        Self {
            depth,
            tests: CATALOG.iter().map(|test| test.name.to_owned()).collect(),
            passes: depth.passes(),
            for_seconds: depth.seconds(),
            stop_after: None,
            memory: None,
            range: None,
            cores: CoreSharing::default(),
            caches: Caches::default(),
        }
    }

    /// The chosen tests in the order in which a pass runs them, each once.
    ///
    /// # Errors
    /// When a name is unknown, nothing is chosen, or no pass would run.
    pub fn specs(&self) -> Result<Vec<&'static TestSpec>, RecipeError> {
        if let Some(name) = self.tests.iter().find(|name| find_test(name).is_none()) {
            return Err(RecipeError::UnknownTest { name: name.clone() });
        }
        if self.tests.is_empty() {
            return Err(RecipeError::NoTest);
        }
        if self.passes == Some(0) {
            return Err(RecipeError::NoPass);
        }
        Ok(CATALOG.iter().filter(|test| self.tests.iter().any(|name| name == test.name)).collect())
    }

    /// The end of the run in words: `1 pass`, `1 h 00 min`, `until stopped`.
    pub fn end_text(&self) -> String {
        let mut ends = Vec::new();
        if let Some(passes) = self.passes {
            ends.push(format!("{passes} pass{}", if passes == 1 { "" } else { "es" }));
        }
        if let Some(seconds) = self.for_seconds {
            ends.push(format!("for {}", crate::units::duration_text(seconds as f64)));
        }
        if ends.is_empty() { "until stopped".to_owned() } else { ends.join(", at most ") }
    }
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;

    #[rstest]
    #[case(&["march-c-", "random"], None, Ok(vec!["random", "march-c-"]))]
    #[case(&["marsh"], None, Err(RecipeError::UnknownTest { name: "marsh".into() }))]
    #[case(&[], None, Err(RecipeError::NoTest))]
    #[case(&["random"], Some(0), Err(RecipeError::NoPass))]
    fn tests_run_in_catalogue_order_or_are_refused(
        #[case] tests: &[&str],
        #[case] passes: Option<u32>,
        #[case] expected: Result<Vec<&str>, RecipeError>,
    ) {
        let recipe = Recipe {
            tests: tests.iter().map(|name| (*name).to_owned()).collect(),
            passes,
            ..Recipe::of_depth(Depth::Triage)
        };
        assert_eq!(recipe.specs().map(|specs| specs.iter().map(|spec| spec.name).collect()), expected);
    }
}
