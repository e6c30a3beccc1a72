//! What a reader had to leave out, and what else it noticed.

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
}

#[cfg(test)]
mod tests {
    use super::*;

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
