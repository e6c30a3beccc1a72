//! What is asked when a machine comes in: lists to pick from. No answer is required, and none proves anything.

use std::collections::BTreeSet;

use super::priors::Priors;
use super::tilt::Tilt;

/// A question with answers to pick from; several may be picked.
#[derive(Debug)]
pub struct Question {
    /// Its name.
    pub name: &'static str,
    /// Names of the answers, as in files.
    pub answers: &'static [&'static str],
}

/// The questions, in the order in which they are asked.
pub const QUESTIONS: [Question; 7] = [
    Question {
        name: "what",
        answers: &[
            "freezes",
            "stops",
            "restarts",
            "programs-crash",
            "files-damaged",
            "install-fails",
            "slow",
            "no-start",
        ],
    },
    Question {
        name: "signals",
        answers: &["signals-nothing", "signals-memory", "signals-processor", "signals-graphics"],
    },
    Question { name: "when", answers: &["when-idle", "under-load", "when-warm", "when-cold", "some-days", "always"] },
    Question {
        name: "changed",
        answers: &[
            "memory-added",
            "memory-moved",
            "profile-on",
            "firmware-updated",
            "moved-or-fell",
            "processor-changed",
            "kits-mixed",
            "voltage-raised",
            "old-machine",
        ],
    },
    Question {
        name: "ruled-out",
        answers: &[
            "board-ruled-out",
            "processor-ruled-out",
            "power-ruled-out",
            "settings-ruled-out",
            "seating-ruled-out",
            "heat-ruled-out",
            "storage-ruled-out",
            "socket-inspected",
            "contacts-cleaned",
        ],
    },
    Question { name: "memory", answers: &["kit-rated", "on-support-list", "slots-by-manual"] },
    Question {
        name: "checks",
        answers: &["check-found-errors", "check-was-clean", "log-has-errors", "checks-disagree"],
    },
];

/// What the picked answers do to the weights; answers that the priors do not name do nothing.
pub fn tilt(picked: &BTreeSet<String>, priors: &Priors) -> Tilt {
    let factors = picked.iter().filter_map(|name| priors.intake.get(name));
    factors.fold(Tilt::default(), |all, one| all * *one)
}

/// Whether there is an answer of this name.
pub fn is_answer(name: &str) -> bool {
    QUESTIONS.iter().any(|question| question.answers.contains(&name))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn every_tilt_belongs_to_an_answer_and_names_are_unique() {
        let priors = Priors::default();
        for name in priors.intake.keys() {
            assert!(is_answer(name), "{name}");
        }
        let names: Vec<&str> = QUESTIONS.iter().flat_map(|question| question.answers).copied().collect();
        assert_eq!(names.iter().collect::<BTreeSet<_>>().len(), names.len());
    }

    #[test]
    fn answers_multiply() {
        let picked = ["profile-on", "firmware-updated", "freezes"].map(str::to_owned).into();
        let tilt = tilt(&picked, &Priors::default());
        assert_eq!((tilt.settings, tilt.together, tilt.module), (6.0, 1.5, 1.0));
    }
}
