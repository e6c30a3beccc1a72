//! Addresses, ranges and how quantities are printed for people.

use std::fmt;

use serde::{Deserialize, Deserializer, Serialize, Serializer};

/// Bytes in one KiB, MiB and GiB.
pub const KIB: u64 = 1 << 10;
/// Bytes in one MiB.
pub const MIB: u64 = 1 << 20;
/// Bytes in one GiB.
pub const GIB: u64 = 1 << 30;

/// A physical address: what the memory controller sees. In a virtual machine it is the guest's.
///
/// Serialised as `"0x12345678"`; [`fmt::Display`] groups it by four digits for reading.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub struct PhysAddr(pub u64);

impl PhysAddr {
    /// The form used in files: `0x` and digits without grouping.
    pub fn plain(self) -> String {
        format!("{:#x}", self.0)
    }
}

impl fmt::Display for PhysAddr {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.pad(&grouped_hex(self.0, if self.0 >> 48 == 0 { 12 } else { 16 }))
    }
}

impl Serialize for PhysAddr {
    fn serialize<S: Serializer>(&self, serializer: S) -> Result<S::Ok, S::Error> {
        serializer.serialize_str(&self.plain())
    }
}

impl<'de> Deserialize<'de> for PhysAddr {
    fn deserialize<D: Deserializer<'de>>(deserializer: D) -> Result<Self, D::Error> {
        parse_hex(&String::deserialize(deserializer)?).map(PhysAddr).map_err(serde::de::Error::custom)
    }
}

/// A 64-bit word as it was written or read, serialised as `"0x0000000000000000"`.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Hash)]
pub struct Word(pub u64);

impl fmt::Display for Word {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.pad(&grouped_hex(self.0, 16))
    }
}

impl Serialize for Word {
    fn serialize<S: Serializer>(&self, serializer: S) -> Result<S::Ok, S::Error> {
        serializer.serialize_str(&format!("{:#018x}", self.0))
    }
}

impl<'de> Deserialize<'de> for Word {
    fn deserialize<D: Deserializer<'de>>(deserializer: D) -> Result<Self, D::Error> {
        parse_hex(&String::deserialize(deserializer)?).map(Word).map_err(serde::de::Error::custom)
    }
}

fn grouped_hex(value: u64, digits: usize) -> String {
    let plain = format!("{value:0digits$x}");
    let groups: Vec<&str> =
        plain.as_bytes().chunks(4).map(|group| std::str::from_utf8(group).unwrap_or_default()).collect();
    format!("0x{}", groups.join(" "))
}

fn parse_hex(text: &str) -> Result<u64, NotRead> {
    text.strip_prefix("0x")
        .and_then(|digits| u64::from_str_radix(digits, 16).ok())
        .ok_or_else(|| NotRead::Address(text.to_owned()))
}

/// A half-open range of physical bytes, `[start, end)`. Serialised as `["0x…","0x…"]`.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize)]
#[serde(from = "(PhysAddr, PhysAddr)", into = "(PhysAddr, PhysAddr)")]
pub struct ByteRange {
    /// First byte.
    pub start: u64,
    /// One past the last byte.
    pub end: u64,
}

impl ByteRange {
    /// The range from `start` up to, not including, `end`. An end before the start gives an empty range.
    pub fn new(start: u64, end: u64) -> Self {
        Self { start, end: end.max(start) }
    }

    /// Length in bytes.
    pub fn len(self) -> u64 {
        self.end - self.start
    }

    /// True when the range holds no byte.
    pub fn is_empty(self) -> bool {
        self.len() == 0
    }

    /// Whether it holds this byte.
    pub fn contains(self, byte: u64) -> bool {
        (self.start..self.end).contains(&byte)
    }

    /// The bytes that both ranges hold.
    pub fn intersection(self, other: Self) -> Self {
        Self::new(self.start.max(other.start), self.end.min(other.end))
    }
}

impl From<(PhysAddr, PhysAddr)> for ByteRange {
    fn from((start, end): (PhysAddr, PhysAddr)) -> Self {
        Self::new(start.0, end.0)
    }
}

impl From<ByteRange> for (PhysAddr, PhysAddr) {
    fn from(range: ByteRange) -> Self {
        (PhysAddr(range.start), PhysAddr(range.end))
    }
}

/// A set of bytes as sorted, disjoint, non-touching half-open ranges. Coverage is kept as one of these.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
#[serde(from = "Vec<ByteRange>")]
pub struct RangeSet(Vec<ByteRange>);

impl RangeSet {
    /// The ranges, in ascending order.
    pub fn ranges(&self) -> &[ByteRange] {
        &self.0
    }

    /// Bytes in all ranges together.
    pub fn bytes(&self) -> u64 {
        self.0.iter().map(|range| range.len()).sum()
    }

