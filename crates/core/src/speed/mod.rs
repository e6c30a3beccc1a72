//! How fast memory is, and how fast it should be: loops over working sets of every size, what the fitting would let one expect, and what the
//! difference says.

mod expected;
mod findings;
pub mod loops;
mod measure;
mod plan;
mod record;
mod work;

pub use expected::{Expected, expected};
pub use findings::{
    SpeedSign, is_about_half, shows_one_channel, shows_profile_off, speed_findings, speed_sentence, speed_signs,
};
pub use loops::TURN;
pub use measure::{SpeedProgress, measure};
pub use plan::{LEAST_SET, LEAST_STRIDED, MOST_STRIDE, REPEATS, Reach, Wanted, largest_cache, memory_from};
pub use record::{Point, SpeedRecord, Spread};
pub use work::{Cache, Kind, Width, Work};
