//! Registers as they were read, and the file that keeps them.

use std::collections::BTreeMap;
use std::fmt;

use thiserror::Error;

/// Where a register of 32 bits is.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub enum Place {
    /// PCI configuration space of bus 0.
    Config {
        /// Device.
        device: u8,
        /// Function.
        function: u8,
        /// Offset in bytes.
        offset: u16,
    },
    /// The same once this controller was chosen by an index.
    Chosen {
        /// Controller.
        chosen: u8,
        /// Function.
        function: u8,
        /// Offset in bytes.
        offset: u16,
    },
    /// Memory behind the host bridge's base.
    Mapped {
        /// Offset in bytes.
        offset: u32,
    },
    /// The data fabric's register of one instance.
    Fabric {
        /// Instance.
        instance: u8,
        /// Function.
        function: u8,
        /// Offset in bytes.
        offset: u16,
    },
    /// The system management network.
    Management {
        /// Address.
        address: u32,
    },
}

impl fmt::Display for Place {
    fn fmt(&self, out: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self {
            Self::Config { device, function, offset } => write!(out, "config {device:02x}.{function} {offset:03x}"),
            Self::Chosen { chosen, function, offset } => write!(out, "chosen {chosen} {function} {offset:03x}"),
            Self::Mapped { offset } => write!(out, "mapped {offset:05x}"),
            Self::Fabric { instance, function, offset } => {
                write!(out, "fabric {instance:02x} {function} {offset:03x}")
            }
            Self::Management { address } => write!(out, "management {address:08x}"),
        }
    }
}

impl Place {
    fn parse(words: &[&str]) -> Option<Self> {
        let hex = |word: &str| u32::from_str_radix(word, 16).ok();
        let byte = |word: &str| u8::from_str_radix(word, 16).ok();
        let offset = |word: &str| u16::from_str_radix(word, 16).ok();
        Some(match words {
            ["config", at, register] => {
                let (device, function) = at.split_once('.')?;
                Self::Config { device: byte(device)?, function: byte(function)?, offset: offset(register)? }
            }
            ["chosen", chosen, function, register] => {
                Self::Chosen { chosen: byte(chosen)?, function: byte(function)?, offset: offset(register)? }
            }
            ["mapped", register] => Self::Mapped { offset: hex(register)? },
            ["fabric", instance, function, register] => {
                Self::Fabric { instance: byte(instance)?, function: byte(function)?, offset: offset(register)? }
            }
            ["management", address] => Self::Management { address: hex(address)? },
            _ => return None,
        })
    }
}

/// Registers by their places.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Registers {
    values: BTreeMap<Place, u32>,
}

/// Why a file of registers is of no use.
#[derive(Clone, Debug, Error, PartialEq, Eq)]
pub enum RegistersError {
    /// A line is none of a register.
    #[error("line {0} is no register")]
    Line(usize),
    /// One place with two values.
    #[error("line {0} names a register for the second time")]
    Twice(usize),
    /// The last line is missing, or its sum is another one.
    #[error("the sum in the last line does not match: something in the file is damaged or missing")]
    Sum,
}

/// The word in front of the sum.
const SUM: &str = "sum";

impl Registers {
    /// With one more.
    pub fn insert(&mut self, place: Place, value: u32) {
        self.values.insert(place, value);
    }

    /// The value at a place; nothing where it was not read.
    pub fn get(&self, place: Place) -> Option<u32> {
        self.values.get(&place).copied()
    }

    /// Whether nothing was read.
    pub fn is_empty(&self) -> bool {
        self.values.is_empty()
    }

    /// Places and values, by places.
    pub fn iter(&self) -> impl Iterator<Item = (Place, u32)> + '_ {
        self.values.iter().map(|(place, value)| (*place, *value))
    }

    /// As lines `place value`, hexadecimal, and a last line with their CRC-32C. Nothing where nothing was read.
    pub fn text(&self) -> String {
        if self.is_empty() {
            return String::new();
        }
        let lines: String = self.iter().map(|(place, value)| format!("{place} {value:08x}\n")).collect();
        let sum = crc32c::crc32c(lines.as_bytes());
        format!("{lines}{SUM} {sum:08x}\n")
    }

    /// Reads what [`Registers::text`] writes.
    ///
    /// # Errors
    /// When a line is none, or anything was changed since.
    pub fn parse(text: &str) -> Result<Self, RegistersError> {
        if text.is_empty() {
            return Ok(Self::default());
        }
        let last = text.trim_end().rfind('\n').map_or(0, |at| at + 1);
        let (lines, sum) = text.split_at(last);
        let wanted = sum.trim_end().strip_prefix(SUM).and_then(|sum| u32::from_str_radix(sum.trim_start(), 16).ok());
        if wanted != Some(crc32c::crc32c(lines.as_bytes())) {
            return Err(RegistersError::Sum);
        }
        let mut registers = Self::default();
        for (at, line) in lines.lines().enumerate() {
            let mut words: Vec<&str> = line.split(' ').collect();
            let value = words.pop().and_then(|value| u32::from_str_radix(value, 16).ok());
            let (Some(place), Some(value)) = (Place::parse(&words), value) else {
                return Err(RegistersError::Line(at + 1));
            };
            if registers.values.insert(place, value).is_some() {
                return Err(RegistersError::Twice(at + 1));
            }
        }
        Ok(registers)
    }
}
