//! A case as a file and the advice as an answer: one stateless question a step, for other programs and for judging the planner from
//! outside. Fields that are not named here are ignored; what is left out is unknown. The format is explained in `docs/method/suspicion.md`.

use std::collections::BTreeMap;

use serde::Serialize;

use super::case::{Case, Experiment};
use super::case_file::{CaseError, CaseFile};
use super::plan::{Advice, Reason, Verdict, advise};
use super::posterior::Odds;
use super::priors::Priors;
use super::suspect::Suspect;

/// The answer.
#[derive(Clone, Debug, PartialEq, Serialize)]
pub struct Answer {
    action: &'static str,
    #[serde(skip_serializing_if = "Option::is_none")]
    experiment: Option<ExperimentFile>,
    posterior: BTreeMap<String, f64>,
    #[serde(skip_serializing_if = "Option::is_none")]
    diagnosis: Option<Diagnosis>,
    #[serde(skip_serializing_if = "Option::is_none")]
    reason: Option<&'static str>,
}

#[derive(Clone, Debug, PartialEq, Serialize)]
struct ExperimentFile {
    placement: BTreeMap<String, String>,
    settings: String,
    minutes: f64,
    reseat: Vec<String>,
}

#[derive(Clone, Debug, PartialEq, Serialize)]
struct Diagnosis {
    classes: Vec<String>,
    probability: f64,
}

/// Answers a case that is written as JSON.
///
/// # Errors
/// When it cannot be read, or what it says cannot be.
pub fn answer(text: &str) -> Result<Answer, CaseError> {
    answer_with(text, Priors::default())
}

/// Answers a case by a shop's own priors; what the case says of costs and of when to stop goes before them.
///
/// # Errors
/// When it cannot be read, or what it says cannot be.
pub fn answer_with(text: &str, priors: Priors) -> Result<Answer, CaseError> {
    let file: CaseFile = serde_json::from_str(text).map_err(|error| CaseError::Unreadable(error.to_string()))?;
    Ok(answer_case(&file.case(priors)?))
}

/// The answer to a case in the form of a file.
pub fn answer_case(case: &Case) -> Answer {
    Answer::of(case, &advise(case))
}

impl Answer {
    fn of(case: &Case, advice: &Advice) -> Self {
        let posterior = advice.odds.iter().map(|odds| (class_name(&odds.suspect), odds.probability)).collect();
        let open =
            |experiment| Self { action: "run", experiment: Some(experiment), posterior, diagnosis: None, reason: None };
        match &advice.verdict {
            Verdict::Open(step) => open(ExperimentFile::of(case, &step.next)),
            Verdict::Done { named, reason } => Self {
                action: "stop",
                experiment: None,
                diagnosis: Some(Diagnosis::of(named)),
                reason: Some(reason.word()),
                posterior: open(ExperimentFile::default()).posterior,
            },
            // Nothing failed yet: the last fitting again.
            Verdict::NothingToFind | Verdict::NotWhole => {
                let placement = case.runs.last().map(|run| run.placement.clone()).unwrap_or_default();
                let minutes = (4.0 * case.pass_minutes(&placement)).clamp(1.0, 1440.0);
                open(ExperimentFile::of(case, &Experiment { placement, minutes, ..Experiment::default() }))
            }
        }
    }
}

impl Default for ExperimentFile {
    fn default() -> Self {
        Self { placement: BTreeMap::new(), settings: String::new(), minutes: 1.0, reseat: Vec::new() }
    }
}

impl ExperimentFile {
    fn of(case: &Case, next: &Experiment) -> Self {
        let first = case.settings.first().cloned().unwrap_or_else(|| "stock".to_owned());
        Self {
            placement: next.placement.iter().cloned().collect(),
            settings: if next.settings.is_empty() { first } else { next.settings.clone() },
            minutes: next.minutes,
            reseat: next.reseat.clone(),
        }
    }
}

impl Diagnosis {
    fn of(named: &[Odds]) -> Self {
        Self {
            classes: named.iter().map(|odds| class_name(&odds.suspect)).collect(),
            probability: named.iter().map(|odds| odds.probability).sum::<f64>().min(1.0),
        }
    }
}

impl Reason {
    /// The word in files.
    pub fn word(self) -> &'static str {
        match self {
            Self::Confident => "confident",
            Self::Indistinguishable => "indistinguishable",
            Self::Budget => "budget",
        }
    }
}

/// A suspect's name in files.
fn class_name(suspect: &Suspect) -> String {
    match suspect {
        Suspect::Module(module) => format!("module:{module}"),
        Suspect::Unfit(module) => format!("unfit:{module}"),
        Suspect::Slot(slot) => format!("slot:{slot}"),
        Suspect::Channel(channel) => format!("channel:{channel}"),
        Suspect::TooMany => "too_many".to_owned(),
        Suspect::Position => "position".to_owned(),
        Suspect::Kits => "kits".to_owned(),
        Suspect::NoPart => "no_part".to_owned(),
        Suspect::Combination(module) => format!("combination:{module}"),
        Suspect::Pair(a, b) => format!("pair:{a}+{b}"),
        Suspect::Settings => "settings".to_owned(),
        Suspect::Controller => "controller".to_owned(),
        Suspect::TwoModules(a, b) => format!("{a}&{b}"),
        Suspect::ModuleAndSlot(module, slot) => format!("{module}&{slot}"),
        Suspect::Other => "other".to_owned(),
    }
}

#[cfg(test)]
mod tests {
    use rstest::rstest;
    use serde_json::{Value, json};

