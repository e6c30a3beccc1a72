//! Profiles above the standard: speed, timings and voltage that the maker of a module promises, in the two published forms. One is named
//! without numbers where what it holds is not plausible.

use super::Bytes;
use super::timing::{Timings, speed};
use revisum_engine::units::volts_text;

/// A stored profile.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Profile {
    /// Kind and number.
    pub name: String,
    /// Speed in MT/s.
    pub speed: Option<u32>,
    /// Timings at that speed.
    pub timings: Option<Timings>,
    /// Voltage of the memory, in millivolts.
    pub millivolts: Option<u32>,
}

impl Profile {
    /// As it is shown: `XMP 1 3600 MT/s 18-22-22-42 1.35 V`.
    pub fn text(&self) -> String {
        let parts = [
            Some(self.name.clone()),
            self.speed.map(|speed| format!("{speed} MT/s")),
            self.timings.map(Timings::text),
            self.millivolts.map(volts_text),
        ];
        parts.into_iter().flatten().collect::<Vec<_>>().join(" ")
    }

    /// With its numbers, as far as a module can hold them.
    fn of(name: String, clock_ps: u32, times: [u32; 4], millivolts: u32, latency_step: u32) -> Self {
        let speed = speed(clock_ps);
        let timings = Timings::of(clock_ps, times, latency_step).filter(|timings| timings.ras >= timings.cl / 2);
        let volts = Some(millivolts).filter(|millivolts| (900..=2500).contains(millivolts));
        match (speed, timings) {
            (Some(_), Some(_)) => Self { name, speed, timings, millivolts: volts },
            _ => Self { name, ..Self::default() },
        }
    }
}

const XMP: [u8; 2] = [0x0c, 0x4a];

/// DDR3: two profiles with time steps of their own.
pub(super) fn of_ddr3(bytes: Bytes<'_>) -> Vec<Profile> {
    if bytes.slice(176, 2) != Some(&XMP) {
        return Vec::new();
    }
    let profile = |number: usize| {
        let at = 185 + 35 * (number - 1);
        let (dividend, divisor) = (bytes.at(178 + 2 * number)?, bytes.at(179 + 2 * number)?);
        let time = |steps: u32| (steps * u32::from(dividend) * 1000).checked_div(u32::from(divisor));
        let byte = |offset: usize| bytes.at(at + offset).map(u32::from);
        let clock_ps = time(byte(1)?)?;
        let times = [byte(2)?, byte(7)?, byte(6)?, (byte(9)? & 0x0f) << 8 | byte(10)?].map(time);
        let [Some(aa), Some(rcd), Some(rp), Some(ras)] = times else { return None };
        let voltage = byte(0)?;
        let millivolts = (voltage >> 5 & 3) * 1000 + (voltage & 0x1f) * 50;
        Some(Profile::of(format!("XMP {number}"), clock_ps, [aa, rcd, rp, ras], millivolts, 1))
    };
    or_unnumbered(enabled(bytes.at(178), 2).filter_map(profile).collect())
}

/// DDR4: two profiles in steps of the standard.
pub(super) fn of_ddr4(bytes: Bytes<'_>) -> Vec<Profile> {
    if bytes.slice(384, 2) != Some(&XMP) {
        return Vec::new();
    }
    let profile = |number: usize| {
        let at = 393 + 47 * (number - 1);
        let byte = |offset: usize| bytes.at(at + offset).map(u32::from);
        let time = |steps: usize, fine: usize| {
            let fine = i32::from(bytes.at(at + fine)? as i8);
            u32::try_from(byte(steps)?.cast_signed() * 125 + fine).ok()
        };
        let ras = ((byte(11)? & 0x0f) << 8 | byte(12)?) * 125;
        let voltage = byte(0)?;
        let millivolts = (voltage >> 7) * 1000 + (voltage & 0x7f) * 10;
        let times = [time(8, 37)?, time(9, 36)?, time(10, 35)?, ras];
        Some(Profile::of(format!("XMP {number}"), time(3, 38)?, times, millivolts, 1))
    };
    or_unnumbered(enabled(bytes.at(386), 2).filter_map(profile).collect())
}

/// DDR5: three profiles of one kind, two of the other, in picoseconds.
pub(super) fn of_ddr5(bytes: Bytes<'_>) -> Vec<Profile> {
    let pair = |at: usize| bytes.pair(at).map(u32::from);
    let volts = |at: usize| bytes.at(at).map(|code| u32::from(code >> 5) * 1000 + u32::from(code & 0x1f) * 50);
    let mut profiles = Vec::new();
    let has_xmp = bytes.slice(640, 2) == Some(&XMP);
    let mut take = |name: String, voltage: usize, clock: usize, first: usize| {
        let times = [pair(first), pair(first + 2), pair(first + 4), pair(first + 6)];
        if let (Some(clock), Some(volts), [Some(aa), Some(rcd), Some(rp), Some(ras)]) =
            (pair(clock), volts(voltage), times)
        {
            // CAS latencies of DDR5 are even.
            profiles.push(Profile::of(name, clock, [aa, rcd, rp, ras], volts, 2));
        }
    };
    if has_xmp {
        for number in enabled(bytes.at(643), 3) {
            let at = 704 + 64 * (number - 1);
            take(format!("XMP {number}"), at + 1, at + 5, at + 13);
        }
    }
    if bytes.slice(832, 4) == Some(b"EXPO") {
        // Which of the two are meant is not told for certain: the second only where it holds something.
        for number in [1, 2] {
            let at = 842 + 40 * (number - 1);
            let is_written = pair(at + 4).is_some_and(|clock| clock != 0 && clock != 0xffff);
            if number == 1 || is_written {
                take(format!("EXPO {number}"), at, at + 4, at + 6);
            }
        }
    }
    if has_xmp { or_unnumbered(profiles) } else { profiles }
}

/// Where a module says that it has profiles and none of them can be read, that is still said.
fn or_unnumbered(profiles: Vec<Profile>) -> Vec<Profile> {
    match profiles.is_empty() {
        true => vec![Profile { name: "XMP".to_owned(), ..Profile::default() }],
        false => profiles,
    }
}

/// Numbers of the profiles whose bits are set, counted from 1.
fn enabled(bits: Option<u8>, count: usize) -> impl Iterator<Item = usize> {
    let bits = bits.unwrap_or(0);
    (1..=count).filter(move |number| bits >> (number - 1) & 1 == 1)
}