    /// The bytes of this set that `other` does not hold.
    pub fn minus(&self, other: &RangeSet) -> RangeSet {
        let mut left = Vec::new();
        for range in &self.0 {
            let mut start = range.start;
            for hole in other.0.iter().filter(|hole| !hole.intersection(*range).is_empty()) {
                left.push(ByteRange::new(start, hole.start.max(start)));
                start = hole.end;
            }
            left.push(ByteRange::new(start, range.end));
        }
        left.into_iter().collect()
    }

    /// The bytes that both sets hold.
    pub fn intersection(&self, other: &RangeSet) -> RangeSet {
        let pairs = self.0.iter().flat_map(|a| other.0.iter().map(move |b| a.intersection(*b)));
        pairs.collect()
    }
}

impl From<Vec<ByteRange>> for RangeSet {
    fn from(ranges: Vec<ByteRange>) -> Self {
        ranges.into_iter().collect()
    }
}

impl FromIterator<ByteRange> for RangeSet {
    fn from_iter<I: IntoIterator<Item = ByteRange>>(ranges: I) -> Self {
        let mut sorted: Vec<ByteRange> = ranges.into_iter().filter(|range| !range.is_empty()).collect();
        sorted.sort_unstable();
        let mut merged: Vec<ByteRange> = Vec::new();
        for range in sorted {
            match merged.last_mut() {
                Some(last) if range.start <= last.end => last.end = last.end.max(range.end),
                _ => merged.push(range),
            }
        }
        Self(merged)
    }
}

/// A byte count for people: `512 MiB`, `7.9 GiB`, `24 GiB`.
pub fn bytes_text(bytes: u64) -> String {
    const UNITS: [&str; 5] = ["B", "KiB", "MiB", "GiB", "TiB"];
    let mut value = bytes as f64;
    let mut unit = 0;
    while value >= 1024.0 && unit + 1 < UNITS.len() {
        value /= 1024.0;
        unit += 1;
    }
    if value.fract().abs() < 0.05 || unit == 0 {
        format!("{value:.0} {}", UNITS[unit])
    } else {
        format!("{value:.1} {}", UNITS[unit])
    }
}

/// A count with its digits in groups of three: `1 204`.
pub fn count_text(count: u64) -> String {
    let digits = count.to_string();
    let mut grouped = String::new();
    for (index, digit) in digits.chars().enumerate() {
        if index > 0 && (digits.len() - index).is_multiple_of(3) {
            grouped.push(' ');
        }
        grouped.push(digit);
    }
    grouped
}

/// A count in at most so many characters: in full, or in thousands, millions and so on, rounded down.
pub fn short_count(count: u64, most: usize) -> String {
    let mut short = count_text(count);
    let mut rest = count;
    for unit in ["k", "M", "G", "T", "P"] {
        if short.chars().count() <= most {
            break;
        }
        rest /= 1000;
        short = format!("{} {unit}", count_text(rest));
    }
    short
}

/// A duration for people: `40 ms`, `0.4 s`, `42 s`, `7 min 05 s`, `8 h 10 min`, `3 d 4 h`.
pub fn duration_text(seconds: f64) -> String {
    if seconds < 0.0995 {
        return format!("{:.0} ms", seconds * 1000.0);
    }
    if seconds < 9.95 {
        return format!("{seconds:.1} s");
    }
    let whole = seconds.round() as u64;
    match whole {
        0..60 => format!("{whole} s"),
        60..3600 => format!("{} min {:02} s", whole / 60, whole % 60),
        3600..172_800 => format!("{} h {:02} min", whole / 3600, whole % 3600 / 60),
        _ => format!("{} d {} h", whole / 86_400, whole % 86_400 / 3600),
    }
}

/// Bytes a second for people, in powers of ten as speeds of memory are given: `21.5 GB/s`, `480 MB/s`.
pub fn rate_text(bytes_per_second: f64) -> String {
    match bytes_per_second {
        rate if rate >= 99.95e9 => format!("{:.0} GB/s", rate / 1e9),
        rate if rate >= 0.9995e9 => format!("{:.1} GB/s", rate / 1e9),
        rate => format!("{:.0} MB/s", rate / 1e6),
    }
}

/// The time of one load for people: `1.2 ns`, `98 ns`.
pub fn latency_text(seconds: f64) -> String {
    let ns = seconds * 1e9;
    if ns < 9.95 { format!("{ns:.1} ns") } else { format!("{ns:.0} ns") }
}

/// Millivolts as `1.35 V`.
pub fn volts_text(millivolts: u32) -> String {
    format!("{}.{:02} V", millivolts / 1000, millivolts % 1000 / 10)
}