    use super::super::fact::{Evidence, Mark, MarkClass, Place};
    use super::*;

    fn case() -> Value {
        json!({
            "version": 1, "id": "case-5", "unknown": [1, 2],
            "slots": [{"id": "A1", "channel": "A"}, {"id": "B1", "channel": "B"}],
            "modules": [{"id": "M1", "known_good": false}, {"id": "M2"}, {"id": "K", "known_good": true}],
            "settings": ["profile", "stock"],
            "address_map": "known",
            "pass_minutes_one_module": 10.0,
            "cost": {"change_base": 4, "per_module_touched": 1},
            "stop_at": 0.95,
            "runs": [{"placement": {"A1": "M1", "B1": "M2"}, "settings": "profile", "reseat": [], "planned_minutes": 60, "minutes": 7.4,
                "passes": 0.59, "outcome": "errors", "errors": 12, "slot": "A1", "first_error_minutes": 6.4, "hands_on_minutes": 0, "first": true}]
        })
    }

    #[test]
    fn the_answers_lead_to_the_part() {
        let mut case = case();
        for _ in 0..40 {
            let told = serde_json::to_value(answer(&case.to_string()).unwrap()).unwrap();
            let sum: f64 = told["posterior"].as_object().unwrap().values().map(|odds| odds.as_f64().unwrap()).sum();
            assert!((0.9..=1.0 + 1e-9).contains(&sum), "{sum}");
            if told["action"] == "stop" {
                assert_eq!(
                    (&told["diagnosis"]["classes"], &told["reason"]),
                    (&json!(["module:M1"]), &json!("confident"))
                );
                assert!(told["diagnosis"]["probability"].as_f64().unwrap() >= 0.95);
                return;
            }
            let next = &told["experiment"];
            assert!((1.0..=1440.0).contains(&next["minutes"].as_f64().unwrap()), "{next}");
            let at = next["placement"]
                .as_object()
                .unwrap()
                .iter()
                .find(|(_, module)| **module == "M1")
                .map(|(slot, _)| slot);
            let outcome = if at.is_some() { "errors" } else { "clean" };
            let run = json!({"placement": next["placement"], "settings": next["settings"], "reseat": next["reseat"],
                "planned_minutes": next["minutes"], "minutes": next["minutes"], "outcome": outcome, "slot": at});
            case["runs"].as_array_mut().unwrap().push(run);
        }
        panic!("no stop within 40 steps");
    }

    #[rstest]
    #[case("", "cannot be read")]
    #[case("{\"version\": 2}", "version 2")]
    #[case("{\"version\": 1, \"slots\": 3}", "cannot be read")]
    fn rubbish_is_refused(#[case] text: &str, #[case] words: &str) {
        let error = answer(text).unwrap_err().to_string();
        assert!(error.contains(words), "{error}");
    }

    #[rstest]
    #[case("/runs/0/placement/B1", json!("M1"), "run 1 has module M1 in two slots")]
    #[case("/runs/0/placement/B1", json!("M9"), "module M9, which is not among")]
    #[case("/runs/0/outcome", json!("maybe"), "none of clean, errors, dark, starts")]
    #[case("/slots/1/id", json!("A1"), "two slots A1")]
    #[case("/modules/1/id", json!("M1"), "two modules M1")]
    #[case("/stop_at", json!(2.0), "stop_at")]
    #[case("/pass_minutes_one_module", json!(-1.0), "pass_minutes_one_module")]
    fn what_cannot_be_is_told(#[case] place: &str, #[case] value: Value, #[case] words: &str) {
        let mut case = case();
        *case.pointer_mut(place).unwrap() = value;
        let error = answer(&case.to_string()).unwrap_err().to_string();
        assert!(error.contains(words), "{error}");
    }

    #[test]
    fn nothing_failed_yet_means_to_go_on() {
        let mut case = case();
        case["runs"][0]["outcome"] = json!("clean");
        let told = serde_json::to_value(answer(&case.to_string()).unwrap()).unwrap();
        assert_eq!((&told["action"], &told["experiment"]["placement"]["A1"]), (&json!("run"), &json!("M1")));
        case["runs"] = json!([]);
        assert!(answer(&case.to_string()).is_ok());
    }

    /// Cells of a run, several slots and a flood are taken as they are told.
    #[test]
    fn cells_and_places_are_read() {
        let mut case = case();
        case["runs"][0]["slot"] = json!(null);
        case["runs"][0]["slots"] = json!(["A1", "B1"]);
        case["runs"][0]["errors"] = json!(47_000_000_000u64);
        case["runs"][0]["first_error_minutes"] = json!(0.5);
        case["runs"][0]["cells"] = json!([
            {"id": "bank 2 row 17", "module": "M1", "state": "failed"},
            {"class": "lines", "id": "3", "slot": "B1", "state": "failed"},
            {"module": "M2", "state": "not-reached"}]);
        let file: CaseFile = serde_json::from_value(case).unwrap();
        let case = file.case(Priors::default()).unwrap();
        let run = &case.runs[0];
        assert_eq!(run.evidence, Evidence::Errors(Place::Several(vec!["A1".into(), "B1".into()])));
        assert_eq!((run.steady, run.first_error_minutes), (Some(true), Some(0.5)));
        assert_eq!(run.marks[0], Mark { slot: "A1".into(), class: MarkClass::Cells, id: "bank 2 row 17".into() });
        assert_eq!(run.marks[1], Mark { slot: "B1".into(), class: MarkClass::Lines, id: "3".into() });
        assert_eq!(run.reach, [("M2".to_owned(), 0.0)]);
    }
}
