//! Images written out by hand from the tables of the standards, byte by byte, with sums computed by a second routine.

use proptest::prelude::*;
use rstest::rstest;

use super::*;
use crate::board::maker::bytes_of;
use revisum_engine::units::GIB;

/// The bitwise sum as the standards print it in C.
fn sum(bytes: &[u8]) -> [u8; 2] {
    let mut crc = 0u16;
    for byte in bytes {
        crc ^= u16::from(*byte) << 8;
        for _ in 0..8 {
            crc = if crc & 0x8000 == 0 { crc << 1 } else { crc << 1 ^ 0x1021 };
        }
    }
    crc.to_le_bytes()
}

fn put(image: &mut [u8], at: usize, bytes: &[u8]) {
    image[at..at + bytes.len()].copy_from_slice(bytes);
}

/// An unbuffered DDR4 module of 8 GiB: eight packages of 8 Gbit and eight lanes, one rank, 3200 at 22-22-22-52.
fn ddr4() -> Vec<u8> {
    let mut image = vec![0; 512];
    // Bytes used and in all, revision 1.1, DDR4, unbuffered, 8 Gbit in 16 banks, 16 rows 10 columns, one die.
    put(&mut image, 0, &[0x23, 0x11, 0x0c, 0x02, 0x85, 0x21, 0x00]);
    // 1.2 V; one rank of eight lanes; 64 bits without check bits; no sensor; steps of 125 ps and 1 ps.
    put(&mut image, 11, &[0x03, 0x01, 0x03, 0x00, 0x00, 0x00, 0x00]);
    // tCK 625 ps; then tAA, tRCD, tRP 13.75 ns; tRAS 32 ns, tRC 45.75 ns.
    put(&mut image, 18, &[0x05, 0x0d]);
    put(&mut image, 24, &[0x6e, 0x6e, 0x6e, 0x11, 0x00, 0x6e]);
    // Module maker bank 127 code 5 with parity, site, 2030 week 14, serial, part, revision, package maker none.
    put(&mut image, 320, &[0xfe, 0x85, 0x01, 0x30, 0x14, 0x5a, 0x22, 0x00, 0x93]);
    put(&mut image, 329, b"HD8G32J             ");
    let general = sum(&image[..126]);
    put(&mut image, 126, &general);
    let module = sum(&image[128..254]);
    put(&mut image, 254, &module);
    image
}

/// A DDR3 notebook module of 4 GiB: two ranks of eight 2-Gbit packages, 1600 at 11-11-11-28, 1.35 V.
fn ddr3() -> Vec<u8> {
    let mut image = vec![0; 256];
    // Bytes used, revision 1.3, DDR3, SO-DIMM, 2 Gbit, 15 rows 10 columns, 1.35 V, two ranks of eight lanes, 64 bits.
    put(&mut image, 0, &[0x92, 0x13, 0x0b, 0x03, 0x03, 0x19, 0x02, 0x09, 0x03]);
    // Fine step 1 ps; medium step 1/8 ns; tCK 1.25 ns.
    put(&mut image, 9, &[0x11, 0x01, 0x08, 0x0a]);
    // tAA 13.125 ns, tWR 15 ns, tRCD 13.125 ns, tRRD 6 ns, tRP 13.125 ns, tRAS 35 ns, tRC 48.125 ns.
    put(&mut image, 16, &[0x69, 0x78, 0x69, 0x30, 0x69, 0x11, 0x18, 0x81]);
    put(&mut image, 117, &[0xfe, 0x85, 0x00, 0x27, 0x52, 0xa0, 0x01, 0x02, 0x03]);
    put(&mut image, 128, b"OS4G16L           ");
    let general = sum(&image[..117]);
    put(&mut image, 126, &general);
    image
}

