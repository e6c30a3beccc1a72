//! What is asked when a machine comes in.

use crate::texts::lookup;

/// The words of a question, by its name.
pub fn question(name: &'static str) -> &'static str {
    lookup(&format!("ask-{name}"), None).unwrap_or(name)
}

/// The words of an answer, by its name; nothing when there is none of this name.
pub fn answer(name: &str) -> Option<&'static str> {
    lookup(&format!("answer-{name}"), None)
}

#[cfg(test)]
mod tests {
    use revisum_diagnose::isolate::QUESTIONS;

    use super::*;
    use crate::{Language, entries};

    /// Each question and answer has words, and the file has no others.
    #[test]
    fn every_answer_has_words() {
        let known: Vec<String> = entries(Language::EN, Some("intake")).unwrap().into_keys().collect();
        let answers = QUESTIONS.iter().flat_map(|question| question.answers).map(|name| format!("answer-{name}"));
        let mut named: Vec<String> =
            QUESTIONS.iter().map(|question| format!("ask-{}", question.name)).chain(answers).collect();
        named.sort();
        assert_eq!(known, named);
        assert_eq!((question("when"), answer("freezes"), answer("sings")), ("When?", Some("freezes"), None));
    }
}
