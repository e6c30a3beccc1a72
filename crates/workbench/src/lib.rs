//! What happens at a machine, whoever looks on: looking at it, running tests and timing its memory, writing every record down,
//! and making the report. The full screen and the commands both stand on this.
//!
//! `wire` alone chooses between real and simulated hardware; `recorder` is the only writer of a run's journal.

mod absent;
pub mod bench;
pub mod by_time;
pub mod earlier;
pub mod first_look;
pub mod go_on;
pub mod look;
pub mod rates;
pub mod recipe_file;
pub mod recorder;
pub mod reports;
pub mod runner;
mod say;
pub mod speed_run;
pub mod timed_run;
pub mod wire;
