//! A case as it is written by other programs. Fields that are not named here are ignored; what is left out is unknown.

use std::collections::{BTreeMap, BTreeSet};

use serde::Deserialize;
use thiserror::Error;

use super::case::{Case, KnownModule, KnownSlot};
use super::fact::{Evidence, FLOOD, Load, Mark, MarkClass, Place, RunFact};
use super::intake::tilt;
use super::priors::Priors;
use super::signs::{Look, Signs};

/// Version of the format.
const VERSION: u32 = 1;

/// A case.
#[derive(Clone, Debug, Deserialize)]
pub(super) struct CaseFile {
    version: u32,
    #[serde(default)]
    slots: Vec<SlotFile>,
    #[serde(default)]
    modules: Vec<ModuleFile>,
    #[serde(default)]
    settings: Vec<String>,
    #[serde(default)]
    address_map: Option<String>,
    #[serde(default)]
    pass_minutes_one_module: Option<f64>,
    #[serde(default)]
    cost: CostFile,
    #[serde(default)]
    stop_at: Option<f64>,
    #[serde(default)]
    runs: Vec<RunFile>,
    /// Sets of slots that the mainboard does not start with when just these are filled.
    #[serde(default)]
    refused: Vec<BTreeSet<String>>,
    /// Slots that have to be filled whatever else is.
    #[serde(default)]
    needed: Vec<String>,
    /// Names of answers that were picked when the machine came in.
    #[serde(default)]
    intake: BTreeSet<String>,
    /// By module: part of its failing cells that a run reaches.
    #[serde(default)]
    reach: BTreeMap<String, ReachFile>,
}

#[derive(Clone, Copy, Debug, Deserialize)]
#[serde(default)]
struct ReachFile {
    alone: f64,
    with_others: f64,
}

impl Default for ReachFile {
    fn default() -> Self {
        Self { alone: 1.0, with_others: 1.0 }
    }
}

#[derive(Clone, Debug, Deserialize)]
struct SlotFile {
    id: String,
    #[serde(default)]
    channel: Option<String>,
    #[serde(default)]
    soldered: bool,
}

#[derive(Clone, Debug, Deserialize)]
struct ModuleFile {
    id: String,
    #[serde(default)]
    known_good: bool,
    /// How much more suspect it is than others by what is known of it: 1 says nothing.
    #[serde(default)]
    weight: Option<f64>,
    /// How it did in another machine: `clean` or `errors`.
    #[serde(default)]
    elsewhere: Option<String>,
    /// Modules that were sold together have the same.
    #[serde(default)]
    kit: Option<String>,
}

#[derive(Clone, Debug, Default, Deserialize)]
#[serde(default)]
struct CostFile {
    change_base: Option<f64>,
    per_module_touched: Option<f64>,
    settings_change: Option<f64>,
    rerun: Option<f64>,
    boot_machine: Option<f64>,
    machine_weight: Option<f64>,
    long_after: Option<f64>,
    long_weight: Option<f64>,
}

#[derive(Clone, Debug, Deserialize)]
struct RunFile {
    #[serde(default)]
    placement: BTreeMap<String, String>,
    #[serde(default)]
    settings: Option<String>,
    #[serde(default)]
    reseat: Vec<String>,
    #[serde(default)]
    planned_minutes: Option<f64>,
    #[serde(default)]
    minutes: Option<f64>,
    outcome: String,
    #[serde(default)]
    slot: Option<String>,
    #[serde(default)]
    struck: bool,
    #[serde(default)]
    load: Option<String>,
    /// What its errors looked like.
    #[serde(default)]
    look: Option<Look>,
    /// The module whose same cells failed in another slot before.
    #[serde(default)]
    same_cells: Option<String>,
    /// The hottest that modules became, in °C.
    #[serde(default)]
    celsius: Option<f64>,
    /// It was the owner's own use, and the complaint came back or stayed away.
    #[serde(default)]
    by_owner: bool,
    /// Slots that each had a good part of the errors, where `slot` is not enough.
    #[serde(default)]
    slots: Vec<String>,
    /// Minutes to the first error.
    #[serde(default)]
    first_error_minutes: Option<f64>,
    /// Words that read wrong.
    #[serde(default)]
    errors: Option<f64>,
    /// Errors came again in later passes, or in one of several only.
    #[serde(default)]
    steady: Option<bool>,
    /// What failed, and what was reached.
    #[serde(default)]
    cells: Vec<CellFile>,
}