/// A DDR5 module of 16 GiB: one rank, four packages of 16 Gbit and eight lanes in each of two subchannels, 4800 at 40-39-39-77.
fn ddr5() -> Vec<u8> {
    let mut image = vec![0; 1024];
    // 1024 bytes, revision 1.0, DDR5, unbuffered, one die of 16 Gbit, 16 rows 10 columns, eight lanes, banks.
    put(&mut image, 0, &[0x30, 0x10, 0x12, 0x02, 0x04, 0x00, 0x20, 0x62]);
    // tCK 416 ps; tAA 16 640 ps; tRCD and tRP 16 000 ps; tRAS 32 000 ps.
    put(&mut image, 20, &[0xa0, 0x01]);
    put(&mut image, 30, &[0x00, 0x41, 0x80, 0x3e, 0x80, 0x3e, 0x00, 0x7d]);
    // One rank; two subchannels of 32 lanes without check bits.
    put(&mut image, 234, &[0x00, 0x22]);
    let base = sum(&image[..510]);
    put(&mut image, 510, &base);
    put(&mut image, 512, &[0xfe, 0x85, 0x00, 0x30, 0x05, 0x12, 0x34, 0x56, 0x78]);
    put(&mut image, 521, b"HD16G48N");
    put(&mut image, 529, &[b' '; 22]);
    put(&mut image, 832, b"EXPO");
    image
}

const UNKNOWN_MAKER: &str = "bank 127, code 5";

#[test]
fn a_ddr4_module_by_the_table() {
    let expected = Spd {
        generation: "DDR4",
        form: "DIMM",
        bytes: Some(8 * GIB),
        speed: Some(3200),
        timings: Some(Timings { cl: 22, rcd: 22, rp: 22, ras: 52 }),
        millivolts: Some(1200),
        ranks: Some(1),
        package_width: Some(8),
        maker_code: UNKNOWN_MAKER.into(),
        made: Some((2030, 14)),
        serial: "5A220093".into(),
        part: "HD8G32J".into(),
        ..Spd::default()
    };
    assert_eq!(Spd::read(&ddr4()), Ok(expected));
}

#[test]
fn a_ddr3_module_by_the_table() {
    let expected = Spd {
        generation: "DDR3",
        form: "SO-DIMM",
        bytes: Some(4 * GIB),
        speed: Some(1600),
        timings: Some(Timings { cl: 11, rcd: 11, rp: 11, ras: 28 }),
        millivolts: Some(1350),
        ranks: Some(2),
        package_width: Some(8),
        maker_code: UNKNOWN_MAKER.into(),
        made: Some((2027, 52)),
        serial: "A0010203".into(),
        part: "OS4G16L".into(),
        ..Spd::default()
    };
    assert_eq!(Spd::read(&ddr3()), Ok(expected));
}

#[test]
fn a_ddr5_module_by_the_table() {
    let expected = Spd {
        generation: "DDR5",
        form: "DIMM",
        bytes: Some(16 * GIB),
        speed: Some(4800),
        timings: Some(Timings { cl: 40, rcd: 39, rp: 39, ras: 77 }),
        millivolts: Some(1100),
        ranks: Some(1),
        package_width: Some(8),
        maker_code: UNKNOWN_MAKER.into(),
        made: Some((2030, 5)),
        serial: "12345678".into(),
        part: "HD16G48N".into(),
        profiles: vec![Profile { name: "EXPO 1".into(), ..Profile::default() }],
        ..Spd::default()
    };
    assert_eq!(Spd::read(&ddr5()), Ok(expected));
}

/// Capacities of other organisations, by the formula of the standard worked out by hand.
#[rstest]
#[case::four_lanes_two_ranks(&[(12, 0x08)], 32)]
#[case::sixteen_lanes(&[(12, 0x02)], 4)]
#[case::with_check_bits(&[(13, 0x0b)], 8)]
#[case::stack_of_four(&[(6, 0xb2)], 32)]
#[case::two_dies_with_two_loads(&[(6, 0x91)], 8)]
#[case::twelve_gigabit(&[(4, 0x88)], 12)]
fn ddr4_capacities(#[case] changes: &[(usize, u8)], #[case] gib: u64) {
    let mut image = ddr4();
    changes.iter().for_each(|(at, byte)| image[*at] = *byte);
    assert_eq!(Spd::read(&image).unwrap().bytes, Some(gib * GIB));
}

