//! One bus by `/dev/i2c-N` (`Documentation/i2c/dev-interface.rst` of the kernel).

use std::fs::{File, OpenOptions};
use std::io;
use std::os::fd::AsRawFd;

use crate::firmware::spd::bus::{PageSelect, SpdBus};

/// Chooses the address that the next transfer goes to; refused while a driver of the kernel has it.
const I2C_SLAVE: libc::c_ulong = 0x0703;
/// One SMBus transfer.
const I2C_SMBUS: libc::c_ulong = 0x0720;
const WRITE: u8 = 0;
const READ: u8 = 1;
const BYTE: u32 = 1;
const BYTE_DATA: u32 = 2;
/// Addresses of the two halves of all DDR4 modules on a bus (EE1004 and TSE2004av standard, set page address).
const DDR4_PAGES: [u8; 2] = [0x36, 0x37];
/// The register of a DDR5 hub that holds the page (JESD300-5, MR11).
const HUB_PAGE_REGISTER: u8 = 11;

/// The kernel's `struct i2c_smbus_ioctl_data`.
#[repr(C)]
struct Transfer {
    direction: u8,
    command: u8,
    size: u32,
    data: *mut [u8; 34],
}

/// An open bus.
pub(crate) struct Adapter {
    file: File,
}

impl Adapter {
    /// Opens bus `number`.
    pub fn open(number: u32) -> io::Result<Self> {
        OpenOptions::new().read(true).write(true).open(format!("/dev/i2c-{number}")).map(|file| Self { file })
    }

    fn choose(&mut self, address: u8) -> io::Result<()> {
        // SAFETY: the request takes its argument by value and touches no memory of ours.
        let done = unsafe { libc::ioctl(self.file.as_raw_fd(), I2C_SLAVE as _, libc::c_ulong::from(address)) };
        if done < 0 { Err(io::Error::last_os_error()) } else { Ok(()) }
    }

    fn transfer(&mut self, direction: u8, command: u8, size: u32, byte: u8) -> io::Result<u8> {
        let mut data = [0u8; 34];
        data[0] = byte;
        let mut transfer = Transfer { direction, command, size, data: &raw mut data };
        // SAFETY: the kernel reads the structure and at most 34 bytes behind its pointer, and writes at most as many there; both
        // live until the call returns.
        let done = unsafe { libc::ioctl(self.file.as_raw_fd(), I2C_SMBUS as _, &raw mut transfer) };
        if done < 0 { Err(io::Error::last_os_error()) } else { Ok(data[0]) }
    }
}

impl SpdBus for Adapter {
    fn read(&mut self, address: u8, command: u8) -> io::Result<u8> {
        self.choose(address)?;
        self.transfer(READ, command, BYTE_DATA, 0)
    }

    fn select(&mut self, page: PageSelect) -> io::Result<()> {
        match page {
            PageSelect::Ddr4(page) => {
                self.choose(DDR4_PAGES[usize::from(page & 1)])?;
                self.transfer(WRITE, 0, BYTE, 0)?;
            }
            PageSelect::Ddr5 { address, page } => {
                self.choose(address)?;
                self.transfer(WRITE, HUB_PAGE_REGISTER, BYTE_DATA, page & 7)?;
            }
        }
        Ok(())
    }
}
