//! How fast the memory of this board should be, and what it means when it is not.

mod expected;
mod findings;

pub use expected::{Expected, NotKnown, expected};
pub use findings::{
    Against, NotJudged, SpeedSign, SpeedVerdict, is_about_half, shows_one_channel, shows_profile_off, speed_findings,
    speed_signs, speed_verdict,
};
