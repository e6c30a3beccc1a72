//! What is put into a text.

use std::borrow::Cow;

use fluent_bundle::FluentValue;
use fluent_bundle::types::FluentNumber;

/// A value that is put into a text: words, or a count, after which the text may choose its form.
#[derive(Clone, Debug)]
pub struct Put<'a>(pub(crate) FluentValue<'a>);

/// Counts up to here are numbers to the catalogue. A larger one would lose digits there, and every language has one form for all of them.
const LARGEST: u64 = 1 << 53;

impl<'a> From<&'a str> for Put<'a> {
    fn from(words: &'a str) -> Self {
        Self(FluentValue::String(Cow::Borrowed(words)))
    }
}

impl<'a> From<&'a &str> for Put<'a> {
    fn from(words: &'a &str) -> Self {
        Self::from(*words)
    }
}

impl<'a> From<&'a String> for Put<'a> {
    fn from(words: &'a String) -> Self {
        Self::from(words.as_str())
    }
}

impl From<String> for Put<'_> {
    fn from(words: String) -> Self {
        Self(FluentValue::String(Cow::Owned(words)))
    }
}

impl<'a> From<Cow<'a, str>> for Put<'a> {
    fn from(words: Cow<'a, str>) -> Self {
        Self(FluentValue::String(words))
    }
}

impl From<char> for Put<'_> {
    fn from(letter: char) -> Self {
        Self::from(letter.to_string())
    }
}

impl From<u64> for Put<'_> {
    fn from(count: u64) -> Self {
        if count > LARGEST { Self::from(grouped(&count.to_string())) } else { Self(FluentValue::from(count)) }
    }
}

macro_rules! counts {
    ($($kind:ty),*) => {
        $(impl From<$kind> for Put<'_> {
            fn from(count: $kind) -> Self {
                Self::from(count as u64)
            }
        })*
    };
}

counts!(u8, u16, u32, usize);

impl From<i32> for Put<'_> {
    fn from(count: i32) -> Self {
        Self(FluentValue::from(count))
    }
}

/// How a value is written: counts with their digits in groups of three.
pub(crate) fn shown(value: &FluentValue<'_>) -> Option<String> {
    match value {
        FluentValue::Number(FluentNumber { value, .. }) if value.fract() == 0.0 => {
            Some(grouped(&format!("{value:.0}")))
        }
        _ => None,
    }
}

fn grouped(digits: &str) -> String {
    let mut said = String::new();
    for (index, digit) in digits.chars().enumerate() {
        if index > 0 && digit.is_ascii_digit() && (digits.len() - index).is_multiple_of(3) && !said.ends_with('-') {
            said.push(' ');
        }
        said.push(digit);
    }
    said
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;

    #[rstest]
    #[case("7", "7")]
    #[case("1204", "1 204")]
    #[case("-120", "-120")]
    #[case("-1204", "-1 204")]
    #[case("18446744073709551615", "18 446 744 073 709 551 615")]
    fn digits_are_grouped(#[case] digits: &str, #[case] expected: &str) {
        assert_eq!(grouped(digits), expected);
    }

    #[rstest]
    #[case(Put::from(1_204_u64), Some("1 204"))]
    #[case(Put::from(u64::MAX), None)]
    #[case(Put::from("words"), None)]
    fn a_count_is_a_number_while_it_fits(#[case] put: Put<'_>, #[case] expected: Option<&str>) {
        assert_eq!(shown(&put.0).as_deref(), expected);
    }
}
