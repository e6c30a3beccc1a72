//! Weights, rates and costs: guesses of a repair bench, kept together in one data file that a shop can change.

use std::collections::BTreeMap;
use std::sync::LazyLock;

use serde::{Deserialize, Serialize};
use thiserror::Error;

use super::tilt::Tilt;

/// Everything that the odds start from. The units stand in the shipped file, `priors.toml`.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
#[allow(missing_docs, reason = "each key is explained in the shipped file, where people change it")]
pub struct Priors {
    pub weights: Weights,
    pub rates: Rates,
    pub shares: Shares,
    pub runs: Runs,
    pub map: Map,
    pub signs: Signs,
    pub witness: Witness,
    pub cost: Cost,
    pub stop: Stop,
    pub intake: BTreeMap<String, Tilt>,
}

#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
#[allow(missing_docs, reason = "see Priors")]
pub struct Weights {
    pub module_hard: f64,
    pub module_intermittent: f64,
    pub seating: f64,
    pub one_off: f64,
    pub settings: f64,
    pub slot: f64,
    pub empty_slot: f64,
    pub combination: f64,
    pub pair: f64,
    pub controller: f64,
    pub two_modules: f64,
    pub module_and_slot: f64,
    pub other: f64,
    pub known_good: f64,
    pub clean_elsewhere: f64,
    pub failed_elsewhere: f64,
    pub unfit: f64,
    pub channel: f64,
    pub too_many: f64,
    pub position: f64,
    pub kits: f64,
    pub pair_mixed: f64,
}

#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
#[allow(missing_docs, reason = "see Priors")]
pub struct Rates {
    pub detect: Vec<[f64; 2]>,
    pub module: Vec<f64>,
    pub together: Vec<f64>,
    pub slot: Vec<f64>,
    pub seating: Vec<f64>,
    pub coarse: Vec<f64>,
}

#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
#[allow(missing_docs, reason = "see Priors")]
pub struct Shares {
    pub slot_hard: f64,
    pub seating_hard: f64,
    pub coarse_hard: f64,
    pub neighbour: f64,
    pub stock_cures: f64,
    pub unreached: f64,
    pub many_in_channel: f64,
    pub first_slots: f64,
    pub several_channels: f64,
    pub touch_cures: f64,
    pub touch_cures_stubborn: f64,
    pub stubborn: f64,
}

#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
#[allow(missing_docs, reason = "see Priors")]
pub struct Runs {
    pub stray: f64,
    pub stray_per_hour: f64,
    pub one_pass_finds: f64,
    pub other_load: f64,
    pub celsius_doubles: f64,
    pub owner_hour: f64,
    pub owner_doubt: f64,
    pub broke_off_doubt: f64,
}

#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
#[allow(missing_docs, reason = "see Priors")]
pub struct Signs {
    pub cells: Tilt,
    pub lanes: Tilt,
    pub addresses: Tilt,
    pub scattered: Tilt,
    pub everywhere: Tilt,
    pub logged: f64,
}

#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
#[allow(missing_docs, reason = "see Priors")]
pub struct Witness {
    pub cells_follow: f64,
    pub lines_follow: f64,
    pub lines_stay: f64,
    pub partly: f64,
    pub chance_cells: f64,
    pub chance_lines: f64,
}

#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
#[allow(missing_docs, reason = "see Priors")]
pub struct Map {
    pub told: f64,
    pub module: f64,
    pub together: f64,
    pub settings: f64,
    pub controller: f64,
    pub spread: f64,
    pub wrong: f64,
    pub wrong_proven: f64,
    pub same_again: f64,
}

#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
#[allow(missing_docs, reason = "see Priors")]
pub struct Cost {
    pub change_base: f64,
    pub per_module_touched: f64,
    pub rerun: f64,
    pub settings_change: f64,
    pub boot_machine: f64,
    pub hands_weight: f64,
    pub machine_weight: f64,
    pub long_after: f64,
    pub long_weight: f64,
    pub step: f64,
}

#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
#[allow(missing_docs, reason = "see Priors")]
pub struct Stop {
    pub at: f64,
    pub least_bits: f64,
    pub short_minutes: f64,
    pub proof_passes: f64,
    pub runs: usize,
    pub hands_minutes: f64,
    pub machine_hours: f64,
}

/// Why a file of priors cannot be used.
#[derive(Debug, Error, PartialEq, Eq)]
pub enum PriorsError {
    /// Not TOML, or a key that nobody knows, with its line.
    #[error("{0}")]
    Unreadable(String),
    /// A number that makes no sense.
    #[error("{0} must lie between {1}")]
    Beyond(&'static str, &'static str),
}

const SHIPPED: &str = include_str!("priors.toml");

impl Default for Priors {
    fn default() -> Self {
        static PRIORS: LazyLock<Option<Priors>> = LazyLock::new(|| read(toml::from_str(SHIPPED).ok()?).ok());
        // A test reads the shipped file; it cannot be damaged in a built program.
        PRIORS.clone().unwrap_or_else(|| unreachable!("the shipped priors are read by a test"))
    }
}

/// The one way from a file's content to priors: each way is a great deal of code.
fn read(all: toml::Table) -> Result<Priors, toml::de::Error> {
    all.try_into()
}

