//! The next fitting to try: the one that tells most for the minutes it costs.

use super::case::{Case, Evidence, Experiment, Placement, RunFact, Suspect};
use super::model::{Hypothesis, NEGLIGIBLE, Odds, hypotheses_after, summed, take, touch, touched};

/// A leader needs at least this to be named.
const SURE: f64 = 0.95;
/// Passes of the run that proves the rest to be clean.
const PROOF_PASSES: u32 = 2;
/// Runs with errors before a part is blamed: one failure is never enough.
const LEAST_FAILURES: usize = 2;
/// Handwork: opening, closing, booting.
const HANDS_BASE: f64 = 4.0;
/// Handwork for a run without touching anything.
const HANDS_REPEAT: f64 = 2.0;
const BOOT_MINUTES: f64 = 2.0;
/// A minute of machine time costs this many minutes of handwork.
const MACHINE_WEIGHT: f64 = 0.2;
/// Every step costs attention.
const STEP_COST: f64 = 5.0;
const PASSES: [u32; 3] = [1, 2, 4];

/// What an outcome of the proposed run would mean.
#[derive(Clone, Debug, PartialEq)]
pub struct Forecast {
    /// How likely it is, 0 to 1.
    pub probability: f64,
    /// Who would lead then.
    pub leader: Odds,
}

/// How a job stands.
#[derive(Clone, Debug, PartialEq)]
pub enum Verdict {
    /// No run with errors yet: nothing to look for.
    NothingToFind,
    /// Try this next.
    Open {
        /// The fitting and its length.
        next: Experiment,
        /// If it shows errors.
        if_errors: Forecast,
        /// If it is clean.
        if_clean: Forecast,
    },
    /// The part is named and proved.
    Named(Odds),
}

/// Odds and what to do.
#[derive(Clone, Debug, PartialEq)]
pub struct Advice {
    /// Most likely first.
    pub odds: Vec<Odds>,
    /// How it stands.
    pub verdict: Verdict,
}

/// Odds after all runs and the next step.
pub fn advise(case: &Case) -> Advice {
    let hypotheses = hypotheses_after(case);
    let odds = summed(&hypotheses);
    let verdict = if !case.runs.iter().any(RunFact::failed) || case.modules.is_empty() {
        Verdict::NothingToFind
    } else if is_proved(case, &odds[0]) {
        Verdict::Named(odds[0].clone())
    } else {
        let proof = proof(case, &odds[0]).map(|placement| open(case, &hypotheses, placement, PROOF_PASSES));
        proof.or_else(|| best(case, &hypotheses)).unwrap_or(Verdict::NothingToFind)
    };
    Advice { odds, verdict }
}

/// A part is named only when it leads clearly, failed in two runs or was moved, and the rest ran clean without it.
fn is_proved(case: &Case, leader: &Odds) -> bool {
    if leader.probability < SURE {
        return false;
    }
    let uses = |run: &RunFact| match &leader.suspect {
        Suspect::Module(module) => run.placement.iter().any(|(_, fitted)| fitted == module),
        Suspect::Slot(slot) => run.placement.iter().any(|(used, _)| used == slot),
        _ => true,
    };
    let clean_passes: f64 = case.runs.iter().filter(|run| !run.failed() && !uses(run)).map(|run| run.passes).sum();
    match &leader.suspect {
        Suspect::Module(_) | Suspect::Slot(_) => {
            failures(case) >= LEAST_FAILURES && clean_passes >= f64::from(PROOF_PASSES)
        }
        Suspect::NoPart => case.runs.last().is_some_and(|run| !run.failed() && run.passes >= f64::from(PROOF_PASSES)),
        _ => false,
    }
}

fn failures(case: &Case) -> usize {
    case.runs.iter().filter(|run| run.failed()).count()
}

