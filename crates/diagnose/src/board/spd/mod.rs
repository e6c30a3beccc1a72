//! Serial presence detect: what a module says of itself, by the JEDEC standards for its generation (DDR3: JESD21-C annex K,
//! DDR4: JESD21-C annex L, DDR5: JESD400-5; older and mobile kinds by their own annexes).

mod ddr3;
mod ddr4;
mod ddr5;
mod early;
mod mobile;
mod part;
mod profile;
#[cfg(test)]
mod tests;
mod timing;

use thiserror::Error;

pub use profile::Profile;
pub use timing::Timings;

/// What the bytes say. Fields that a damaged or shortened image does not hold stay unknown.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Spd {
    /// `SDRAM`, `DDR` to `DDR5`, `LPDDR3` to `LPDDR5X`.
    pub generation: &'static str,
    /// Form, such as `SO-DIMM`.
    pub form: &'static str,
    /// Capacity in bytes.
    pub bytes: Option<u64>,
    /// Highest speed by the standard, in MT/s, without any profile.
    pub speed: Option<u32>,
    /// Timings at that speed.
    pub timings: Option<Timings>,
    /// Supply voltage in millivolts.
    pub millivolts: Option<u32>,
    /// Ranks; of DDR5 ranks of each subchannel.
    pub ranks: Option<u8>,
    /// Data lanes of each memory package.
    pub package_width: Option<u8>,
    /// Whether it has check bits.
    pub ecc: bool,
    /// Maker of the module; empty when its code is none of the published ones.
    pub maker: String,
    /// Its code (JEP106), in words.
    pub maker_code: String,
    /// Maker of the memory packages; empty when its code is none of the published ones.
    pub package_maker: String,
    /// Year and week in which it was made.
    pub made: Option<(u16, u8)>,
    /// Serial number: four bytes as hexadecimal digits.
    pub serial: String,
    /// Part number.
    pub part: String,
    /// Overclocking profiles that are stored.
    pub profiles: Vec<Profile>,
    /// Parts of the image whose checksum is wrong, in words.
    pub bad_sums: Vec<&'static str>,
}

/// Why bytes are not an SPD image.
#[derive(Clone, Debug, Error, PartialEq, Eq)]
pub enum SpdError {
    /// Too short to say anything.
    #[error("only {0} bytes could be read: the module or its contacts do not answer as they should")]
    TooShort(usize),
    /// Nothing is written.
    #[error("it holds nothing: the module's own memory was erased, or nothing answers there")]
    Blank,
    /// A kind of memory that is not known here.
    #[error("it is of kind 0x{0:02x}, which is none of SDRAM, DDR to DDR5 and LPDDR3 to LPDDR5X")]
    OtherKind(u8),
}

impl Spd {
    /// Reads an image.
    ///
    /// # Errors
    /// When it is none.
    pub fn read(bytes: &[u8]) -> Result<Self, SpdError> {
        let Some(kind) = bytes.get(2).copied().filter(|_| bytes.len() >= LEAST_BYTES) else {
            return Err(SpdError::TooShort(bytes.len()));
        };
        if bytes.iter().all(|byte| *byte == 0) || bytes.iter().all(|byte| *byte == 0xff) {
            return Err(SpdError::Blank);
        }
        match kind {
            0x0b => Ok(ddr3::read(Bytes(bytes))),
            0x0c | 0x0e => Ok(ddr4::read(Bytes(bytes))),
            0x12 => Ok(ddr5::read(Bytes(bytes))),
            0xf1 => Ok(ddr3::read_mobile(Bytes(bytes))),
            other => match early::kind(other) {
                Some(kind) => Ok(early::read(Bytes(bytes), kind)),
                None => mobile::read(Bytes(bytes), other).ok_or(SpdError::OtherKind(other)),
            },
        }
    }
}

/// The general section of the oldest generation that is read.
const LEAST_BYTES: usize = 128;

/// An image that may be shorter than its standard says.
#[derive(Clone, Copy)]
struct Bytes<'a>(&'a [u8]);

impl<'a> Bytes<'a> {
    fn at(self, offset: usize) -> Option<u8> {
        self.0.get(offset).copied()
    }

    fn slice(self, offset: usize, length: usize) -> Option<&'a [u8]> {
        self.0.get(offset..offset + length)
    }

    /// Two bytes, the low one first.
    fn pair(self, offset: usize) -> Option<u16> {
        Some(u16::from_le_bytes([self.at(offset)?, self.at(offset + 1)?]))
    }

    /// Whether the sum over `covered` bytes from the start stands at `sum`; nothing when the image ends before.
    fn sum_is_right(self, from: usize, covered: usize, sum: usize) -> Option<bool> {
        Some(CRC.checksum(self.slice(from, covered)?) == self.pair(sum)?)
    }
}

/// Data lanes of a package by its code, the same in all three standards; higher codes are reserved.
fn package_width(code: u8) -> Option<u8> {
    (code < 4).then(|| 4 << code)
}

/// The sum of all three standards: CRC-16 with polynomial 0x1021, beginning with zero.
pub(super) const CRC: crc::Crc<u16> = crc::Crc::<u16>::new(&crc::CRC_16_XMODEM);
