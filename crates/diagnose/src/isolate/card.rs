//! The next step as something that can be followed with a screwdriver in the hand.

use std::collections::BTreeSet;

use super::case::{Case, Experiment, Placement};
use super::plan::Forecast;
use super::words::{band, suspect_words};

/// What a step is written for.
pub struct Scene<'a> {
    /// What is fitted now.
    pub now: &'a Placement,
    /// Settings in force now.
    pub settings: &'a str,
    /// The program moves modules and changes settings itself: a simulation.
    pub by_program: bool,
    /// A machine with a battery.
    pub laptop: Option<bool>,
    /// What people call a module.
    pub name: &'a dyn Fn(&str) -> String,
}

/// The step in a few words.
pub fn headline(case: &Case, next: &Experiment, scene: &Scene<'_>) -> String {
    let setting =
        changed_setting(next, scene).map(|settings| format!(", with {settings} settings")).unwrap_or_default();
    let name = |id: &String| (scene.name)(id);
    if same(&next.placement, scene.now) {
        return match next.reseat.len() {
            0 if setting.is_empty() => "Run again, nothing touched".to_owned(),
            0 => format!("Run again{setting}"),
            all if all == scene.now.len() && all > 1 => "Take all modules out and put them back".to_owned(),
            _ => format!("Take {} out and put it back", next.reseat.iter().map(name).collect::<Vec<_>>().join(" and ")),
        };
    }
    let first = case.first_failure().map(|run| &run.placement);
    if first.is_some_and(|first| same(&next.placement, first)) {
        return format!("Everything back as it was at first{setting}");
    }
    let missing: Vec<String> = first
        .into_iter()
        .flatten()
        .filter(|(_, module)| !next.placement.iter().any(|(_, fitted)| fitted == module))
        .map(|(_, module)| name(module))
        .collect();
    let others_stay = first.is_some_and(|first| next.placement.iter().all(|place| first.contains(place)));
    if next.placement.len() == 1 {
        let (slot, module) = &next.placement[0];
        return format!("{} alone in {slot}{setting}", name(module));
    }
    if others_stay && missing.len() <= 2 {
        return format!("All but {}{setting}", missing.join(" and "));
    }
    let placed: Vec<String> =
        next.placement.iter().map(|(slot, module)| format!("{} in {slot}", name(module))).collect();
    format!("{}{setting}", placed.join(", "))
}

fn same(a: &Placement, b: &Placement) -> bool {
    a.len() == b.len() && a.iter().all(|place| b.contains(place))
}

fn changed_setting<'a>(next: &'a Experiment, scene: &Scene<'_>) -> Option<&'a str> {
    Some(next.settings.as_str()).filter(|settings| !settings.is_empty() && *settings != scene.settings)
}

/// What to do with one's hands, in order; without the run itself.
pub fn steps(next: &Experiment, scene: &Scene<'_>) -> Vec<String> {
    let name = |id: &String| (scene.name)(id);
    let mut moves = Vec::new();
    let stays = |module: &String| next.placement.iter().any(|(_, wanted)| wanted == module);
    let out = |(slot, module): &(String, String)| format!("{} out of {slot}", name(module));
    let taken: Vec<String> = scene.now.iter().filter(|(_, module)| !stays(module)).map(out).collect();
    if !taken.is_empty() {
        moves.push(format!("Take {}. Keep it at hand.", joined(&taken)));
    }
    for (slot, module) in &next.placement {
        match scene.now.iter().find(|(_, fitted)| fitted == module) {
            Some((before, _)) if before != slot => {
                moves.push(format!("Move {} from {before} to {slot}.", name(module)))
            }
            Some(_) if next.reseat.contains(module) => {
                moves.push(format!("Take {} out of {slot}, check its contacts, and press it back in.", name(module)));
            }
            Some(_) => {}
            None => moves.push(format!("Put {} into {slot}.", name(module))),
        }
    }
    let mut steps = Vec::new();
    if !moves.is_empty() {
        steps.push(first_words(scene));
        steps.append(&mut moves);
        if !scene.by_program {
            let words = "Notch to key, straight down, until both latches click shut.";
            steps.push(words.to_owned());
        }
    }
    if let Some(settings) = changed_setting(next, scene) {
        steps.push(match (scene.by_program, settings) {
            (true, _) => format!("The simulation puts {settings} settings in force."),
            (false, "stock") => {
                "In the firmware's setup load the defaults: no memory profile, no timings or voltage by hand."
                    .to_owned()
            }
            (false, other) => format!("In the firmware's setup put the {other} settings back in force, as they were."),
        });
    }
    steps
}

fn first_words(scene: &Scene<'_>) -> String {
    match (scene.by_program, scene.laptop) {
        (true, _) => "The simulation moves the modules for you.".to_owned(),
        (false, Some(true)) => {
            "Switch off, unplug, take the battery out, hold the power button five seconds. Touch bare metal.".to_owned()
        }
        (false, Some(false)) => {
            "Switch off, unplug, hold the power button five seconds. Touch the bare case.".to_owned()
        }
        (false, None) => {
            "Switch off, unplug, on a laptop take the battery out; hold the power button five seconds. Touch \
                          bare metal."
                .to_owned()
        }
    }
}

