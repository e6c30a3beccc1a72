//! What a test of memory is and how it runs: notation and catalogue, the sweeps, the run itself, exact counting of errors,
//! and the loops that time memory.
//!
//! Nothing here opens a file, knows a terminal or reads a wall clock. What a run needs of a machine comes in through traits:
//! [`memory`] that is leased, its [`host`]'s clock and sensors, and [`places`], who tells where an address belongs. What a run
//! has to say goes out as [`news`]. A faulty bit is data here, never an `Err`.

pub mod between;
pub mod catalog;
pub mod depth;
pub mod estimate;
pub mod grade;
pub mod host;
pub mod load;
pub mod march;
pub mod memory;
pub mod news;
pub mod path;
pub mod pattern;
pub mod places;
pub mod recipe;
pub mod rows;
pub mod run;
pub mod speed;
pub mod sweep;
pub mod tally;
pub mod text;
pub mod units;
