//! How fast memory is: loops over working sets of every size, and the plan in which they are timed.

pub mod loops;
mod measure;
mod meter;
mod plan;
mod point;
mod work;

pub use loops::TURN;
pub use measure::{SpeedProgress, measure};
pub use meter::{SpeedTrack, Speedometer};
pub use plan::{
    LEAST_SET, LEAST_STRIDED, MOST_STRIDE, NotMeasured, REPEATS, Reach, Wanted, largest_cache, memory_from,
};
pub use point::{Point, Spread};
pub use work::{Cache, Kind, NoWidth, Width, Work};