impl Priors {
    /// Priors with what a shop's file changes.
    ///
    /// # Errors
    /// When it cannot be read, or a number makes no sense.
    pub fn parse(text: &str) -> Result<Self, PriorsError> {
        let unreadable = |error: toml::de::Error| PriorsError::Unreadable(error.to_string());
        let changed: toml::Table = toml::from_str(text).map_err(unreadable)?;
        let mut all: toml::Table = toml::from_str(SHIPPED).map_err(unreadable)?;
        for (section, keys) in changed {
            let known = all.get_mut(&section).and_then(toml::Value::as_table_mut);
            match (known, keys) {
                (Some(known), toml::Value::Table(keys)) => known.extend(keys),
                _ => return Err(PriorsError::Unreadable(format!("there is no section [{section}]"))),
            }
        }
        let priors = read(all).map_err(unreadable)?;
        priors.check()?;
        Ok(priors)
    }

    fn check(&self) -> Result<(), PriorsError> {
        let (weights, shares, map) = (&self.weights, &self.shares, &self.map);
        let all = [
            weights.module_hard,
            weights.module_intermittent,
            weights.seating,
            weights.one_off,
            weights.settings,
            weights.slot,
            weights.empty_slot,
            weights.combination,
            weights.pair,
            weights.controller,
            weights.two_modules,
            weights.module_and_slot,
            weights.known_good,
            weights.clean_elsewhere,
            weights.failed_elsewhere,
            weights.unfit,
            weights.channel,
            weights.too_many,
            weights.position,
            weights.kits,
            weights.pair_mixed,
        ];
        if !all.iter().all(|weight| (0.0..1e6).contains(weight)) || !(1e-6..1e6).contains(&weights.other) {
            return Err(PriorsError::Beyond("a weight", "0 and a million, and that of other above 0"));
        }
        let parts = [
            shares.slot_hard,
            shares.seating_hard,
            shares.coarse_hard,
            shares.neighbour,
            shares.stock_cures,
            shares.unreached,
            shares.many_in_channel,
            shares.first_slots,
            shares.several_channels,
            shares.touch_cures,
            shares.touch_cures_stubborn,
            shares.stubborn,
            self.runs.stray,
            self.runs.stray_per_hour,
            self.runs.one_pass_finds,
            self.runs.other_load,
            self.runs.owner_hour,
            self.runs.owner_doubt,
            self.runs.broke_off_doubt,
            map.told,
            map.module,
            map.together,
            map.settings,
            map.controller,
            map.spread,
            map.wrong,
            map.wrong_proven,
            map.same_again,
            self.witness.cells_follow,
            self.witness.lines_follow,
            self.witness.lines_stay,
            self.witness.partly,
            self.witness.chance_cells,
            self.witness.chance_lines,
        ];
        if !parts.iter().all(|part| (0.0..=1.0).contains(part)) {
            return Err(PriorsError::Beyond("a share", "0 and 1"));
        }
        let rates = &self.rates;
        let lists = [&rates.module, &rates.together, &rates.slot, &rates.seating, &rates.coarse];
        if lists.iter().any(|list| list.is_empty() || !list.iter().all(|rate| (1e-6..1e6).contains(rate))) {
            return Err(PriorsError::Beyond(
                "every rate, of which each list has at least one,",
                "0 and a million an hour",
            ));
        }
        if rates.detect.is_empty() || !rates.detect.iter().flatten().all(|part| (0.0..=1.0).contains(part)) {
            return Err(PriorsError::Beyond("each number of detect", "0 and 1"));
        }
        let signs = &self.signs;
        let looks = [signs.cells, signs.lanes, signs.addresses, signs.scattered, signs.everywhere];
        let factors = self.intake.values().copied().chain(looks).flat_map(|tilt| tilt.all());
        if !factors.chain([signs.logged]).all(|factor| (0.01..=100.0).contains(&factor)) {
            return Err(PriorsError::Beyond("a factor of an answer or of a sign", "0.01 and 100"));
        }
        if !(1.0..1000.0).contains(&self.runs.celsius_doubles) {
            return Err(PriorsError::Beyond("celsius_doubles", "1 and 1000"));
        }
        if !(0.5..1.0).contains(&self.stop.at) {
            return Err(PriorsError::Beyond("stop at", "0.5 and 1"));
        }
        Ok(())
    }
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;

    #[test]
    fn the_shipped_file_is_read_and_makes_sense() {
        assert_eq!(Priors::parse(""), Ok(Priors::default()));
        assert_eq!(Priors::default().check(), Ok(()));
    }

    #[test]
    fn a_shop_changes_what_it_knows_better() {
        let priors = Priors::parse("[weights]\nslot = 9.5\n").unwrap();
        let expected = Priors { weights: Weights { slot: 9.5, ..Priors::default().weights }, ..Priors::default() };
        assert_eq!(priors, expected);
    }

    #[rstest]
    #[case("[weights]\nsolt = 1.0\n", "unknown field `solt`")]
    #[case("[weight]\nslot = 1.0\n", "no section [weight]")]
    #[case("[weights]\nslot = -1.0\n", "a weight must lie between")]
    #[case("[map]\nwrong = 1.5\n", "a share must lie between")]
    #[case("[rates]\nslot = []\n", "every rate")]
    #[case("[stop]\nat = 1.0\n", "stop at")]
    #[case("[weights\n", "line 1")]
    fn mistakes_are_told(#[case] text: &str, #[case] words: &str) {
        let error = Priors::parse(text).unwrap_err().to_string();
        assert!(error.contains(words), "{error}");
    }
}