/// What is known of cells in one run.
#[derive(Clone, Debug, Deserialize)]
struct CellFile {
    /// Its name, the same in every run.
    #[serde(default)]
    id: String,
    /// `cells` or `lines`.
    #[serde(default)]
    class: Option<String>,
    /// Slot in which it failed.
    #[serde(default)]
    slot: Option<String>,
    /// Module that it is in.
    #[serde(default)]
    module: Option<String>,
    /// `failed`, `right` or `not-reached`.
    state: String,
}

/// Why a case cannot be answered.
#[derive(Debug, Error, PartialEq, Eq)]
pub enum CaseError {
    /// Not JSON, or a field of the wrong kind.
    #[error("the case cannot be read: {0}")]
    Unreadable(String),
    /// Another version.
    #[error("the case has version {0}; this program knows version {VERSION}")]
    Version(u32),
    /// What it says cannot be.
    #[error("the case cannot be: {0}")]
    Impossible(String),
}

impl CaseFile {
    /// The case that it tells of, by these priors.
    ///
    /// # Errors
    /// When it is of another version, or what it says cannot be.
    pub fn case(self, mut priors: Priors) -> Result<Case, CaseError> {
        if self.version != VERSION {
            return Err(CaseError::Version(self.version));
        }
        self.check()?;
        self.cost.put_into(&mut priors);
        if let Some(at) = self.stop_at {
            priors.stop.at = at;
        }
        let mut case = Case {
            slots: self.slots.iter().map(SlotFile::known).collect(),
            modules: self.modules.iter().map(ModuleFile::known).collect(),
            settings: self.settings.clone(),
            map_known: matches!(self.address_map.as_deref(), Some("known" | "proven")),
            map_proven: self.address_map.as_deref() == Some("proven"),
            halves: None,
            halves_named: false,
            reach: self
                .reach
                .iter()
                .map(|(module, reach)| (module.clone(), [reach.alone, reach.with_others]))
                .collect(),
            runs: Vec::new(),
            present: None,
            tilt: tilt(&self.intake, &priors),
            refused: self.refused.clone(),
            needed: self.needed.clone(),
            record_damaged: false,
            pass_minutes: self.pass_minutes_one_module.unwrap_or(10.0),
            priors,
        };
        for run in self.runs {
            let fact = run.fact(&case)?;
            case.runs.push(fact);
        }
        Ok(case)
    }

    fn check(&self) -> Result<(), CaseError> {
        let impossible = |what: String| Err(CaseError::Impossible(what));
        let twice = |ids: Vec<&str>| {
            let mut seen = BTreeSet::new();
            ids.into_iter().find(|id| !seen.insert(*id)).map(str::to_owned)
        };
        if let Some(id) = twice(self.slots.iter().map(|slot| slot.id.as_str()).collect()) {
            return impossible(format!("there are two slots {id}"));
        }
        if let Some(id) = twice(self.modules.iter().map(|module| module.id.as_str()).collect()) {
            return impossible(format!("there are two modules {id}"));
        }
        if !self.pass_minutes_one_module.is_none_or(|minutes| (1e-3..1e5).contains(&minutes)) {
            return impossible("pass_minutes_one_module lies beyond 0.001 to 100000".to_owned());
        }
        if !self.stop_at.is_none_or(|at| (0.5..1.0).contains(&at)) {
            return impossible("stop_at lies beyond 0.5 to 1".to_owned());
        }
        for (number, run) in (1..).zip(&self.runs) {
            let mut modules = BTreeSet::new();
            for (slot, module) in &run.placement {
                if !self.slots.iter().any(|known| known.id == *slot) {
                    return impossible(format!("run {number} uses slot {slot}, which is not among the slots"));
                }
                if !self.modules.iter().any(|known| known.id == *module) {
                    return impossible(format!("run {number} uses module {module}, which is not among the modules"));
                }
                if !modules.insert(module) {
                    return impossible(format!("run {number} has module {module} in two slots"));
                }
            }
        }
        Ok(())
    }
}

impl SlotFile {
    fn known(&self) -> KnownSlot {
        KnownSlot { id: self.id.clone(), channel: self.channel.clone(), soldered: self.soldered }
    }
}

impl ModuleFile {
    fn known(&self) -> KnownModule {
        KnownModule {
            id: self.id.clone(),
            known_good: self.known_good,
            weight: self.weight.filter(|weight| (1e-3..1e3).contains(weight)),
            elsewhere: self.elsewhere.as_deref().map(|how| how == "clean"),
            kit: self.kit.clone(),
        }
    }
}

