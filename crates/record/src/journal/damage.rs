//! What a reader had to leave out, and what else it noticed.

use revisum_engine::units::{counted, duration_text};
use serde::Serialize;

/// What a reader had to leave out, and what else is not as it was written.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize)]
pub struct Damage {
    /// The last line was not complete and was cut off.
    pub torn_tail: bool,
    /// Lines whose checksum or form is wrong.
    pub damaged: u64,
    /// Records missing by their numbers.
    pub missing: u64,
    /// Records that a newer program wrote and this one does not know.
    pub unknown: u64,
    /// Records that do not follow the one before them, or were found only in another place.
    pub displaced: u64,
    /// Files of the journal that cannot be read.
    pub unreadable: u64,
    /// From which to which moment something is wrong, in milliseconds since the journal began; no end when nothing sound comes after it.
    pub span_ms: Option<(u64, Option<u64>)>,
}

impl Damage {
    /// Whether anything is not as it was written.
    pub fn any(&self) -> bool {
        self.torn_tail || self.beyond_a_torn_tail()
    }

    /// Whether anything is not as it was written, but for a last line that the end of the writing itself cut off.
    pub fn beyond_a_torn_tail(&self) -> bool {
        self.damaged > 0 || self.missing > 0 || self.unknown > 0 || self.displaced > 0 || self.unreadable > 0
    }

    /// Notes that something is wrong from here on.
    pub(super) fn opens(&mut self, t_ms: u64) {
        match &mut self.span_ms {
            Some((_, end)) => *end = None,
            None => self.span_ms = Some((t_ms, None)),
        }
    }

    /// Notes that all is well again from here on.
    pub(super) fn closes(&mut self, t_ms: u64) {
        if let Some((_, end @ None)) = &mut self.span_ms {
            *end = Some(t_ms);
        }
    }

    /// A sentence about it; nothing when all is well.
    pub fn sentence(&self) -> Option<String> {
        let mut parts = Vec::new();
        if self.torn_tail {
            parts.push("the last record was torn off and is left out".to_owned());
        }
        if self.damaged > 0 {
            parts.push(format!("{} damaged and left out", counted(self.damaged, "line")));
        }
        if self.missing > 0 {
            parts.push(format!("{} missing", counted(self.missing, "record")));
        }
        if self.unknown > 0 {
            parts.push(format!("{} of a newer program not understood", counted(self.unknown, "record")));
        }
        if self.displaced > 0 {
            parts.push(format!("{} not where it was written", counted(self.displaced, "record")));
        }
        if self.unreadable > 0 {
            parts.push(format!("{} of it cannot be read", counted(self.unreadable, "file")));
        }
        let place = if self.beyond_a_torn_tail() { self.place() } else { String::new() };
        (!parts.is_empty()).then(|| format!("This record is not whole{place}: {}.", parts.join("; ")))
    }

    fn place(&self) -> String {
        let text = |ms: u64| duration_text(ms as f64 / 1000.0);
        match self.span_ms {
            Some((0, None)) | None => String::new(),
            Some((from, None)) => format!(" from {} on", text(from)),
            Some((from, Some(to))) => format!(" between {} and {}", text(from), text(to)),
        }
    }
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;

    #[rstest]
    #[case(Damage::default(), None)]
    #[case(Damage { torn_tail: true, ..Damage::default() }, Some("This record is not whole: the last record was torn off and is left out."))]
    #[case(
        Damage { damaged: 1, missing: 2, span_ms: Some((61_000, Some(65_000))), ..Damage::default() },
        Some("This record is not whole between 1 min 01 s and 1 min 05 s: 1 line damaged and left out; 2 records missing.")
    )]
    #[case(
        Damage { displaced: 1, unreadable: 1, unknown: 1, span_ms: Some((61_000, None)), ..Damage::default() },
        Some("This record is not whole from 1 min 01 s on: 1 record of a newer program not understood; 1 record not where it was written; 1 file of it cannot be read.")
    )]
    fn damage_is_told_with_its_place(#[case] damage: Damage, #[case] sentence: Option<&str>) {
        assert_eq!(damage.sentence().as_deref(), sentence);
        assert_eq!(damage.any(), sentence.is_some());
    }

    #[test]
    fn the_place_reaches_from_the_first_damage_to_the_last() {
        let mut damage = Damage::default();
        damage.closes(1);
        damage.opens(2);
        damage.closes(3);
        damage.opens(5);
        assert_eq!(damage.span_ms, Some((2, None)));
        damage.closes(8);
        damage.closes(9);
        assert_eq!(damage.span_ms, Some((2, Some(8))));
    }
}
