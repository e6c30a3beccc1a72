//! The next step as something that can be followed with a screwdriver in the hand.

use std::collections::BTreeSet;

use revisum_diagnose::isolate::{Case, Experiment, Placement};

use crate::say;

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
    /// Modules were moved in this job before: what has to be done each time is said shortly.
    pub moved_before: bool,
    /// What people call a module.
    pub name: &'a dyn Fn(&str) -> String,
}

/// The step in a few words.
pub fn headline(case: &Case, next: &Experiment, scene: &Scene<'_>) -> String {
    let setting = changed_setting(next, scene).map(|name| say::step_setting(settings(name))).unwrap_or_default();
    let name = |id: &String| (scene.name)(id);
    if same(&next.placement, scene.now) {
        return match next.reseat.len() {
            0 if setting.is_empty() => say::step_again_untouched().to_owned(),
            0 => say::step_again(setting),
            all if all == scene.now.len() && all > 1 => say::step_reseat_all().to_owned(),
            _ => say::step_reseat(next.reseat.iter().map(name).collect::<Vec<_>>().join(say::join_and())),
        };
    }
    let first = case.first_failure().map(|run| &run.placement);
    if first.is_some_and(|first| same(&next.placement, first)) {
        return say::step_as_first(setting);
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
        return say::step_alone(name(module), slot, setting);
    }
    if others_stay && missing.len() <= 2 {
        return say::step_all_but(missing.join(say::join_and()), setting);
    }
    let placed: Vec<String> =
        next.placement.iter().map(|(slot, module)| say::step_placed(name(module), slot)).collect();
    say::step_several(placed.join(", "), setting)
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
    let out = |(slot, module): &(String, String)| say::do_take_out_of(name(module), slot);
    let taken: Vec<String> = scene.now.iter().filter(|(_, module)| !stays(module)).map(out).collect();
    if !taken.is_empty() {
        moves.push(say::do_take(joined(&taken)));
    }
    for (slot, module) in &next.placement {
        match scene.now.iter().find(|(_, fitted)| fitted == module) {
            Some((before, _)) if before != slot => moves.push(say::do_move(name(module), before, slot)),
            Some(_) if next.reseat.contains(module) => {
                moves.push(say::do_reseat(name(module), slot));
            }
            Some(_) => {}
            None => moves.push(say::do_put(name(module), slot)),
        }
    }
    let mut steps = Vec::new();
    if !moves.is_empty() {
        steps.push(first_words(scene));
        steps.append(&mut moves);
        if !scene.by_program && !scene.moved_before {
            steps.push(say::do_notch().to_owned());
        }
    }
    if let Some(settings) = changed_setting(next, scene) {
        steps.push(match (scene.by_program, settings) {
            (true, _) => say::do_simulated_settings(self::settings(settings)),
            (false, "stock") => say::do_stock().to_owned(),
            (false, other) => say::do_other_settings(self::settings(other)),
        });
    }
    steps
}

fn first_words(scene: &Scene<'_>) -> String {
    match (scene.by_program, scene.laptop) {
        (true, _) => say::do_simulated(),
        (false, Some(false)) if scene.moved_before => say::do_off_again_desktop(),
        (false, _) if scene.moved_before => say::do_off_again(),
        (false, Some(true)) => say::do_off_laptop(),
        (false, Some(false)) => say::do_off_desktop(),
        (false, None) => say::do_off(),
    }
    .to_owned()
}

/// The name of settings: those that the program itself names are said in words, others are as somebody named them.
pub fn settings(name: &str) -> &str {
    match name {
        "stock" => say::settings_stock(),
        "profile" => say::settings_profile(),
        other => other,
    }
}

fn joined(words: &[String]) -> String {
    match words {
        [] => String::new(),
        [one] => one.clone(),
        [all @ .., last] => format!("{}{}{last}", all.join(", "), say::join_and()),
    }
}

/// How what is fitted differs from what was planned, a few words for each module.
pub fn differences(planned: &Placement, now: &Placement, name: &dyn Fn(&str) -> String) -> Vec<String> {
    let slot_of = |id: &String, placement: &Placement| {
        placement.iter().find(|(_, module)| module == id).map(|(slot, _)| slot.clone())
    };
    let modules: BTreeSet<&String> = planned.iter().chain(now).map(|(_, module)| module).collect();
    let difference = |id: &String| match (slot_of(id, planned), slot_of(id, now)) {
        (Some(wanted), Some(found)) if wanted != found => Some(say::differs_elsewhere(name(id), found, wanted)),
        (Some(wanted), None) => Some(say::differs_missing(name(id), wanted)),
        (None, Some(found)) => Some(say::differs_still(name(id), found)),
        _ => None,
    };
    modules.into_iter().filter_map(difference).collect()
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;
    use revisum_diagnose::isolate::{Evidence, Place, RunFact};

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
        let scene = Scene {
            now: &now,
            settings: "profile",
            by_program: false,
            laptop: Some(true),
            moved_before: false,
            name: &name,
        };
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
