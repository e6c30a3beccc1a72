//! Tests that people write themselves, in a recipe file.

use std::borrow::Cow;

use serde::{Deserialize, Serialize};
use thiserror::Error;

use super::{BackgroundKind, Path, TestSpec, Work, find_test};
use crate::grade::{GradeError, grade};
use crate::march::{March, NotationError};

/// A test in a recipe file.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct OwnTest {
    /// Name; none of the catalogue's.
    pub name: String,
    /// March notation.
    pub notation: String,
    /// Backgrounds; solid when absent.
    #[serde(default = "solid")]
    pub backgrounds: Vec<BackgroundKind>,
    /// Order of the words; one after the other when absent.
    #[serde(default)]
    pub path: Path,
    /// The work goes from core to core, block by block, where it is not shared out.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub rotate: bool,
    /// What it is for.
    #[serde(default)]
    pub purpose: String,
}

fn solid() -> Vec<BackgroundKind> {
    vec![BackgroundKind::Solid]
}

/// Why a test of one's own cannot be run.
#[derive(Debug, Error, PartialEq, Eq)]
pub enum OwnTestError {
    /// A name that cannot be used.
    #[error("the test name {0:?} may hold small letters, digits and hyphens only, up to 24 of them")]
    Name(String),
    /// A name of the catalogue.
    #[error("the catalogue has a test named {0:?} already: choose another name")]
    Taken(String),
    /// A mistake in the notation.
    #[error("the notation of test {name:?} is not understood: {error}\n  {notation}\n  {pointer}")]
    Notation {
        /// Test.
        name: String,
        /// What is wrong where.
        error: NotationError,
        /// The notation.
        notation: String,
        /// A mark under the place.
        pointer: String,
    },
    /// A march that good memory would fail, or that cannot be graded.
    #[error("the test {name:?} cannot be run: {error}")]
    Grade {
        /// Test.
        name: String,
        /// What is wrong.
        error: GradeError,
    },
    /// Nothing to write.
    #[error("the test {0:?} has no background. Name at least one, as in backgrounds = [\"solid\"]")]
    NoBackground(String),
}

impl OwnTest {
    /// Checks the test and makes it one like those of the catalogue.
    ///
    /// # Errors
    /// With the place in the notation and what was expected there.
    pub fn spec(&self) -> Result<TestSpec, OwnTestError> {
        let name = &self.name;
        let plain = |c: char| c.is_ascii_lowercase() || c.is_ascii_digit() || c == '-';
        if name.is_empty() || name.len() > 24 || !name.chars().all(plain) {
            return Err(OwnTestError::Name(crate::text::cleaned(name, 40)));
        }
        if find_test(name).is_some() {
            return Err(OwnTestError::Taken(name.clone()));
        }
        let march: March = self.notation.parse().map_err(|error: NotationError| OwnTestError::Notation {
            name: name.clone(),
            notation: crate::text::cleaned(&self.notation, 400),
            pointer: format!("{}^", " ".repeat(error.column.saturating_sub(1).min(400))),
            error,
        })?;
        grade(&march).map_err(|error| OwnTestError::Grade { name: name.clone(), error })?;
        if self.backgrounds.is_empty() {
            return Err(OwnTestError::NoBackground(name.clone()));
        }
        let about = crate::text::cleaned(&self.purpose, 400);
        Ok(TestSpec {
            name: Cow::Owned(name.clone()),
            about: Some(about),
            work: Work::March {
                notation: Cow::Owned(march.to_string()),
                backgrounds: Cow::Owned(self.backgrounds.clone()),
                path: self.path,
            },
            literature: "",
            on_request: false,
            rotates: self.rotate,
        })
    }
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;

    fn own(name: &str, notation: &str) -> OwnTest {
        OwnTest {
            name: name.into(),
            notation: notation.into(),
            backgrounds: solid(),
            path: Path::Linear,
            rotate: false,
            purpose: String::new(),
        }
    }

    #[test]
    fn a_test_of_ones_own_is_like_any_other() {
        let spec = own("mine", "any(w0);up( r0 , w1 ); idle 5s; down(r1)").spec().unwrap();
        assert_eq!(spec.march().to_string(), "any(w0); up(r0,w1); idle 5s; down(r1)");
        assert_eq!(spec.sweeps(), 3);
    }

    #[rstest]
    #[case("Mine", "any(w0)", "small letters")]
    #[case("", "any(w0)", "small letters")]
    #[case("random", "any(w0)", "already")]
    #[case("mine", "any(w0); up(r0,x1)", "column 16")]
    #[case("mine", "any(w0); up(r1)", "good memory would fail")]
    fn mistakes_are_shown_at_their_place(#[case] name: &str, #[case] notation: &str, #[case] reason: &str) {
        let error = own(name, notation).spec().unwrap_err().to_string();
        assert!(error.contains(reason), "{error}");
    }

    #[test]
    fn a_test_needs_a_background() {
        let test = OwnTest { backgrounds: Vec::new(), ..own("mine", "any(w0); any(r0)") };
        assert_eq!(test.spec(), Err(OwnTestError::NoBackground("mine".into())));
    }
}
