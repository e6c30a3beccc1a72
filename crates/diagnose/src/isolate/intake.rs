//! What is asked when a machine comes in: lists to pick from. No answer is required, and none proves anything.

use std::collections::BTreeSet;

use super::priors::Priors;
use super::tilt::Tilt;

/// A question with answers to pick from; several may be picked.
#[derive(Debug)]
pub struct Question {
    /// The question.
    pub words: &'static str,
    /// Answers: the name in files, and the words.
    pub answers: &'static [(&'static str, &'static str)],
}

/// The questions, in the order in which they are asked.
pub const QUESTIONS: [Question; 5] = [
    Question {
        words: "What does it do?",
        answers: &[
            ("freezes", "freezes"),
            ("stops", "stops with an error screen"),
            ("restarts", "restarts unexpectedly"),
            ("programs-crash", "programs crash"),
            ("files-damaged", "files get damaged"),
            ("install-fails", "an installation fails"),
            ("slow", "slow"),
            ("no-start", "does not start"),
        ],
    },
    Question {
        words: "When?",
        answers: &[
            ("when-idle", "while idle"),
            ("under-load", "under load"),
            ("when-warm", "when warm"),
            ("when-cold", "when just switched on"),
            ("some-days", "some days only"),
            ("always", "always"),
        ],
    },
    Question {
        words: "What changed before?",
        answers: &[
            ("memory-added", "memory was added"),
            ("memory-moved", "memory was moved or cleaned"),
            ("profile-on", "a memory profile was switched on"),
            ("firmware-updated", "new firmware"),
            ("moved-or-fell", "it was moved, or fell"),
            ("processor-changed", "processor or cooler"),
            ("old-machine", "nothing, it is old"),
        ],
    },
    Question {
        words: "What is ruled out already?",
        answers: &[
            ("board-ruled-out", "mainboard and slots"),
            ("processor-ruled-out", "processor"),
            ("power-ruled-out", "power supply"),
            ("settings-ruled-out", "settings: at defaults it fails too"),
            ("seating-ruled-out", "seating: reseated, it still fails"),
            ("heat-ruled-out", "heat"),
            ("storage-ruled-out", "storage"),
        ],
    },
    Question {
        words: "What did other checks say?",
        answers: &[
            ("check-found-errors", "a memory check found errors"),
            ("check-was-clean", "a memory check was clean"),
            ("log-has-errors", "the system's log names memory"),
            ("checks-disagree", "checks contradict each other"),
        ],
    },
];

/// What the picked answers do to the weights; answers that the priors do not name do nothing.
pub fn tilt(picked: &BTreeSet<String>, priors: &Priors) -> Tilt {
    let factors = picked.iter().filter_map(|name| priors.intake.get(name));
    factors.fold(Tilt::default(), |all, one| all * *one)
}

/// The words of an answer; nothing when there is none of this name.
pub fn answer_named(name: &str) -> Option<&'static str> {
    let mut answers = QUESTIONS.iter().flat_map(|question| question.answers);
    answers.find(|(known, _)| *known == name).map(|(_, words)| *words)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn every_tilt_belongs_to_an_answer_and_names_are_unique() {
        let priors = Priors::default();
        for name in priors.intake.keys() {
            assert!(answer_named(name).is_some(), "{name}");
        }
        let names: Vec<&str> = QUESTIONS.iter().flat_map(|question| question.answers).map(|(name, _)| *name).collect();
        assert_eq!(names.iter().collect::<BTreeSet<_>>().len(), names.len());
    }

    #[test]
    fn answers_multiply() {
        let picked = ["profile-on", "firmware-updated", "freezes"].map(str::to_owned).into();
        let tilt = tilt(&picked, &Priors::default());
        assert_eq!((tilt.settings, tilt.together, tilt.module), (6.0, 1.5, 1.0));
    }
}