fn joined(words: &[String]) -> String {
    match words {
        [] => String::new(),
        [one] => one.clone(),
        [all @ .., last] => format!("{} and {last}", all.join(", ")),
    }
}

/// How what is fitted differs from what was planned, a few words for each module.
pub fn differences(planned: &Placement, now: &Placement, name: &dyn Fn(&str) -> String) -> Vec<String> {
    let slot_of = |id: &String, placement: &Placement| {
        placement.iter().find(|(_, module)| module == id).map(|(slot, _)| slot.clone())
    };
    let modules: BTreeSet<&String> = planned.iter().chain(now).map(|(_, module)| module).collect();
    let difference = |id: &String| match (slot_of(id, planned), slot_of(id, now)) {
        (Some(wanted), Some(found)) if wanted != found => {
            Some(format!("{} is in {found} instead of {wanted}", name(id)))
        }
        (Some(wanted), None) => Some(format!("{} is missing in {wanted}", name(id))),
        (None, Some(found)) => Some(format!("{} is still in {found}", name(id))),
        _ => None,
    };
    modules.into_iter().filter_map(difference).collect()
}

/// What an outcome would mean: who leads then, how surely, and who else rises.
pub fn forecast_words(forecast: &Forecast, name: &dyn Fn(&str) -> String) -> String {
    let leader = suspect_words(&forecast.leader.suspect, name);
    let words = format!("{leader} ({})", band(forecast.leader.probability));
    match &forecast.rises {
        Some(other) => format!("{words}; {} becomes more likely", suspect_words(&other.suspect, name)),
        None => words,
    }
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;
    use crate::isolate::{Evidence, Place, RunFact};

    fn placed(pairs: &[(&str, &str)]) -> Placement {
        pairs.iter().map(|(slot, module)| ((*slot).to_owned(), (*module).to_owned())).collect()
    }

    fn case() -> Case {
        let all = placed(&[("A1", "one"), ("B1", "two"), ("C1", "three")]);
        let run = RunFact { evidence: Evidence::Errors(Place::Unknown), ..RunFact::clean(all, 60.0, 2.0) };
        Case { runs: vec![run], ..Case::default() }
    }

    #[rstest]
    #[case::as_planned(&[("A1", "one"), ("B1", "two")], &[])]
    #[case::exchanged(&[("A1", "two"), ("B1", "one")], &["one is in B1 instead of A1", "two is in A1 instead of B1"])]
    #[case::missing(&[("A1", "one")], &["two is missing in B1"])]
    #[case::left_in(&[("A1", "one"), ("B1", "two"), ("C1", "three")], &["three is still in C1"])]
    fn differences_are_told(#[case] now: &[(&str, &str)], #[case] expected: &[&str]) {
        let planned = placed(&[("A1", "one"), ("B1", "two")]);
        assert_eq!(differences(&planned, &placed(now), &str::to_owned), expected);
    }

    #[rstest]
    #[case::again(&[("A1", "one"), ("B1", "two"), ("C1", "three")], &[], "", "Run again, nothing touched", "")]
    #[case::settings(&[("A1", "one"), ("B1", "two"), ("C1", "three")], &[], "stock", "Run again, with stock settings", "load the defaults")]
    #[case::reseat(&[("A1", "one"), ("B1", "two"), ("C1", "three")], &["two"], "", "Take two out and put it back", "check its contacts")]
    #[case::alone(&[("A1", "two")], &[], "", "two alone in A1", "Take one out of A1 and three out of C1")]
    #[case::all_but(&[("A1", "one"), ("B1", "two")], &[], "", "All but three", "Take three out of C1")]
    #[case::exchanged(&[("A1", "two"), ("B1", "one"), ("C1", "three")], &[], "", "two in A1, one in B1, three in C1", "Move two from B1 to A1")]
    #[case::known_good(&[("A1", "good")], &[], "", "good alone in A1", "Put good into A1")]
    fn cards(
        #[case] to: &[(&str, &str)],
        #[case] reseat: &[&str],
        #[case] settings: &str,
        #[case] title: &str,
        #[case] step: &str,
    ) {
        let (case, name) = (case(), |id: &str| id.to_owned());
        let now = case.runs[0].placement.clone();
        let scene = Scene { now: &now, settings: "profile", by_program: false, laptop: Some(true), name: &name };
        let next = Experiment {
            placement: placed(to),
            reseat: reseat.iter().map(|id| (*id).to_owned()).collect(),
            settings: settings.into(),
            ..Experiment::default()
        };
        assert_eq!(headline(&case, &next, &scene), title);
        let steps = steps(&next, &scene).join(" ");
        assert!(steps.contains(step), "{steps}");
        let touched = !same(&next.placement, &now) || !reseat.is_empty();
        assert_eq!(steps.contains("take the battery out"), touched);
    }
}
