//! Everything that needs unsafe code: mapped memory, the page map, buses to modules, pages of registers, the console's glyphs and keys, another kernel, network interfaces, the signal for hardware memory errors, and the allocator.
#![allow(unsafe_code)]

pub(crate) mod affinity;
pub(crate) mod bus_error;
pub(crate) mod console_device;
pub(crate) mod i2c;
pub(crate) mod interface;
pub(crate) mod kexec;
pub(crate) mod mapping;
pub(crate) mod pagemap;
pub(crate) mod register_page;
pub(crate) mod short_of_memory;
