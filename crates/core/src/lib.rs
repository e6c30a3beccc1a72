//! All computation of Revisum: what a test is, how memory is swept, what the errors mean and which part is at fault.
//!
//! This crate has no interface, opens no files and reads no wall clock. Whatever it needs from a machine comes in
//! through the traits in [`ports`], which `revisum-linux` implements on real hardware and `revisum-sim` on simulated
//! machines. A faulty bit is data here, never an `Err`.

pub mod address;
pub mod board;
pub mod catalog;
pub mod compare;
pub mod confidence;
pub mod depth;
pub mod drive;
pub mod engine;
pub mod estimate;
pub mod grade;
pub mod isolate;
pub mod journal;
pub mod locate;
pub mod march;
pub mod pattern;
pub mod ports;
pub mod recipe;
pub mod run_state;
pub mod signature;
pub mod speed;
pub mod sweep;
pub mod system_log;
pub mod tally;
pub mod text;
pub mod timeline;
pub mod units;
