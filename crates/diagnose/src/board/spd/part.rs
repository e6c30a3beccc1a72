//! The fields of an SPD image that name who made what and when.

use super::{Bytes, Spd};
use crate::board::maker::MakerCode;
use revisum_engine::text::cleaned;

/// Where a generation keeps them.
pub(super) struct Places {
    /// Two bytes: maker of the module.
    pub maker: usize,
    /// Two bytes: year and week in decimal digits.
    pub date: usize,
    /// Four bytes.
    pub serial: usize,
    /// First byte and length.
    pub part: (usize, usize),
    /// Two bytes: maker of the packages.
    pub package_maker: usize,
}

/// Takes them over.
pub(super) fn read(bytes: Bytes<'_>, places: &Places, spd: &mut Spd) {
    let name = |code: Option<MakerCode>| code.and_then(MakerCode::name).unwrap_or_default();
    let maker_of_module = maker(bytes, places.maker);
    spd.maker = name(maker_of_module);
    spd.maker_code = maker_of_module.map(MakerCode::words).unwrap_or_default();
    spd.package_maker = name(maker(bytes, places.package_maker));
    spd.made = made(bytes, places.date);
    spd.serial = serial(bytes, places.serial).unwrap_or_default();
    spd.part = bytes.slice(places.part.0, places.part.1).map(text).unwrap_or_default();
}

fn maker(bytes: Bytes<'_>, at: usize) -> Option<MakerCode> {
    MakerCode::stored(bytes.at(at)?, bytes.at(at + 1)?)
}

pub(super) fn made(bytes: Bytes<'_>, at: usize) -> Option<(u16, u8)> {
    let decimal = |byte: u8| (byte >> 4 < 10 && byte & 0x0f < 10).then(|| (byte >> 4) * 10 + (byte & 0x0f));
    let (year, week) = (decimal(bytes.at(at)?)?, decimal(bytes.at(at + 1)?)?);
    (1..=53).contains(&week).then_some((2000 + u16::from(year), week))
}

pub(super) fn serial(bytes: Bytes<'_>, at: usize) -> Option<String> {
    let serial = bytes.slice(at, 4)?;
    let told = !serial.iter().all(|byte| *byte == 0) && !serial.iter().all(|byte| *byte == 0xff);
    told.then(|| serial.iter().map(|byte| format!("{byte:02X}")).collect())
}

/// Seven-bit text; anything else was never written.
pub(super) fn text(bytes: &[u8]) -> String {
    let written = bytes.iter().map(|byte| if (0x20..0x7f).contains(byte) { char::from(*byte) } else { ' ' });
    cleaned(&written.collect::<String>(), 40)
}
