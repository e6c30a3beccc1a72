//! The run that is proposed while nothing failed: why it is this one, what clean would mean, and how likely a bad module shows in it.

use revisum_diagnose::isolate::{CleanFor, WhyNext};
use revisum_engine::recipe::Depth;
use revisum_engine::units::duration_text;

use crate::say;

/// What can be known of a run before it.
#[derive(Clone, Copy, Debug)]
pub struct Ahead {
    /// The probability, 0 to 1, that a bad module shows in it.
    pub chance: f64,
    /// How long it takes, in seconds.
    pub seconds: f64,
}

/// The sentences.
pub fn sentence(depth: Depth, why: WhyNext, clean: Option<CleanFor>, ahead: Option<Ahead>) -> String {
    let why = match (why, depth) {
        (WhyNext::Shortest, _) => say::proposed_shortest(),
        (WhyNext::UnderLoad, _) => say::proposed_load(),
        (WhyNext::TakesTime, _) => say::proposed_time(),
        (WhyNext::Deeper, Depth::Survey | Depth::Triage) => say::proposed_survey(),
        (WhyNext::Deeper, Depth::Overnight) => say::proposed_overnight(),
    };
    let chance = ahead.map(|ahead| say::proposed_chance(tenths(ahead.chance)));
    let clean = clean.zip(ahead).map(|(clean, ahead)| if_clean(clean, &duration_text(ahead.seconds)));
    [Some(why.to_owned()), chance, clean].into_iter().flatten().collect::<Vec<_>>().join(" ")
}

/// What a clean run of this time would say of the complaint.
fn if_clean(clean: CleanFor, time: &str) -> String {
    match clean {
        CleanFor::LoadMade => say::clean_for_load_made(time),
        CleanFor::LoadMissing => say::clean_for_load_missing().to_owned(),
        CleanFor::Cold => say::clean_for_cold().to_owned(),
        CleanFor::Warm => say::clean_for_warm(time),
        CleanFor::SomeDays => say::clean_for_some_days(time),
        CleanFor::Idle => say::clean_for_idle(time),
        CleanFor::Always => say::clean_for_always().to_owned(),
    }
}

/// Of ten such runs; neither none nor all of them.
fn tenths(chance: f64) -> u64 {
    (chance * 10.0).round().clamp(1.0, 9.0) as u64
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn it_says_why_and_how_likely_and_what_clean_would_mean() {
        let ahead = Some(Ahead { chance: 0.99, seconds: 1440.0 });
        let words = sentence(Depth::Survey, WhyNext::UnderLoad, Some(CleanFor::LoadMade), ahead);
        assert!(words.contains("computing") && words.contains("9 of 10") && words.contains("24 min"), "{words}");
        let unknown = sentence(Depth::Triage, WhyNext::Shortest, Some(CleanFor::Warm), None);
        assert!(!unknown.contains("of 10") && !unknown.contains("clean"), "{unknown}");
    }
}
