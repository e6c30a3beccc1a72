//! Which tests a depth runs: by what they find for the time that they take on this machine.
//!
//! What a test finds is computed: the faults of the standard models that its march detects on a small array, and the pairs
//! of lanes that its backgrounds set against each other. Greedily the test comes next that finds the most new ones for a
//! second. What no model grades (copies, row hopping, computing, waiting) costs time and is left to the deeper looks.

use std::collections::BTreeMap;
use std::sync::LazyLock;

use crate::catalog::{CATALOG, TestSpec, Work};
use crate::estimate::Rates;
use crate::grade::detected;
use crate::pattern::{Background, WordRule, pass_seed};
use crate::recipe::{Depth, Recipe};

/// What a look of minutes may take, in seconds.
const TRIAGE_SECONDS: f64 = 600.0;
/// Lane pairs count as much as this share of the standard faults: they are one kind of fault among many.
const LANE_PAIRS_WEIGHT: f64 = 0.25;
/// What the address lines find counts like a model of the grade.
const ADDRESS_LINES_WEIGHT: f64 = 0.1;

/// The tests that a depth runs.
#[derive(Clone, Debug, PartialEq)]
pub struct Chosen {
    /// Names in the order of the catalogue.
    pub tests: Vec<String>,
    /// Tests that this depth would run if there were time for them.
    pub left_out: Vec<String>,
}

/// What a test finds, as sets that add up.
struct Finds {
    faults: Vec<bool>,
    pairs: Vec<bool>,
    lines: bool,
}

static FINDS: LazyLock<BTreeMap<&'static str, Finds>> = LazyLock::new(|| {
    let one = |test: &'static TestSpec| {
        let graded = test.is_march().then(|| detected(&test.march()).unwrap_or_default());
        let finds = Finds {
            faults: graded.unwrap_or_default(),
            pairs: lane_pairs(test),
            lines: test.work == Work::AddressLines,
        };
        (test.name.as_ref(), finds)
    };
    CATALOG.iter().map(one).collect()
});

/// Works out what each test finds, which takes a moment, before it is asked for; what is worked out already is not done again.
pub fn prepare() {
    LazyLock::force(&FINDS);
}

/// Lane pairs that some background of one pass sets against each other in every word.
fn lane_pairs(test: &TestSpec) -> Vec<bool> {
    let constant = |background: &Background| match WordRule::from(*background) {
        WordRule::Constant(word) => Some(word),
        _ => None,
    };
    let words: Vec<u64> = test.backgrounds(1, pass_seed(1, 1)).iter().filter_map(constant).collect();
    let differ = |a: u32, b: u32| words.iter().any(|word| (word >> a ^ word >> b) & 1 == 1);
    (0..64).flat_map(|a| (0..a).map(move |b| (a, b))).map(|(a, b)| differ(a, b)).collect()
}

impl Finds {
    /// What this adds to what is found already, as a share of everything.
    fn adds(&self, found: &Found) -> f64 {
        let new = |own: &[bool], known: &[bool]| {
            let all = own.len().max(1) as f64;
            own.iter().enumerate().filter(|(at, hit)| **hit && !known.get(*at).copied().unwrap_or(false)).count() as f64
                / all
        };
        let lines = f64::from(u8::from(self.lines && !found.lines)) * ADDRESS_LINES_WEIGHT;
        new(&self.faults, &found.faults) + LANE_PAIRS_WEIGHT * new(&self.pairs, &found.pairs) + lines
    }
}

#[derive(Default)]
struct Found {
    faults: Vec<bool>,
    pairs: Vec<bool>,
    lines: bool,
}

impl Found {
    fn take(&mut self, finds: &Finds) {
        let join = |into: &mut Vec<bool>, from: &[bool]| {
            into.resize(into.len().max(from.len()), false);
            into.iter_mut().zip(from).for_each(|(into, from)| *into |= from);
        };
        join(&mut self.faults, &finds.faults);
        join(&mut self.pairs, &finds.pairs);
        self.lines |= finds.lines;
    }
}

/// Seconds of one test in one pass on a machine with 16 GiB that sweeps 10 GB a second.
pub fn ordinary(test: &TestSpec) -> f64 {
    let recipe = Recipe::with_tests(Depth::Survey, Vec::new());
    Rates::uniform(1e10).test_seconds(test, &recipe, 16 << 30, 1)
}

impl Recipe {
    /// The defaults of a depth on an ordinary machine.
    pub fn of_depth(depth: Depth) -> Self {
        Self::with_tests(depth, chosen(depth, &ordinary).tests)
    }
}

