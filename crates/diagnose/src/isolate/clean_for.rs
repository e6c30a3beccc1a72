//! What a run without errors would say of the complaint that the machine came in with.

use std::collections::BTreeSet;

/// How far a run makes what the complaint needs.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum CleanFor {
    /// It comes under load, and the run computes beside the memory.
    LoadMade,
    /// It comes under load, and the run makes none.
    LoadMissing,
    /// It comes on a cold machine, and a run warms it up.
    Cold,
    /// It comes on a warm machine.
    Warm,
    /// It comes on some days, and a run is a part of one.
    SomeDays,
    /// It comes at rest, and a run rests in part only.
    Idle,
    /// It is always there.
    Always,
}

impl CleanFor {
    /// By the answers of the intake; the answer that leaves most open counts where several were picked. Nothing where none says when it comes.
    pub fn of(picked: &BTreeSet<String>, computes: bool) -> Option<Self> {
        let under_load = if computes { Self::LoadMade } else { Self::LoadMissing };
        let by_answer = [
            ("under-load", under_load),
            ("some-days", Self::SomeDays),
            ("when-cold", Self::Cold),
            ("when-warm", Self::Warm),
            ("when-idle", Self::Idle),
            ("always", Self::Always),
        ];
        by_answer.into_iter().find_map(|(name, clean)| picked.contains(name).then_some(clean))
    }
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;
    use crate::isolate::is_answer;

    #[rstest]
    #[case::nothing_said(&[], true, None)]
    #[case::says_not_when(&["freezes"], true, None)]
    #[case::load(&["under-load"], true, Some(CleanFor::LoadMade))]
    #[case::no_load(&["under-load", "freezes"], false, Some(CleanFor::LoadMissing))]
    #[case::both(&["always", "some-days"], true, Some(CleanFor::SomeDays))]
    #[case::cold(&["when-cold"], true, Some(CleanFor::Cold))]
    #[case::warm(&["when-warm"], true, Some(CleanFor::Warm))]
    #[case::idle(&["when-idle"], true, Some(CleanFor::Idle))]
    #[case::always(&["always"], true, Some(CleanFor::Always))]
    fn the_answer_that_leaves_most_open_counts(
        #[case] picked: &[&str],
        #[case] computes: bool,
        #[case] expected: Option<CleanFor>,
    ) {
        assert!(picked.iter().all(|name| is_answer(name)));
        let picked = picked.iter().map(|name| (*name).to_owned()).collect();
        assert_eq!(CleanFor::of(&picked, computes), expected);
    }
}
