//! The image of the boot drive, put together from Debian packages without loop devices and without root: a kernel, our program as its first
//! process, a boot loader for every kind of firmware, and a partition with room for results. With the same packages two builds are the same.

mod fat;
mod first_files;
mod kernel_modules;
mod keyboards;
mod loader;
mod optical;
mod partitions;
mod parts;
mod program;
mod whole;

pub use fat::{fill, read_file, read_files, write_file};
pub use first_files::beside;
pub use optical::make_optical;
pub use partitions::{BOOT, LOADER, Place, RESULTS};
pub use parts::{KernelModule, Parts};
pub use program::{BUILT_ALREADY, Program};
pub use whole::{Made, Stage, make};