#[rstest]
#[case::two_ranks(&[(234, 0x08)], 32)]
#[case::sixteen_lanes(&[(6, 0x40)], 8)]
#[case::stack_of_four(&[(4, 0x64)], 64)]
#[case::twenty_four_gigabit(&[(4, 0x05)], 24)]
#[case::with_check_bits(&[(235, 0x2a)], 16)]
#[case::two_kinds_of_package(&[(234, 0x48), (8, 0x05), (10, 0x20)], 40)]
fn ddr5_capacities(#[case] changes: &[(usize, u8)], #[case] gib: u64) {
    let mut image = ddr5();
    changes.iter().for_each(|(at, byte)| image[*at] = *byte);
    assert_eq!(Spd::read(&image).unwrap().bytes, Some(gib * GIB));
}

#[rstest]
#[case::ddr3(ddr3(), 20, "general")]
#[case::ddr4_general(ddr4(), 20, "general")]
#[case::ddr4_module(ddr4(), 130, "module")]
#[case::ddr5(ddr5(), 20, "base, module")]
fn a_changed_byte_shows_in_the_sum(#[case] mut image: Vec<u8>, #[case] at: usize, #[case] section: &str) {
    image[at] ^= 0x10;
    assert_eq!(Spd::read(&image).unwrap().bad_sums, [section]);
}

#[rstest]
#[case(&[], SpdError::TooShort(0))]
#[case(&[0x23; 127], SpdError::TooShort(127))]
#[case(&[0; 256], SpdError::Blank)]
#[case(&[0xff; 512], SpdError::Blank)]
#[case(&[0x22; 256], SpdError::OtherKind(0x22))]
fn what_is_no_image_is_said(#[case] bytes: &[u8], #[case] expected: SpdError) {
    assert_eq!(Spd::read(bytes), Err(expected));
}

#[test]
fn the_first_page_of_a_ddr4_module_alone_tells_size_and_speed() {
    let spd = Spd::read(&ddr4()[..256]).unwrap();
    assert_eq!((spd.bytes, spd.speed, spd.serial.as_str()), (Some(8 * GIB), Some(3200), ""));
}

#[rstest]
#[case::first_bank([0x80, 0x2c], "Micron Technology", "bank 1, code 44")]
#[case::second_bank([0x01, 0x98], "Kingston", "bank 2, code 24")]
#[case::nobody([0xfe, 0x85], "", "bank 127, code 5")]
#[case::unwritten([0x00, 0x00], "", "")]
fn makers(#[case] stored: [u8; 2], #[case] name: &str, #[case] code: &str) {
    let mut image = ddr4();
    put(&mut image, 320, &stored);
    let spd = Spd::read(&image).unwrap();
    assert_eq!((spd.maker.as_str(), spd.maker_code.as_str()), (name, code));
}

/// The sum of the years before DDR3, worked out apart from what is tested.
fn add_up(image: &mut [u8]) {
    let sum: u32 = image[..63].iter().map(|byte| u32::from(*byte)).sum();
    image[63] = (sum & 0xff) as u8;
}

/// An SDRAM module of 256 MiB: 13 rows, 10 columns, 4 banks, one rank, 133 at 3-3-3-6.
fn sdram() -> Vec<u8> {
    let mut image = vec![0; 128];
    put(&mut image, 0, &[0x80, 0x08, 0x04, 13, 10, 1, 64, 0, 1, 0x75]);
    put(&mut image, 13, &[8]);
    put(&mut image, 17, &[4, 0x04]);
    // tRP 20 ns, tRRD 15 ns, tRCD 20 ns, tRAS 45 ns.
    put(&mut image, 27, &[20, 15, 20, 45]);
    put(&mut image, 64, &[0xce, 0, 0, 0, 0, 0, 0, 0]);
    put(&mut image, 73, b"SD16S256-133      ");
    put(&mut image, 93, &[0x02, 0x10, 0x00, 0x00, 0x12, 0x34]);
    add_up(&mut image);
    image
}

