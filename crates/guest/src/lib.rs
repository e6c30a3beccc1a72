//! Virtual computers for tests: a guest under QEMU with Debian's kernel, our own program as a static binary, and firmware tables
//! of the test's making. Slow (software emulation), so the tests that boot one are ignored by a plain `cargo test`;
//! `cargo xtask guests` runs them and installs what they need.

mod computer;
mod drive;
mod emulator;
mod from_drive;
mod initramfs;
mod sys;
pub mod tables;

pub use computer::{Computer, Firmware, Said};
pub use drive::{Booted, Left, journals_on};
pub use from_drive::{Chipset, Display, FromDrive, Medium, Network, Spoiled, Start};
pub use sys::Shared;
