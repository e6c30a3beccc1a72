//! Odds in words.

use revisum_diagnose::isolate::{Forecast, Odds, Suspect, band};

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
