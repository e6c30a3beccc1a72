//! Odds in words.

use revisum_diagnose::isolate::{
    Advice, Because, Came, Case, Forecast, MarkClass, Observed, Odds, Suspect, band, because,
};

use crate::card;
use crate::said::Said;
use crate::say;

/// The suspect; `name` tells what people call a module.
pub fn suspect(suspect: &Suspect, name: &dyn Fn(&str) -> String) -> String {
    match suspect {
        Suspect::Module(module) => say::suspect_module(name(module)),
        Suspect::Unfit(module) => say::suspect_unfit(name(module)),
        Suspect::Slot(slot) => say::suspect_slot(slot),
        Suspect::Channel(channel) => say::suspect_channel(channel),
        Suspect::TooMany => say::suspect_too_many().to_owned(),
        Suspect::Position => say::suspect_position().to_owned(),
        Suspect::Kits => say::suspect_kits().to_owned(),
        Suspect::NoPart => say::suspect_no_part().to_owned(),
        Suspect::Combination(module) => say::suspect_combination(name(module)),
        Suspect::Pair(a, b) => say::suspect_pair(name(a), name(b)),
        Suspect::Settings => say::suspect_settings().to_owned(),
        Suspect::Controller => say::suspect_controller().to_owned(),
        Suspect::TwoModules(a, b) => say::suspect_two(name(a), name(b)),
        Suspect::ModuleAndSlot(module, slot) => say::suspect_module_slot(name(module), slot),
        Suspect::Other => say::suspect_other().to_owned(),
    }
}

/// Who leads and how clearly, and who else is still possible.
pub fn leading(odds: &[Odds], name: &dyn Fn(&str) -> String) -> String {
    let Some(first) = odds.first() else { return say::leading_nothing().to_owned() };
    let leader = say::leading_most(suspect(&first.suspect, name), band(first.probability).said());
    let rivals = odds[1..].iter().filter(|odds| odds.probability >= 0.05).take(2);
    let rivals: Vec<String> = rivals.map(|odds| suspect(&odds.suspect, name)).collect();
    if rivals.is_empty() { leader } else { leader + &say::leading_rivals(rivals.join("; ")) }
}

/// Observations that are told beside a suspect.
const REASONS: usize = 3;

/// What speaks most for the suspect that leads, the weightiest first.
pub fn reasons(case: &Case, advice: &Advice, name: &dyn Fn(&str) -> String) -> Vec<String> {
    let all = advice.leader().map(|leader| because(case, leader, REASONS)).unwrap_or_default();
    all.iter().map(|one| reason(one, name)).collect()
}

fn reason(because: &Because, name: &dyn Fn(&str) -> String) -> String {
    let Because { observed, .. } = because;
    match observed {
        Observed::Ran { placement, without, as_first, settings, came, times } => {
            let fitted = fitted(placement, without, *as_first, name);
            let setting = settings.as_ref().map(|name| say::because_set(card::settings(name))).unwrap_or_default();
            say::because_ran(u64::from(*times), self::came(came), fitted + &setting)
        }
        Observed::Moved { module, class, same } => {
            let say = match (class, same) {
                (MarkClass::Cells, true) => say::because_cells_followed,
                (MarkClass::Cells, false) => say::because_cells_changed,
                (MarkClass::Lines, true) => say::because_lanes_followed,
                (MarkClass::Lines, false) => say::because_lanes_changed,
            };
            say(&name(module))
        }
        Observed::Stayed { slot, class, same } => match (class, same) {
            (MarkClass::Cells, true) => say::because_cells_stayed(slot),
            (MarkClass::Cells, false) => say::because_cells_went(slot),
            (MarkClass::Lines, true) => say::because_lanes_stayed(slot),
            (MarkClass::Lines, false) => say::because_lanes_went(slot),
        },
    }
}

fn came(came: &Came) -> String {
    match came {
        Came::Clean => say::because_clean().to_owned(),
        Came::Errors(slots) if slots.is_empty() => say::because_errors().to_owned(),
        Came::Errors(slots) => say::because_errors_in(slots.join(", ")),
        Came::Dark => say::because_dark().to_owned(),
        Came::Starts => say::because_starts().to_owned(),
    }
}

