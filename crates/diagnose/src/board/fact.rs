//! One fact and everybody who tells it: sources do not always agree, and then both have to be seen.

use serde::{Deserialize, Serialize};

use super::fact_names::MAKER;
use super::maker::is_same;

/// What one source says.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
pub struct Told {
    /// Who says so, such as `SMBIOS type 17`.
    pub source: String,
    /// What it says.
    pub value: String,
}

/// A fact about the machine or about one slot.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
pub struct Fact {
    /// The slot that it is about; empty for the machine.
    pub slot: String,
    /// What it is.
    pub name: String,
    /// What the sources say, the most trusted one first; never empty.
    pub told: Vec<Told>,
}

impl Fact {
    /// What the most trusted source says.
    pub fn value(&self) -> &str {
        self.told.first().map_or("", |told| &told.value)
    }

    /// Whether all sources say the same.
    pub fn is_agreed(&self) -> bool {
        let same = if self.name == MAKER { is_same } else { same };
        self.told.iter().skip(1).all(|told| same(self.value(), &told.value))
    }

    /// `value (source), other value (other source)`.
    pub fn in_words(&self) -> String {
        let one = |told: &Told| format!("{} ({})", told.value, told.source);
        self.told.iter().map(one).collect::<Vec<_>>().join(", ")
    }
}

/// The same but for case, blanks, punctuation and a shorter form of the same name: `SAMPLE` and `Sample Memory Inc.`
fn same(one: &str, other: &str) -> bool {
    let bare =
        |text: &str| text.chars().filter(|c| c.is_alphanumeric()).flat_map(char::to_lowercase).collect::<String>();
    let (one, other) = (bare(one), bare(other));
    let numbers = one.chars().all(|c| c.is_ascii_digit()) || other.chars().all(|c| c.is_ascii_digit());
    let (short, long) = if one.len() < other.len() { (&one, &other) } else { (&other, &one) };
    if numbers || short.len() < LEAST_NAME { one == other } else { long.starts_with(short.as_str()) }
}

/// Shorter beginnings of a name say nothing.
const LEAST_NAME: usize = 4;

/// Facts in the order in which they were first told.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Facts(Vec<Fact>);

impl Facts {
    /// Adds what a source says; an empty value says nothing.
    pub fn tell(&mut self, slot: &str, name: &str, source: &str, value: impl Into<String>) {
        let value = value.into();
        if value.is_empty() {
            return;
        }
        let told = Told { source: source.to_owned(), value };
        let name = self.free_name(slot, name, source);
        match self.0.iter_mut().find(|fact| fact.slot == slot && fact.name == name) {
            Some(fact) => fact.told.push(told),
            None => self.0.push(Fact { slot: slot.to_owned(), name, told: vec![told] }),
        }
    }

    /// A source that tells the same thing twice means two things: two caches of a level, two ranges.
    fn free_name(&self, slot: &str, name: &str, source: &str) -> String {
        let is_told = |name: &str| {
            let fact = self.about(slot).find(|fact| fact.name == name);
            fact.is_some_and(|fact| fact.told.iter().any(|told| told.source == source))
        };
        let numbered = (2..).map(|number| format!("{name} ({number})"));
        std::iter::once(name.to_owned()).chain(numbered).find(|name| !is_told(name)).unwrap_or_default()
    }

    /// All of them.
    pub fn all(&self) -> &[Fact] {
        &self.0
    }

    /// Those about a slot, or about the machine for an empty name.
    pub fn about<'a>(&'a self, slot: &'a str) -> impl Iterator<Item = &'a Fact> {
        self.0.iter().filter(move |fact| fact.slot == slot)
    }

    /// The value of one fact, where it is known.
    pub fn value(&self, slot: &str, name: &str) -> Option<&str> {
        self.0.iter().find(|fact| fact.slot == slot && fact.name == name).map(Fact::value)
    }

    /// Those that the sources disagree on.
    pub fn disputed(&self) -> impl Iterator<Item = &Fact> {
        self.0.iter().filter(|fact| !fact.is_agreed())
    }
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;

    #[rstest]
    #[case("Haldry", "HALDRY Memory Ltd.", true)]
    #[case("HD8G32J", "hd8g32j ", true)]
    #[case("Haldry", "Ostrand", false)]
    #[case("2400 MT/s", "24", false)]
    #[case("00000123", "123", false)]
    #[case("8 GiB", "8 GiB", true)]
    #[case("8 GiB", "16 GiB", false)]
    fn sources(#[case] one: &str, #[case] other: &str, #[case] agreed: bool) {
        let mut facts = Facts::default();
        facts.tell("A1", "x", "SMBIOS type 17", one);
        facts.tell("A1", "x", "SPD", other);
        assert_eq!(facts.disputed().count(), usize::from(!agreed));
        assert_eq!(facts.all()[0].in_words(), format!("{one} (SMBIOS type 17), {other} (SPD)"));
    }

    #[test]
    fn a_source_that_says_it_twice_means_two_things() {
        let mut facts = Facts::default();
        for _ in 0..3 {
            facts.tell("", "cache level 1", "SMBIOS type 7", "32 KiB");
        }
        facts.tell("", "cache level 1", "kernel", "32 KiB");
        let names: Vec<&str> = facts.about("").map(|fact| fact.name.as_str()).collect();
        assert_eq!(names, ["cache level 1", "cache level 1 (2)", "cache level 1 (3)"]);
        assert_eq!(facts.about("").next().unwrap().told.len(), 2);
    }

    #[test]
    fn nothing_said_is_no_fact() {
        let mut facts = Facts::default();
        facts.tell("", "firmware", "SMBIOS type 0", "");
        assert!(facts.all().is_empty());
    }
}
