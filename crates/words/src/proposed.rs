//! The run that is proposed while nothing failed: why it is this one, what clean would mean, and how likely a bad module shows in it.

use revisum_diagnose::isolate::WhyNext;
use revisum_engine::recipe::Depth;

use crate::say;

/// The sentence. `chance` is the probability, 0 to 1, that a bad module shows in it, where that can be told.
pub fn sentence(depth: Depth, why: WhyNext, chance: Option<f64>) -> String {
    let why = match (why, depth) {
        (WhyNext::Shortest, _) => say::proposed_shortest(),
        (WhyNext::UnderLoad, _) => say::proposed_load(),
        (WhyNext::TakesTime, _) => say::proposed_time(),
        (WhyNext::Deeper, Depth::Survey | Depth::Triage) => say::proposed_survey(),
        (WhyNext::Deeper, Depth::Overnight) => say::proposed_overnight(),
    };
    let meaning = match (depth, chance) {
        (_, Some(chance)) => say::proposed_chance(tenths(chance)),
        (_, None) => String::new(),
    };
    format!("{why} {meaning}").trim_end().to_owned()
}

/// Of ten such runs; neither none nor all of them.
fn tenths(chance: f64) -> u64 {
    (chance * 10.0).round().clamp(1.0, 9.0) as u64
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn it_says_why_and_how_likely() {
        let words = sentence(Depth::Survey, WhyNext::UnderLoad, Some(0.99));
        assert!(words.contains("computing") && words.contains("9 of 10"), "{words}");
        assert!(!sentence(Depth::Triage, WhyNext::Shortest, None).contains("of 10"));
    }
}