/// `1 error`, `2 errors`: a count and its noun, which takes an `s`, or `es` after another, for any count but one.
pub fn counted(count: u64, noun: &str) -> String {
    let ending = match (count, noun.ends_with('s')) {
        (1, _) => "",
        (_, false) => "s",
        (_, true) => "es",
    };
    format!("{} {noun}{ending}", count_text(count))
}

/// Why a text is no amount, address, duration or range. Each holds the text as it was given.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
pub enum NotRead {
    /// No number, or one without a meaning.
    #[error("{0:?} is not an amount; write it as in 256M or 4G")]
    Amount(String),
    /// An amount in a unit that is not known.
    #[error("{text:?} has the unit {unit:?}; use K, M, G or T, as in 256M or 4G")]
    Unit {
        /// The whole text.
        text: String,
        /// The unit in it.
        unit: String,
    },
    /// An amount of nothing, or beyond 64 bits.
    #[error("{0:?} is outside what can be asked for; give an amount above zero, as in 256M")]
    OutOfBounds(String),
    /// Not a hexadecimal number.
    #[error("{0:?} is not an address; write it as in 0x100000000 or 4G")]
    Address(String),
    /// Not a duration, or one of nothing.
    #[error("{0:?} is not a duration; write it as in 90s, 15min, 24h or 3d")]
    Duration(String),
    /// Not two addresses.
    #[error("{0:?} is not a range; write it as in 4G..6G")]
    Range(String),
    /// A range that ends where it begins, or before.
    #[error("{0:?} holds nothing: its end must lie above its start")]
    EmptyRange(String),
}

/// Reads an amount of memory such as `256M`, `1.5GiB` or `64 KiB`; the units are powers of 1024.
///
/// # Errors
/// For an amount that is no number, negative, zero or beyond 64 bits.
pub fn parse_bytes(text: &str) -> Result<u64, NotRead> {
    let trimmed = text.trim();
    let split = trimmed.find(|c: char| c.is_ascii_alphabetic()).unwrap_or(trimmed.len());
    let (number, unit) = (trimmed[..split].trim(), trimmed[split..].trim());
    let not_an_amount = || NotRead::Amount(text.to_owned());
    if number.is_empty() {
        return Err(not_an_amount());
    }
    let factor = match unit.to_ascii_uppercase().trim_end_matches('B').trim_end_matches('I') {
        "" => 1,
        "K" => KIB,
        "M" => MIB,
        "G" => GIB,
        "T" => GIB << 10,
        _ => return Err(NotRead::Unit { text: text.to_owned(), unit: unit.to_owned() }),
    };
    let value: f64 = number.parse().map_err(|_| not_an_amount())?;
    let bytes = value * factor as f64;
    if !(bytes >= 1.0 && bytes < u64::MAX as f64) {
        return Err(NotRead::OutOfBounds(text.to_owned()));
    }
    Ok(bytes as u64)
}

/// Reads an address such as `0x1_0000_0000`, `0x1 0000 0000` or an amount such as `4G`.
///
/// # Errors
/// With the text that could not be read.
pub fn parse_address(text: &str) -> Result<u64, NotRead> {
    let digits: String = text.chars().filter(|c| !matches!(c, '_' | ' ')).collect();
    if digits == "0" {
        return Ok(0);
    }
    if digits.starts_with("0x") { parse_hex(&digits) } else { parse_bytes(text) }
}

/// Reads a duration such as `90s`, `15min`, `24h`, `3d` or `1h30min`, in seconds.
///
/// # Errors
/// With the text that could not be read.
pub fn parse_duration(text: &str) -> Result<u64, NotRead> {
    let wrong = || NotRead::Duration(text.to_owned());
    let mut rest = text.trim();
    let mut total: u64 = 0;
    while !rest.is_empty() {
        let digits = rest.find(|c: char| !c.is_ascii_digit()).ok_or_else(wrong)?;
        let number: u64 = rest[..digits].parse().map_err(|_| wrong())?;
        rest = rest[digits..].trim_start();
        let letters = rest.find(|c: char| !c.is_ascii_alphabetic()).unwrap_or(rest.len());
        let unit = match &rest[..letters] {
            "s" => 1,
            "m" | "min" => 60,
            "h" => 3600,
            "d" => 86_400,
            _ => return Err(wrong()),
        };
        total = number.checked_mul(unit).and_then(|seconds| total.checked_add(seconds)).ok_or_else(wrong)?;
        rest = rest[letters..].trim_start();
    }
    if total == 0 { Err(wrong()) } else { Ok(total) }
}