/// A DDR module of 512 MiB: 13 rows, 11 columns, 4 banks, one rank, 400 at 3-3-3-8, with check bits.
fn ddr() -> Vec<u8> {
    let mut image = vec![0; 128];
    put(&mut image, 0, &[0x80, 0x08, 0x07, 13, 11, 1, 72, 0, 4, 0x50]);
    image[11] = 2;
    put(&mut image, 13, &[8]);
    put(&mut image, 17, &[4, 0x10]);
    // Quarters of a nanosecond: tRP 15 ns, tRRD 10 ns, tRCD 15 ns; tRAS 40 ns.
    put(&mut image, 27, &[60, 40, 60, 40]);
    put(&mut image, 64, &[0x7f, 0x7f, 0xfe, 0, 0, 0, 0, 0]);
    put(&mut image, 73, b"DD16R512          ");
    put(&mut image, 93, &[0x05, 0x07, 0x00, 0x00, 0xab, 0xcd]);
    add_up(&mut image);
    image
}

/// A DDR2 notebook module of 2 GiB: 14 rows, 10 columns, 8 banks, two ranks, 800 at 6-6-6-18.
fn ddr2() -> Vec<u8> {
    let mut image = vec![0; 128];
    put(&mut image, 0, &[0x80, 0x08, 0x08, 14, 10, 0x61, 64, 0, 5, 0x25]);
    put(&mut image, 13, &[8]);
    put(&mut image, 17, &[8, 0x70, 0x01, 0x04]);
    put(&mut image, 27, &[60, 30, 60, 45]);
    put(&mut image, 64, &[0x2c, 0, 0, 0, 0, 0, 0, 0]);
    put(&mut image, 73, b"DD32S2G           ");
    put(&mut image, 93, &[0x09, 0x52, 0x01, 0x02, 0x03, 0x04]);
    add_up(&mut image);
    image
}

/// Kind, size, speed, timings, voltage, ranks, check bits and maker of the old kinds.
#[rstest]
#[case::sdram(sdram(), "SDRAM, 256 MiB, 133 MT/s, 3-3-3-6, 3300 mV, 1 rank, plain, Samsung")]
#[case::ddr(ddr(), "DDR, 512 MiB, 400 MT/s, 3-3-3-8, 2500 mV, 1 rank, check bits, Elpida")]
#[case::ddr2(ddr2(), "DDR2, 2048 MiB, 800 MT/s, 6-6-6-18, 1800 mV, 2 rank, plain, Micron Technology")]
fn old_kinds_by_their_tables(#[case] image: Vec<u8>, #[case] expected: &str) {
    let spd = Spd::read(&image).unwrap();
    let bits = if spd.ecc { "check bits" } else { "plain" };
    let (mib, speed, timings) = (spd.bytes.unwrap() >> 20, spd.speed.unwrap(), spd.timings.unwrap().text());
    let (millivolts, ranks) = (spd.millivolts.unwrap(), spd.ranks.unwrap());
    let read = format!(
        "{}, {mib} MiB, {speed} MT/s, {timings}, {millivolts} mV, {ranks} rank, {bits}, {}",
        spd.generation, spd.maker
    );
    assert_eq!((read.as_str(), &spd.bad_sums[..]), (expected, &[][..]));
    let mut damaged = image;
    damaged[31] ^= 0x04;
    assert_eq!(Spd::read(&damaged).unwrap().bad_sums, ["general"]);
}

