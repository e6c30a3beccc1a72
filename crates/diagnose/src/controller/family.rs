//! Families of controllers, by the exact identifiers of their devices.

use super::refusal::Refusal;
use super::registers::{Place, Registers};

/// A family of controllers that are decoded in one manner.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub enum Family {
    /// Client processors of 2011 to 2014: two channels, DDR3.
    Client2011,
    /// Client processors of 2015 to 2020: two channels, DDR3L and DDR4.
    Client2015,
    /// Processors of 2007 to 2011 with a northbridge inside: family 10h.
    Northbridge2007,
    /// The same of 2011 to 2013: family 15h, models 00h to 0Fh.
    Northbridge2011,
    /// Processors of 2017 and 2018 with a data fabric: family 17h, models 00h to 1Fh.
    Fabric2017,
}

/// Vendors by their PCI identifiers.
pub(super) const CLIENT_VENDOR: u16 = 0x8086;
pub(super) const NODE_VENDOR: u16 = 0x1022;
/// The device at which a processor's own functions begin.
pub(super) const NODE: u8 = 0x18;

/// Host bridges (device 0, function 0), as the datasheets of these processors list them.
const HOSTS_2011: [u16; 10] = [0x0100, 0x0104, 0x0108, 0x0150, 0x0154, 0x0158, 0x0c00, 0x0c04, 0x0c08, 0x0a04];
const HOSTS_2015: [u16; 28] = [
    0x1904, 0x190c, 0x190f, 0x1910, 0x1918, 0x191f, 0x5904, 0x590c, 0x590f, 0x5910, 0x5914, 0x5918, 0x591f, 0x3e0f,
    0x3e10, 0x3e18, 0x3e1f, 0x3e30, 0x3e31, 0x3ec2, 0x3ec4, 0x3ec6, 0x3e34, 0x9b51, 0x9b53, 0x9b54, 0x9b61, 0x9b64,
];
/// Hosts of 2011 whose channels are chosen by one address bit.
const ONE_BIT: [u16; 3] = [0x0100, 0x0104, 0x0108];

/// The identifier of a device at a place.
pub(super) const fn identifier(device: u8) -> Place {
    Place::Config { device, function: 0, offset: 0 }
}

impl Family {
    /// All of them.
    pub const ALL: [Self; 5] =
        [Self::Client2011, Self::Client2015, Self::Northbridge2007, Self::Northbridge2011, Self::Fabric2017];

    /// A short name of it, for files.
    pub fn word(self) -> &'static str {
        match self {
            Self::Client2011 => "client-2011",
            Self::Client2015 => "client-2015",
            Self::Northbridge2007 => "northbridge-2007",
            Self::Northbridge2011 => "northbridge-2011",
            Self::Fabric2017 => "fabric-2017",
        }
    }

    /// The family of a host bridge.
    pub(super) fn of_host(device: u16) -> Option<Self> {
        match device {
            host if HOSTS_2011.contains(&host) => Some(Self::Client2011),
            host if HOSTS_2015.contains(&host) => Some(Self::Client2015),
            _ => None,
        }
    }

    /// The family of a processor's first function.
    pub(super) fn of_node(device: u16) -> Option<Self> {
        match device {
            0x1200 => Some(Self::Northbridge2007),
            0x1600 => Some(Self::Northbridge2011),
            0x1460 | 0x15e8 => Some(Self::Fabric2017),
            _ => None,
        }
    }

    /// By what was read first.
    pub(super) fn of(registers: &Registers) -> Result<Self, Refusal> {
        let id = |device| registers.get(identifier(device)).map(split);
        let (vendor, device) = id(0).ok_or(Refusal::Missing(identifier(0)))?;
        let known = match vendor {
            CLIENT_VENDOR => Self::of_host(device),
            NODE_VENDOR => {
                let (vendor, device) = id(NODE).ok_or(Refusal::Missing(identifier(NODE)))?;
                let known = Self::of_node(device).filter(|_| vendor == NODE_VENDOR);
                return known.ok_or(Refusal::Unknown { vendor, device });
            }
            _ => None,
        };
        known.ok_or(Refusal::Unknown { vendor, device })
    }

    /// Whether this host's channels are chosen by one bit, whatever a register says that its datasheet does not list.
    pub(super) fn has_one_bit(registers: &Registers) -> bool {
        registers.get(identifier(0)).map(split).is_some_and(|(_, device)| ONE_BIT.contains(&device))
    }
}

/// Vendor and device of an identifier register.
pub(super) fn split(id: u32) -> (u16, u16) {
    (id as u16, (id >> 16) as u16)
}
