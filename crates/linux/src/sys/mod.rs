//! Everything that needs unsafe code: mapped memory, the page map, buses to modules, pages of registers and the signal for hardware memory errors.
#![allow(unsafe_code)]

pub(crate) mod affinity;
pub(crate) mod bus_error;
pub(crate) mod i2c;
pub(crate) mod mapping;
pub(crate) mod pagemap;
pub(crate) mod register_page;