/// Which modules were fitted, in the fewest words.
fn fitted(placement: &[(String, String)], without: &[String], as_first: bool, name: &dyn Fn(&str) -> String) -> String {
    let (count, missing) = (placement.len(), without.len());
    let slots = || placement.iter().map(|(slot, _)| slot.clone()).collect::<Vec<_>>().join(", ");
    let names = || without.iter().map(|id| name(id)).collect::<Vec<_>>().join(say::join_and());
    let placed = |(slot, id): &(String, String)| say::step_placed(name(id), slot);
    match () {
        () if count > 1 && as_first => say::because_all().to_owned(),
        () if count > 1 && missing == 0 => say::because_all_in(slots()),
        () if count > 2 && missing < count => say::because_all_but(names()),
        () => placement.iter().map(placed).collect::<Vec<_>>().join(say::join_and()),
    }
}

/// What an outcome would mean: who leads then, how surely, and who else rises.
pub fn forecast(forecast: &Forecast, name: &dyn Fn(&str) -> String) -> String {
    let leader = suspect(&forecast.leader.suspect, name);
    let grade = band(forecast.leader.probability).said();
    match &forecast.rises {
        Some(other) => say::becomes_likelier(leader, grade, suspect(&other.suspect, name)),
        None => say::graded(leader, grade),
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    #[rstest]
    #[case::as_first("A1=a B1=b", &[], true, "errors with all modules")]
    #[case::moved("A2=a B2=b", &[], false, "errors with all modules in A2, B2")]
    #[case::one("A1=a", &["b", "c"], false, "errors with a in A1")]
    #[case::most("A1=a A2=b B1=c", &["d"], false, "errors with all modules but d")]
    #[case::some("A1=a B1=b", &["c", "d"], false, "errors with a in A1 and b in B1")]
    fn runs_are_told_by_what_was_fitted(
        #[case] fitted: &str,
        #[case] without: &[&str],
        #[case] as_first: bool,
        #[case] expected: &str,
    ) {
        let places = fitted.split(' ').map(|place| place.split_once('=').unwrap());
        let placement = places.map(|(slot, id)| (slot.to_owned(), id.to_owned())).collect();
        let without = without.iter().map(|id| (*id).to_owned()).collect();
        let observed =
            Observed::Ran { placement, without, as_first, settings: None, came: Came::Errors(Vec::new()), times: 1 };
        assert_eq!(reason(&Because { observed, weight: 1.0 }, &str::to_owned), expected);
    }

    #[rstest]
    #[case(Came::Clean, None, 3, "no error with a in A1 (3 runs)")]
    #[case(Came::Errors(vec!["A1".into(), "B1".into()]), Some("stock"), 1, "errors in A1, B1 with a in A1 at stock settings")]
    #[case(Came::Dark, None, 2, "no start with a in A1 (2 runs)")]
    fn runs_are_told_by_what_came(
        #[case] came: Came,
        #[case] settings: Option<&str>,
        #[case] times: u32,
        #[case] expected: &str,
    ) {
        let (placement, settings) = (vec![("A1".into(), "a".into())], settings.map(str::to_owned));
        let observed = Observed::Ran { placement, without: vec!["b".into()], as_first: false, settings, came, times };
        assert_eq!(reason(&Because { observed, weight: 1.0 }, &str::to_owned), expected);
    }

    #[test]
    fn the_sentence_names_rivals_that_are_still_possible() {
        let odds = [
            (Suspect::Module("s".into()), 0.7),
            (Suspect::Slot("B1".into()), 0.2),
            (Suspect::NoPart, 0.08),
            (Suspect::Other, 0.02),
        ]
        .map(|(suspect, probability)| Odds { suspect, probability });
        let sentence = leading(&odds, &|_| "red dot".into());
        assert_eq!(
            sentence,
            "Most suspect: module red dot (likely). Not ruled out: slot B1; poor seating or a one-off error."
        );
    }
}
