//! The glossary: what a technician may want to look up, a line each.

use crate::{Texts, names};

names! {
    /// A term.
    enum Id {
        AddressMap = "term-address-map",
        Arrangement = "term-arrangement",
        Bank = "term-bank",
        Board = "term-board",
        ByteLane = "term-byte-lane",
        Channel = "term-channel",
        Chip = "term-chip",
        Clean = "term-clean",
        Corrected = "term-corrected",
        Coverage = "term-coverage",
        DataLine = "term-data-line",
        Depth = "term-depth",
        Ecc = "term-ecc",
        Error = "term-error",
        Exclude = "term-exclude",
        Intermittent = "term-intermittent",
        Job = "term-job",
        KnownGood = "term-known-good",
        March = "term-march",
        Pass = "term-pass",
        Profile = "term-profile",
        Qvl = "term-qvl",
        Rank = "term-rank",
        ReRead = "term-re-read",
        Reseat = "term-reseat",
        Row = "term-row",
        SelfCheck = "term-self-check",
        Slot = "term-slot",
        Spd = "term-spd",
        Suspicion = "term-suspicion",
        Void = "term-void",
        Workaround = "term-workaround",
    }
}

const ALL: [Id; 32] = [
    Id::AddressMap,
    Id::Arrangement,
    Id::Bank,
    Id::Board,
    Id::ByteLane,
    Id::Channel,
    Id::Chip,
    Id::Clean,
    Id::Corrected,
    Id::Coverage,
    Id::DataLine,
    Id::Depth,
    Id::Ecc,
    Id::Error,
    Id::Exclude,
    Id::Intermittent,
    Id::Job,
    Id::KnownGood,
    Id::March,
    Id::Pass,
    Id::Profile,
    Id::Qvl,
    Id::Rank,
    Id::ReRead,
    Id::Reseat,
    Id::Row,
    Id::SelfCheck,
    Id::Slot,
    Id::Spd,
    Id::Suspicion,
    Id::Void,
    Id::Workaround,
];

/// A term and what it is.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Term {
    /// The term.
    pub name: String,
    /// What it is, in a sentence.
    pub meaning: String,
}

/// All terms in the order of their names in this language.
pub fn glossary(texts: &Texts) -> Vec<Term> {
    let mut all = ALL.map(|term| Term { name: texts.say(term), meaning: texts.attribute(term, "is") }).to_vec();
    all.sort_by_key(|term| term.name.to_lowercase());
    all
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::{Catalogue, Language, Name as _, entries};

    #[test]
    fn the_catalogue_has_these_terms_and_no_others() {
        let known: Vec<String> = entries(Catalogue::Glossary, Language::En).unwrap().into_keys().collect();
        let mut named: Vec<&str> = Id::ALL.iter().map(|term| term.id()).collect();
        named.sort_unstable();
        assert_eq!(named, known);
        assert_eq!(ALL.as_slice(), Id::ALL);
    }

    /// A line each: what is longer is no glossary.
    #[test]
    fn every_term_has_a_short_meaning() {
        for language in Language::ALL {
            for term in glossary(&Texts::new(language)) {
                let words = term.meaning.split_whitespace().count();
                assert!((3..=22).contains(&words), "{term:?} has {words} words");
                assert!(!term.name.starts_with("term-"), "{term:?}");
            }
        }
    }
}
