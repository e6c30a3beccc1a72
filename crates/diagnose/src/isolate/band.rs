//! Bands of odds instead of digits, because stated odds run ahead of the truth.

/// How likely something is.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub enum Band {
    /// Less than 5 %.
    Unlikely,
    /// Less than 50 %.
    Possible,
    /// Less than 95 %.
    Likely,
    /// 95 % and more.
    VeryLikely,
}

/// The band of a probability.
pub fn band(probability: f64) -> Band {
    match probability {
        p if p >= 0.95 => Band::VeryLikely,
        p if p >= 0.5 => Band::Likely,
        p if p >= 0.05 => Band::Possible,
        _ => Band::Unlikely,
    }
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;

    #[rstest]
    #[case(0.995, Band::VeryLikely)]
    #[case(0.95, Band::VeryLikely)]
    #[case(0.8, Band::Likely)]
    #[case(0.5, Band::Likely)]
    #[case(0.2, Band::Possible)]
    #[case(0.01, Band::Unlikely)]
    fn bands(#[case] probability: f64, #[case] expected: Band) {
        assert_eq!(band(probability), expected);
    }
}