impl CostFile {
    fn put_into(&self, priors: &mut Priors) {
        let cost = &mut priors.cost;
        let pairs = [
            (&mut cost.change_base, self.change_base),
            (&mut cost.per_module_touched, self.per_module_touched),
            (&mut cost.settings_change, self.settings_change),
            (&mut cost.rerun, self.rerun),
            (&mut cost.boot_machine, self.boot_machine),
            (&mut cost.machine_weight, self.machine_weight),
            (&mut cost.long_after, self.long_after),
            (&mut cost.long_weight, self.long_weight),
        ];
        for (own, given) in pairs {
            if let Some(given) = given.filter(|given| given.is_finite() && *given >= 0.0) {
                *own = given;
            }
        }
    }
}

impl RunFile {
    fn marks(&self) -> Vec<Mark> {
        let failed = self.cells.iter().filter(|cell| cell.state == "failed");
        let slot_of =
            |module: &String| self.placement.iter().find(|(_, fitted)| *fitted == module).map(|(slot, _)| slot);
        let mark = |cell: &CellFile| {
            let slot = cell.slot.as_ref().or_else(|| slot_of(cell.module.as_ref()?))?.clone();
            let class = if cell.class.as_deref() == Some("lines") { MarkClass::Lines } else { MarkClass::Cells };
            Some(Mark { slot, class, id: cell.id.clone() })
        };
        failed.filter_map(mark).collect()
    }

    /// By module: nothing of what is known to fail was reached, or all of it.
    fn reach(&self) -> Vec<(String, f64)> {
        let part = |cell: &CellFile| match cell.state.as_str() {
            "not-reached" => Some(0.0),
            "right" => Some(1.0),
            _ => None,
        };
        self.cells.iter().filter_map(|cell| Some((cell.module.clone()?, part(cell)?))).collect()
    }

    fn fact(self, case: &Case) -> Result<RunFact, CaseError> {
        let marks = self.marks();
        let reach = self.reach();
        let steady = self.steady.or_else(|| self.errors.filter(|errors| *errors >= FLOOD as f64).map(|_| true));
        let several = (self.slots.len() > 1).then(|| Place::Several(self.slots.clone()));
        let evidence = match (self.outcome.as_str(), self.slot.as_deref()) {
            ("errors", None) if several.is_some() => Evidence::Errors(several.unwrap_or_default()),
            ("clean", _) => Evidence::Clean,
            ("dark", _) => Evidence::Dark,
            ("starts", _) => Evidence::Starts,
            ("errors", None) => Evidence::Errors(Place::Unknown),
            ("errors", Some("spread")) => Evidence::Errors(Place::Spread),
            ("errors", Some(slot)) => Evidence::Errors(Place::Slot(slot.to_owned())),
            (other, _) => {
                return Err(CaseError::Impossible(format!(
                    "the outcome {other} is none of clean, errors, dark, starts"
                )));
            }
        };
        let placement: Vec<_> = self.placement.into_iter().collect();
        let pass = case.pass_minutes(&placement).max(1e-3);
        // A run with errors may have ended early: how long it would have been tells more.
        let minutes = match evidence {
            Evidence::Clean => self.minutes.or(self.planned_minutes),
            _ => self.planned_minutes.or(self.minutes),
        };
        let minutes = minutes.unwrap_or(pass).max(0.0);
        let ran_minutes = self.minutes.unwrap_or(minutes).max(0.0);
        let load = match self.load.as_deref() {
            Some("patterns") => Load::Patterns,
            Some("computing") => Load::Computing,
            _ => Load::Both,
        };
        let celsius = self.celsius.filter(|celsius| (-50.0..200.0).contains(celsius));
        let fact = RunFact {
            settings: self.settings.unwrap_or_default(),
            reseat: self.reseat,
            struck: self.struck,
            evidence,
            ran_minutes,
            load,
            signs: Signs { look: self.look, same_cells: self.same_cells, celsius },
            first_error_minutes: self.first_error_minutes.filter(|minutes| *minutes >= 0.0),
            steady,
            marks,
            reach,
            ..RunFact::clean(placement, minutes, minutes / pass)
        };
        Ok(if self.by_owner { fact.by_owner(&case.priors) } else { fact })
    }
}