/// The tests of a depth where `seconds` tells how long each of them takes in one pass.
pub fn chosen(depth: Depth, seconds: &dyn Fn(&TestSpec) -> f64) -> Chosen {
    let wanted: Vec<&TestSpec> = CATALOG.iter().filter(|test| !test.on_request).collect();
    let (order, budget) = match depth {
        Depth::Triage => (by_worth(&wanted, seconds, true), TRIAGE_SECONDS),
        Depth::Survey => {
            (by_worth(&wanted, seconds, false), Depth::Survey.seconds().map_or(f64::INFINITY, |s| s as f64))
        }
        Depth::Overnight => (by_worth(&wanted, seconds, false), f64::INFINITY),
    };
    let (mut taken, mut left_out, mut spent) = (Vec::new(), Vec::new(), 0.0);
    for test in order {
        let cost = seconds(test);
        if taken.is_empty() || spent + cost <= budget {
            spent += cost;
            taken.push(test.name.to_string());
        } else {
            left_out.push(test.name.to_string());
        }
    }
    let in_order = |names: Vec<String>| {
        CATALOG
            .iter()
            .filter(|test| names.iter().any(|name| *name == test.name))
            .map(|test| test.name.to_string())
            .collect()
    };
    Chosen { tests: in_order(taken), left_out: in_order(left_out) }
}

/// Tests by what each adds for a second; a random write and check of everything comes first in any case. With `only_new`
/// tests that add nothing are left out, otherwise they come last, cheap ones first.
fn by_worth<'a>(tests: &[&'a TestSpec], seconds: &dyn Fn(&TestSpec) -> f64, only_new: bool) -> Vec<&'a TestSpec> {
    let mut left: Vec<&TestSpec> = tests.to_vec();
    let (mut found, mut order) = (Found::default(), Vec::new());
    if let Some(first) = left.iter().position(|test| test.name == "random") {
        let first = left.remove(first);
        found.take(&FINDS[first.name.as_ref()]);
        order.push(first);
    }
    loop {
        let worth = |test: &TestSpec| FINDS[test.name.as_ref()].adds(&found) / seconds(test).max(1e-3);
        let Some(best) = (0..left.len()).max_by(|a, b| worth(left[*a]).total_cmp(&worth(left[*b]))) else { break };
        if worth(left[best]) <= 0.0 {
            break;
        }
        let best = left.remove(best);
        found.take(&FINDS[best.name.as_ref()]);
        order.push(best);
    }
    if !only_new {
        left.sort_by(|a, b| seconds(a).total_cmp(&seconds(b)));
        order.append(&mut left);
    }
    order
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;

    fn names(chosen: &[String]) -> Vec<&str> {
        chosen.iter().map(String::as_str).collect()
    }

    #[test]
    fn a_look_of_minutes_takes_what_finds_new_faults() {
        let chosen = chosen(Depth::Triage, &ordinary);
        assert_eq!(chosen.tests[0], "random");
        for test in ["address-lines", "march-c-", "lane-groups"] {
            assert!(names(&chosen.tests).contains(&test), "{test} is missing in {:?}", chosen.tests);
        }
        // Nothing that costs time and adds nothing that a model knows.
        assert!(
            !names(&chosen.tests)
                .iter()
                .any(|test| ["idle", "computing", "load-steps", "copies", "walking"].contains(test))
        );
        assert!(
            chosen.tests.iter().map(|name| ordinary(crate::catalog::find_test(name).unwrap())).sum::<f64>() <= 600.0
        );
    }

    /// On a huge machine the hour holds less, and it is said what was left out.
    #[rstest]
    #[case(1.0, 0)]
    #[case(64.0, 1)]
    fn a_survey_is_thinned_where_an_hour_does_not_hold_it(#[case] times: f64, #[case] least_left_out: usize) {
        let seconds = |test: &TestSpec| ordinary(test) * times;
        let chosen = chosen(Depth::Survey, &seconds);
        assert!(chosen.left_out.len() >= least_left_out, "{:?}", chosen.left_out);
        assert_eq!(chosen.tests.len() + chosen.left_out.len(), CATALOG.iter().filter(|test| !test.on_request).count());
        let all: f64 = chosen.tests.iter().map(|name| seconds(crate::catalog::find_test(name).unwrap())).sum();
        assert!(all <= 3600.0 || chosen.tests.len() == 1);
    }

    #[test]
    fn a_night_runs_everything_but_what_is_on_request() {
        let chosen = chosen(Depth::Overnight, &ordinary);
        assert!(chosen.left_out.is_empty());
        assert!(!names(&chosen.tests).contains(&"row-disturbance"));
        assert!(names(&chosen.tests).contains(&"computing"));
    }
}