/// The fitting that has to run clean before a clear leader is named: everything but the leader, where it was at first.
fn proof(case: &Case, leader: &Odds) -> Option<Placement> {
    if leader.probability < SURE || failures(case) < LEAST_FAILURES {
        return None;
    }
    let original = &case.runs.first()?.placement;
    let placement: Placement = match &leader.suspect {
        Suspect::Module(module) => original.iter().filter(|(_, fitted)| fitted != module).cloned().collect(),
        Suspect::Slot(slot) => original.iter().filter(|(used, _)| used != slot).cloned().collect(),
        Suspect::NoPart => original.clone(),
        _ => return None,
    };
    is_possible(&placement, &case.soldered()).then_some(placement)
}

fn open(case: &Case, hypotheses: &[Hypothesis], placement: Placement, passes: u32) -> Verdict {
    let present = case.runs.last().map(|run| run.placement.clone()).unwrap_or_default();
    let next = experiment(case, &present, placement, passes);
    let (_, if_errors, if_clean) = forecast(case, hypotheses, &present, &next);
    Verdict::Open { next, if_errors, if_clean }
}

fn best(case: &Case, hypotheses: &[Hypothesis]) -> Option<Verdict> {
    let present = &case.runs.last()?.placement;
    let kept: Vec<Hypothesis> =
        hypotheses.iter().filter(|hypothesis| hypothesis.weight >= NEGLIGIBLE).cloned().collect();
    let mut best: Option<(f64, Verdict)> = None;
    for placement in placements(case, present) {
        for passes in PASSES {
            let next = experiment(case, present, placement.clone(), passes);
            let (gain, if_errors, if_clean) = forecast(case, &kept, present, &next);
            let cost = next.hands_minutes + MACHINE_WEIGHT * next.minutes + BOOT_MINUTES + STEP_COST;
            let worth = gain / cost;
            if best.as_ref().is_none_or(|(found, _)| worth > *found + 1e-12) {
                best = Some((worth, Verdict::Open { next, if_errors, if_clean }));
            }
        }
    }
    best.map(|(_, verdict)| verdict)
}

/// Fittings worth a thought: as it is, each module alone in each slot, all but one, and two places exchanged.
fn placements(case: &Case, present: &Placement) -> Vec<Placement> {
    let original = &case.runs[0].placement;
    let soldered = case.soldered();
    let mut all = vec![present.clone(), original.clone(), soldered.clone()];
    for module in &case.modules {
        all.extend(case.slots.iter().map(|slot| {
            let alone = (slot.id.clone(), module.id.clone());
            soldered.iter().filter(|fixed| **fixed != alone).cloned().chain([alone.clone()]).collect()
        }));
        let others: Placement = original.iter().filter(|(_, fitted)| *fitted != module.id).cloned().collect();
        all.push(others);
    }
    for (at, (slot_a, a)) in original.iter().enumerate() {
        for (slot_b, b) in &original[at + 1..] {
            let exchanged = original.iter().map(|(slot, module)| {
                let module = if slot == slot_a {
                    b
                } else if slot == slot_b {
                    a
                } else {
                    module
                };
                (slot.clone(), module.clone())
            });
            all.push(exchanged.collect());
        }
    }
    all.iter_mut().for_each(|placement: &mut Placement| placement.sort_by_key(|(slot, _)| case.position(slot)));
    all.retain(|placement| is_possible(placement, &soldered));
    all.sort();
    all.dedup();
    all
}

/// Nothing twice, something fitted, and soldered memory where it is.
fn is_possible(placement: &Placement, soldered: &Placement) -> bool {
    let twice = placement
        .iter()
        .enumerate()
        .any(|(at, (slot, module))| placement[at + 1..].iter().any(|(other, same)| other == slot || same == module));
    !placement.is_empty() && !twice && soldered.iter().all(|fixed| placement.contains(fixed))
}

fn experiment(case: &Case, present: &Placement, placement: Placement, passes: u32) -> Experiment {
    let touches = touched(present, &placement).len();
    let hands_minutes = if touches == 0 { HANDS_REPEAT } else { HANDS_BASE + touches as f64 };
    let minutes = case.pass_minutes(&placement) * f64::from(passes);
    Experiment { placement, passes, minutes, hands_minutes }
}