/// Mobile memory, one image for each layout: kind, speed, ranks and lanes; a size only where the layout tells it.
#[rstest]
#[case::lpddr3_as_ddr3(&[(2, 0xf1), (3, 3), (4, 4), (7, 0x0b), (8, 3), (9, 0x11), (10, 1), (11, 8), (12, 10)], "LPDDR3", Some(1600), Some(2 * GIB), 2, 32)]
#[case::lpddr3(&[(2, 0x0f), (3, 14), (12, 0x0b), (18, 10)], "LPDDR3", Some(1600), None, 2, 32)]
#[case::lpddr4(&[(2, 0x10), (3, 14), (12, 0x02), (18, 5)], "LPDDR4", Some(3200), None, 1, 16)]
#[case::lpddr4x(&[(2, 0x11), (3, 14), (12, 0x0a), (18, 4), (125, 0xe1)], "LPDDR4X", Some(4266), None, 2, 16)]
#[case::lpddr5(&[(2, 0x13), (3, 14), (12, 0x0a), (18, 10)], "LPDDR5", Some(6400), None, 2, 16)]
#[case::lpddr5x(&[(2, 0x15), (3, 14), (12, 0x02), (18, 8), (125, 0xfc)], "LPDDR5X", Some(8000), None, 1, 16)]
fn mobile_kinds_by_their_tables(
    #[case] bytes: &[(usize, u8)],
    #[case] generation: &str,
    #[case] speed: Option<u32>,
    #[case] size: Option<u64>,
    #[case] ranks: u8,
    #[case] width: u8,
) {
    let mut image = vec![0; 512];
    bytes.iter().for_each(|(at, byte)| image[*at] = *byte);
    let spd = Spd::read(&image).unwrap();
    assert_eq!((spd.generation, spd.form, spd.speed, spd.bytes), (generation, "soldered", speed, size));
    assert_eq!((spd.ranks, spd.package_width, spd.bad_sums), (Some(ranks), Some(width), Vec::new()));
}

/// Profiles of each generation, byte by byte, and each with a field that no module can hold.
#[rstest]
#[case::ddr3(ddr3(), &[(176, "0c4a01120108"), (185, "2d08440000004848000108")], 186, "XMP 1 2000 MT/s 9-9-9-33 1.65 V")]
#[case::ddr4(ddr4(), &[(384, "0c4a0120"), (393, "a30000040000000050505000a8"), (431, "38")], 396, "XMP 1 3600 MT/s 18-18-18-38 1.35 V")]
#[case::ddr4_second(ddr4(), &[(384, "0c4a0220"), (440, "a30000050000000050505000a8")], 443, "XMP 2 3200 MT/s 16-16-16-34 1.35 V")]
#[case::ddr5(plain_ddr5(), &[(640, "0c4a3001"), (704, "30272700004d01"), (717, "102710271027204e")], 709, "XMP 1 6000 MT/s 30-30-30-60 1.35 V")]
#[case::expo(plain_ddr5(), &[(832, "4558504f"), (842, "272730004d01102710271027204e")], 846, "EXPO 1 6000 MT/s 30-30-30-60 1.35 V")]
fn profiles_by_their_tables(
    #[case] mut image: Vec<u8>,
    #[case] written: &[(usize, &str)],
    #[case] clock: usize,
    #[case] expected: &str,
) {
    written.iter().for_each(|(at, bytes)| put(&mut image, *at, &bytes_of(bytes).unwrap()));
    let texts = |image: &[u8]| Spd::read(image).unwrap().profiles.iter().map(Profile::text).collect::<Vec<_>>();
    assert_eq!(texts(&image), [expected]);
    image[clock] = 0xff;
    image[clock + 1] = 0xff;
    let name: Vec<&str> = expected.splitn(3, ' ').take(2).collect();
    assert_eq!(texts(&image), [name.join(" ")], "what is not plausible is not told");
}

fn plain_ddr5() -> Vec<u8> {
    let mut image = ddr5();
    put(&mut image, 832, &[0; 4]);
    image
}

proptest! {
    #[test]
    fn any_bytes_are_read_without_harm(kind in prop::sample::select(vec![0x04u8, 0x07, 0x08, 0x0b, 0x0c, 0x0f, 0x10, 0x11, 0x12, 0x13, 0x15, 0xf1]),
                                       mut bytes in prop::collection::vec(any::<u8>(), 0..1100)) {
        if let Some(byte) = bytes.get_mut(2) {
            *byte = kind;
        }
        if let Ok(spd) = Spd::read(&bytes) {
            prop_assert!(!spd.part.chars().any(char::is_control));
        }
    }
}
