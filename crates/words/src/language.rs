//! The languages that there are.

/// A language.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, serde::Deserialize)]
#[serde(rename_all = "lowercase")]
pub enum Language {
    /// English.
    #[default]
    En,
    /// German.
    De,
}

impl Language {
    /// All of them.
    pub const ALL: [Self; 2] = [Self::En, Self::De];

    /// Its tag, by BCP 47.
    pub fn tag(self) -> &'static str {
        match self {
            Self::En => "en",
            Self::De => "de",
        }
    }

    /// The language with this tag.
    pub fn tagged(tag: &str) -> Option<Self> {
        Self::ALL.into_iter().find(|language| language.tag() == tag)
    }

    /// A number with so many decimals, as this language writes it.
    pub fn decimal(self, number: f64, decimals: usize) -> String {
        let plain = format!("{number:.decimals$}");
        if self == Self::De { plain.replace('.', ",") } else { plain }
    }
}
