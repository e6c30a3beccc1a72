//! What would make an attribution to slots surer than it is.

use serde::Serialize;

use crate::address::Ground;
use revisum_engine::places::Certainty;

/// The least that somebody can do for it.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize)]
#[serde(rename_all = "kebab-case")]
pub enum Surer {
    /// Any module moved to another slot, and one start: registers then show which position emptied. No error is needed for that.
    MoveAny,
    /// The module in question alone in its slot.
    RunAlone,
    /// Modules one at a time.
    OneAtATime,
    /// The modules of the two channels exchanged: whether errors change the half tells the module from the channel.
    Exchange,
    /// Slots and modules declared by a person.
    Declare,
}

/// Nothing where it cannot be surer.
pub(super) fn surer(certainty: Option<Certainty>, because: Ground) -> Option<Surer> {
    match (certainty?, because) {
        (Certainty::Certain, _) => None,
        (_, Ground::SlotsUnknown) => Some(Surer::Declare),
        (Certainty::Told | Certainty::Assumed, _) => Some(Surer::RunAlone),
        (Certainty::OneOf, Ground::Registers) => Some(Surer::MoveAny),
        (_, Ground::OneHalf) => Some(Surer::Exchange),
        (Certainty::OneOf | Certainty::Unknown, _) => Some(Surer::OneAtATime),
    }
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;

    #[rstest]
    #[case::nothing_failed(None, Ground::NoMap, None)]
    #[case::certain(Some(Certainty::Certain), Ground::Map, None)]
    #[case::registers_name_it(Some(Certainty::Told), Ground::Registers, Some(Surer::RunAlone))]
    #[case::registers_tell_a_channel(Some(Certainty::OneOf), Ground::Registers, Some(Surer::MoveAny))]
    #[case::ranges_of_the_firmware(Some(Certainty::OneOf), Ground::FirmwareRanges, Some(Surer::OneAtATime))]
    #[case::one_half(Some(Certainty::OneOf), Ground::OneHalf, Some(Surer::Exchange))]
    #[case::assumed(Some(Certainty::Assumed), Ground::AssumedMap, Some(Surer::RunAlone))]
    #[case::no_slots(Some(Certainty::Unknown), Ground::SlotsUnknown, Some(Surer::Declare))]
    fn the_least_that_helps(
        #[case] certainty: Option<Certainty>,
        #[case] because: Ground,
        #[case] expected: Option<Surer>,
    ) {
        assert_eq!(surer(certainty, because), expected);
    }
}
