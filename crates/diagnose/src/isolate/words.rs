//! Odds in words: bands instead of digits, because stated odds run ahead of the truth.

use super::case::Suspect;
use super::posterior::Odds;

/// The band of a probability.
pub fn band(probability: f64) -> &'static str {
    match probability {
        p if p >= 0.95 => "very likely",
        p if p >= 0.5 => "likely",
        p if p >= 0.05 => "possible",
        _ => "unlikely",
    }
}

/// The suspect in words; `name` tells what people call a module.
pub fn suspect_words(suspect: &Suspect, name: &dyn Fn(&str) -> String) -> String {
    match suspect {
        Suspect::Module(module) => format!("module {}", name(module)),
        Suspect::Unfit(module) => format!("module {}, good, but incompatible with this mainboard", name(module)),
        Suspect::Slot(slot) => format!("slot {slot}"),
        Suspect::NoPart => "poor seating or a one-off error".to_owned(),
        Suspect::Combination(module) => format!("{} with others installed", name(module)),
        Suspect::Pair(a, b) => format!("{} and {} together", name(a), name(b)),
        Suspect::Settings => "the settings".to_owned(),
        Suspect::Controller => "mainboard or processor".to_owned(),
        Suspect::TwoModules(a, b) => format!("modules {} and {}", name(a), name(b)),
        Suspect::ModuleAndSlot(module, slot) => format!("module {} and slot {slot}", name(module)),
        Suspect::Other => "something else".to_owned(),
    }
}

/// Who leads and how clearly, and who else is still possible.
pub fn leading(odds: &[Odds], name: &dyn Fn(&str) -> String) -> String {
    let Some(first) = odds.first() else { return "Nothing is known yet.".to_owned() };
    let suspect = suspect_words(&first.suspect, name);
    let mut sentence = format!("Most suspect: {suspect} ({}).", band(first.probability));
    let rivals: Vec<String> = odds[1..]
        .iter()
        .filter(|odds| odds.probability >= 0.05)
        .take(2)
        .map(|odds| suspect_words(&odds.suspect, name))
        .collect();
    if !rivals.is_empty() {
        sentence.push_str(&format!(" Not ruled out: {}.", rivals.join("; ")));
    }
    sentence
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;

    #[rstest]
    #[case(0.995, "very likely")]
    #[case(0.96, "very likely")]
    #[case(0.8, "likely")]
    #[case(0.5, "likely")]
    #[case(0.2, "possible")]
    #[case(0.01, "unlikely")]
    fn bands(#[case] probability: f64, #[case] words: &str) {
        assert_eq!(band(probability), words);
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
