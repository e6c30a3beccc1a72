//! What of a record is damaged.

use revisum_engine::units::duration_text;
use revisum_record::journal::{Begin, Damage};

use crate::say;

/// A sentence about what a reader had to leave out; nothing when all is well.
pub fn sentence(damage: &Damage) -> Option<String> {
    let counted = [
        damage.torn_tail.then(|| say::damage_torn().to_owned()),
        (damage.damaged > 0).then(|| say::damage_damaged(damage.damaged)),
        (damage.missing > 0).then(|| say::damage_missing(damage.missing)),
        (damage.unknown > 0).then(|| say::damage_unknown(damage.unknown)),
        (damage.displaced > 0).then(|| say::damage_displaced(damage.displaced)),
        (damage.unreadable > 0).then(|| say::damage_unreadable(damage.unreadable)),
    ];
    let parts: Vec<String> = counted.into_iter().flatten().collect();
    let place = if damage.beyond_a_torn_tail() { place(damage) } else { String::new() };
    (!parts.is_empty()).then(|| say::damage_whole(place, parts.join("; ")))
}

fn place(damage: &Damage) -> String {
    let text = |ms: u64| duration_text(ms as f64 / 1000.0);
    match damage.span_ms {
        Some((0, None)) | None => String::new(),
        Some((from, None)) => say::damage_from(text(from)),
        Some((from, Some(to))) => say::damage_between(text(from), text(to)),
    }
}

/// Said when a newer program wrote the journal.
pub fn newer(begin: &Begin) -> Option<String> {
    begin.newer().map(say::journal_newer)
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
        assert_eq!(super::sentence(&damage).as_deref(), sentence);
        assert_eq!(damage.any(), sentence.is_some());
    }
}
