//! Everything that needs unsafe code: mapped memory, the page map and the signal for hardware memory errors.
#![allow(unsafe_code)]

pub(crate) mod affinity;
pub(crate) mod bus_error;
pub(crate) mod mapping;
pub(crate) mod pagemap;