/// Reads `4G..6G`.
///
/// # Errors
/// With the text that could not be read, or that holds nothing.
pub fn parse_range(text: &str) -> Result<ByteRange, NotRead> {
    let (from, to) = text.split_once("..").ok_or_else(|| NotRead::Range(text.to_owned()))?;
    let range = ByteRange::new(parse_address(from)?, parse_address(to)?);
    if range.is_empty() { Err(NotRead::EmptyRange(text.to_owned())) } else { Ok(range) }
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;
    use rstest::rstest;

    use super::*;

    #[rstest]
    #[case(1204, 7, "1 204")]
    #[case(2_114_161_355, 7, "2 114 M")]
    #[case(19_027_409_789, 7, "19 G")]
    #[case(u64::MAX, 9, "18 446 P")]
    fn short_counts(#[case] count: u64, #[case] most: usize, #[case] expected: &str) {
        assert_eq!(short_count(count, most), expected);
    }

    #[rstest]
    #[case(0, "error", "0 errors")]
    #[case(1, "pass", "1 pass")]
    #[case(2, "pass", "2 passes")]
    #[case(1204, "rank", "1 204 ranks")]
    fn plurals_are_right(#[case] count: u64, #[case] noun: &str, #[case] expected: &str) {
        assert_eq!(counted(count, noun), expected);
    }

    #[rstest]
    #[case("256M", Some(256 * MIB))]
    #[case("1.5GiB", Some(GIB + 512 * MIB))]
    #[case("64 KiB", Some(64 * KIB))]
    #[case("4096", Some(4096))]
    #[case("-1G", None)]
    #[case("0", None)]
    #[case("lots", None)]
    #[case("12X", None)]
    #[case("1e300G", None)]
    #[case("NaN", None)]
    #[case("", None)]
    fn amounts(#[case] text: &str, #[case] expected: Option<u64>) {
        assert_eq!(parse_bytes(text).ok(), expected);
    }

    #[rstest]
    #[case("90s", Some(90))]
    #[case("1h30min", Some(5400))]
    #[case("3d", Some(259_200))]
    #[case("24", None)]
    #[case("h", None)]
    #[case("0s", None)]
    #[case("99999999999999999999d", None)]
    fn durations(#[case] text: &str, #[case] expected: Option<u64>) {
        assert_eq!(parse_duration(text).ok(), expected);
    }

    #[rstest]
    #[case(0.042, "42 ms")]
    #[case(0.42, "0.4 s")]
    #[case(59.6, "1 min 00 s")]
    #[case(425.0, "7 min 05 s")]
    #[case(29_400.0, "8 h 10 min")]
    #[case(273_600.0, "3 d 4 h")]
    fn durations_for_people(#[case] seconds: f64, #[case] expected: &str) {
        assert_eq!(duration_text(seconds), expected);
    }

    #[rstest]
    #[case(7, "7")]
    #[case(1204, "1 204")]
    #[case(1_000_000, "1 000 000")]
    fn counts_for_people(#[case] count: u64, #[case] expected: &str) {
        assert_eq!(count_text(count), expected);
    }

    #[test]
    fn addresses_are_grouped_for_people_and_plain_in_files() {
        let address = PhysAddr(0x2_91a4_37c0);
        assert_eq!(address.to_string(), "0x0002 91a4 37c0");
        assert_eq!(serde_json::to_string(&address).unwrap(), "\"0x291a437c0\"");
    }

    proptest! {
        #[test]
        fn a_set_and_what_was_taken_from_it_add_up(
            a in prop::collection::vec((0u64..500, 0u64..60), 0..12),
            b in prop::collection::vec((0u64..500, 0u64..60), 0..12),
        ) {
            let set = |parts: &[(u64, u64)]| -> RangeSet {
                parts.iter().map(|(start, len)| ByteRange::new(*start, start + len)).collect()
            };
            let (a, b) = (set(&a), set(&b));
            prop_assert_eq!(a.minus(&b).bytes() + a.intersection(&b).bytes(), a.bytes());
            prop_assert!(a.ranges().windows(2).all(|pair| pair[0].end < pair[1].start));
        }
    }

    #[rstest]
    #[case("4G..6G", Ok((4 << 30, 6 << 30)))]
    #[case("0..1M", Ok((0, 1 << 20)))]
    #[case("0x1000..0x2000", Ok((0x1000, 0x2000)))]
    #[case("6G..4G", Err(NotRead::EmptyRange("6G..4G".into())))]
    #[case("4G..4G", Err(NotRead::EmptyRange("4G..4G".into())))]
    #[case("4G", Err(NotRead::Range("4G".into())))]
    #[case("4G-6G", Err(NotRead::Range("4G-6G".into())))]
    #[case("a..b", Err(NotRead::Amount("a".into())))]
    #[case("0xg..1G", Err(NotRead::Address("0xg".into())))]
    fn ranges(#[case] text: &str, #[case] expected: Result<(u64, u64), NotRead>) {
        assert_eq!(parse_range(text).map(|range| (range.start, range.end)), expected);
    }
}
