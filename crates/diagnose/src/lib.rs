//! What it means: what is installed and whether it is right, where addresses belong, what failed, and which part it is.
//!
//! Nothing here opens a file, knows a terminal or reads a wall clock.

pub mod address;
pub mod board;
pub mod controller;
pub mod hands;
pub mod isolate;
pub mod locate;
pub mod machine;
pub mod repeat;
pub mod signature;
pub mod speed;
pub mod system_log;
