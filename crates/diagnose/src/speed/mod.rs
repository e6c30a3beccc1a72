//! How fast the memory of this board should be, and what it means when it is not.

mod expected;
mod findings;

pub use expected::{Expected, expected};
pub use findings::{
    SpeedSign, is_about_half, shows_one_channel, shows_profile_off, speed_findings, speed_sentence, speed_signs,
};
