//! A bus with memory modules on it, and all that may ever be written to one.

use std::io;

/// The only things that may be written.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum PageSelect {
    /// Half of every DDR4 module on the bus, 0 or 1 (EE1004: a write to the address of that page).
    Ddr4(u8),
    /// One of eight pages of 128 bytes of one DDR5 module (JESD300-5, register MR11).
    Ddr5 {
        /// The module.
        address: u8,
        /// Page, 0 to 7.
        page: u8,
    },
}

/// A bus with modules on it.
pub(crate) trait SpdBus {
    /// One byte of the device at this address.
    fn read(&mut self, address: u8, command: u8) -> io::Result<u8>;
    /// Selects a page.
    fn select(&mut self, page: PageSelect) -> io::Result<()>;
}