/// Expected information in bits about the suspects, and what both outcomes would mean.
fn forecast(
    case: &Case,
    hypotheses: &[Hypothesis],
    present: &Placement,
    next: &Experiment,
) -> (f64, Forecast, Forecast) {
    let mut moved = hypotheses.to_vec();
    touch(&mut moved, present, &next.placement);
    let after = |evidence: Evidence| {
        let run = RunFact {
            placement: next.placement.clone(),
            minutes: next.minutes,
            passes: f64::from(next.passes),
            evidence,
        };
        let mut taken = moved.clone();
        taken.iter_mut().for_each(|hypothesis| take(case, hypothesis, &run, false));
        let probability: f64 = taken.iter().map(|hypothesis| hypothesis.weight).sum();
        (probability, summed(&taken))
    };
    let entropy = |odds: &[Odds]| -> f64 {
        odds.iter().filter(|odds| odds.probability > 0.0).map(|o| -o.probability * o.probability.log2()).sum()
    };
    let mut outcomes = vec![after(Evidence::Clean)];
    if next.placement.len() > 1 {
        let named = next.placement.iter().map(|(slot, _)| Some(slot.clone())).chain([None]);
        outcomes.extend(named.map(|slot| after(Evidence::Errors { slot })));
    } else {
        outcomes.push(after(Evidence::Errors { slot: None }));
    }
    let total: f64 = outcomes.iter().map(|(probability, _)| probability).sum();
    let expected: f64 = outcomes.iter().map(|(probability, odds)| probability / total * entropy(odds)).sum();
    let gain = entropy(&summed(hypotheses)) - expected;
    let clean = Forecast { probability: outcomes[0].0 / total, leader: outcomes[0].1[0].clone() };
    let likeliest = outcomes[1..].iter().max_by(|a, b| a.0.total_cmp(&b.0)).unwrap_or(&outcomes[0]);
    let errors = Forecast { probability: 1.0 - clean.probability, leader: likeliest.1[0].clone() };
    (gain, errors, clean)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::isolate::model::tests::{case, errors, run};

    const BOTH: [(&str, &str); 2] = [("A1", "green"), ("B1", "red")];

    #[test]
    fn without_errors_there_is_nothing_to_find() {
        let advice = advise(&case(vec![run(&BOTH, 1.0, Evidence::Clean)]));
        assert_eq!(advice.verdict, Verdict::NothingToFind);
    }

    #[test]
    fn following_the_advice_names_the_bad_module_and_not_a_good_one() {
        let mut case = case(vec![run(&BOTH, 1.0, errors("B1"))]);
        for step in 0.. {
            assert!(step < 8, "no verdict after {step} steps: {:?}", advise(&case));
            match advise(&case).verdict {
                Verdict::Named(odds) => {
                    assert_eq!(odds.suspect, Suspect::Module("red".into()));
                    assert!(step >= 2, "one run more is not a proof");
                    return;
                }
                Verdict::NothingToFind => panic!("there were errors"),
                Verdict::Open { next, .. } => {
                    let home = next.placement.iter().find(|(_, module)| module == "red").map(|(slot, _)| slot.clone());
                    let evidence = match home {
                        Some(slot) if next.placement.len() > 1 => Evidence::Errors { slot: Some(slot) },
                        Some(_) => Evidence::Errors { slot: None },
                        None => Evidence::Clean,
                    };
                    case.runs.push(RunFact {
                        placement: next.placement,
                        minutes: next.minutes,
                        passes: f64::from(next.passes),
                        evidence,
                    });
                }
            }
        }
    }

    #[test]
    fn the_forecast_says_who_would_lead() {
        let Verdict::Open { if_errors, if_clean, .. } = advise(&case(vec![run(&BOTH, 1.0, errors("B1"))])).verdict
        else {
            panic!("one run is not enough")
        };
        assert_eq!(if_errors.leader.suspect, Suspect::Module("red".into()));
        assert!((if_errors.probability + if_clean.probability - 1.0).abs() < 1e-9);
    }
}
